"""Ink on cloth of its own colour."""

from collections.abc import Iterator
from dataclasses import replace
from functools import lru_cache

import cv2
import numpy as np

from swaddon.core import knockout
from swaddon.core.colour import Rgb, bands_from_srgb8, delta_e_2000, hex_from_rgb, lab_from_bands, lab_from_srgb8
from swaddon.core.findings.scene import Finding, Scene, Severity
from swaddon.core.goods import is_white
from swaddon.core.optics import Appearance, seen_bands
from swaddon.core.plan.settings import Knockout
from swaddon.core.raster import Mask, Rgba, place
from swaddon.core.units import px_from_mm

MATCH_DELTA_E = 3.0
"""Artwork this near to the garment counts as its own colour (assumed: a usual limit for garments)."""

_GRID = 8

_AT_LEAST_MM2, _PATCH_MM = 100.0, 1.0
"""Area and width from which ink on its match is seen as a patch; a rim that a choke leaves is none (assumed)."""

_HARDLY_ANY_WHITE = 64


def ink_on_match(scene: Scene) -> Iterator[Finding]:
    """Ink without white on cloth of its own colour: printed ink never quite matches dyed cloth."""
    settings = scene.settings
    if settings.white.mode == "only" or is_white(settings.garment):
        return
    bare = np.asarray(cv2.inRange(scene.white, 0, _HARDLY_ANY_WHITE - 1), np.uint8)
    side = max(1, round(px_from_mm(_PATCH_MM, scene.measures.ppi)))
    mask = _of_the_garment(scene.art, settings.garment, bare, side, _AT_LEAST_MM2 / scene.pixel_mm2)
    area_mm2 = cv2.countNonZero(mask) * scene.pixel_mm2
    if area_mm2 < _AT_LEAST_MM2:
        return
    inks = np.array(cv2.mean(scene.cmyk, mask), np.float64) / 255
    ground = np.asarray(bands_from_srgb8(settings.garment), np.float64)
    seen = seen_bands(inks, np.zeros(()), ground, Appearance.of(settings.garment, scene.profile))
    off = float(delta_e_2000(lab_from_bands(seen), lab_from_bands(ground)))
    text = (
        f"Ink of the garment’s own colour lies on bare cloth over {area_mm2 / 100:.1f} cm²: print never quite matches "
        f"dyed cloth (ΔE {off:.0f} here) and shows as a patch."
    )
    x, y = scene.mm(*place(mask))
    fix = replace(settings, knockouts=(*settings.knockouts, Knockout(None, MATCH_DELTA_E, "everywhere", "soft")))
    severity: Severity = "look" if off >= MATCH_DELTA_E else "note"
    what = f"Knock out {hex_from_rgb(settings.garment)}"
    yield Finding("ink-on-match", severity, text, x, y, area_mm2, "mm²", fix, what)


def _of_the_garment(art: Rgba, garment: Rgb, bare: Mask, side: int, least_px: float) -> Mask:
    """Mask (255) of the garment's colour on bare cloth, in patches ``side`` px wide; empty under ``least_px``."""
    least, most = values_near(garment)
    mask = np.asarray(cv2.bitwise_and(cv2.inRange(art, (*least, 128), (*most, 255)), bare), np.uint8)
    if cv2.countNonZero(mask) < least_px:
        return np.zeros_like(mask)
    mask = np.asarray(cv2.morphologyEx(mask, cv2.MORPH_OPEN, np.ones((side, side), np.uint8)), np.uint8)
    if cv2.countNonZero(mask) < least_px:
        return np.zeros_like(mask)
    chosen = mask > 0
    pixels = np.ascontiguousarray(art[chosen][:, None])
    found = knockout.distances(pixels, garment, 10.0)
    mask[chosen] = knockout.near(pixels, found, MATCH_DELTA_E)[:, 0]
    return mask


@lru_cache(maxsize=8)
def values_near(colour: Rgb) -> tuple[Rgb, Rgb]:
    """Least and most sRGB values of the colours within ``MATCH_DELTA_E`` of one, with some room: a quick first look.

    Sought on a coarse grid within twice the ΔE, so that no narrow part slips through between its colours.
    """
    axis = np.arange(0, 257, _GRID).clip(max=255)
    grid = np.stack(np.meshgrid(axis, axis, axis, indexing="ij"), axis=-1).reshape(-1, 3).astype(np.uint8)
    near = grid[delta_e_2000(lab_from_srgb8(grid), lab_from_srgb8(colour)) <= 2 * MATCH_DELTA_E].astype(int)
    found = np.concatenate([near, [colour]])
    least, most = (found.min(axis=0) - _GRID).clip(min=0), (found.max(axis=0) + _GRID).clip(max=255)
    return (int(least[0]), int(least[1]), int(least[2])), (int(most[0]), int(most[1]), int(most[2]))
