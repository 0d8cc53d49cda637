"""Knockout: colours that leave the artwork so that the cloth shows."""

from dataclasses import dataclass

from swaddon.core.background import border_tolerance, uniform_border
from swaddon.core.colour import Rgb, delta_e_2000, hex_from_rgb, lab_from_srgb8
from swaddon.core.plan.settings import Knockout
from swaddon.core.plan.stages import Plan
from swaddon.session.job import Job

DEFAULT_TOLERANCE = 8.0
_SAME_DELTA_E = 3.0


@dataclass(frozen=True)
class KnockoutRow:
    """One knockout as the sheet shows it."""

    rgb: Rgb
    title: str
    tolerance: float
    reach: str
    edge: str


@dataclass(frozen=True)
class KnockoutState:
    """What the Knockout sheet shows. ``background`` is the colour all round the artwork, when there is one."""

    has_artwork: bool
    rows: tuple[KnockoutRow, ...]
    background: Rgb | None
    garment: Rgb
    effect: str


def knockout_state(job: Job, plan: Plan | None) -> KnockoutState:
    settings = job.settings
    rows = tuple(
        KnockoutRow(
            rgb=item.resolved(settings.garment),
            title="Garment’s colour" if item.colour is None else hex_from_rgb(item.colour),
            tolerance=item.tolerance,
            reach=item.reach,
            edge=item.edge,
        )
        for item in settings.knockouts
    )
    effect = ""
    if plan is not None:
        gone, whole = plan.measures.removed_mm2, plan.measures.artboard_mm2
        effect = f"{gone / 100:.0f} cm² gone, {gone / whole:.0%} of the artboard"
    background = None
    if job.file is not None:
        background = uniform_border(job.file.artwork.rgba, border_tolerance(job.file.artwork.file_format))
        gone = [float(delta_e_2000(lab_from_srgb8(row.rgb), lab_from_srgb8(background))) for row in rows if background]
        if any(distance < _SAME_DELTA_E for distance in gone):
            background = None
    return KnockoutState(job.file is not None, rows, background, settings.garment, effect)


def offered(job: Job, colour: Rgb | None) -> Knockout:
    """A knockout of an offered colour, with the tolerance its kind of file needs."""
    tolerance = DEFAULT_TOLERANCE
    if job.file is not None:
        tolerance = max(tolerance, border_tolerance(job.file.artwork.file_format))
    return Knockout(colour, tolerance)
