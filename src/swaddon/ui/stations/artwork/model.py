"""Artwork: what came in, how it lies and how large it is printed."""

from dataclasses import dataclass
from typing import Literal

from swaddon.core.colour.spaces import hex_from_rgb
from swaddon.core.findings.inspection import LOOKED_UP_TO_MM, Fine
from swaddon.core.plan.stages import Plan
from swaddon.io.print_areas import PrintArea
from swaddon.session import edits, parse
from swaddon.session.job import Job
from swaddon.session.lengths import length_text
from swaddon.session.ordering import content_crop
from swaddon.session.session import Edit

NORM_PPI = 300
Mark = Literal["", "look", "stop"]
_BOXES = ("opaque-box", "jpeg-background", "full-rectangle")


@dataclass(frozen=True)
class Fact:
    """One line of the inspection card; a marked one matters, and ``place`` (mm) shows where."""

    name: str
    value: str
    mark: Mark = ""
    place: tuple[float, float] | None = None


@dataclass(frozen=True)
class ArtworkState:
    """What the Artwork sheet shows."""

    has_artwork: bool
    facts: tuple[Fact, ...]
    notes: str
    page: int
    pages: int
    is_cropped: bool
    can_crop: bool
    width: str
    height: str
    fits: str
    fits_mark: Mark
    drop_mm: float
    has_collar: bool
    stated: str


_SAME_WIDTH_MM = 0.5

EMPTY = ArtworkState(False, (), "", 1, 1, False, False, "", "", "", "", 76.2, False, "")


def artwork_state(job: Job, plan: Plan | None, inches: bool) -> ArtworkState:
    if job.file is None:
        return EMPTY
    artwork, settings = job.file.artwork, job.settings
    fits, mark = _fit(job, plan, inches)
    return ArtworkState(
        has_artwork=True,
        facts=(*_file_facts(job, inches), *(() if plan is None else _inspected(plan))),
        notes="; ".join(artwork.notes).capitalize(),
        page=artwork.page,
        pages=artwork.pages,
        is_cropped=settings.placement.crop is not None,
        can_crop=True,
        width=length_text(settings.width_mm, inches, digits_mm=1),
        height=length_text(job.height_mm, inches, digits_mm=1),
        fits=fits,
        fits_mark=mark,
        drop_mm=settings.drop_mm,
        has_collar=job.cloth == "shirt",
        stated=_stated(job, inches),
    )


def _stated(job: Job, inches: bool) -> str:
    """The width that the file says, where the print has another; empty: nothing to offer."""
    assert job.file is not None
    stated = job.file.artwork.stated_mm(job.settings.placement)
    if stated is None or not 1 <= stated <= 5000 or abs(stated - job.settings.width_mm) < _SAME_WIDTH_MM:
        return ""
    return f"The file says {length_text(stated, inches)}"


def _file_facts(job: Job, inches: bool) -> list[Fact]:
    assert job.file is not None
    artwork, settings = job.file.artwork, job.settings
    kind = f"{artwork.file_format}, {artwork.profile or 'no profile (sRGB)'}"
    facts = [Fact("File", artwork.file_name), Fact("Kind", kind)]
    if artwork.render is not None:
        return [*facts, Fact("Resolution", "a drawing: sharp at any size")]
    ppi = artwork.ppi_at(settings.width_mm, settings.placement)
    good = length_text(artwork.placed_px(settings.placement)[0] / NORM_PPI * 25.4, inches)
    width, height = artwork.placed_px(settings.placement)
    mark: Mark = "look" if ppi < NORM_PPI - 1 else ""
    return [
        *facts,
        Fact("Pixels", f"{width} × {height}"),
        Fact("Resolution", f"{ppi:.0f} ppi ({NORM_PPI} to {good} wide)", mark),
    ]


def _inspected(plan: Plan) -> list[Fact]:
    seen, holds = plan.inspection, plan.request.profile.holds
    places = {finding.code: (finding.x_mm, finding.y_mm) for finding in plan.findings}
    box = next((finding for finding in plan.findings if finding.code in _BOXES), None)
    if not plan.request.artwork.has_alpha:
        clear = "none: all of it prints"
    elif seen.half_share == 0:
        clear = "clean"
    else:
        clear = f"{seen.half_share:.1%} half, fringe {seen.fringe_px:.1f} px"
    background = "none" if box is None else "the whole rectangle prints"
    if seen.background is not None:
        background = f"{hex_from_rgb(seen.background)} all round"
    box_mark: Mark = "" if box is None else "stop" if box.severity == "stop" else "look"
    fades = "none" if seen.fade_mm2 < 1 else f"{seen.fade_mm2 / 100:.1f} cm²"
    fade_mark: Mark = "look" if seen.fade_mm2 >= 1 and plan.request.profile.printing.thin_ink_fails else ""
    return [
        Fact("Transparency", clear),
        Fact("Background box", background, box_mark, None if box is None else (box.x_mm, box.y_mm)),
        Fact("Fades", fades, fade_mark, places.get("half-transparent")),
        Fact("Colours", f"{seen.colours:,} distinct".replace(",", " ")),
        _fine("Finest line", seen.line, holds.line_mm),
        _fine("Finest gap", seen.gap, holds.gap_mm),
    ]


def _fine(name: str, fine: Fine | None, holds_mm: float) -> Fact:
    if fine is None:
        return Fact(name, f"none under {LOOKED_UP_TO_MM:g} mm")
    mark: Mark = "look" if fine.width_mm < holds_mm - 0.005 else ""
    return Fact(name, f"{fine.width_mm:.2f} mm (holds {holds_mm:g})", mark, (fine.x_mm, fine.y_mm))


def _fit(job: Job, plan: Plan | None, inches: bool) -> tuple[str, Mark]:
    if job.profile is None:
        return "", ""
    room, own = job.room, (job.settings.width_mm, job.height_mm)
    if plan is not None and plan.measures.printed is not None and plan.request.settings.width_mm == own[0]:
        own = plan.measures.printed_size_mm
    size = f"{length_text(room.width_mm, inches)} × {length_text(room.height_mm, inches)}"
    if room.takes(*own):
        lies = ", lying on its side" if room.is_turned_for(*own) else ""
        return f"Fits {room.title} ({size}){lies}", ""
    share = job.settings.share(job.profile)
    if share is not None and share.parts > 1:
        return f"Split onto {share.parts} × {share.medium}", ""
    return f"Larger than {room.title} ({size})", "stop"


def width_edit(text: str, inches: bool) -> Edit:
    """Raises ``ValueError`` with one sentence."""
    return edits.set_width(round(parse.print_length_mm(text, "Print width", "in" if inches else "mm"), 2))


def height_edit(text: str, job: Job, inches: bool) -> Edit:
    """Raises ``ValueError`` with one sentence."""
    height_mm = parse.print_length_mm(text, "Print height", "in" if inches else "mm")
    return edits.set_width(round(job.settings.width_mm * height_mm / job.height_mm, 2))


def area_edit(area: PrintArea, job: Job) -> Edit:
    """As large as just fits a standard area."""
    assert job.file is not None
    return edits.set_width(area.width_for(*job.file.artwork.placed_px(job.settings.placement)))


def crop_edit(job: Job) -> Edit | None:
    """Crop to the content, or back to all of it; ``None`` when there is nothing to crop away."""
    assert job.file is not None
    if job.settings.placement.crop is not None:
        return edits.crop(None)
    box = content_crop(job.file.artwork)
    return None if box is None else edits.crop(box)
