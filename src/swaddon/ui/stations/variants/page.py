"""The Variants sheet: what is varied, and how the variants are looked at."""

from collections.abc import Callable, Sequence
from dataclasses import replace

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QListWidget, QListWidgetItem, QVBoxLayout, QWidget

from swaddon.core.engine import Run
from swaddon.core.errors import PlanError
from swaddon.core.plan.stages import Plan
from swaddon.core.plan.variants import MOST_VARIANTS, Variant, Worked, variants_of, worked_out
from swaddon.core.press.processes import PROCESSES
from swaddon.session.job import Job
from swaddon.session.order_counter import CACHE_BYTES
from swaddon.session.variants import adopt, request_of
from swaddon.ui.flow import Flow
from swaddon.ui.settling import settling
from swaddon.ui.station_spec import StationContext
from swaddon.ui.stations.variants import model
from swaddon.ui.stations.variants.table import VariantsTable
from swaddon.ui.widgets import Field, button, keep_whole, label, row, why_button

PROOF_PX = 640
_GATHERED_MS = 150
"""How long variants that arrive are gathered before they are shown."""

_WHY = (
    "One picture is planned many ways, and what the ways come to stands side by side: white, cost, print time, hand, "
    "the colour that comes out worst. Dearer ones that are no better in anything are pale. Practitioners choose toner "
    "sets and presses like this: one picture, white limits × toner sets × presses, on a light and a dark item."
)


class Ticks(QWidget):
    """Values of an axis as small buttons that are on or off."""

    def __init__(self, name: str, values: Sequence[tuple[str, str]], changed: Callable[[], None]) -> None:
        super().__init__()
        self.setAccessibleName(name)
        flow = Flow(spacing=4)
        flow.setContentsMargins(0, 0, 0, 0)
        self.buttons = {}
        for key, title in values:
            made = button(title, "choice")
            made.setCheckable(True)
            made.setAccessibleName(f"{name}: {title}")
            keep_whole(made)
            made.clicked.connect(lambda _on: changed())
            self.buttons[key] = made
            flow.addWidget(made)
        self.setLayout(flow)
        policy = self.sizePolicy()
        policy.setHeightForWidth(True)
        self.setSizePolicy(policy)

    def ticked(self) -> frozenset[str]:
        return frozenset(key for key, made in self.buttons.items() if made.isChecked())

    def show_ticked(self, keys: frozenset[str]) -> None:
        for key, made in self.buttons.items():
            made.setChecked(key in keys)


class TickList(QListWidget):
    """Values of an axis as a list with ticks."""

    def __init__(self, name: str, height: int, changed: Callable[[], None]) -> None:
        super().__init__()
        self.setAccessibleName(name)
        self.setFixedHeight(height)
        self._changed = changed
        self.itemChanged.connect(lambda _item: self._changed())

    def show_values(self, values: Sequence[tuple[str, str]], keys: frozenset[str]) -> None:
        self.blockSignals(True)
        self.clear()
        for key, title in values:
            item = QListWidgetItem(title)
            item.setData(Qt.ItemDataRole.UserRole, key)
            item.setFlags(item.flags() | Qt.ItemFlag.ItemIsUserCheckable)
            item.setCheckState(Qt.CheckState.Checked if key in keys else Qt.CheckState.Unchecked)
            self.addItem(item)
        self.blockSignals(False)

    def ticked(self) -> frozenset[str]:
        items = [self.item(index) for index in range(self.count())]
        return frozenset(
            str(item.data(Qt.ItemDataRole.UserRole)) for item in items if item.checkState() == Qt.CheckState.Checked
        )


