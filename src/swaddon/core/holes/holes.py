"""Holes in the print: which pixel gets which screen, and how colour lost to holes is given back.

Each region follows the last rule that names it, else the default. Regions of one treatment and one palette colour are a
class; the class decides the screen and how much more ink the left parts get, so that the mean colour seen at arm's
length on this garment comes as near as it can to the colour without holes.
"""

from dataclasses import dataclass, replace

import cv2
import numpy as np
from numpy.typing import NDArray

from swaddon.core import fast
from swaddon.core.artwork.placement import Placement
from swaddon.core.artwork.raster import Mask, Plane
from swaddon.core.artwork.regions import Region, RegionMap, fine_free
from swaddon.core.colour.spaces import Rgb, bands_from_srgb8, delta_e_2000, lab_from_bands, lab_from_srgb8
from swaddon.core.holes.screen import FADE
from swaddon.core.holes.settings import HoleSettings, Screen
from swaddon.core.proof.optics import Appearance, seen_bands

MOST_CLASSES = 250
DEFAULT = -1
"""Source of regions that no rule names."""

_SAME_COLOUR_DELTA_E = 6.0
"""A rule for a colour takes regions this near to it (assumed)."""

_GIVE_BACK_STEPS = 51
_DARK_LIGHTNESS = 40.0


@dataclass(frozen=True)
class HoleClass:
    """Regions that are cut alike: the rule that cuts them (``DEFAULT``: none), palette colour, area, how many."""

    source: int
    colour: Rgb
    area_px: int
    regions: int


@dataclass(frozen=True, eq=False)
class Zones:
    """Where which class is: ``uint8 (H, W)`` on the plan's grid, 0 = solid, ``i + 1`` = ``classes[i]``.

    ``sources`` gives, by region number, the rule that treats the region.
    """

    plane: Plane
    classes: tuple[HoleClass, ...]
    sources: tuple[int, ...]


def structure(settings: HoleSettings) -> HoleSettings:
    """Where holes are, without how they look: every screen is the same one. Equal structures have equal zones."""

    def some(screen: Screen | None) -> Screen | None:
        return None if screen is None else Screen()

    rules = tuple(replace(rule, screen=some(rule.screen)) for rule in settings.rules)
    return HoleSettings(some(settings.default), rules, settings.fine_mm)


def screen_for(settings: HoleSettings, source: int) -> Screen | None:
    """The screen that a rule (or the default) asks for."""
    return settings.default if source == DEFAULT else settings.rules[source].screen


def sources_of(found: RegionMap, settings: HoleSettings) -> tuple[tuple[int, bool], ...]:
    """Rule of each region, by number from 0 on, and whether it named the region by point."""
    sources: list[tuple[int, bool]] = [(DEFAULT, False)] * (len(found.regions) + 1)
    for index, rule in enumerate(settings.rules):
        if rule.colour is not None and not rule.points:
            for region in of_colour(found, rule.colour):
                sources[region.number] = (index, False)
    for index, rule in enumerate(settings.rules):
        for x, y in rule.points:
            region_at = found.at(x, y)
            if region_at is not None:
                sources[region_at.number] = (index, True)
    return tuple(sources)


def of_colour(found: RegionMap, colour: Rgb) -> tuple[Region, ...]:
    """The regions of (nearly) one colour."""
    if not found.regions:
        return ()
    lab = lab_from_srgb8(np.array([region.colour for region in found.regions]))
    away = delta_e_2000(lab, lab_from_srgb8(colour))
    return tuple(region for region, far in zip(found.regions, away, strict=True) if far <= _SAME_COLOUR_DELTA_E)


