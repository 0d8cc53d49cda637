"""The artwork itself: nothing left of it, a box round it, too few pixels, too large, lines too fine."""

from collections.abc import Iterator
from dataclasses import replace

import cv2
import numpy as np
from numpy.typing import NDArray

from swaddon.core.artwork.background import border_tolerance, uniform_border
from swaddon.core.artwork.near import distances
from swaddon.core.artwork.raster import Mask, place
from swaddon.core.colour.spaces import Rgb, delta_e_76, hex_from_rgb, lab_from_srgb8
from swaddon.core.count.consumption import Material, amount_text
from swaddon.core.count.money import money_text
from swaddon.core.findings.scene import Finding, Scene, Severity
from swaddon.core.knockout import knockout
from swaddon.core.knockout.islands import with_islands
from swaddon.core.knockout.settings import usual_knockout
from swaddon.core.sheet.grid import Grid, grid_of, split_share
from swaddon.core.sheet.room import as_printed
from swaddon.core.units import inches_from_mm, mm_from_px, px_from_mm

NORM_PPI = 300
"""Artwork resolution at print size that is asked for (common practice, no source)."""

_JPEG_BLOCK_PX = 8

_FULL_SHARE, _CELL_MM, _LEAST_BOX_MM = 0.97, 1.0, 20.0
"""Share of a print's rectangle from which it counts as filled, by cells of a millimetre, and the smallest that is told
(assumed)."""

_ENCLOSED_MM2 = 10.0
"""Enclosed background from which a decision is asked for (assumed)."""

_MARGIN_MM = 5.0
"""Empty part of the artboard above the ink that is told (assumed)."""

_BOX_PRINTS = 0.05
"""Share of a background that takes ink, from which it prints (assumed)."""


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
    """A background that prints as a rectangle: of one colour all round, or at least in all four corners.

    What takes no ink is no box: a white one on white goods without white.
    """
    tolerance = border_tolerance(scene.artwork.file_format)
    colour = uniform_border(scene.art, tolerance)
    if colour is None and fills_its_box(scene):
        colour = _colour_of_corners(scene, tolerance)
        if colour is None:
            yield _full_rectangle(scene)
    if colour is None:
        return
    area = knockout.removed_area(scene.art, distances(scene.art, colour, tolerance), tolerance, "outside")
    inked = cv2.bitwise_and(area, _ink(scene))
    if cv2.countNonZero(inked) < _BOX_PRINTS * cv2.countNonZero(area):
        return
    size_mm2 = cv2.countNonZero(area) * scene.pixel_mm2
    x, y = scene.mm(*place(area))
    ml = float(scene.white[area > 0].sum(dtype=np.uint64)) / 255 * scene.pixel_mm2 / 1e6
    ml *= scene.full_white_per_m2
    money = money_text(Material("White ink", "white", ml, scene.profile.white_ink).cost)
    is_jpeg = scene.artwork.file_format == "JPEG"
    taken = usual_knockout(colour, scene.artwork.file_format)
    fix = replace(scene.settings, knockouts=(*scene.settings.knockouts, taken))
    why = "JPEG has no transparency, so its background" if is_jpeg else "An opaque box round the art"
    text = (
        f"{why} ({hex_from_rgb(colour)}) prints as a rectangle: {size_mm2 / 100:.0f} cm², "
        f"{_white_price(ml, money, scene)}."
    )
    code = "jpeg-background" if is_jpeg else "opaque-box"
    yield Finding(code, "stop", text, x, y, size_mm2, "mm²", fix, f"Knock out {hex_from_rgb(colour)}")


def _ink(scene: Scene, top: int = 0, bottom: int | None = None, left: int = 0, right: int | None = None) -> Mask:
    """Mask (255) of pixels that take any ink; white that is laid over a whole sheet is no part of the art."""
    here = np.s_[top:bottom, left:right]
    planes = list(cv2.split(np.ascontiguousarray(scene.cmyk[here])))
    if not scene.settings.white.whole_sheet:
        planes.append(scene.white[here])
    ink = planes[0]
    for plane in planes[1:]:
        ink = cv2.max(ink, plane)
    return np.asarray(cv2.inRange(ink, 1, 255), np.uint8)


