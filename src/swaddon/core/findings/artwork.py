"""The artwork itself: nothing left of it, a box round it, too few pixels, too large, lines too fine."""

from collections.abc import Iterator
from dataclasses import replace

import numpy as np

from swaddon.core.artwork.background import border_tolerance, uniform_border
from swaddon.core.artwork.near import distances
from swaddon.core.artwork.raster import place
from swaddon.core.colour.spaces import hex_from_rgb
from swaddon.core.count.consumption import Material, amount_text
from swaddon.core.count.money import money_text
from swaddon.core.findings.scene import Finding, Scene, Severity
from swaddon.core.knockout import knockout
from swaddon.core.knockout.settings import Knockout
from swaddon.core.units import inches_from_mm, mm_from_px

NORM_PPI = 300
"""Artwork resolution at print size that is asked for (common practice, no source)."""

_JPEG_BLOCK_PX = 8


def nothing_printed(scene: Scene) -> Iterator[Finding]:
    if scene.measures.printed_px:
        return
    x, y = scene.centre()
    fix = replace(scene.settings, knockouts=()) if scene.settings.knockouts else None
    if scene.artwork.has_alpha and not scene.artwork.rgba[..., 3].any():
        text, fix = "Nothing will print: the artwork is fully transparent.", None
    elif fix is None and scene.settings.white.mode == "none":
        text = "Nothing will print: the artwork needs no colour ink and white is off."
        fix = scene.with_white(design=True)
        fix = replace(fix, white=replace(fix.white, mode="solid"))
    else:
        text = "Nothing will print: the knockouts remove the whole artwork."
    label = "" if fix is None else ("Drop the knockouts" if scene.settings.knockouts else "Turn white on")
    yield Finding("nothing-printed", "stop", text, x, y, 0.0, "mm²", fix, label)


def box(scene: Scene) -> Iterator[Finding]:
    tolerance = border_tolerance(scene.artwork.file_format)
    colour = uniform_border(scene.art, tolerance)
    if colour is None:
        return
    found = distances(scene.art, colour, tolerance)
    area = knockout.removed_area(scene.art, found, tolerance, "outside")
    pixels = int(np.count_nonzero(area))
    size_mm2 = pixels * scene.pixel_mm2
    x, y = scene.mm(*place(area))
    ml = float(scene.white[area > 0].sum(dtype=np.uint64)) / 255 * scene.pixel_mm2 / 1e6
    ml *= scene.full_white_per_m2
    money = money_text(Material("White ink", "white", ml, scene.profile.white_ink).cost)
    is_jpeg = scene.artwork.file_format == "JPEG"
    taken = Knockout(colour, tolerance, "outside", "soft", clean=is_jpeg)
    fix = replace(scene.settings, knockouts=(*scene.settings.knockouts, taken))
    why = "JPEG has no transparency, so its background" if is_jpeg else "An opaque box round the art"
    text = (
        f"{why} ({hex_from_rgb(colour)}) prints as a rectangle: {size_mm2 / 100:.0f} cm², "
        f"{_white_price(ml, money, scene)}."
    )
    code = "jpeg-background" if is_jpeg else "opaque-box"
    yield Finding(code, "stop", text, x, y, size_mm2, "mm²", fix, f"Knock out {hex_from_rgb(colour)}")


def _white_price(ml: float, money: str, scene: Scene) -> str:
    if ml <= 0:
        return "no white under it"
    return f"{amount_text(ml, scene.profile.ink_unit)} white, {money} {scene.profile.currency} of it"


def low_ppi(scene: Scene) -> Iterator[Finding]:
    ppi = scene.artwork.ppi_at(scene.settings.width_mm, scene.settings.placement)
    if scene.artwork.render is not None or ppi >= NORM_PPI - 1:
        return
    good_mm = scene.artwork.placed_px(scene.settings.placement)[0] / NORM_PPI * 25.4
    x, y = scene.centre()
    text = (
        f"The artwork has {ppi:.0f} ppi at {scene.settings.width_mm:.0f} mm "
        f"({inches_from_mm(scene.settings.width_mm):.1f} in) wide; {NORM_PPI} ppi is the norm, "
        f"which it reaches at {good_mm:.0f} mm."
    )
    fix = replace(scene.settings, width_mm=round(good_mm, 1)) if good_mm >= 10 else None
    severity: Severity = "look" if ppi < 0.67 * NORM_PPI else "note"
    label = f"Print {good_mm:.0f} mm wide" if fix else ""
    yield Finding("ppi-low", severity, text, x, y, ppi, "ppi", fix, label)


def too_large(scene: Scene) -> Iterator[Finding]:
    """The print against the platen or the film."""
    most_w, most_h = scene.profile.largest_print_mm
    width, height = scene.measures.printed_size_mm
    if width <= most_w + 0.1 and height <= most_h + 0.1:
        return
    over = max(width / most_w, height / most_h)
    what = scene.profile.medium
    x, y = scene.mm(scene.measures.width_px, scene.measures.height_px / 2)
    text = f"The print is {width:.0f} × {height:.0f} mm, more than the {most_w:.0f} × {most_h:.0f} mm of the {what}."
    fits = round(scene.settings.width_mm / over - 0.05, 1)
    fix = replace(scene.settings, width_mm=fits)
    yield Finding("too-large", "stop", text, x, y, (over - 1) * 100, "%", fix, f"Print {fits:.0f} mm wide")


def fine_detail(scene: Scene) -> Iterator[Finding]:
    """Finest line and gap against what the process holds."""
    holds = scene.profile.holds
    for fine, least, code, what, falls in (
        (scene.inspection.line, holds.line_mm, "line-fine", "line", "may not hold"),
        (scene.inspection.gap, holds.gap_mm, "gap-fine", "gap", "may fill in"),
    ):
        if fine is not None and fine.width_mm < least - 0.005:
            text = f"The finest {what} is {fine.width_mm:.2f} mm wide; below {least:g} mm it {falls}."
            yield Finding(code, "look", text, fine.x_mm, fine.y_mm, fine.width_mm, "mm")


def jpeg_edges(scene: Scene) -> Iterator[Finding]:
    """What no clean-up of a JPEG brings back."""
    if scene.artwork.file_format != "JPEG" or not scene.settings.knockouts:
        return
    if not scene.measures.removed_px:
        return
    ppi = scene.artwork.ppi_at(scene.settings.width_mm, scene.settings.placement)
    smear_mm = mm_from_px(_JPEG_BLOCK_PX, ppi)
    x, y = scene.centre()
    text = (
        f"The background of a JPEG was taken out; up to {smear_mm:.1f} mm from its edges colours stay smeared and "
        "lettering finer than that cannot be recovered. Ask for the original when it matters."
    )
    yield Finding("jpeg-edges", "note", text, x, y, smear_mm, "mm")