def zones(
    found: RegionMap,
    settings: HoleSettings,
    placement: Placement,
    grid_size: tuple[int, int],
    px_per_mm: float,
) -> Zones:
    """Lay the classes out on the plan's grid.

    Parameters
    ----------
    grid_size
        Width and height of the grid in pixels.
    px_per_mm
        Artwork pixels per millimetre of print, for the width under which parts stay solid.
    """
    sources = sources_of(found, settings)
    keys: dict[tuple[int, int], int] = {}
    areas: dict[int, list[int]] = {}
    turned = np.zeros(len(sources), np.uint8)
    for region in found.regions:
        source = sources[region.number][0]
        if screen_for(settings, source) is None:
            continue
        number = keys.setdefault((source, region.palette), min(len(keys) + 1, MOST_CLASSES))
        turned[region.number] = number
        size = areas.setdefault(number, [0, 0])
        size[0] += region.area_px
        size[1] += 1
    plane = turned[found.labels]
    named = np.array([by_point for _, by_point in sources], np.uint8)
    radius = settings.fine_mm / 2 * px_per_mm / found.reduction
    if keys and radius > 0.5:
        free = cv2.bitwise_or(fine_free(found, radius), (named * np.uint8(255))[found.labels])
        plane = np.asarray(cv2.bitwise_and(plane, free), np.uint8)
    placed = placement.scaled(1 / found.reduction, 1 / found.reduction).place(plane)
    class_map = np.asarray(cv2.resize(placed, grid_size, interpolation=cv2.INTER_NEAREST_EXACT), np.uint8)
    classes: dict[int, HoleClass] = {}
    for (source, palette), number in keys.items():
        classes.setdefault(number, HoleClass(source, found.palette[palette], *areas[number]))
    return Zones(class_map, tuple(classes.values()), tuple(source for source, _ in sources))


@dataclass(frozen=True)
class GiveBack:
    """What holes do to a colour seen at arm's length, and what more ink gives back.

    ``boost`` multiplies every ink of the class; ``deeper`` is added to its black. ΔE00 are against the colour without
    holes, on this garment.
    """

    boost: float
    deeper: float
    delta_e_before: float
    delta_e_after: float


def give_back(
    cmyk: NDArray[np.float64],
    white: NDArray[np.float64],
    share: NDArray[np.float64],
    look: Appearance,
    settings: HoleSettings,
) -> tuple[GiveBack, ...]:
    """For each holed colour the boost that brings it nearest to itself without holes.

    From arm's length the eye averages light: mean = share · print + (1 − share) · cloth, in the bands (Murray-Davies).

    Parameters
    ----------
    cmyk
        Inks of the colours, 0..1, shape ``(n, 4)``.
    white
        White under them, 0..1, shape ``(n,)``.
    share
        Ink that their screens leave, 0..1, shape ``(n,)``.
    """
    ground = np.asarray(bands_from_srgb8(look.garment), np.float64)
    wanted = lab_from_bands(seen_bands(cmyk, white, ground, look))
    deeper = np.where(wanted[:, 0] < _DARK_LIGHTNESS, settings.deeper_black, 0.0)
    part = share[:, None, None]

    def error(inks: NDArray[np.float64]) -> NDArray[np.float64]:
        """ΔE00 of inks ``(n, k, 4)``, shape ``(n, k)``."""
        left = seen_bands(inks, np.broadcast_to(white[:, None], inks.shape[:2]), ground, look)
        return np.asarray(delta_e_2000(lab_from_bands(part * left + (1 - part) * ground), wanted[:, None]))

    before = error(cmyk[:, None])[:, 0]
    boosts = np.linspace(1.0, settings.give_back_limit, _GIVE_BACK_STEPS) if settings.give_back else np.ones(1)
    inks = np.minimum(cmyk[:, None] * boosts[:, None], 1.0)
    inks[..., 3] = np.minimum(inks[..., 3] + np.where(cmyk[:, 3] > 0, deeper, 0.0)[:, None], 1.0)
    errors = error(inks)
    best = errors.argmin(axis=1)
    after = np.take_along_axis(errors, best[:, None], axis=1)[:, 0]
    columns = (boosts[best], deeper, before, after)
    return tuple(GiveBack(*values) for values in zip(*(column.tolist() for column in columns), strict=True))


