"""Knockout: colours that leave the artwork so that the cloth shows, and what becomes of half-transparent remains."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from decimal import Decimal

import cv2
import numpy as np

from swaddon.core.artwork.placement import Point, PointMap
from swaddon.core.artwork.raster import Mask, Plane
from swaddon.core.artwork.regions import RegionMap
from swaddon.core.colour.goods import same_cloth
from swaddon.core.colour.spaces import Rgb, hex_from_rgb
from swaddon.core.count.consumption import amount_text
from swaddon.core.count.money import at_quantities, money_text
from swaddon.core.count.savings import Worth, spared
from swaddon.core.engine import Cache, Run
from swaddon.core.knockout.reaches import Sampled
from swaddon.core.knockout.settings import AlphaTreatment, Keep, Knockout, Reach, usual_knockout
from swaddon.core.plan.saved import Saving, savings
from swaddon.core.plan.stages import Plan
from swaddon.core.press.profile import INKS
from swaddon.core.units import pixel_area_mm2
from swaddon.session import edits
from swaddon.session.job import Job
from swaddon.session.selection import mm_per_px
from swaddon.session.session import Edit

OFFERED = 4
_OFFERED_MM2 = 50.0
_TOLD_MONEY = Decimal("0.005")
_THIN_MM2 = 5.0
_WHOLE_CM2 = 20
"""Areas from here on are told in whole cm²."""


@dataclass(frozen=True)
class KnockoutRow:
    """One knockout as the sheet shows it."""

    rgb: Rgb
    title: str
    effect: str
    tolerance: float
    reach: str
    edge: str
    clean: bool
    offers_clean: bool


@dataclass(frozen=True)
class Offer:
    """One of the artwork's own main colours: what either reach would take, with its money; empty: nothing."""

    rgb: Rgb
    outside: str
    everywhere: str


@dataclass(frozen=True)
class KnockoutState:
    """What the Knockout sheet shows. ``background`` is the colour all round the artwork, when there is one."""

    has_artwork: bool
    rows: tuple[KnockoutRow, ...]
    keeps: tuple[tuple[Rgb, str], ...]
    background: Rgb | None
    garment: Rgb
    effect: str
    alpha: AlphaTreatment
    alpha_is_own: bool
    alpha_effect: str


def knockout_state(job: Job, plan: Plan | None, saved: Sequence[Saving] = ()) -> KnockoutState:
    """What the sheet shows; ``saved`` tells of each knockout what a shirt takes less, as soon as that is known."""
    settings = job.settings
    rows = tuple(_row(job, index, plan, saved) for index in range(len(settings.knockouts)))
    keeps = tuple(
        (keep.colour, hex_from_rgb(keep.colour) + (" in one area" if keep.point else " everywhere"))
        for keep in settings.keeps
    )
    alpha = AlphaTreatment() if job.profile is None else settings.alpha_treatment(job.profile)
    return KnockoutState(
        has_artwork=job.file is not None,
        rows=rows,
        keeps=keeps,
        background=_background(job, rows),
        garment=settings.garment,
        effect="" if plan is None or (len(rows) == 1 and not settings.outlines) else _whole_effect(plan),
        alpha=alpha,
        alpha_is_own=settings.alpha is None,
        alpha_effect="" if plan is None else _alpha_effect(plan),
    )


SavedOf = tuple[object, ...]


def saved_of(plan: Plan) -> SavedOf:
    """What savings hang on: while it is the same, they are."""
    return plan.keys["measures"], plan.keys["knocked"], plan.request.press


def saved(plan: Plan) -> tuple[Saving, ...]:
    """What each knockout of a plan saves; it plans, so it is asked for in the background."""
    return savings(plan.request, Run(Cache()))


def _effect(plan: Plan, index: int, saved: Saving | None, quantity: int) -> str:
    """What a knockout took, and what a shirt takes less than without it."""
    pixel_mm2, profile = pixel_area_mm2(plan.ppi), plan.request.profile
    took_mm2, thin_mm2 = plan.took[index] * pixel_mm2, plan.thinned[index] * pixel_mm2
    digits = 0 if took_mm2 >= _WHOLE_CM2 * 100 else 1
    thinned = f", {thin_mm2 / 100:.{digits}f} thinned" if thin_mm2 >= _THIN_MM2 * 10 ** (1 - digits) else ""
    out = f"{took_mm2 / 100:.{digits}f} cm², {took_mm2 / plan.measures.artboard_mm2:.0%}{thinned}"
    if saved is None:
        return out
    told = at_quantities(abs(saved.cost), quantity)
    order = f" · {told}" if told else ""
    unit, verb = profile.ink_unit, "saves" if saved.cost >= 0 else "costs"
    return (
        f"{out}; {verb} {amount_text(abs(saved.white), unit)} white, {amount_text(abs(saved.colour), unit)} colour, "
        f"{money_text(abs(saved.cost))} {profile.currency}{order}"
    )


