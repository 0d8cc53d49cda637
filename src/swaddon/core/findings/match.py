"""Ink on cloth of its own colour."""

from collections.abc import Iterator
from dataclasses import replace

import cv2
import numpy as np

from swaddon.core import knockout
from swaddon.core.colour import Rgb, bands_from_srgb8, delta_e_2000, hex_from_rgb, lab_from_bands
from swaddon.core.findings.scene import Finding, Scene, Severity
from swaddon.core.goods import is_white
from swaddon.core.optics import Appearance, seen_bands
from swaddon.core.plan.settings import Knockout
from swaddon.core.raster import Mask, Rgba, place

MATCH_DELTA_E = 3.0
"""Artwork this near to the garment counts as its own colour (assumed: a usual limit for garments)."""

_ROOM = 112
"""No colour within ``MATCH_DELTA_E`` of another differs from it by as much in an sRGB value (pure green by 102)."""

_AT_LEAST_MM2 = 100.0
_HARDLY_ANY_WHITE = 64


def ink_on_match(scene: Scene) -> Iterator[Finding]:
    """Ink without white on cloth of its own colour: printed ink never quite matches dyed cloth."""
    settings = scene.settings
    if settings.white.mode == "only" or is_white(settings.garment):
        return
    bare = np.asarray(cv2.inRange(scene.white, 0, _HARDLY_ANY_WHITE - 1), np.uint8)
    mask = _of_the_garment(scene.art, settings.garment, bare, _AT_LEAST_MM2 / scene.pixel_mm2)
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


def _of_the_garment(art: Rgba, garment: Rgb, bare: Mask, least_px: float) -> Mask:
    """Mask (255) of solid art of the garment's colour where the cloth is bare of white; empty under ``least_px``."""
    low = (*(max(0, value - _ROOM) for value in garment), 128)
    high = (*(min(255, value + _ROOM) for value in garment), 255)
    mask = np.asarray(cv2.bitwise_and(cv2.inRange(art, low, high), bare), np.uint8)
    if cv2.countNonZero(mask) < least_px:
        return np.zeros_like(mask)
    chosen = mask > 0
    pixels = np.ascontiguousarray(art[chosen][:, None])
    found = knockout.distances(pixels, garment, 10.0)
    mask[chosen] = knockout.near(pixels, found, MATCH_DELTA_E)[:, 0]
    return mask
