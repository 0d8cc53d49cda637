"""White and choke held against the garment."""

from collections.abc import Iterator

import numpy as np

from swaddon.core.colour import Rgb, hex_from_rgb, lab_from_srgb8
from swaddon.core.findings.scene import Finding, Scene
from swaddon.core.raster import bounds

DARK_LIGHTNESS = 60.0
"""Garments below this L* need white to show colours as they are (assumed)."""

WHITE_LIGHTNESS, WHITE_CHROMA = 93.0, 5.0
"""Garments lighter and greyer than this count as white goods (assumed)."""


def is_dark(garment: Rgb) -> bool:
    """Whether colours on this garment need white under them."""
    return float(lab_from_srgb8(garment)[0]) < DARK_LIGHTNESS


def is_white(garment: Rgb) -> bool:
    """Whether the garment counts as white goods."""
    lightness, a, b = lab_from_srgb8(garment)
    return bool(lightness >= WHITE_LIGHTNESS and np.hypot(a, b) <= WHITE_CHROMA)


def white_choice(scene: Scene) -> Iterator[Finding]:
    if not scene.measures.printed_px:
        return
    settings, (x, y) = scene.settings, scene.centre()
    if settings.white.mode == "none" and is_dark(settings.garment):
        text = (
            f"White is off on a dark garment ({hex_from_rgb(settings.garment)}): "
            f"colours over {scene.measures.printed_mm2 / 100:.0f} cm² will turn dull or vanish."
        )
        fix = scene.with_white(mode="solid", design=True)
        yield Finding("white-off-dark", "stop", text, x, y, scene.measures.printed_mm2, "mm²", fix, "Solid white")
    if scene.measures.white_px and is_white(settings.garment):
        text = (
            f"White is on for a white garment: {scene.measures.white_mm2 / 100:.0f} cm² of white that "
            "nobody sees; without it the print is softer, quicker and cheaper."
        )
        fix = scene.with_white(mode="none", design=False)
        yield Finding("white-on-white", "look", text, x, y, scene.measures.white_mm2, "mm²", fix, "Turn white off")


def choke_zero(scene: Scene) -> Iterator[Finding]:
    white = scene.settings.white
    if white.choke_mm > 0 or white.mode == "none" or not is_dark(scene.settings.garment):
        return
    box = bounds(scene.white)
    if box is None:
        return
    x, y = scene.mm(box.left, (box.top + box.bottom) / 2)
    start = scene.profile.white.default_choke_mm
    text = (
        "Choke is 0 on a dark garment: white reaches the edge of the print and shows there "
        "with the least misregistration."
    )
    yield Finding(
        "choke-zero",
        "look",
        text,
        x,
        y,
        0.0,
        "mm",
        scene.with_white(choke_mm=start),
        f"Choke {start:g} mm",
    )
