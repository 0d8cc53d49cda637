"""Stages of the knockout: colours taken out, half-transparent remains treated."""

import math
from dataclasses import dataclass, field, replace
from functools import partial

import cv2
import numpy as np

from swaddon.core.artwork.near import distances, near
from swaddon.core.artwork.placement import PointMap
from swaddon.core.artwork.raster import Mask, Plane, Rgba, alpha_of
from swaddon.core.colour.goods import is_neutral_cloth, same_cloth
from swaddon.core.colour.spaces import Rgb
from swaddon.core.engine import Run, of, settle, stage
from swaddon.core.knockout import knockout, outlines
from swaddon.core.knockout.fades import Treated, rim_enlargement, treat
from swaddon.core.knockout.islands import Island, islands_of
from swaddon.core.knockout.settings import AlphaTreatment, Keep, Knockout, OutlineKnockout
from swaddon.core.knockout.soft import soft_area
from swaddon.core.units import px_from_mm

_ANY_GARMENT = (0, 0, 0)

_ISLAND_MM2 = 1.0
"""Enclosed areas smaller than this are no background (assumed): the least counters of lettering that hold open."""

MOST_TOLD = 100
"""Knockouts that are told apart in planes; more than anybody has."""

BY_OUTLINE = 255
"""In ``Knocked.taken``: an outline took the pixel."""


@dataclass(frozen=True, eq=False)
class Knocked:
    """Artwork after the knockouts.

    Attributes
    ----------
    art
        ``uint8 (H, W, 4)``.
    taken
        ``uint8 (H, W)``: ``i + 1`` where knockout ``i`` took the pixel, ``BY_OUTLINE`` where an outline did.
    removed_px
        Pixels with ink that the knockouts took.
    islands
        Areas of a colour taken from outside that the figure encloses: neither taken nor kept so far.
    took
        Pixels with ink that each knockout took.
    thinned
        ``uint8 (H, W)``: ``i + 1`` where the soft edge of knockout ``i`` left less than was there; ``None``: nowhere.
    """

    art: Rgba
    taken: Plane
    removed_px: int
    islands: tuple[Island, ...] = ()
    took: tuple[int, ...] = ()
    thinned: Plane | None = None


@dataclass(frozen=True)
class KnockoutSettings:
    """``where`` tells pixels of the grid under points of the artwork.

    The garment counts only by the colours that are its own, and by those that fade into it: for each knockout of such
    a colour ``cloths`` has the garment's.
    """

    knockouts: tuple[Knockout, ...] = of("settings.knockouts")
    keeps: tuple[Keep, ...] = of("settings.keeps")
    outlines: tuple[OutlineKnockout, ...] = of("settings.outlines")
    garment: Rgb = of("settings.garment")
    ppi: float = of("ppi")
    where: PointMap | None = of("point_map")
    cloths: tuple[Rgb | None, ...] = field(init=False, default=())

    def __post_init__(self) -> None:
        if not self.knockouts:
            knocking = tuple(item for item in self.outlines if item.act == "knock")
            settle(self, keeps=(), garment=_ANY_GARMENT, outlines=knocking, ppi=0.0)
            if not knocking:
                settle(self, where=None)
            return
        resolved = tuple(replace(item, colour=item.resolved(self.garment)) for item in self.knockouts)
        colours = [item.resolved(self.garment) for item in resolved]
        cloths = tuple(self.garment if same_cloth(colour, self.garment) else None for colour in colours)
        settle(self, knockouts=resolved, cloths=cloths, garment=_ANY_GARMENT)


