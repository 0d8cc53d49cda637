"""The bench: the window that holds job bar, rail, proof table, station sheet, findings and tally."""

from dataclasses import replace
from pathlib import Path
from typing import Any

from PySide6.QtCore import QSize, Qt
from PySide6.QtGui import QCloseEvent, QDropEvent, QKeyEvent, QResizeEvent
from PySide6.QtWidgets import QApplication, QStackedWidget, QWidget

from swaddon.core.artwork.placement import Point
from swaddon.core.engine import Cache
from swaddon.core.plan.stages import Plan
from swaddon.core.proof.misregistration import Misregistration
from swaddon.session import edits
from swaddon.session.core_sample import core_sample
from swaddon.session.desk import Desk
from swaddon.session.job import Job
from swaddon.session.preferences import Preferences, save_preferences
from swaddon.session.press_state import PressWatch
from swaddon.session.session import Changes, Edit, Session
from swaddon.session.setting_words import title_of
from swaddon.session.testing import ShopFollows
from swaddon.session.view_modes import BAR_MODES
from swaddon.ui import theme, wiring
from swaddon.ui.actions import Actions
from swaddon.ui.core_sample import CoreSamplePanel
from swaddon.ui.empty import EmptyTable
from swaddon.ui.fields import TextField
from swaddon.ui.files import JobFiles
from swaddon.ui.findings_panel import FindingsPanel
from swaddon.ui.job_bar import JobBar
from swaddon.ui.kept_watch import KeptWatch
from swaddon.ui.log_deck import LogDeck
from swaddon.ui.mailbox import Mailbox
from swaddon.ui.order_deck import OrderDeck
from swaddon.ui.pages import Pages
from swaddon.ui.picking import Picked, Picking
from swaddon.ui.progress import ProgressStrip
from swaddon.ui.proof_table import ProofTable
from swaddon.ui.rail import Rail
from swaddon.ui.sheets import Sheets
from swaddon.ui.shell import Shell
from swaddon.ui.station_registry import STATIONS
from swaddon.ui.station_spec import StationSpec
from swaddon.ui.tally import Tally
from swaddon.ui.view_control import ViewControl
from swaddon.ui.widgets import Choice, button, column, give_room, in_scroll_area, label, row

SHEET_WIDTH = 344
SMALLEST = QSize(960, 540)


