"""Outlines drawn by hand: each with its side, what becomes of it, and its corners."""

from PySide6.QtWidgets import QVBoxLayout, QWidget

from swaddon.core.artwork.placement import Point
from swaddon.core.knockout.settings import OutlineKnockout
from swaddon.core.schema import named
from swaddon.session import edits
from swaddon.session.job import Job
from swaddon.ui.rebuilding import take_away
from swaddon.ui.station_spec import StationContext
from swaddon.ui.widgets import Choice, button, give_room, label, row, why_button

_WHY = (
    "Where a soft background cannot be told from the art by its colour, draw a rough line round the figure and let "
    "what is outside go; only empty space need lie under the line. Or draw round something that must stay, and no "
    "knockout takes it."
)


class OutlineLine(QWidget):
    """One outline."""

    def __init__(self, index: int, context: StationContext) -> None:
        super().__init__()
        self._index, self._context, self._item = index, context, OutlineKnockout(((0, 0), (1, 0), (0, 1)))
        self.side = Choice.of(named(OutlineKnockout, "side"))
        self.side.chosen.connect(lambda key: context.apply(edits.change_outline(index, side=key)))
        self.act = Choice.of(named(OutlineKnockout, "act"))
        self.act.chosen.connect(lambda key: context.apply(edits.change_outline(index, act=key)))
        self.corners = button("Corners", "link", tip="Move, add or take away corners on the table")
        self.corners.clicked.connect(self._edit)
        remove = button("", "plain", "trash-2", "Remove this outline")
        remove.clicked.connect(lambda: context.apply(edits.remove_outline(index)))
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 2)
        layout.setSpacing(2)
        self.title = label(f"Outline {index + 1}", "head")
        layout.addWidget(row(self.title, 1, self.corners, remove))
        both = row(self.side, self.act)
        give_room(both, 0)
        give_room(both, 1)
        layout.addWidget(both)

    def _edit(self) -> None:
        self._context.draw(self._moved, self._item.points)

    def _moved(self, points: tuple[Point, ...]) -> None:
        self._context.apply(edits.change_outline(self._index, points=points))

    def render_item(self, item: OutlineKnockout) -> None:
        self._item = item
        self.side.show_value(item.side)
        self.act.show_value(item.act)


class OutlineField(QWidget):
    def __init__(self, context: StationContext) -> None:
        super().__init__()
        self._context = context
        self.lines: list[OutlineLine] = []
        self.draw = button("Draw an outline", tip="On the table: corner by corner, or freehand")
        self.draw.clicked.connect(lambda: context.draw(self._drawn, ()))
        self._layout = QVBoxLayout(self)
        self._layout.setContentsMargins(0, 0, 0, 0)
        self._layout.setSpacing(4)
        self._layout.addWidget(row(self.draw, 1, why_button("Outlines", _WHY)))

    def _drawn(self, points: tuple[Point, ...]) -> None:
        self._context.apply(edits.add_outline(OutlineKnockout(points)))

    def render_job(self, job: Job) -> None:
        found = job.settings.outlines
        self.draw.setEnabled(job.file is not None)
        while len(self.lines) > len(found):
            line = self.lines.pop()
            take_away(line, self._layout)
        while len(self.lines) < len(found):
            line = OutlineLine(len(self.lines), self._context)
            self._layout.insertWidget(len(self.lines), line)
            self.lines.append(line)
            line.show()
        for line, item in zip(self.lines, found, strict=True):
            line.render_item(item)
