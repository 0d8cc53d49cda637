"""Ink on cloth of its own colour."""

from collections.abc import Iterator
from dataclasses import replace
from functools import lru_cache, partial

import cv2
import numpy as np

from swaddon.core.artwork.near import Distances, near
from swaddon.core.artwork.raster import Mask, Rgba, place
from swaddon.core.colour.goods import is_white
from swaddon.core.colour.spaces import Rgb, bands_from_srgb8, delta_e_2000, hex_from_rgb, lab_from_bands, lab_from_srgb8
from swaddon.core.count.consumption import amount_text
from swaddon.core.count.money import money_text
from swaddon.core.count.savings import Worth, spared
from swaddon.core.findings.artwork import area_text
from swaddon.core.findings.scene import Finding, Scene, Severity
from swaddon.core.inks.inverse import target_lab
from swaddon.core.knockout.knockout import colour_counts
from swaddon.core.knockout.settings import Knockout
from swaddon.core.press.profile import INKS
from swaddon.core.proof.optics import Appearance, seen_bands
from swaddon.core.units import px_from_mm

MATCH_DELTA_E, NEAR_DELTA_E = 3.0, 9.0
"""Artwork this near to the garment counts as its own colour, and as near to it (assumed: usual limits for garments)."""


_GRID = 8

_PATCH_MM, _AT_LEAST_MM2 = 1.0, 1.0
"""Width and area from which ink on its match is seen as a patch; a rim that a choke leaves is none (assumed)."""

_HARDLY_ANY_WHITE = 0.02
_LITTLE_MM2 = 100.0


def ink_on_match(scene: Scene) -> Iterator[Finding]:
    """Print of the cloth's own colour, which never quite matches it: neither ink nor white looks as well, and is free.

    What is just the garment's colour is told apart from what only comes near it.
    """
    settings = scene.settings
    if settings.white.mode == "only" or is_white(settings.garment):
        return
    own, near = scene.beside("inks", ("of the garment's colour", settings.garment), partial(_of_the_garment, scene))
    for mask, within in ((own, MATCH_DELTA_E), (near, NEAR_DELTA_E)):
        if mask is None or (mask is near and own is not None and _is_little(scene, near)):
            continue  # what only comes near is told beside the garment's own where it is more than a little
        yield _told(scene, mask, within)


def _is_little(scene: Scene, mask: Mask) -> bool:
    """Whether an area is less than 1 cm²."""
    return cv2.countNonZero(mask) * scene.pixel_mm2 < _LITTLE_MM2


def _told(scene: Scene, mask: Mask, within: float) -> Finding:
    settings, garment = scene.settings, scene.settings.garment
    separation, pixels = scene.profile.separation, cv2.countNonZero(mask)
    inks, white = np.array(cv2.mean(scene.cmyk, mask), np.float64) / 255, cv2.mean(scene.white, mask)[0] / 255
    ground = np.asarray(bands_from_srgb8(garment), np.float64)
    seen = seen_bands(inks, np.asarray(white), ground, Appearance.of(garment, scene.profile))
    drawn = np.array(cv2.mean(scene.art, mask)[:3])
    off = float(delta_e_2000(lab_from_bands(seen), target_lab(drawn, separation)))
    own = f"The {scene.item}’s own colour"
    what = own if within == MATCH_DELTA_E else f"Colour within ΔE {within:.0f} of the {scene.item}’s"
    how = f"on the bare {scene.ware.surface} " if white < _HARDLY_ANY_WHITE else ""
    full = {ink: float(share) * pixels for ink, share in zip(INKS, inks, strict=True)} | {"W": white * pixels}
    saved = spared(Worth(pixels, full), scene.profile, scene.measures.ppi)
    area_mm2, unit = pixels * scene.pixel_mm2, scene.profile.ink_unit
    white_too = "" if white < _HARDLY_ANY_WHITE else f" and {amount_text(saved.white_ml, unit)} of white"
    text = (
        f"{what} is printed {how}over {area_text(area_mm2)}, off by ΔE {off:.1f}: print never quite "
        f"matches {scene.ware.ground}. Without it: {amount_text(saved.colour_ml, unit)} of ink{white_too}, "
        f"{money_text(saved.cost)} {scene.profile.currency} less."
    )
    x, y = scene.mm(*place(mask))
    fix = replace(settings, knockouts=(*settings.knockouts, Knockout(None, within, "everywhere", "soft")))
    is_patch = off >= MATCH_DELTA_E and within == MATCH_DELTA_E
    severity: Severity = "look" if is_patch else "note"
    return Finding(
        "ink-on-match",
        severity,
        text,
        x,
        y,
        area_mm2,
        "mm²",
        fix,
        f"Leave out {hex_from_rgb(garment)}",
        worth=saved.cost,
    )