class VariantsPage(QWidget):
    def __init__(self, context: StationContext) -> None:
        super().__init__()
        self._context, self._job = context, Job()
        self._offered: tuple[object, ...] = ()
        self._uid = 0
        self._tried = model.Tried(None, model.Ticked())
        self._kept: dict[int, model.Tried] = {}
        self.shown = model.Shown()
        self.own_table = VariantsTable()
        self.own_table.pinned.connect(self.pin)
        self.own_table.adopted.connect(self.adopt)
        self.own_table.cancelled.connect(self.cancel)
        self.own_table.looked.connect(lambda changes: self._look(**changes))
        self._later = settling(self, _GATHERED_MS, self._show)
        self._build()

    @property
    def found(self) -> list[Worked]:
        """Variants of the job at hand."""
        return self._tried.found

    @property
    def shows_own_table(self) -> bool:
        """Whether variants lie on the table: as soon as there is artwork."""
        return self._job.file is not None

    def _build(self) -> None:
        self.garments = TickList("Garments", 86, self._retick)
        self.presses = TickList("Presses and toner sets", 86, self._retick)
        self.whites = Ticks("White", tuple(model.WHITES.items()), self._retick)
        self.knockouts = Ticks("Knockout", model.KNOCKOUTS, self._retick)
        self.holes = Ticks("Holes", model.HOLES, self._retick)
        self.light_dark = button("Light and dark", "link", tip="Tick a light and a dark garment")
        self.light_dark.clicked.connect(lambda: self._tick(model.light_and_dark(self._job, self._tried.ticked)))
        self.toner = button("Toner sets", "link", tip="Tick white limits × toner sets and presses, on light and dark")
        self.toner.clicked.connect(lambda: self._tick(model.toner_sets(self._job, self._tried.ticked)))
        self.go = button("Work them out", "primary")
        self.go.clicked.connect(self.work)
        self.told = label("", "effect", wrap=True)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 8, 0)
        layout.setSpacing(6)
        picks = row(label("Tick", "quiet"), self.light_dark, self.toner, 1, why_button("Variants", _WHY))
        for part in (
            self.go, self.told, picks,
            Field("Garments", self.garments), Field("White", self.whites), Field("Knockout", self.knockouts),
            Field("Holes", self.holes), Field("Presses and toner sets", self.presses),
        ):  # fmt: skip
            layout.addWidget(part)
        layout.addStretch(1)

    def render_job(self, job: Job, _plan: Plan | None, _yardstick: Plan | None) -> None:
        self._job = job
        is_another = self._take_up(job)
        offered = (model.garment_choices(job), model.presses(job))
        if offered != self._offered or is_another:
            self._offered = offered
            self._show_offer()
        self.own_table.setEnabled(job.file is not None)
        self.go.setEnabled(job.file is not None)
        self._tell()
        if is_another:
            self._show()

    def _take_up(self, job: Job) -> bool:
        """Bring what was tried of this job to hand; whether it is another job or artwork than before."""
        uid = self._context.uid()
        if uid == self._uid and self._tried.file is job.file:
            return False
        self.cancel()
        self._uid = uid
        still_open = {number for number, _ in self._context.jobs_by_uid()}
        kept = {number: tried for number, tried in self._kept.items() if number in still_open}
        own = kept.pop(uid, None)
        while sum(len(tried.found) for tried in kept.values()) > MOST_VARIANTS:
            kept.pop(next(iter(kept)))  # the one that was not looked at for longest
        if own is None or own.file is not job.file:
            own = model.Tried(job.file, model.first_ticked(job))
        self._tried, self._kept = own, {**kept, uid: own}
        self.shown = replace(self.shown, pinned=None)
        self.own_table.show_ladder()
        return True

    def _show_offer(self) -> None:
        ticked = self._tried.ticked
        self.garments.show_values([(name, name) for name in model.garment_choices(self._job)], ticked.garments)
        presses = model.presses(self._job).items()
        titles = [(name, f"{PROCESSES[press.process].title} · {press.title}") for name, press in presses]
        self.presses.show_values(titles, ticked.presses)
        self.whites.show_ticked(ticked.whites)
        self.knockouts.show_ticked(ticked.knockouts)
        self.holes.show_ticked(ticked.holes)

    def _tick(self, ticked: model.Ticked) -> None:
        self._tried.ticked = ticked
        self._show_offer()
        self._tell()

    def _retick(self) -> None:
        self._tried.ticked = model.Ticked(
            self.garments.ticked(), self.whites.ticked(), self.knockouts.ticked(), self.holes.ticked(),
            self.presses.ticked(),
        )  # fmt: skip
        self._tell()

    def _tell(self) -> None:
        """How many variants are ticked, and whether those on the table are of the job as it is now."""
        job, answer = self._context.job(), self._tried.answer
        count = model.axes_of(job, self._tried.ticked).count
        self.go.setText(f"Work out {count} variants" if count != 1 else "Work out 1 variant")
        self.go.setEnabled(job.file is not None and 0 < count <= MOST_VARIANTS)
        answer.ask(model.question_of(job))
        old = self.found and not answer.is_current
        self.told.setText(
            f"At most {MOST_VARIANTS} at a time." if count > MOST_VARIANTS
            else "The job was changed since these were worked out." if old else ""
        )  # fmt: skip
        self.told.setVisible(bool(self.told.text()))

    def work(self) -> None:
        """Work the ticked variants out in the background; what is done shows as it comes."""
        job = self._context.job()
        self._take_up(job)
        tried = self._tried
        try:
            variants = variants_of(model.axes_of(job, tried.ticked))
        except PlanError as error:
            self._context.tell(str(error))
            return
        found: list[Worked] = []
        question = model.question_of(job)
        tried.answer.ask(question)
        tried.answer.take(question, found)
        tried.count = len(variants)
        self._look(pinned=None)
        self._tell()
        self.own_table.show_progress("Planning …", 0.0)

        def plan(run: Run, step: Callable[[Worked], None]) -> None:
            for item in worked_out(variants, lambda variant: request_of(job, variant), run, PROOF_PX, CACHE_BYTES):
                step(item)

        self._context.variants.start(
            plan,
            lambda _done: self.own_table.show_progress("", 1.0),
            self._failed,
            lambda item: self._arrived(tried, found, item),
            self.own_table.show_progress,
        )

    def _failed(self, text: str) -> None:
        self.own_table.show_progress("", 1.0)
        self._context.tell(text)

    def _arrived(self, tried: model.Tried, found: list[Worked], item: Worked) -> None:
        found.append(item)
        if tried is self._tried and not self._later.isActive():
            self._later.start()

    def cancel(self) -> None:
        """Give up what is not worked out yet."""
        self._context.variants.cancel()
        self.own_table.show_progress("", 1.0)
        self._tried.count = len(self.found)
        self._show()

    def _look(self, **changes: object) -> None:
        self.shown = replace(self.shown, **changes)  # type: ignore[arg-type]
        self._show()

    def _show(self) -> None:
        self.own_table.show_found(self.found, self.shown, self._tried.count, self._job.settings.quantity)

    def pin(self, item: Worked) -> None:
        """Hold a variant against the others; pressed again, none."""
        pinned: Variant | None = None if self.shown.pinned == item.variant else item.variant
        self._look(pinned=pinned)

    def adopt(self, item: Worked) -> None:
        """Take a variant over, in one step."""
        self._context.apply(adopt(item.variant))