class Bench(Shell):
    """One open job, worked on station by station."""

    def __init__(self, session: Session, preferences: Preferences, kept: Cache | None = None) -> None:
        super().__init__()
        self.session, self.preferences = session, preferences
        self.mailbox = Mailbox()
        self.desk = Desk(session, self.mailbox.post, kept)
        self.files = JobFiles(self, session, self.desk)
        self._yardsticks: dict[int, Plan] = {}
        self.press_watch, self._shop_follows = PressWatch(), ShopFollows()
        self._specs, self._line = {spec.key: spec for spec in STATIONS}, (0, 0, 0)
        self.station = STATIONS[0].key
        self.setWindowTitle("Swaddon")
        self.setMinimumSize(SMALLEST)
        self.setAcceptDrops(True)
        theme.dress(self)
        self._build()
        self._connect()
        self.go_to_station("order")
        self._job_changed(session.job, Changes(frozenset({"file"}), "start"))

    def _build(self) -> None:
        self.table = ProofTable()
        self.view_control = ViewControl(self.table, self.desk, self.session)
        self.actions_ = Actions(self, wiring.handlers(self, self.files), self.see, STATIONS, self.go_to_station)
        self.job_bar = JobBar(self.actions_.by_key)
        self.rail = Rail(STATIONS)
        self.empty = EmptyTable(self.files.choose_artwork, self.files.open_demo)
        self._stack = QStackedWidget()
        self._stack.addWidget(self.empty)
        self._stack.addWidget(self.table)
        self.view_modes = Choice("See", BAR_MODES, kind="view")
        self.view_control.attach(self.view_modes, self.actions_)
        self._see_bar = wiring.see_bar(self.view_modes, self.actions_)
        self.problem = label("", wrap=True)
        dismiss = button("Close")
        dismiss.clicked.connect(lambda: self.tell(""))
        self._banner = row(self.problem, dismiss)
        give_room(self._banner, 0)
        self._banner.setContentsMargins(16, 8, 16, 8)
        self._banner.hide()
        self.sheet = Sheets()
        self.title = label("", "title")
        self.findings = FindingsPanel()
        self.tally = Tally()
        self.deck = OrderDeck(self.session, self.desk, self.mailbox.post, self.tally, self.findings)
        self.log = LogDeck(self.desk, self.mailbox.post, self)
        self.progress = ProgressStrip(self.desk.cancel, self._go_on)
        self._lay_out(self._see_bar)
        self.pages = Pages(STATIONS, wiring.context(self, self.files), self._take_page)
        self.kept_watch = KeptWatch(self, self.files.tray)

    def _take_page(self, key: str, page: QWidget) -> None:
        """Make room for a page that was just built."""
        if hasattr(page, "own_table"):
            self._stack.addWidget(page.own_table)
        self.sheet.add(key, in_scroll_area(page))

    def _lay_out(self, see_bar: QWidget) -> None:
        middle = column(self._banner, self.deck.strip, see_bar, self._stack, self.progress, spacing=0)
        give_room(middle, 3)
        sheet = column(self.title, self.sheet, spacing=8, margins=(16, 12, 16, 4))
        give_room(sheet, 1)
        right = column(sheet, self.findings, spacing=0)
        give_room(right, 0)
        right.setFixedWidth(SHEET_WIDTH)
        self.setCentralWidget(wiring.laid_out(self.job_bar, (self.rail, middle, right), self.tally))

    def _connect(self) -> None:
        self.session.changed.connect(self._job_changed)
        self.desk.plan_changed.connect(self._plan_changed)
        self.desk.progressed.connect(self.progress.show_progress)
        self.desk.failed.connect(self.tell)
        self.desk.stopped.connect(self._stopped)
        self.files.tray.leaving.connect(self.commit_typing)
        self.rail.chosen.connect(self.go_to_station)
        self.view_modes.chosen.connect(self.see)
        self.desk.regions_changed.connect(self._regions_changed)
        self.picking = Picking(self.table, self.session, self._clicked)
        self.findings.go_to.connect(self.table.go_to)
        self.findings.fix.connect(lambda finding: self.apply(edits.mend(finding)))
        self.deck.counter.failed.connect(self.tell)
        self.deck.strip.listed.connect(self.show_order_list)

    # intents

    def apply(self, edit: Edit) -> None:
        self.session.apply(self.deck.scoped(edit), self.station)

    def show_order_list(self) -> None:
        """All lines of the order as a table."""
        self.go_to_station("order")
        self.pages["order"].show_part("list")  # type: ignore[attr-defined]

    def step_line(self, by: int) -> None:
        """Take the next line of the order to hand."""
        self.deck.step(by)

    def go_to_station(self, key: str) -> None:
        """Open a station: its sheet, and its way of seeing."""
        self.commit_typing()
        spec: StationSpec = self._specs[key]
        self.station = key
        self.desk.retry_regions()
        self._show_title()
        self.pages[key]  # built when it is first opened
        self.sheet.show_sheet(key)
        self.rail.show_station(key)
        self.picking.end()
        self.table.set_outlines(())
        self._render_page()
        self.see(spec.view_mode)
        self.show_table()

    def show_table(self) -> None:
        """Lay on the table what belongs there: the shirt, what the open station has of its own, or what to do."""
        own = wiring.own_table(self.pages.built(self.station))
        self._stack.setCurrentWidget(own or (self.empty if self.session.job.file is None else self.table))
        self._see_bar.setVisible(own is None)

    def shop_changed(self) -> None:
        """What the shop keeps is another: a test print was read, prices, garments or media have changed."""
        self.press_watch.refresh()
        self._render_plan(None)

    def see(self, view_mode: str) -> None:
        self.view_control.see(view_mode)

    def pick(self, picked: Picked) -> None:
        """The next click on the table gives the artwork's colour and place there."""
        self.see("artwork")
        self.picking.begin(picked)

    def step_region(self, by: int) -> None:
        """Walk the regions, where the station knows them."""
        page = self.pages[self.station]
        if hasattr(page, "step"):
            page.step(by)

    def _clicked(self, point: Point | None, adds: bool, at_mm: tuple[float, float]) -> None:
        """A click on the table: the station's own, where it has one, else a core sample."""
        page = self.pages[self.station]
        if hasattr(page, "clicked"):
            page.clicked(point, adds)
        else:
            self.show_core_sample(*at_mm)

    def show_core_sample(self, x_mm: float, y_mm: float) -> CoreSamplePanel | None:
        """The layers at a place on the artboard; nothing beside it or while the plan is not done."""
        plan = self.desk.plan
        sample = None if plan is None else core_sample(plan, x_mm, y_mm)
        if sample is None:
            return None
        at = self.table.mapToGlobal(self.table.px_at(x_mm, y_mm).toPoint())
        return CoreSamplePanel(self.table, sample, self.session.job.settings.garment, at)

    def pin(self) -> None:
        if self.desk.is_current:
            self.set_yardstick(self.desk.plan)

    def tell(self, text: str) -> None:
        """Show a problem until it is closed; empty text closes it."""
        self.problem.setText(text)
        self._banner.setVisible(bool(text))

    def tell_later(self, text: str) -> None:
        """Tell from another thread; nothing when there is nothing to tell."""
        self.mailbox.post(lambda: self.tell(text) if text else None)

    def commit_typing(self) -> None:
        """What stands in the field that is typed in counts as entered."""
        field = QApplication.focusWidget()
        if isinstance(field, TextField) and field.window() is self:
            field.commit()

    def revert_typing(self) -> bool:
        """Take back what is being typed; False when nothing is."""
        field = QApplication.focusWidget()
        return isinstance(field, TextField) and field.window() is self and field.revert()

    def _stopped(self) -> None:
        if self.desk.is_stopped:
            self.progress.show_stopped()
            self.findings.show_stopped()
            self.tally.show_current(self.desk.is_planned, "stopped")

    def _go_on(self) -> None:
        self.desk.go_on()
        self.progress.begin()
        self.findings.show_current(False)
        self.tally.show_current(self.desk.is_planned)

    def set_inches(self, inches: bool) -> None:
        self.prefer(inches=inches)
        self.table.inches = inches
        self.table.update()
        self._job_changed(self.session.job, Changes(frozenset({"units"}), "units"))

    def set_yardstick(self, plan: Plan | None) -> None:
        """Pin a plan for the job on the bench, whose alone it is."""
        self._yardsticks.pop(self.session.uid, None)
        if plan is not None:
            self._yardsticks[self.session.uid] = plan
        self.desk.pin_yardstick(plan)
        if plan is None:
            self.actions_.by_key["curtain"].setChecked(False)
            self.view_control.draw_curtain()
        self._render_plan(frozenset({"yardstick"}))

    def change_scheme(self) -> None:
        self.prefer(scheme="light" if self.preferences.scheme == "dark" else "dark")
        theme.apply(self.preferences.scheme)
        self.sheet.dress(self)
        self.findings.show_findings(None)
        self._render_plan(None)

    def prefer(self, **changes: Any) -> None:
        self.preferences = replace(self.preferences, **changes)
        save_preferences(self.preferences)

    def remember(self, path: Path) -> None:
        self.prefer(recent=self.preferences.with_recent(path).recent)

    # rendering

    def _job_changed(self, job: Job, changes: Changes) -> None:
        self.table.inches = inches = self.preferences.inches
        self.job_bar.show_job(job, self.session.is_changed, inches)
        self.job_bar.show_tray(self.files.tray)
        self.files.show_menus(self.actions_)
        wiring.show_history(self.actions_, self.session)
        self._shop_follows.see(job, self.session.uid, changes.initiator)
        line = self.session.uid, job.at, len(job.lines)
        turned, self._line = self._line != line, line
        self.deck.show_order()
        self._show_title()
        if turned:
            self._forget_typing()
            self.table.fit_print()
        if changes.initiator in ("open", "start"):
            self.set_yardstick(self._yardsticks.get(self.session.uid))
            self.picking.end()
            self.view_control.miss(Misregistration())
        self.show_table()  # before the print lies on it: what is looked at depends on its size
        if job.file is None:
            self.table.set_print(0, 0, job.cloth, job.settings.garment, job.settings.drop_mm)
        else:
            size = job.settings.width_mm, job.height_mm
            self.table.set_print(*size, job.cloth, job.settings.garment, job.settings.drop_mm)
        self.tally.show_piece(job.ware.piece)
        self.view_control.offer_inks(job.profile)
        if changes.sections & {"cloth", "drop_mm"}:
            self.view_control.look()
        if job.file is not None and not self.desk.is_current:
            self.progress.begin()
            self.findings.show_current(False)
            self.tally.show_current(self.desk.is_planned)
        self.actions_.show_needs(job.file is not None, self.desk.plan is not None)
        self._render_page(None if turned or changes.initiator in ("open", "start") else changes.sections)
        self.show_states()

    def _forget_typing(self) -> None:
        """What was typed or refused was for the job before."""
        for field in self.findChildren(TextField):
            field.revert()

    def forget_closed(self) -> None:
        """Give back what was kept for jobs that are no longer open."""
        tray = self.files.tray
        still = {tray.snapshot(index).uid for index in range(len(tray))}
        self._yardsticks = {uid: plan for uid, plan in self._yardsticks.items() if uid in still}
        self.desk.forget()
        self.deck.counter.forget()

    def _show_title(self) -> None:
        """The station, and with several lines which of them it works on."""
        title, job = self._specs[self.station].title, self.session.job
        self.title.setText(title if len(job.lines) < 2 else f"{title} · {job.line.title}{' •' if job.own else ''}")
        self.title.setToolTip(f"Own on this line: {', '.join(map(title_of, job.own))}" if job.own else "")

    def _plan_changed(self, plan: Plan | None) -> None:
        if plan is None or plan.checks.is_current:
            self.progress.finish()
        self._render_plan(frozenset({"plan"}))

    def _render_plan(self, changed: frozenset[str] | None) -> None:
        plan, yardstick = self.desk.plan, self.desk.yardstick
        self.deck.show_tally()
        self.deck.show_findings(None if plan is None else self.press_watch.all_findings(self.session.job, plan))
        self.findings.show_current(plan is None or self.desk.is_current)
        if not self.tally.shows_whole:
            self.tally.show_current(plan is None or self.desk.is_planned)
        self.actions_.show_needs(self.session.job.file is not None, plan is not None)
        for key in ("curtain", "unpin"):
            self.actions_.by_key[key].setEnabled(yardstick is not None)
        self._render_page(changed)
        self.show_states()

    def _regions_changed(self) -> None:
        if self.desk.is_finding_regions:
            self.progress.begin()
            self.progress.show_progress("Finding regions", 0.5)
        elif self.desk.is_current:
            self.progress.finish()
        self._render_page(frozenset({"regions"}))

    def _render_page(self, changed: frozenset[str] | None = None) -> None:
        """Render the open page when it watches what changed; ``None`` renders it whatever it watches."""
        page = self.pages.built(self.station)
        if page is not None and (changed is None or changed & self._specs[self.station].watches):
            page.render_job(self.session.job, self.desk.plan, self.desk.yardstick)  # type: ignore[attr-defined]

    def show_states(self) -> None:
        plan, job = self.desk.plan, self.session.job
        found = () if plan is None else (*self.press_watch.all_findings(job, plan), *self.deck.sheet_findings())
        self.rail.show_states(wiring.station_states(STATIONS, job, found))

    # window

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_Escape and self.picking.is_on:
            self.picking.end()
        elif not self.view_control.press(event):
            super().keyPressEvent(event)

    def keyReleaseEvent(self, event: QKeyEvent) -> None:
        if not self.view_control.release(event):
            super().keyReleaseEvent(event)

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self.findings.fit(event.size().height())

    def dropEvent(self, event: QDropEvent) -> None:
        wiring.dropped(self, self.files, event.mimeData())

    def closeEvent(self, event: QCloseEvent) -> None:
        self.commit_typing()
        if not self.files.may_close():
            event.ignore()
            return
        self.files.end()
        self.deck.stop()
        self.log.stop()
        self.desk.stop()
        event.accept()
