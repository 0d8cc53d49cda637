"""Settings by name on the Order station: offered, compared, applied, kept."""

from collections.abc import Callable
from pathlib import Path

from PySide6.QtWidgets import QDialog, QFileDialog

from swaddon.core.count.money import money_text
from swaddon.core.engine import Run
from swaddon.core.errors import PlanError
from swaddon.core.order.presets import Preset, kinds_of, offered
from swaddon.core.plan.outcome import Outcome
from swaddon.core.press.processes import PROCESSES
from swaddon.io.preset_file import read_preset, write_preset
from swaddon.session import presets
from swaddon.session.job import Job
from swaddon.session.preset_proofs import preset_outcome
from swaddon.session.setting_words import changes_told
from swaddon.session.variants_report import facts
from swaddon.ui.saving import save_name
from swaddon.ui.station_spec import StationContext
from swaddon.ui.stations.order.keep_preset import KeepPreset
from swaddon.ui.stations.order.preset_table import PresetTable, PresetView

_CACHE_BYTES = 250_000_000
_MOST_CHANGES = 4
_MOST_OFFERED = 3


def preset_views(job: Job) -> tuple[PresetView, ...]:
    """The presets that suit the job, then the others."""
    process = "" if job.profile is None else job.profile.process
    everything = presets.all_presets()
    fit = offered(everything, process, job.settings.garment)
    others = [preset for preset in everything if preset not in fit]
    return tuple(_view(preset, job) for preset in (*fit, *others))


def _view(preset: Preset, job: Job) -> PresetView:
    told = changes_told(job.settings, preset.on(job.settings))
    texts = [f"{name}: {was} → {now}" for name, was, now in told[:_MOST_CHANGES]]
    if len(told) > _MOST_CHANGES:
        texts.append(f"and {len(told) - _MOST_CHANGES} more")
    changes = "Changes nothing: these are the settings of now." if not told else "Changes " + "; ".join(texts)
    goods = f"for {', '.join(preset.goods)} goods" if preset.goods else "for any goods"
    by = ", ".join(PROCESSES[key].title.lower() for key in preset.processes)
    return PresetView(preset, changes, goods + (f" by {by}" if by else ""), presets.is_own(preset), not told)


class PresetsPart:
    """Fills the table of presets and does what is asked on it."""

    def __init__(self, context: StationContext, close: Callable[[], None]) -> None:
        self._context, self._job = context, Job()
        self.table = PresetTable()
        self.table.applied.connect(self.apply)
        self.table.removed.connect(self.remove)
        self.table.given.connect(self._choose_out)
        self.table.opened.connect(self._choose_in)
        self.table.kept.connect(self.ask_keep)
        self.table.closed.connect(close)
        self.dialog: KeepPreset | None = None

    def offered_text(self, job: Job) -> str:
        """For which goods presets are offered."""
        kind = kinds_of(job.settings.garment)[0]
        return f"For {kind} goods:" if self.offered(job) else f"None is made for {kind} goods."

    def offered(self, job: Job) -> tuple[PresetView, ...]:
        """The first presets that suit the process and the goods."""
        if job.profile is None:
            return ()
        fit = offered(presets.all_presets(), job.profile.process, job.settings.garment)
        return tuple(_view(preset, job) for preset in fit[:_MOST_OFFERED])

    def show_job(self, job: Job) -> None:
        """Show the presets on a job, and plan a small proof of each."""
        if job == self._job and self.table.cards:
            return
        self._job = job
        views = preset_views(job)
        kind = kinds_of(job.settings.garment)[0]
        process = "" if job.profile is None else job.profile.printing.title.lower()
        self.table.show_presets(views, f"First those for {kind} goods by {process}. Numbers are close, not exact.")
        if job.file is not None:
            self._plan(job, [view.preset for view in views])

    def forget(self) -> None:
        """The table is not looked at any more: what is still being planned is for nobody."""
        if self._job.file is not None:
            self._context.order.side.cancel()
        self._job = Job()

    def _plan(self, job: Job, shown: list[Preset]) -> None:
        """Plan the presets one after the other, as long as they are looked at."""

        def work(run: Run, step: Callable[[object], None]) -> None:
            inner = run.aside(_CACHE_BYTES)
            for preset in shown:
                try:
                    step((preset, preset_outcome(job, preset, inner)))
                except PlanError as error:
                    step((preset, str(error)))

        self._context.order.side.start(work, lambda _done: None, self._context.tell, self._arrived)

    def _arrived(self, found: tuple[Preset, Outcome | str]) -> None:
        preset, outcome = found
        card = self.table.cards.get(preset.name)
        if card is None:
            return
        if isinstance(outcome, str):
            card.show_problem(outcome)
        else:
            card.show_proof(outcome.proof, f"about {money_text(outcome.cost)} {outcome.currency} · {facts(outcome)}")

    def apply(self, preset: Preset) -> None:
        """Apply a preset to the order, in one step."""
        self.apply_to(self._job, preset)

    def apply_to(self, job: Job, preset: Preset) -> None:
        """Apply a preset to a job that is on the bench."""
        try:
            presets.check_tiles(preset, job)
        except PlanError as error:
            self._context.tell(str(error))
        else:
            self._context.apply(presets.apply_preset(preset))

    def remove(self, preset: Preset) -> None:
        self._doing(lambda: presets.remove_preset(preset))

    def ask_keep(self) -> None:
        """Ask for a name, then keep the settings of now."""
        self.dialog = KeepPreset(self.table, self._job)
        if self.dialog.exec() == QDialog.DialogCode.Accepted:
            self.keep(self.dialog.preset())

    def keep(self, preset: Preset) -> None:
        self._doing(lambda: presets.keep_preset(preset))

    def take_in(self, path: Path) -> None:
        """Keep the preset of a file as the shop's own."""
        self._doing(lambda: presets.keep_preset(read_preset(path)))

    def give_out(self, preset: Preset, path: Path) -> None:
        """Write a preset to a file."""
        self._doing(lambda: write_preset(path if path.suffix else path.with_suffix(".json"), preset))

    def _doing(self, work: Callable[[], None]) -> None:
        try:
            work()
        except PlanError as error:
            self._context.tell(str(error))
            return
        job, self._job = self._job, Job()
        self.show_job(job)

    def _choose_in(self) -> None:
        name, _ = QFileDialog.getOpenFileName(self.table, "Preset from a file", "", "Presets (*.json)")
        if name:
            self.take_in(Path(name))

    def _choose_out(self, preset: Preset) -> None:
        name, _ = save_name(self.table, "Save the preset", f"{preset.name}.json", "Presets (*.json)")
        if name:
            self.give_out(preset, Path(name))
