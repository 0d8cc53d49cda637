"""An artwork that is a whole sheet: its prints found, counted and taken out as jobs of their own."""

from dataclasses import replace

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QImage, QPainter, QPen
from PySide6.QtWidgets import QVBoxLayout, QWidget

from swaddon.core.artwork.artwork import Artwork
from swaddon.core.engine import Run
from swaddon.session.answer import Answer
from swaddon.session.job import Job
from swaddon.session.lengths import length_text, size_text
from swaddon.session.sheet_parts import CUTTER_MM, SheetParts, job_of, parts_of
from swaddon.session.side_work import Tell
from swaddon.ui import theme
from swaddon.ui.fields import SlideRow
from swaddon.ui.job_work import JobWork
from swaddon.ui.progress_line import ProgressLine
from swaddon.ui.station_spec import StationContext
from swaddon.ui.stations.sheet.board import Board, rgba_image
from swaddon.ui.widgets import Field, button, label

_HINT = "Wheel zooms · drag moves · 0 shows all"
_EMPTY = "Some artwork is a whole sheet already. Press Find prints: each is found, counted and measured."
_WHY = (
    "What is nearer than the gap counts as one print: raise it where letters come apart, lower it where neighbours are "
    "taken for one. Each kind of print becomes a job with as many pieces as were found, and so gets its own knockout, "
    "white and choke. Two schools: plan the whole sheet as it is (quick, one choke for all), or take it apart (each "
    "print on its own garment, laid anew with your spacing)."
)
_PICTURE_PX = 1600


class PartsBoard(Board):
    """The artwork with a box round each print; tight ones stand out."""

    def __init__(self) -> None:
        super().__init__("Prints found on the artwork", _HINT, _EMPTY)
        self._parts: SheetParts | None = None
        self._picture: QImage | None = None

    def show_parts(self, parts: SheetParts | None) -> None:
        self._parts = parts
        self._picture = None if parts is None else _picture(parts.artwork)
        if parts is None:
            self.lay_out((), False)
            return
        height = parts.width_mm * parts.artwork.height_px / parts.artwork.width_px
        self.lay_out(((parts.width_mm, height),), height > parts.width_mm * 1.5)
        self.setAccessibleDescription(parts.told)

    def paint_sheet(self, painter: QPainter, sheet: int) -> None:
        parts = self._parts
        if parts is None or self._picture is None:
            return
        box = QRectF(0, 0, *self._sizes[sheet])
        painter.fillRect(box, QColor(196, 200, 203))
        painter.drawImage(box, self._picture)
        scheme, mm = theme.current(), 25.4 / parts.ppi
        for part in parts.found.parts:
            tight = parts.is_tight(part)
            pen = QPen(QColor(scheme.stop if tight else scheme.accent), 2)
            if tight:
                pen.setStyle(Qt.PenStyle.DashLine)
            pen.setCosmetic(True)
            painter.setPen(pen)
            painter.setBrush(Qt.BrushStyle.NoBrush)
            own = part.box
            painter.drawRect(QRectF(QPointF(own.left, own.top) * mm, QPointF(own.right, own.bottom) * mm))