def knocked(placed: Rgba, settings: KnockoutSettings, run: Run) -> Knocked:
    """The artwork without the colours that are knocked out, one after the other."""
    art, taken = _within_outlines(placed, settings)
    kept = _kept_mask(art, settings)
    left: list[Island] = []
    took: list[int] = []
    thinned: Plane | None = None
    for index, wanted in enumerate(settings.knockouts):
        run.check()
        colour, cloth, flat = wanted.resolved(_ANY_GARMENT), settings.cloths[index], ()
        if cloth is not None and is_neutral_cloth(cloth):
            colour, flat = run.beside("placed", ("ground", colour), partial(knockout.ground_of, placed, colour))
        removed, stays, islands_left = _reached(art, index, colour, flat, kept, settings, run)
        left += islands_left
        zone = None
        if wanted.edge == "soft":
            zone = knockout.soft_zone(art, colour, removed, wanted.reach, cloth is not None)
            if stays is not None:
                zone[stays > 0] = 0
        own = np.asarray(cv2.bitwise_and(removed, cv2.inRange(alpha_of(art), 1, 255)), np.uint8)
        took.append(cv2.countNonZero(own))
        number = np.uint8(min(index + 1, MOST_TOLD))
        taken |= own & number
        before, art = art, knockout.knock_out(art, colour, removed, zone)
        if zone is not None:
            thinned = np.zeros_like(taken) if thinned is None else thinned
            thinned[(zone > 0) & (alpha_of(art) < alpha_of(before))] = number
    removed_px = cv2.countNonZero(alpha_of(placed)) - cv2.countNonZero(alpha_of(art))
    return Knocked(art, taken, removed_px, tuple(left), tuple(took), thinned)


def _reached(
    art: Rgba,
    index: int,
    colour: Rgb,
    flat: tuple[Rgb, ...],
    kept: Mask | None,
    settings: KnockoutSettings,
    run: Run,
) -> tuple[Mask, Mask | None, tuple[Island, ...]]:
    """What a knockout takes of the artwork so far, what stays (``None``: nothing is kept), and what it leaves inside.

    ``colour`` is what goes, the artwork's ground where the garment is black or off-white and it is its own, ``flat``
    what else is. Distances hang on all that was taken before it.
    """
    wanted, cloth, where = settings.knockouts[index], settings.cloths[index], settings.where
    assert where is not None
    before = (settings.knockouts[:index], settings.keeps, settings.outlines, settings.cloths[:index])
    if cloth is not None and is_neutral_cloth(cloth):
        own_colour, as_seen = cloth, partial(knockout.on_cloth, art, colour, cloth, flat)
        seen = run.beside("placed", ("on cloth", before, colour, cloth, flat), as_seen)
    else:
        seen, own_colour = art, colour
    reach = _decade(wanted.tolerance * (knockout.HALO_TOLERANCE if wanted.clean else 1))
    found = run.beside(
        "placed", ("distances", before, colour, own_colour, flat, reach), partial(distances, seen, own_colour, reach)
    )
    stays = kept
    if wanted.kept:
        own = knockout.stay_at(seen, found, wanted.tolerance, [where.on_grid(point) for point in wanted.kept])
        stays = own if kept is None else np.asarray(cv2.bitwise_or(kept, own), np.uint8)
    points = [where.on_grid(point) for point in wanted.points]
    removed = knockout.removed_area(seen, found, wanted.tolerance, wanted.reach, points, stays)
    if wanted.clean:
        removed = knockout.with_halo(seen, found, wanted.tolerance, removed, stays)
    if wanted.reach != "outside":
        return removed, stays, ()
    close = near(seen, found, wanted.tolerance)
    return removed, stays, _left_inside(index, seen, close, removed, stays, settings)


def _left_inside(
    index: int, art: Rgba, close: Mask, removed: Mask, kept: Mask | None, settings: KnockoutSettings
) -> tuple[Island, ...]:
    """Areas of a colour that a knockout from outside did not reach, and that nothing keeps."""
    assert settings.where is not None
    left = cv2.bitwise_and(cv2.bitwise_and(close, cv2.bitwise_not(removed)), cv2.inRange(alpha_of(art), 128, 255))
    if kept is not None:
        left = cv2.bitwise_and(left, cv2.bitwise_not(kept))
    least_px = (px_from_mm(1.0, settings.ppi)) ** 2 * _ISLAND_MM2
    return islands_of(index, np.asarray(left, np.uint8), least_px, settings.where.on_artwork)


def _within_outlines(placed: Rgba, settings: KnockoutSettings) -> tuple[Rgba, Plane]:
    """The artwork without what outlines take, and ``BY_OUTLINE`` where they took the pixel."""
    art, taken = placed, np.zeros(placed.shape[:2], np.uint8)
    for item in settings.outlines:
        if item.act == "knock":
            art, own = outlines.without(art, _side_of(item, settings, placed))
            taken[own > 0] = BY_OUTLINE
    return art, taken