def _row(job: Job, index: int, plan: Plan | None, saved: Sequence[Saving]) -> KnockoutRow:
    item, effect = job.settings.knockouts[index], ""
    if plan is not None and index < len(plan.took):
        effect = _effect(plan, index, saved[index] if index < len(saved) else None, job.settings.quantity)
    return KnockoutRow(
        rgb=item.resolved(job.settings.garment),
        title="Garment’s colour" if item.colour is None else hex_from_rgb(item.colour),
        effect=effect,
        tolerance=item.tolerance,
        reach=item.reach,
        edge=item.edge,
        clean=item.clean,
        offers_clean=job.file is not None and job.file.artwork.file_format == "JPEG",
    )


def _whole_effect(plan: Plan) -> str:
    gone, whole = plan.measures.removed_mm2, plan.measures.artboard_mm2
    return f"{gone / 100:.0f} cm² gone, {gone / whole:.0%} of the artboard"


def _background(job: Job, rows: tuple[KnockoutRow, ...]) -> Rgb | None:
    if job.file is None:
        return None
    background = job.file.artwork.background
    if background is None:
        return None
    return None if any(same_cloth(background, row.rgb) for row in rows) else background


def _alpha_effect(plan: Plan) -> str:
    seen = plan.inspection
    before = f"Before: {seen.fade_mm2 / 100:.1f} cm² of fades, fringe {seen.fringe_px:.1f} px"
    treatment = plan.request.settings.alpha_treatment(plan.request.profile)
    after = {
        "keep": "kept as thin ink",
        "hard": f"full from {treatment.level:.0%} on, gone below",
        "screen": f"fades as dots at {treatment.screen.lpi:g} lpi, rims cut at {treatment.level:.0%}",
    }[treatment.kind]
    return f"{before} · After: {after}"


OffersOf = tuple[object, ...]


def offers_of(job: Job, found: RegionMap | None, plan: Plan | None) -> OffersOf:
    """What the offers hang on: while it is the same, they are."""
    return found, job.settings.placement, job.settings.width_mm, () if plan is None else saved_of(plan)


def offers(job: Job, found: RegionMap | None, plan: Plan | None) -> tuple[Offer, ...]:
    """The artwork's main colours by area, and what taking them out from outside or everywhere would save.

    It looks at millions of pixels, so it is asked for in the background.
    """
    if found is None or job.file is None:
        return ()
    seen = Sampled.of(found)
    inked = None if plan is None else _inked(plan, seen)
    point_mm = mm_per_px(job.settings, job.file.artwork.placed_px(job.settings.placement)[0]) * seen.step
    areas = np.bincount(seen.palette[seen.palette >= 0], minlength=len(found.palette)) * point_mm**2
    order = [int(at) for at in np.argsort(-areas, kind="stable")[:OFFERED] if areas[at] >= _OFFERED_MM2]

    def told(mask: Mask) -> str:
        points = cv2.countNonZero(mask)
        if not points:
            return ""
        text = f"{points * point_mm**2 / 100:.0f} cm²"
        if plan is None or inked is None:
            return text
        pixels = points * point_mm**2 / pixel_area_mm2(plan.ppi)
        full = {ink: cv2.mean(plane, mask)[0] / 255 * pixels for ink, plane in inked.items()}
        worth = spared(Worth(round(pixels), full), plan.request.profile, plan.ppi).cost
        return text if worth < _TOLD_MONEY else f"{text}, {money_text(worth)}"

    return tuple(
        Offer(found.palette[index], told(seen.outside(index)), told(seen.everywhere(index))) for index in order
    )


def _inked(plan: Plan, seen: Sampled) -> dict[str, Plane]:
    """The plan's inks at the points of the artwork."""
    art, placement = plan.request.artwork, plan.request.settings.placement
    height, width = plan.white_plane.shape
    where = PointMap(placement, art.width_px, art.height_px, (width, height))
    planes = [*(plan.cmyk[..., at] for at in range(len(INKS))), plan.white_plane]
    return dict(zip((*INKS, "W"), seen.under(planes, where), strict=True))


def offered(job: Job, colour: Rgb | None, reach: Reach = "outside") -> Knockout:
    """A knockout of an offered colour."""
    return usual_knockout(colour, "PNG" if job.file is None else job.file.artwork.file_format, reach)


def point_edit(job: Job, index: int, point: Point) -> Edit:
    """One more enclosed area for a knockout."""
    points = (*job.settings.knockouts[index].points, point)
    return edits.change_knockout(index, points=points)


def keep_edit(rgb: Rgb, point: Point | None) -> Edit:
    return edits.add_keep(Keep(rgb, point=point))


def alpha_edit(job: Job, key: str = "", **changes: object) -> Edit:
    """Half-transparency treated otherwise; it starts from what holds now."""
    now = AlphaTreatment() if job.profile is None else job.settings.alpha_treatment(job.profile)
    return edits.set_alpha(replace(now, **changes), key=key)  # type: ignore[arg-type]
