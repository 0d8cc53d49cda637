"""The limit ladder: small proofs of the artwork under several coverage limits, side by side."""

from collections.abc import Callable

import numpy as np
from PySide6.QtCore import QPoint, Qt, Signal
from PySide6.QtGui import QImage, QPixmap
from PySide6.QtWidgets import QFrame, QHBoxLayout, QLabel, QPushButton, QVBoxLayout, QWidget

from swaddon.core.colour.spaces import hex_from_rgb
from swaddon.core.count.consumption import amount_text
from swaddon.core.engine import Cache, Run
from swaddon.core.plan.ladder import Rung, limit_ladder
from swaddon.core.plan.stages import Plan
from swaddon.session import edits
from swaddon.ui.station_spec import StationContext
from swaddon.ui.widgets import Swatch, button, column, label, row

_PROOF_PX = 168


class Ladder(QWidget):
    """Opens the ladder; a press on a rung takes its limit."""

    def __init__(self, context: StationContext, plan: Callable[[], Plan | None]) -> None:
        super().__init__()
        self._context, self._plan = context, plan
        self.open = button("Compare limits")
        self.open.clicked.connect(self._begin)
        self.panel: LadderPanel | None = None
        layout = QHBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.addWidget(self.open)
        layout.addStretch(1)

    def _begin(self) -> None:
        plan = self._plan()
        if plan is None or plan.separated is None:
            return
        self.open.setEnabled(False)
        self.open.setText("Working it out …")
        self._context.in_background(lambda: limit_ladder(plan, Run(Cache())), lambda rungs: self._show(plan, rungs))

    def _show(self, plan: Plan, rungs: tuple[Rung, ...]) -> None:
        self.open.setEnabled(True)
        self.open.setText("Compare limits")
        if self.isVisible():
            self.panel = LadderPanel(self, rungs, plan.request.settings.white.limit, plan.request.profile.ink_unit)
            self.panel.taken.connect(self._take)

    def _take(self, limit: float) -> None:
        self._context.apply(edits.change("white.limit", limit))


class LadderPanel(QFrame):
    """The rungs, lowest limit first; goes away on a click elsewhere, on Escape, or when one is taken."""

    taken = Signal(float)

    def __init__(self, anchor: QWidget, rungs: tuple[Rung, ...], today: float, unit: str) -> None:
        super().__init__(anchor.window(), Qt.WindowType.Popup)
        self.setObjectName("popover")
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.buttons: list[QPushButton] = []
        across = QHBoxLayout()
        across.setSpacing(16)
        for rung in rungs:
            across.addWidget(self._rung(rung, today, unit))
        layout = QVBoxLayout(self)
        layout.setContentsMargins(16, 12, 16, 14)
        layout.setSpacing(8)
        layout.addWidget(label("White by total coverage", "head"))
        layout.addLayout(across)
        self.adjustSize()
        where = anchor.mapToGlobal(QPoint(-self.width() - 28, 0))
        screen = anchor.screen().availableGeometry()
        where.setX(max(screen.left() + 8, where.x()))
        where.setY(min(where.y(), screen.bottom() - self.height() - 8))
        self.move(where)
        self.show()

    def _rung(self, rung: Rung, today: float, unit: str) -> QWidget:
        height, width = rung.proof.shape[:2]
        image = QImage(np.ascontiguousarray(rung.proof).data, width, height, 3 * width, QImage.Format.Format_RGB888)
        picture = QLabel()
        proof = QPixmap.fromImage(image.copy()).scaled(
            _PROOF_PX, _PROOF_PX, Qt.AspectRatioMode.KeepAspectRatio, Qt.TransformationMode.SmoothTransformation
        )
        picture.setPixmap(proof)
        picture.setFixedSize(_PROOF_PX, proof.height())
        picture.setAlignment(Qt.AlignmentFlag.AlignCenter)
        picture.setAccessibleName(f"The print with a limit of {rung.limit:.0f} %")
        worst = "Nothing is printed" if rung.worst is None else f"Worst ΔE {rung.worst_delta_e:.0f}"
        lines = [
            label(f"{rung.limit:.0f} %", "head"),
            picture,
            label(f"White {amount_text(rung.amount, unit)}"),
            row(label(worst), *([] if rung.worst is None else [_swatch(rung.worst)]), 1, spacing=6),
            label("No white under" if rung.bare else "White under all", "quiet"),
            row(*(_swatch(colour) for colour in rung.bare[:6]), 1, spacing=2),
        ]
        take = button("In use" if rung.limit == today else f"Use {rung.limit:.0f} %")
        take.setEnabled(rung.limit != today)
        take.clicked.connect(lambda: self._take(rung.limit))
        self.buttons.append(take)
        return column(*lines, 1, take, spacing=4)

    def _take(self, limit: float) -> None:
        self.close()
        self.taken.emit(limit)


def _swatch(colour: tuple[int, int, int]) -> Swatch:
    made = Swatch(colour, hex_from_rgb(colour), 20)
    made.setEnabled(False)
    return made