def _side_of(item: OutlineKnockout, settings: KnockoutSettings, art: Rgba) -> Plane:
    assert settings.where is not None
    corners = outlines.corners_on(item.points, settings.where)
    return outlines.coverage(corners, item.side, art.shape[1], art.shape[0])


def _kept_mask(art: Rgba, settings: KnockoutSettings) -> Mask | None:
    """Mask (255) of all that must stay; ``None`` where nothing is kept."""
    if settings.where is None:
        return None
    out: Mask | None = None
    for item in settings.outlines:
        if item.act == "keep":
            side = np.asarray(cv2.inRange(_side_of(item, settings, art), 128, 255), np.uint8)
            out = side if out is None else np.asarray(cv2.bitwise_or(out, side), np.uint8)
    for keep in settings.keeps:
        point = None if keep.point is None else settings.where.on_grid(keep.point)
        mask = knockout.kept_area(art, keep.colour, keep.tolerance, point)
        out = mask if out is None else np.asarray(cv2.bitwise_or(out, mask), np.uint8)
    return out


def _decade(tolerance: float) -> float:
    """Distances are kept up to the next ten, so that small moves of the tolerance only look them up."""
    return max(10.0, math.ceil(tolerance / 10) * 10.0)


@dataclass(frozen=True)
class RimSettings:
    """How far edges grew: ``enlargement`` is pixels of the grid per pixel of the artwork."""

    treatment: AlphaTreatment | None
    enlargement: float

    def __post_init__(self) -> None:
        assert self.treatment is not None
        settle(self, enlargement=rim_enlargement(self.treatment, self.enlargement), treatment=None)


def fades(knocked: Knocked, settings: RimSettings) -> Mask:
    """Mask (255) of half-transparent places that are no edges."""
    return soft_area(knocked.art, settings.enlargement)


@dataclass(frozen=True)
class FadeSettings:
    """What becomes of fades; screened ones melt into the garment."""

    treatment: AlphaTreatment
    garment: Rgb = of("settings.garment")

    def __post_init__(self) -> None:
        if self.treatment.kind != "screen":
            settle(self, garment=_ANY_GARMENT)


def treated(knocked: Knocked, fades: Mask, settings: FadeSettings) -> Treated:
    """The artwork with its half-transparent remains treated."""
    return treat(knocked.art, fades, settings.treatment, settings.garment)


def art(treated: Treated) -> Rgba:
    """What is printed."""
    return treated.art


def tone(treated: Treated) -> Plane | None:
    """What screened fades are cut to."""
    return treated.tone


@dataclass(frozen=True)
class CountSettings:
    """How many knockouts there are."""

    knockouts: tuple[Knockout, ...] = of("settings.knockouts")
    count: int = field(init=False, default=0)

    def __post_init__(self) -> None:
        settle(self, count=len(self.knockouts), knockouts=())


def islands(knocked: Knocked) -> tuple[Island, ...]:
    """Enclosed background that nobody has decided about."""
    return knocked.islands


def artwork_px(knocked: Knocked) -> int:
    """Pixels of the artwork with any ink, before anything was taken out."""
    return cv2.countNonZero(alpha_of(knocked.art)) + knocked.removed_px


def took(knocked: Knocked) -> tuple[int, ...]:
    """Pixels that each knockout took."""
    return knocked.took


def thinned(knocked: Knocked, settings: CountSettings) -> tuple[int, ...]:
    """Pixels of which the soft edge of each knockout left less than was there."""
    if knocked.thinned is None:
        return (0,) * settings.count
    numbers = (min(index + 1, MOST_TOLD) for index in range(settings.count))
    return tuple(cv2.countNonZero(cv2.inRange(knocked.thinned, number, number)) for number in numbers)


def soft(treated: Treated) -> Mask:
    """Mask of fades that stay half-transparent."""
    return treated.soft


STAGES = (
    stage(knocked, 3, "Knocking out"),
    stage(islands, 1),
    stage(took, 1),
    stage(artwork_px, 1),
    stage(thinned, 1),
    stage(fades, 1),
    stage(treated, 4, "Treating fades"),
    stage(art, 1),
    stage(tone, 1),
    stage(soft, 1),
)