def _picture(artwork: Artwork) -> QImage:
    """The artwork, some pixels left out."""
    step = max(1, max(artwork.width_px, artwork.height_px) // _PICTURE_PX)
    return rgba_image(artwork.rgba[::step, ::step])


class PartsTable(QWidget):
    """The artwork and what was found on it."""

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("ground")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.facts = label("", "head", wrap=True)
        self.board, self.progress = PartsBoard(), ProgressLine()
        layout = QVBoxLayout(self)
        layout.setContentsMargins(16, 10, 12, 8)
        layout.setSpacing(4)
        layout.addWidget(self.facts)
        layout.addWidget(self.progress)
        layout.addWidget(self.board, 1)


class Finding(JobWork):
    """Finds the prints of the artwork on the bench when it is asked to."""

    def __init__(self, context: StationContext) -> None:
        super().__init__(context)
        self._answer = Answer[SheetParts]()
        self.is_shown = False
        self.table = PartsTable()
        self.table.progress.stop.clicked.connect(context.sheets.cancel)
        self.gap = SlideRow("Gap", 0.5, 20.0, 0.5, "mm")
        self.gap.show_value(3.0)
        self._gap_mm = 3.0
        self.gap.moved.connect(self._set_gap)
        self.find = button("Find prints", "primary")
        self.find.clicked.connect(self.look)
        self.take = button("Take them out as jobs", tip="A job for each kind, with as many pieces as were found")
        self.take.clicked.connect(self.take_out)
        self.told = label("", "quiet", wrap=True)
        self.sheet = QWidget()
        layout = QVBoxLayout(self.sheet)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(8)
        for widget in (Field("Prints on this artwork", self.gap, _WHY), self.find, self.take, self.told):
            layout.addWidget(widget)

    def _set_gap(self, value: float) -> None:
        self._gap_mm = value
        self.show()

    @property
    def found(self) -> SheetParts | None:
        """What is shown; found on this artwork, at another size or gap perhaps."""
        return self._answer.last

    def _question(self) -> tuple[Artwork, float, float] | None:
        """The artwork, the width of all of it in mm, and the gap."""
        job = self._job
        if job.file is None:
            return None
        artwork, width_mm, crop = job.file.artwork, job.settings.width_mm, job.settings.placement.crop
        whole_mm = width_mm if crop is None else width_mm * artwork.width_px / max(1, crop[2] - crop[0])
        return artwork, whole_mm, self._gap_mm

    def show(self) -> None:
        """What was found; on another artwork it goes."""
        self._answer.ask(self._question())
        if self.found is not None and (self._job.file is None or self.found.artwork is not self._job.file.artwork):
            self._answer.forget()
        found, inches = self.found, self._context.uses_inches()
        self.find.setEnabled(self._job.file is not None)
        self.take.setEnabled(self._answer.current is not None)
        self.table.board.show_parts(found)
        if found is None:
            self.table.facts.setText("")
            self.told.setText("")
            return
        self.table.facts.setText(f"{found.told[0].upper()}{found.told[1:]}.")
        lines = [] if self._answer.is_current else ["Size or gap has changed since: press Find prints again."]
        for part in found.kinds:
            lines.append(f"{found.copies(part.kind)} × {size_text(*found.size_mm(part), inches)}")
        tight = [part for part in found.found.parts if found.is_tight(part)]
        if tight:
            least = length_text(min(found.nearest_mm(part) for part in tight), inches, 1)
            lines.append(
                f"▲ {len(tight)} prints lie nearer than {length_text(CUTTER_MM, inches)} to each other, {least} at "
                "least (dashed): hard to cut."
            )
        self.told.setText("\n".join(lines))

    def look(self) -> None:
        """Find the prints, in the background."""
        question, progress = self._question(), self.table.progress
        if question is None:
            return

        def done(found: SheetParts) -> None:
            progress.show_progress("", 1.0)
            if self._answer.take(question, found):
                self.show()

        def failed(text: str) -> None:
            progress.show_progress("", 1.0)
            self._context.tell(text)

        def work(run: Run, _step: Tell) -> SheetParts:
            return parts_of(*question, run)

        progress.show_progress("Looking for prints", 0.2)
        self._context.sheets.start(work, done, failed, stopped=lambda: progress.show_progress("", 1.0))

    def take_out(self) -> None:
        """A job for each kind, in the background."""
        self.show()
        found, like, progress = self._answer.current, self._job, self.table.progress
        if found is None:
            return
        bare = replace(like, above=(), below=(), quote=None)

        def work(run: Run, _step: Tell) -> list[Job]:
            out = []
            for index, part in enumerate(found.kinds):
                run.check()
                run.report("Taking prints out", index / len(found.kinds))
                out.append(job_of(found, part, bare))
            return out

        def done(jobs: list[Job]) -> None:
            progress.show_progress("", 1.0)
            self._context.add_jobs(jobs)
            self._context.tell(f"{len(jobs)} jobs were taken out; choose among them beside the job’s name.")

        def failed(text: str) -> None:
            progress.show_progress("", 1.0)
            self._context.tell(text)

        self._context.sheets.start(
            work, done, failed, progress=progress.show_progress, stopped=lambda: progress.show_progress("", 1.0)
        )