def fills_its_box(scene: Scene) -> bool:
    """Whether what prints covers (nearly) its whole rectangle, up to the corners.

    Told by cells of about a millimetre, so that holes and hair lines are no gaps; the corners come first, since most
    art is empty there.
    """
    box, cell = scene.measures.printed, max(1, round(px_from_mm(_CELL_MM, scene.measures.ppi)))
    if box is None or min(box.width, box.height) < px_from_mm(_LEAST_BOX_MM, scene.measures.ppi):
        return False
    rows = ((box.top, box.top + 2 * cell), (box.bottom - 2 * cell, box.bottom))
    columns = ((box.left, box.left + 2 * cell), (box.right - 2 * cell, box.right))
    if not all(_cells(_ink(scene, *down, *across), cell).all() for down in rows for across in columns):
        return False
    return float(_cells(_ink(scene, box.top, box.bottom, box.left, box.right), cell).mean()) >= _FULL_SHARE


def _cells(ink: Mask, cell: int) -> NDArray[np.bool_]:
    """Which cells of so many pixels on a side hold any ink; what is left over at the far sides is left out."""
    height, width = (side // cell for side in ink.shape)
    whole = ink[: height * cell, : width * cell]
    return np.asarray(cv2.resize(whole, (width, height), interpolation=cv2.INTER_AREA)) > 0


def _colour_of_corners(scene: Scene, tolerance: float) -> Rgb | None:
    """The one colour of the print's four corners; ``None`` where they differ."""
    box = scene.measures.printed
    assert box is not None
    art = scene.art[box.top : box.bottom, box.left : box.right]
    n = max(2, round(scene.measures.ppi / 25.4))
    corners = [
        np.median(part[..., :3].reshape(-1, 3), axis=0)
        for part in (art[:n, :n], art[:n, -n:], art[-n:, :n], art[-n:, -n:])
    ]
    middle = np.median(corners, axis=0)
    if (delta_e_76(lab_from_srgb8(np.array(corners)), lab_from_srgb8(middle)) > tolerance).any():
        return None
    r, g, b = (round(float(part)) for part in middle)
    return r, g, b


def _full_rectangle(scene: Scene) -> Finding:
    width, height = scene.measures.printed_size_mm
    x, y = scene.centre()
    text = (
        f"The print fills its whole rectangle of {width:.0f} × {height:.0f} mm: its straight edges show on the "
        f"{scene.item}. Take its background out, or leave it where it is meant to be a picture."
    )
    return Finding("full-rectangle", "look", text, x, y, width * height, "mm²")


def enclosed_background(scene: Scene) -> Iterator[Finding]:
    """Areas of a colour taken from outside that the figure encloses, as long as nobody decided about them."""
    found = scene.islands
    sizes = [island.area_px * scene.pixel_mm2 for island in found]
    if sum(sizes) < _ENCLOSED_MM2:
        return
    settings = scene.settings
    first = max(found, key=lambda island: island.area_px)
    x, y = scene.mm(first.x_px, first.y_px)
    many = f"{len(found)} enclosed areas of a colour" if len(found) > 1 else "An enclosed area of a colour"
    text = (
        f"{many} taken from outside still print, {area_text(sum(sizes))} in all. Take out what should show the "
        f"{scene.ware.surface}, keep the rest."
    )
    fix = replace(settings, knockouts=with_islands(settings.knockouts, found))
    label = "Take out all" if len(found) > 1 else "Take it out"
    yield Finding("enclosed-background", "look", text, x, y, sum(sizes), "mm²", fix, label)


def area_text(mm2: float) -> str:
    """An area in cm², in mm² where it is small.

    >>> area_text(1234.0), area_text(12.3)
    ('12.3 cm²', '12 mm²')
    """
    return f"{mm2 / 100:.1f} cm²" if mm2 >= 100 else f"{mm2:.0f} mm²"


def _white_price(ml: float, money: str, scene: Scene) -> str:
    if ml <= 0:
        return "no white under it"
    return f"{amount_text(ml, scene.profile.ink_unit)} white, {money} {scene.profile.currency} of it"


def ink_below(scene: Scene) -> Iterator[Finding]:
    """Ink that begins well below the artboard's top: measured by the artboard, the print hangs too low."""
    left, top, width, _ = scene.measures.printed_box_mm
    if scene.ware.kind == "hard" or top < _MARGIN_MM:
        return
    settings, artwork = scene.settings, scene.artwork
    wide, high = artwork.placed_px(settings.placement)
    px_per_mm = wide / settings.width_mm
    cut_px = max(0, int((top - 1) * px_per_mm))  # a millimetre is left, so that no antialiased edge is cut
    ends = [
        settings.placement.to_artwork(x, y, artwork.width_px, artwork.height_px)
        for x, y in ((0.0, cut_px / high), (1.0, 1.0))
    ]
    across, down = (sorted(round(end[axis]) for end in ends) for axis in (0, 1))
    crop = (across[0], down[0], across[1], down[1])
    fix = replace(
        settings,
        placement=replace(settings.placement, crop=crop),
        drop_mm=round(settings.drop_mm + cut_px / px_per_mm, 1),
    )
    text = (
        f"The ink begins {top:.0f} mm below the artboard’s top edge: {settings.drop_mm:.0f} mm below the collar stands "
        f"the artboard, the ink {settings.drop_mm + top:.0f} mm. Lay the print by its ink, or crop what is empty."
    )
    x, y = scene.mm(0, 0)
    yield Finding(
        "ink-below-artboard", "note", text, x + left + width / 2, y + top, top, "mm", fix, "Crop it, same place"
    )


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
    """The print against what the press reaches of its medium; one that is split onto enough sheets fits."""
    width, height = scene.measures.printed_size_mm
    room, settings = scene.room, scene.settings
    if room.takes(width, height):
        return
    grid, share = _sheets_for(scene), settings.share(scene.profile)
    if grid is not None and share is not None and share.parts >= grid.count:
        return
    over = room.over(width, height)
    x, y = scene.mm(scene.measures.width_px, scene.measures.height_px / 2)
    text = (
        f"The print is {width:.0f} × {height:.0f} mm, more than the {room.width_mm:.0f} × {room.height_mm:.0f} mm of "
        f"{room.title}."
    )
    fits = round(settings.width_mm / over - 0.05, 1)
    narrower = f"Print {fits:.0f} mm wide", replace(settings, width_mm=fits)
    ways = [narrower]
    if grid is not None and scene.medium is not None:
        made = split_share(scene.measures, scene.profile, scene.medium, grid, settings.width_mm)
        where = f"{grid.count} parts" if scene.medium.is_roll else f"{grid.count} × {scene.medium.title}"
        how = f"Split {'into' if scene.medium.is_roll else 'onto'} {where}"
        ways.insert(0, (how, replace(settings, sheet_share=made)))
    label, fix = ways[0]
    yield Finding("too-large", "stop", text, x, y, (over - 1) * 100, "%", fix, label, others=tuple(ways[1:]))


def _sheets_for(scene: Scene) -> Grid | None:
    """The sheets that the print would be split onto; ``None``: it is printed where it stays, or takes too many."""
    box, medium, press = scene.measures.printed, scene.medium, scene.profile
    if box is None or medium is None or not press.printing.can_split:
        return None
    on = as_printed(medium, press, one_print=True)
    try:
        return grid_of(box.width, box.height, on, scene.measures.ppi, scene.split_rules, press.largest_print_mm[1])
    except ValueError:
        return None


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
