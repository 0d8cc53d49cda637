"""Artwork: what came in, and what of it can be printed."""

from dataclasses import dataclass

from swaddon.core.plan.stages import Plan
from swaddon.core.units import pixel_area_mm2
from swaddon.session.job import Job
from swaddon.session.lengths import length_text

NORM_PPI = 300


@dataclass(frozen=True)
class ArtworkState:
    """What the Artwork sheet shows; ``facts`` are name and value pairs."""

    has_artwork: bool
    facts: tuple[tuple[str, str], ...]
    cut_level: float | None
    cut_effect: str
    notes: str


def artwork_state(job: Job, plan: Plan | None, inches: bool) -> ArtworkState:
    if job.file is None:
        return ArtworkState(False, (), None, "", "")
    artwork, settings = job.file.artwork, job.settings
    good_mm = artwork.width_px / NORM_PPI * 25.4
    facts = [
        ("File", artwork.file_name),
        ("Pixels", f"{artwork.width_px} × {artwork.height_px}"),
        (
            "Resolution",
            f"{artwork.ppi_at(settings.width_mm, settings.placement):.0f} ppi at "
            f"{length_text(settings.width_mm, inches)}",
        ),
        ("Largest at 300 ppi", f"{length_text(good_mm, inches)} wide"),
        ("Kind", artwork.file_format),
        ("Transparency", "yes" if artwork.has_alpha else "none: what looks empty prints"),
    ]
    effect = ""
    if plan is not None:
        half = _half_transparent_mm2(plan)
        effect = (
            f"{half / 100:.1f} cm² of the print is half-transparent"
            if half >= 1
            else "Nothing half-transparent is left"
        )
    return ArtworkState(
        has_artwork=True,
        facts=tuple(facts),
        cut_level=settings.half_transparent,
        cut_effect=effect,
        notes="; ".join(artwork.notes).capitalize(),
    )


def _half_transparent_mm2(plan: Plan) -> float:
    return plan.half_transparent_px * pixel_area_mm2(plan.ppi)
