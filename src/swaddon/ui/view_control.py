"""How the print is looked at: the way of seeing, held keys, curtain, misregistration, and the loupe."""

from dataclasses import replace

from PySide6.QtCore import QEvent, QObject, QPointF, Qt, Signal
from PySide6.QtGui import QKeyEvent, QMouseEvent

from swaddon.core.press.profile import PressProfile
from swaddon.core.press.wares import ware_of
from swaddon.core.proof.misregistration import Misregistration, worst_case
from swaddon.session.desk import Desk, ViewState
from swaddon.session.pointer import inks_at
from swaddon.session.preview import Frame
from swaddon.session.session import Session
from swaddon.session.view_modes import inks_in
from swaddon.ui.actions import Actions
from swaddon.ui.legend import Legend
from swaddon.ui.loupe import Loupe
from swaddon.ui.proof_table import ProofTable, image_of
from swaddon.ui.widgets import Choice, label

NUDGE_MM, SQUEEZE_MM = 0.05, 0.02
_MARGIN_PX = 12
_OF_INKS = ("coverage", "footprint", "one-tone", "highlight")
"""Ways of seeing, besides single inks, under which the numbers of the inks are told."""


class ViewControl(QObject):
    """Asks the desk for pictures and puts them on the table."""

    seen = Signal(str)

    def __init__(self, table: ProofTable, desk: Desk, session: Session) -> None:
        super().__init__(table)
        self._table, self._desk, self._session = table, desk, session
        self._view_modes: Choice
        self._actions: Actions
        self.view_mode: str = "cloth"
        self._held: str | None = None
        self._alone = False
        self.misregistration = Misregistration()
        self.legend = Legend(table)
        self.legend.go_to.connect(table.go_to)
        self.loupe = Loupe(table)
        self._pointer: QPointF | None = None
        self.note = label("")
        self.note.setParent(table)
        self.note.setObjectName("note")
        self.note.hide()
        self.numbers = label("")
        self.numbers.setParent(table)
        self.numbers.setObjectName("note")
        self.numbers.hide()
        desk.frame_drawn.connect(self._frame_arrived)
        desk.loupe_drawn.connect(self._loupe_arrived)
        table.view_changed.connect(self.look)
        table.installEventFilter(self)

    def attach(self, view_modes: Choice, actions: Actions) -> None:
        """The buttons and actions that show what is looked at."""
        self._view_modes, self._actions = view_modes, actions

    def see(self, view_mode: str) -> None:
        self.view_mode = view_mode
        self._view_modes.show_value(view_mode)
        self._actions.show_view_mode(view_mode)
        self._show_numbers()
        self.seen.emit(view_mode)
        self.look()

    def offer_inks(self, press: PressProfile | None) -> None:
        """Offer to see the inks that a press has."""
        self.offer("highlight", press is not None and press.has_highlight)
        self.offer("K", press is None or press.has_black)
        self.offer("white", press is None or press.has_white)
        is_garment = press is None or ware_of(press.printing).is_cloth
        self._view_modes.button_for("cloth").setText("On cloth" if is_garment else "On item")

    def offer(self, view_mode: str, is_there: bool) -> None:
        """Show or hide one way of seeing; white instead of what is no longer there."""
        self._view_modes.button_for(view_mode).setVisible(is_there)
        self._actions.view_modes[view_mode].setVisible(is_there)
        if not is_there and self.view_mode == view_mode:
            self.see("white" if view_mode == "highlight" else "footprint")

    def look(self) -> None:
        """Ask for the picture of what is looked at now."""
        view = self._table.view()
        if view is None:
            self._desk.look_at(None)
            return
        near = None
        if self.loupe.isVisible():
            where = self._pointer or QPointF(self._table.rect().center())
            near = self.loupe.aim(self._table.mm_at(where), self._table.scale)
            self._put_loupe(where)
        self._desk.look_at(
            ViewState(view, self._held or self.view_mode, self._table.fabric.fabric, self.misregistration, near)
        )

    # keys that are held

    def press(self, event: QKeyEvent) -> bool:
        """Whether a held key has changed what is seen."""
        if event.isAutoRepeat():
            return event.key() in (Qt.Key.Key_Space, Qt.Key.Key_Y)
        if event.key() == Qt.Key.Key_Space:
            self._held = "artwork" if self.view_mode != "artwork" else "cloth"
            self.look()
            return True
        if event.key() == Qt.Key.Key_Y and self._desk.yardstick is not None:
            self._alone = True
            self.draw_curtain()
            return True
        return False

    def release(self, event: QKeyEvent) -> bool:
        """Whether a held key was let go."""
        if event.isAutoRepeat():
            return False
        if event.key() == Qt.Key.Key_Space and self._held is not None:
            self._held = None
            self.look()
            return True
        if event.key() == Qt.Key.Key_Y and self._alone:
            self._alone = False
            self.draw_curtain()
            return True
        return False

    def draw_curtain(self) -> None:
        """Curtain or yardstick alone, as its action and the held key say; neither without a yardstick."""
        has_yardstick = self._desk.yardstick is not None
        drawn = self._actions.by_key["curtain"].isChecked() and has_yardstick
        share = 1.0 if self._alone and has_yardstick else 0.5 if drawn else None
        if share != 0.5 or self._table.curtain in (None, 1.0):
            self._table.set_curtain(share)
        self._desk.show_yardstick(share is not None)

    # white out of its place

    def miss(self, misregistration: Misregistration) -> None:
        """Show white out of its place; it is a way of looking and changes nothing in the plan."""
        self.misregistration = misregistration
        action = self._actions.by_key["worst-case"]
        if misregistration.is_none:
            action.setChecked(False)
        self._show_misregistration()
        if self.view_mode != "cloth" and not misregistration.is_none:
            self.see("cloth")
        else:
            self.look()

    def worst_case_toggled(self) -> None:
        job = self._session.job
        shown, press = self._actions.by_key["worst-case"].isChecked(), job.press
        self.miss(worst_case(job.settings.registration(press)) if shown and press else Misregistration())

    def nudge(self, right: int, down: int) -> None:
        self.miss(self.misregistration.moved(right * NUDGE_MM, down * NUDGE_MM))

    def squeeze(self, further: int) -> None:
        wider = max(0.0, round(self.misregistration.squeeze_mm + further * SQUEEZE_MM, 2))
        self.miss(replace(self.misregistration, squeeze_mm=wider))

    def _show_misregistration(self) -> None:
        m = self.misregistration
        parts = [
            f"{abs(mm):.2f} mm {more if mm > 0 else less}"
            for mm, more, less in ((m.dx_mm, "right", "left"), (m.dy_mm, "down", "up"))
            if abs(mm) >= 0.005
        ]
        if abs(m.skew_deg) >= 0.005:
            parts.append(f"turned {abs(m.skew_deg):.2f}°")
        if abs(m.stretch_percent) >= 0.005:
            parts.append(f"stretched {m.stretch_percent:.2f} %")
        if m.squeeze_mm >= 0.005:
            parts.append(f"squeezed {m.squeeze_mm:.2f} mm")
        self.note.setText("White " + ", ".join(parts) + " · Alt+Home puts it back" if parts else "")
        self.note.setVisible(bool(parts))
        self.note.adjustSize()
        self._put_overlays()

    # loupe

    def loupe_toggled(self) -> None:
        self.loupe.setVisible(self._actions.by_key["loupe"].isChecked())
        self.loupe.inches = self._table.inches
        self.look()

    def eventFilter(self, _watched: QObject, event: QEvent) -> bool:
        if isinstance(event, QMouseEvent) and event.type() == QEvent.Type.MouseMove:
            self._pointer = event.position()
            self._show_numbers()
            if self.loupe.isVisible():
                self.look()
        elif event.type() == QEvent.Type.Leave:
            self._pointer = None
            self._show_numbers()
        elif event.type() == QEvent.Type.Resize:
            self._put_overlays()
        return False

    def _put_loupe(self, where: QPointF) -> None:
        """Beside the pointer, on the side where there is room."""
        side = self.loupe.width()
        x = where.x() + 24 if where.x() + 24 + side < self._table.width() else where.x() - 24 - side
        y = min(max(where.y() - side / 2, 30), self._table.height() - side - 8)
        self.loupe.move(round(x), round(y))

    def _loupe_arrived(self, frame: Frame) -> None:
        if frame.view == self.loupe.view:
            self.loupe.show_image(image_of(frame))

    # numbers

    def _show_numbers(self) -> None:
        """What lies under the pointer, where inks are looked at."""
        plan = self._desk.plan if self._desk.is_planned else None
        looks_at_inks = bool(inks_in(self.view_mode)) or self.view_mode in _OF_INKS
        text = ""
        if plan is not None and looks_at_inks and self._pointer is not None:
            at = self._table.mm_at(self._pointer)
            text = inks_at(plan, at.x(), at.y())
        if not text and plan is not None and self.view_mode == "coverage":
            found = plan.coverage
            text = f"Darker is more ink, a line at each 100 %; hatched lies above {found.limit_percent:.0f} %."
        self.numbers.setText(text)
        self.numbers.setVisible(bool(text))
        self.numbers.adjustSize()
        self._put_overlays()

    # pictures

    def _frame_arrived(self, frame: Frame, other: Frame | None) -> None:
        self._table.show_frame(frame)
        self._table.show_yardstick(other)
        self.legend.show_patches(frame.legend)
        self._put_overlays()

    def _put_overlays(self) -> None:
        width, height = self._table.width(), self._table.height()
        self.legend.move(width - self.legend.width() - _MARGIN_PX, height - self.legend.height() - _MARGIN_PX)
        self.note.move(30 + _MARGIN_PX, height - self.note.height() - _MARGIN_PX)
        above = self.note.height() + 4 if self.note.isVisible() else 0
        self.numbers.move(30 + _MARGIN_PX, height - self.numbers.height() - _MARGIN_PX - above)