def punch(cmyk: NDArray[np.uint8], mask: Mask, plane: Plane, given: tuple[GiveBack, ...]) -> NDArray[np.uint8]:
    """Inks with the holes cut out and the colour of each class given back.

    Parameters
    ----------
    cmyk
        ``uint8 (H, W, 4)``, before the holes.
    mask
        ``uint8 (H, W)``, 255 = ink stays.
    plane
        Class of each pixel; ``given[i]`` belongs to class ``i + 1``.
    """
    boost, deeper = np.ones(256, np.float32), np.zeros(256, np.float32)
    for index, item in enumerate(given[:MOST_CLASSES], start=1):
        boost[index], deeper[index] = item.boost, item.deeper
    out = np.empty_like(cmyk)
    kernel = fast.chosen("punch", punch_plain)
    fast.by_rows(mask.shape[0], lambda rows: kernel(cmyk[rows], mask[rows], plane[rows], boost, deeper, out[rows]))
    return out


def punch_plain(
    cmyk: NDArray[np.uint8],
    mask: Mask,
    plane: Plane,
    boost: NDArray[np.float32],
    deeper: NDArray[np.float32],
    out: NDArray[np.uint8],
) -> None:
    """:func:`punch` in plain NumPy."""
    value = cmyk.astype(np.float32) * boost[plane][..., None]
    value[..., 3] += np.where(value[..., 3] > 0, deeper[plane] * np.float32(255), 0)
    out[...] = (np.minimum(value, 255) + np.float32(0.5)).astype(np.uint8)
    out[mask == 0] = 0


@dataclass(frozen=True, eq=False)
class Mean:
    """A print whose holes are too small to show one by one: planes averaged, and the share that is printed at all."""

    cmyk: NDArray[np.uint8]
    white: NDArray[np.uint16]
    share: Plane


def mean_print(
    cmyk: NDArray[np.uint8],
    white: NDArray[np.uint16],
    share: Plane,
    classes: Plane,
    tone: Plane | None,
    shares: NDArray[np.float32],
    boosts: NDArray[np.float32],
) -> Mean:
    """Inks, white and printed share after holes, by the mean tone of each class.

    Parameters
    ----------
    cmyk, white, share
        The print without holes: ``uint8 (H, W, 4)``, ``uint16 (H, W)``, ``uint8 (H, W)``.
    classes
        Class of each pixel.
    tone
        Tone of fades, ``None`` without screened fades.
    shares, boosts
        ``float32 (256,)``: ink left, and ink given back, by class.
    """
    out = Mean(np.empty_like(cmyk), np.empty_like(white), np.empty_like(share))
    kernel = fast.chosen("thin_out", thin_out_plain)
    tones = classes if tone is None else tone
    fast.by_rows(
        classes.shape[0],
        lambda rows: kernel(
            cmyk[rows], white[rows], share[rows], classes[rows], tones[rows], tone is not None, shares, boosts,
            out.cmyk[rows], out.white[rows], out.share[rows],
        ),
    )  # fmt: skip
    return out


def thin_out_plain(
    cmyk: NDArray[np.uint8],
    white: NDArray[np.uint16],
    share: Plane,
    zones: Plane,
    tone: Plane,
    has_tone: bool,
    shares: NDArray[np.float32],
    boosts: NDArray[np.float32],
    cmyk_out: NDArray[np.uint8],
    white_out: NDArray[np.uint16],
    share_out: Plane,
) -> None:
    """:func:`mean_print` in plain NumPy."""
    left = shares[zones]
    if has_tone:
        left = np.where(zones == FADE, tone.astype(np.float32) / np.float32(255), left)
    inks = np.minimum(cmyk * boosts[zones][..., None], np.float32(255)) * left[..., None]
    cmyk_out[...] = (inks + np.float32(0.5)).astype(np.uint8)
    white_out[...] = (white * left).astype(np.uint16)
    share_out[...] = (share * left + np.float32(0.5)).astype(np.uint8)
