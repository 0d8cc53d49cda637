"""What the parts of the bench may ask of the window that they lie in."""

from pathlib import Path
from typing import Any

from PySide6.QtGui import QDragEnterEvent
from PySide6.QtWidgets import QLabel, QMainWindow

from swaddon.core.plan.stages import Plan
from swaddon.session.desk import Desk
from swaddon.session.preferences import Preferences
from swaddon.session.session import Edit, Session
from swaddon.ui.actions import Actions
from swaddon.ui.core_sample import CoreSamplePanel
from swaddon.ui.job_bar import JobBar
from swaddon.ui.log_deck import LogDeck
from swaddon.ui.order_deck import OrderDeck
from swaddon.ui.pages import Pages
from swaddon.ui.picking import Picked, Picking
from swaddon.ui.progress import ProgressStrip
from swaddon.ui.proof_table import ProofTable
from swaddon.ui.view_control import ViewControl


class Shell(QMainWindow):
    """The bench as its parts see it; ``Bench`` fills it in."""

    session: Session
    preferences: Preferences
    desk: Desk
    table: ProofTable
    view_control: ViewControl
    picking: Picking
    job_bar: JobBar
    progress: ProgressStrip
    actions_: Actions
    deck: OrderDeck
    log: LogDeck
    problem: QLabel
    pages: Pages

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        if event.mimeData().hasUrls():
            event.acceptProposedAction()

    def shop_changed(self) -> None:
        """What the shop keeps is another: a test print was read, prices, garments or media have changed."""
        raise NotImplementedError

    def show_table(self) -> None:
        """Look again at what lies on the table."""
        raise NotImplementedError

    def show_states(self) -> None:
        """Show the state of each station on the rail."""
        raise NotImplementedError

    def tell(self, text: str) -> None:
        """Say something above the table; an empty text takes it away."""
        raise NotImplementedError

    def apply(self, edit: Edit) -> None:
        """Make an edit to the job."""
        raise NotImplementedError

    def see(self, view_mode: str) -> None:
        """Take a way of seeing."""
        raise NotImplementedError

    def pick(self, picked: Picked) -> None:
        """Ask for a click on the table."""
        raise NotImplementedError

    def commit_typing(self) -> None:
        """What was typed in a field counts."""
        raise NotImplementedError

    def revert_typing(self) -> bool:
        """Take back what is being typed; False when nothing is."""
        raise NotImplementedError

    def remember(self, path: Path) -> None:
        """Put a file among the recent ones."""
        raise NotImplementedError

    def forget_closed(self) -> None:
        """Give back what was kept for jobs that are no longer open."""
        raise NotImplementedError

    def pin(self) -> None:
        """Pin the plan of now as the yardstick."""
        raise NotImplementedError

    def set_yardstick(self, plan: Plan | None) -> None:
        """Pin a plan for the job on the bench, or none."""
        raise NotImplementedError

    def set_inches(self, inches: bool) -> None:
        """Tell lengths in inches, or in mm."""
        raise NotImplementedError

    def prefer(self, **changes: Any) -> None:
        """Keep what the operator prefers, by the names of ``Preferences``."""
        raise NotImplementedError

    def go_to_station(self, key: str) -> None:
        """Open a station."""
        raise NotImplementedError

    def change_scheme(self) -> None:
        """Go from light to dark, or back."""
        raise NotImplementedError

    def step_region(self, by: int) -> None:
        """Select the next region, or one before."""
        raise NotImplementedError

    def step_line(self, by: int) -> None:
        """Take the next line of the order to hand, or one before."""
        raise NotImplementedError

    def show_order_list(self) -> None:
        """All lines of the order as a table."""
        raise NotImplementedError

    def show_core_sample(self, x_mm: float, y_mm: float) -> CoreSamplePanel | None:
        """The layers at a point."""
        raise NotImplementedError