def _of_the_garment(scene: Scene) -> tuple[Mask | None, Mask | None]:
    """Masks (255) of printed patches of the garment's own colour, and of those near it; ``None``: hardly any.

    They hang on the inks and the garment alone, however white is laid.
    """
    art, garment = scene.art, scene.settings.garment
    least, most = values_near(garment)
    mask = np.asarray(cv2.inRange(art, (*least, 128), (*most, 255)), np.uint8)
    inked = cv2.inRange(scene.cmyk, (0, 0, 0, 0), (0, 0, 0, 0))
    mask = np.asarray(cv2.bitwise_and(mask, cv2.bitwise_not(inked)), np.uint8)

    def enough(part: Mask) -> bool:
        return cv2.countNonZero(part) * scene.pixel_mm2 >= _AT_LEAST_MM2

    if not enough(mask):
        return None, None
    own, beside = _within(art, mask, garment)
    if not enough(beside):
        return None, None
    side = 2 * round(px_from_mm(_PATCH_MM, scene.measures.ppi) / 2) + 1
    patch = np.ones((side, side), np.uint8)
    whole = np.asarray(cv2.morphologyEx(beside, cv2.MORPH_OPEN, patch), np.uint8)
    if enough(own):
        own = np.asarray(cv2.morphologyEx(own, cv2.MORPH_OPEN, patch), np.uint8)
        whole = np.asarray(cv2.bitwise_and(whole, cv2.bitwise_not(own)), np.uint8)
    return own if enough(own) else None, whole if enough(whole) else None


def _within(art: Rgba, mask: Mask, garment: Rgb) -> tuple[Mask, Mask]:
    """Masks (255) of the masked pixels within ``MATCH_DELTA_E`` of a colour, and within ``NEAR_DELTA_E``."""
    codes, _ = colour_counts(art, mask)
    lab = lab_from_srgb8(np.stack([codes >> 16, codes >> 8 & 255, codes & 255], axis=-1).astype(np.uint8))
    found = Distances(codes, delta_e_2000(lab, lab_from_srgb8(garment)).astype(np.float32))
    own, beside = (cv2.bitwise_and(near(art, found, within), mask) for within in (MATCH_DELTA_E, NEAR_DELTA_E))
    return np.asarray(own, np.uint8), np.asarray(beside, np.uint8)


@lru_cache(maxsize=8)
def values_near(colour: Rgb) -> tuple[Rgb, Rgb]:
    """Least and most sRGB values of the colours within ``NEAR_DELTA_E`` of one, with some room: a quick first look.

    Sought on a coarse grid within more than the ΔE, so that no narrow part slips through between its colours.

    >>> values_near((250, 100, 3))
    ((176, 0, 0), (255, 168, 120))
    """
    axis = np.arange(0, 257, _GRID).clip(max=255)
    grid = np.stack(np.meshgrid(axis, axis, axis, indexing="ij"), axis=-1).reshape(-1, 3).astype(np.uint8)
    near = grid[delta_e_2000(lab_from_srgb8(grid), lab_from_srgb8(colour)) <= 1.6 * NEAR_DELTA_E].astype(int)
    found = np.concatenate([near, [colour]])
    least, most = (found.min(axis=0) - _GRID).clip(min=0), (found.max(axis=0) + _GRID).clip(max=255)
    return (int(least[0]), int(least[1]), int(least[2])), (int(most[0]), int(most[1]), int(most[2]))
