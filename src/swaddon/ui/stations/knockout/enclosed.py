"""Background that the figure encloses: each area with its picture, size and place, to be taken out or kept."""

import numpy as np
from PySide6.QtGui import QIcon, QImage, QPixmap
from PySide6.QtWidgets import QVBoxLayout, QWidget

from swaddon.core.colour.spaces import Rgb
from swaddon.core.findings.artwork import area_text
from swaddon.core.knockout.islands import Island
from swaddon.core.plan.stages import Plan
from swaddon.core.units import mm_from_px, pixel_area_mm2
from swaddon.session import edits
from swaddon.session.job import Job
from swaddon.ui.rebuilding import clear
from swaddon.ui.station_spec import StationContext
from swaddon.ui.widgets import button, label, row

SHOWN = 6
_THUMB_PX, _AROUND = 40, 0.6


class Enclosed(QWidget):
    """The areas of all knockouts from outside, the largest first."""

    def __init__(self, context: StationContext) -> None:
        super().__init__()
        self._context = context
        self._islands: tuple[Island, ...] = ()
        self._shown: tuple[tuple[Island, ...], Rgb] | None = None
        self.head = label("", "effect", wrap=True)
        self._title = label("Enclosed background", "head")
        self.take_all = button("Take out all", tip="Take out every enclosed area")
        self.keep_all = button("Keep all", tip="Keep every enclosed area")
        self.take_all.clicked.connect(lambda: self._context.apply(edits.take_islands(self._islands)))
        self.keep_all.clicked.connect(lambda: self._context.apply(edits.keep_islands(self._islands)))
        self.again = button("", "plain", tip="Ask again about the enclosed areas that were kept")
        self.again.clicked.connect(lambda: self._context.apply(edits.ask_islands_again()))
        self._rows = QVBoxLayout()
        self._rows.setContentsMargins(0, 0, 0, 0)
        self._rows.setSpacing(2)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 2, 0, 2)
        layout.setSpacing(4)
        layout.addWidget(self._title)
        layout.addWidget(self.head)
        layout.addLayout(self._rows)
        self._all = row(self.take_all, self.keep_all)
        layout.addWidget(self._all)
        layout.addWidget(self.again)

    def render_islands(self, job: Job, plan: Plan | None) -> None:
        """Show what the plan found; nothing while none is at hand."""
        kept = sum(len(item.kept) for item in job.settings.knockouts)
        self.again.setText(f"Ask again about the {kept} kept")
        self.again.setVisible(kept > 0)
        found = () if plan is None else tuple(sorted(plan.islands, key=lambda island: -island.area_px))
        self.setVisible(bool(found) or kept > 0)
        for part in (self.head, self._all):
            part.setVisible(bool(found))
        if plan is None or (found, plan.request.settings.garment) == self._shown:
            return
        self._islands, self._shown = found, (found, plan.request.settings.garment)
        clear(self._rows)
        mm2 = pixel_area_mm2(plan.request.ppi)
        whole = area_text(sum(island.area_px for island in found) * mm2)
        many = f"{len(found)} areas" if len(found) != 1 else "1 area"
        self.head.setText(f"{many} of a colour taken from outside, {whole}, lie in the figure and print")
        for island in found[:SHOWN]:
            self._rows.addWidget(self._row(plan, island, area_text(island.area_px * mm2)))
        if len(found) > SHOWN:
            self._rows.addWidget(label(f"and {len(found) - SHOWN} smaller ones", "quiet"))

    def _row(self, plan: Plan, island: Island, size: str) -> QWidget:
        x, y = (mm_from_px(part, plan.request.ppi) for part in (island.x_px, island.y_px))
        show = button(size, "plain", tip=f"Show it: {x:.0f} mm from the left, {y:.0f} mm from the top")
        show.setIcon(QIcon(thumbnail(plan, island)))
        show.clicked.connect(lambda: self._context.go_to(x, y))
        take, keep = button("Take out", tip=f"Take out these {size}"), button("Keep", tip=f"Keep these {size}")
        take.clicked.connect(lambda: self._context.apply(edits.take_islands((island,))))
        keep.clicked.connect(lambda: self._context.apply(edits.keep_islands((island,))))
        return row(show, 1, take, keep)


def thumbnail(plan: Plan, island: Island) -> QPixmap:
    """The area and what lies round it, on the garment."""
    box, art = island.box, plan.art
    room = round(max(box.width, box.height) * _AROUND) + 4
    top, left = max(0, box.top - room), max(0, box.left - room)
    part = art[top : box.bottom + room, left : box.right + room].astype(np.float32)
    share = part[..., 3:] / 255
    seen = part[..., :3] * share + np.array(plan.request.settings.garment, np.float32) * (1 - share)
    picture = np.ascontiguousarray(seen.astype(np.uint8))
    height, width = picture.shape[:2]
    image = QImage(picture.data, width, height, 3 * width, QImage.Format.Format_RGB888)
    return QPixmap.fromImage(image.copy()).scaled(_THUMB_PX, _THUMB_PX)
