"""The shop's presets beside the shipped ones, and their use on a job."""

from contextlib import suppress
from dataclasses import replace
from pathlib import Path

from swaddon.core.errors import PlanError
from swaddon.core.order.presets import Preset
from swaddon.io.names import refuse_odd
from swaddon.io.preset_file import read_preset, shipped_presets, write_preset
from swaddon.session.folders import config_folder
from swaddon.session.job import Job
from swaddon.session.kept import Kept
from swaddon.session.session import Edit


def _folder() -> Path:
    return config_folder() / "presets"


def _file(name: str) -> Path:
    return _folder() / f"{name}.json"


_PRESETS = Kept("A preset of the shop", read_preset, write_preset, lambda: shipped_presets()[0], "it is left out")


def own_presets() -> tuple[Preset, ...]:
    """The shop's own, by name; one that cannot be read is told, and left out."""
    with suppress(OSError):
        found = [_PRESETS.own(path) for path in sorted(_folder().glob("*.json"))]
        return tuple(preset for preset in found if preset is not None)
    return ()


def all_presets() -> tuple[Preset, ...]:
    """Shipped presets and the shop's own; one of the shop's takes the place of a shipped one of its name."""
    own = own_presets()
    names = {preset.name for preset in own}
    return (*own, *(preset for preset in shipped_presets() if preset.name not in names))


def is_own(preset: Preset) -> bool:
    """Whether a preset is the shop's own."""
    return _file(preset.name).is_file()


def preset_named(text: str) -> Preset:
    """A preset by its name or the beginning of it, or from a JSON file; raises ``PlanError`` with one sentence."""
    wanted = text.strip().lower()
    presets = all_presets()
    exact = [preset for preset in presets if preset.name.lower() == wanted]
    begun = exact or [preset for preset in presets if wanted and preset.name.lower().startswith(wanted)]
    if len(begun) == 1:
        return begun[0]
    refuse_odd(Path(text))
    if wanted.endswith(".json") or Path(text).is_file():
        return read_preset(Path(text))
    names = ", ".join(f"“{preset.name}”" for preset in presets)
    if begun:
        raise PlanError(f"“{text}” may be {' or '.join(f'“{preset.name}”' for preset in begun)}: write it in full.")
    raise PlanError(f"There is no preset “{text}”: choose one of {names}, or give a JSON file.")


def keep_preset(preset: Preset) -> None:
    """Keep a preset as the shop's own; raises ``PlanError`` with one sentence."""
    _PRESETS.keep(_file(preset.name), preset)


def remove_preset(preset: Preset) -> None:
    """Take one of the shop's own away; raises ``PlanError`` with one sentence."""
    try:
        _file(preset.name).unlink(missing_ok=True)
    except OSError as error:
        raise PlanError(f"The preset “{preset.name}” could not be removed.") from error


def apply_preset(preset: Preset) -> Edit:
    """All settings of a preset in one step."""
    return Edit(f"Apply {preset.name}", lambda job: replace(job, settings=preset.on(job.settings)))


def check_tiles(preset: Preset, job: Job) -> None:
    """Raise ``PlanError`` where a preset needs a pattern tile that is not here."""
    screen = preset.on(job.settings).holes.default
    if screen is not None and screen.pattern == "tile" and screen.tile not in job.all_tiles():
        raise PlanError(
            f"“{preset.name}” cuts holes by the tile “{screen.tile}”, which this job has not: add it first."
        )
