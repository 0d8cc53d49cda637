"""White and choke held against the garment."""

from collections.abc import Iterator

import cv2
import numpy as np

from swaddon.core.colour import hex_from_rgb, lab_from_srgb8
from swaddon.core.findings.scene import Finding, Scene
from swaddon.core.goods import is_dark, is_white
from swaddon.core.raster import bounds, place

_LOST_AT_LEAST_MM = 2.0

_BLACK_BELOW = 40
"""Artwork whose sRGB values are all below this counts as black (assumed)."""

_BLACK_GARMENT_LIGHTNESS = 20.0
"""On garments below this L* black needs no white (assumed)."""

_UNDER_BLACK_AT_LEAST_MM2 = 100.0


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


def white_under_black(scene: Scene) -> Iterator[Finding]:
    """White that only lifts black off a garment that is black already."""
    settings = scene.settings
    if settings.white.mode not in ("solid", "limit"):
        return
    if float(lab_from_srgb8(settings.garment)[0]) >= _BLACK_GARMENT_LIGHTNESS:
        return
    darkest = cv2.inRange(scene.art, (0, 0, 0, 128), (_BLACK_BELOW - 1,) * 3 + (255,))
    mask = np.asarray(cv2.bitwise_and(darkest, cv2.inRange(scene.white, 128, 255)), np.uint8)
    area_mm2 = cv2.countNonZero(mask) * scene.pixel_mm2
    if area_mm2 < _UNDER_BLACK_AT_LEAST_MM2:
        return
    ml = cv2.mean(scene.white, mask)[0] / 255 * area_mm2 / 1e6 * scene.full_white_per_m2
    text = (
        f"White lies under black over {area_mm2 / 100:.1f} cm² on a garment that is black itself: "
        f"{ml:.2f} {scene.profile.ink_unit} of white that nobody sees and that stiffens the print."
    )
    x, y = scene.mm(*place(mask))
    fix = scene.with_white(mode="need")
    yield Finding("white-under-black", "look", text, x, y, area_mm2, "mm²", fix, "White by need")


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


def lost_lines(scene: Scene) -> Iterator[Finding]:
    """Strokes that the choke leaves without white, on a garment that needs it."""
    lost, white = scene.strokes, scene.settings.white
    if lost.bare_mm < _LOST_AT_LEAST_MM or not is_dark(scene.settings.garment):
        return
    x, y = scene.mm(*lost.bare_at)
    text = (
        f"A choke of {white.choke_mm:.2f} mm leaves {lost.bare_mm:.0f} mm of thin strokes without white: "
        "they turn dull or vanish on this garment."
    )
    if white.guard:
        fix, what = scene.with_white(choke_mm=round(white.choke_mm / 2, 2)), "Halve the choke"
    else:
        fix, what = scene.with_white(guard=True), "Guard thin strokes"
    yield Finding("lost-lines", "look", text, x, y, lost.bare_mm, "mm", fix, what)


def choke_too_large(scene: Scene) -> Iterator[Finding]:
    """A choke of more than half of the finest stroke."""
    fine, white = scene.inspection.line, scene.settings.white
    if fine is None or white.mode == "none" or white.guard or white.choke_mm <= fine.width_mm / 2:
        return
    text = (
        f"The choke of {white.choke_mm:.2f} mm is more than half of the finest stroke ({fine.width_mm:.2f} mm): "
        "nothing of its white is left."
    )
    fix = scene.with_white(guard=True)
    yield Finding("choke-large", "look", text, fine.x_mm, fine.y_mm, white.choke_mm, "mm", fix, "Guard thin strokes")
