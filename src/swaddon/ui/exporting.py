"""Exporting from the bench: where to, what lies there already, and being stopped."""

from collections.abc import Callable
from functools import partial
from pathlib import Path

from PySide6.QtWidgets import QFileDialog

from swaddon.core.engine import Run
from swaddon.core.plan.stages import Plan
from swaddon.io.outputs import WouldReplace, confirm
from swaddon.session import shop
from swaddon.session.desk import Desk
from swaddon.session.session import Session
from swaddon.session.shop_rate import rate_of_plan
from swaddon.ui.asking import Over, ask_over
from swaddon.ui.saving import save_name
from swaddon.ui.shell import Shell


class Exporting:
    """Writes the separations of the job on the bench, in the background."""

    def __init__(self, window: Shell, session: Session, desk: Desk) -> None:
        self._window, self._session, self._desk = window, session, desk
        self.ask_over: Callable[[Path, str], Over] = partial(ask_over, window)

    def choose(self) -> None:
        name = QFileDialog.getExistingDirectory(self._window, "Export separations to a folder")
        if name:
            self.to(Path(name))

    def to(self, folder: Path) -> None:
        """Export the plan of the job as it is now; ask before another export is overwritten."""
        plan = self._desk.plan
        if self._desk.is_stopped:
            self._window.tell("The plan was stopped before it was done: press Go on, then export.")
            return
        if plan is None or not self._desk.is_current:
            self._window.tell("The plan is still being computed: export again in a moment.")
            return
        self._write(plan, folder)

    def _asked(self, plan: Plan, folder: Path, would: WouldReplace) -> None:
        """What would go was told: it goes, or another folder is chosen."""
        answer = self.ask_over(folder, str(would))
        if answer == "elsewhere":
            self.choose()
        if answer == "overwrite":
            confirm(folder)
            self._write(plan, folder)

    def _write(self, plan: Plan, folder: Path) -> None:
        from swaddon.io.export import export_plan

        name, quantity = self._session.job.name, self._session.job.settings.quantity

        def progress(title: str, share: float) -> None:
            self._desk.check_files()
            self._desk.tell_progress_later(title, share)

        def stopped() -> None:
            self._desk.progressed.emit("", 1.0)
            self._window.tell(f"The export to {folder} was not finished: nothing was written there.")

        def exported(files: list[Path] | WouldReplace) -> None:
            if isinstance(files, WouldReplace):
                self._desk.progressed.emit("", 1.0)
                self._asked(plan, folder, files)
                return
            _remember(plan, name, quantity)
            self._desk.progressed.emit("", 1.0)
            self._window.tell(f"Exported {len(files)} files to {folder}.")

        self._window.tell("")
        self._window.progress.begin()

        def write() -> list[Path] | WouldReplace:
            try:
                return export_plan(plan, folder, progress=progress, rate=rate_of_plan(plan, shop.flow_shop()))
            except WouldReplace as would:
                return would

        self._desk.in_background(write, exported, stopped)

    # the whole order

    def choose_order(self) -> None:
        name = QFileDialog.getExistingDirectory(self._window, "Export the whole order to a folder")
        if name:
            self.order_to(Path(name))

    def order_to(self, folder: Path) -> None:
        """Export every different print of the order into a folder of its own, in the background."""
        from swaddon.session.order_counter import CACHE_BYTES
        from swaddon.session.order_export import WholeOrder, plan_and_write

        job, window = self._session.job, self._window

        def work(run: Run, _step: object) -> WholeOrder:
            return plan_and_write(job, run, folder, cache_bytes=CACHE_BYTES)

        def done(whole: WholeOrder) -> None:
            window.progress.finish()
            prints = len(set(whole.folders))
            window.tell(f"Exported {prints} prints of {len(job.lines)} lines to {folder}, and order.json beside them.")

        def failed(text: str) -> None:
            window.progress.finish()
            window.tell(text)

        def stopped() -> None:
            window.progress.finish()
            window.tell(
                f"The export to {folder} was not finished: the prints that lie there are whole, others are missing."
            )

        window.tell("")
        window.progress.begin()
        window.deck.exports.start(work, done, failed, progress=window.progress.show_progress, stopped=stopped)

    # the report page

    def choose_report(self) -> None:
        name, _ = save_name(
            self._window, "Report for the customer", self._session.job.name + ".html", "Web page (*.html)"
        )
        if name:
            self.report_to(Path(name))

    def report_to(self, path: Path) -> None:
        """Write the page about this plan, whole in one file."""
        plan = self._desk.plan
        if plan is None or not self._desk.is_current:
            self._window.tell("The plan is still being computed: ask for the report again in a moment.")
            return
        from swaddon.core.engine import Cache, Run
        from swaddon.session.report_page import write_report_page

        target = path if path.suffix.lower() in (".html", ".htm") else path.with_name(path.name + ".html")
        self._window.tell("")
        self._window.progress.begin()

        def ended() -> None:
            self._desk.progressed.emit("", 1.0)

        def written(_none: object) -> None:
            ended()
            self._window.tell(f"Report written to {target}.")

        self._desk.in_background(lambda: write_report_page(plan, target, Run(Cache())), written, ended)


def _remember(plan: Plan, name: str, quantity: int) -> None:
    """Put an exported print to the shop's mix, by which its rule of thumb is judged."""
    from swaddon.session.costs import costed_plan
    from swaddon.session.shop import book, keep_in_mix

    found = costed_plan(plan, book(), quantity=quantity)
    keep_in_mix(plan.request.profile.name, name, found.counted)
