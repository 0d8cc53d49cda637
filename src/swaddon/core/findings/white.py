"""White held against the garment, the press and the artwork."""

import math
from collections.abc import Iterator
from dataclasses import replace

import cv2
import numpy as np

from swaddon.core.artwork.raster import place
from swaddon.core.colour.goods import is_dark, is_white
from swaddon.core.colour.spaces import bands_from_srgb8, hex_from_rgb, lab_from_bands, lab_from_srgb8
from swaddon.core.count.consumption import Material, amount_text
from swaddon.core.count.measure import RoleExtent
from swaddon.core.count.money import money_text
from swaddon.core.count.timing import print_time
from swaddon.core.findings.scene import Finding, Scene, Severity
from swaddon.core.order.settings import PlanSettings
from swaddon.core.press.profile import INKS
from swaddon.core.proof.optics import Appearance, printed_share, seen_bands
from swaddon.core.white.design_white import own_mask
from swaddon.core.white.underbase import design_ramp

_BLACK_BELOW = 40
"""Artwork whose sRGB values are all below this counts as black (assumed)."""

_BLACK_GARMENT_LIGHTNESS = 20.0
"""On garments below this L* black needs no white (assumed)."""

_UNDER_BLACK_AT_LEAST_MM2 = 100.0

_DARK_BELOW = 72
"""Artwork whose sRGB values are all below this is dark enough for white to show through it (assumed)."""

_TOLD_S = 1.0
_COVERED_AT_LEAST_MM2, _BARE_AT_LEAST_MM2 = 5.0, 1.0
_DESIGN_AT_LEAST_MM2, _PUSHED_AT_LEAST_MM2, _OUTSIDE_AT_LEAST_MM2, _UNCURED_AT_LEAST_MM2 = 5.0, 20.0, 20.0, 5.0


def white_choice(scene: Scene) -> Iterator[Finding]:
    if not scene.measures.printed_px:
        return
    settings, (x, y) = scene.settings, scene.centre()
    is_off = settings.white.mode == "none" or not any(scene.profile.hits)
    needs_white = not is_white(settings.garment) if not scene.ware.is_cloth else is_dark(settings.garment)
    # White of the design prints whatever lies under colour: only what gets no white goes dull.
    bare_mm2 = scene.measures.printed_mm2 - (scene.measures.white_mm2 if any(scene.profile.hits) else 0.0)
    if is_off and needs_white and bare_mm2 >= _BARE_AT_LEAST_MM2:
        kind = "a dark" if is_dark(settings.garment) else "a coloured"
        text = (
            f"White is off on {kind} {scene.item} ({hex_from_rgb(settings.garment)}): "
            f"colours over {bare_mm2 / 100:.{0 if bare_mm2 >= 1000 else 1}f} cm² will turn dull or vanish."
        )
        if scene.profile.has_white:
            fix = scene.with_white(mode="solid", design=True, hits=())
            yield Finding("white-off-dark", "stop", text, x, y, bare_mm2, "mm²", fix, "Solid white")
        else:
            text += f" The press {scene.profile.name} has no white: choose one that has, or a white {scene.item}."
            yield Finding("white-off-dark", "stop", text, x, y, bare_mm2, "mm²")
    if scene.measures.white_px and is_white(settings.garment):
        text = (
            f"White is on for a white {scene.item}: {scene.measures.white_mm2 / 100:.0f} cm² of white that "
            f"nobody sees; without it the print is softer{_gain_without_white(scene)}."
        )
        thin = _thin_white(scene) if scene.profile.printing.thin_ink_fails else None
        if scene.profile.printing.thin_ink_fails:
            text += _THIN_WHITE
        others = () if thin is None else (("Thin white", thin),)
        fix, area = scene.with_white(mode="none", design=False), scene.measures.white_mm2
        yield Finding("white-on-white", "look", text, x, y, area, "mm²", fix, "Turn white off", others=others)


_THIN_WHITE = (
    " On film some print thin white all the same: it makes colours opaque on thin cloth and gives the powder something "
    "to hold; right for light prints and open screens."
)
_THIN = 0.4
"""Share of each hit that is called thin (common practice, no source: 30 to 50 %)."""


def _thin_white(scene: Scene) -> PlanSettings | None:
    """Settings with thin white; ``None`` where it is thin already."""
    hits = scene.profile.hits
    if max(hits, default=0.0) <= _THIN + 1e-6:
        return None
    return scene.with_white(hits=tuple(round(_THIN * amount, 3) for amount in hits))


def _gain_without_white(scene: Scene) -> str:
    """What this press saves without white: money of its ink, and time where white is printed in a phase of its own."""
    press, measures = scene.profile, scene.measures
    none = RoleExtent(np.zeros(measures.height_px, np.bool_), 0)
    bare = replace(measures, extents={**measures.extents, "white": none, "highlight": none})
    saved_s = (
        print_time(measures, press.carriage, press.white_rounds).print_s
        - print_time(bare, press.carriage, press.white_rounds).print_s
    )
    ml = measures.coverage["W"] * measures.artboard_mm2 / 1e6 * scene.full_white_per_m2
    cost = Material("White ink", "white", ml, press.white_ink).cost
    gains = [f"{money_text(cost)} {press.currency} of ink cheaper"] if cost else []
    if saved_s >= _TOLD_S:
        gains.append(f"{saved_s:.0f} s quicker")
    return "".join(f", {gain}" for gain in gains)


def white_on_top(scene: Scene) -> Iterator[Finding]:
    """White that comes to lie over the colours it should lie under."""
    press, settings = scene.profile, scene.settings
    if press.white_under_colour or settings.white.is_alone or not scene.measures.white_px:
        return
    inked = printed_share(scene.cmyk, np.zeros_like(scene.white))
    covered = np.asarray(cv2.bitwise_and(cv2.inRange(scene.white, 64, 255), inked), np.uint8)
    area_mm2 = cv2.countNonZero(covered) * scene.pixel_mm2
    if area_mm2 < _COVERED_AT_LEAST_MM2:
        return
    needed = press.printing.white_goes
    turned = "is turned over" if press.printing.flips else "is not turned over"
    text = (
        f"White is printed {press.white_position} and will lie over the colours: {area_mm2 / 100:.1f} cm² of the "
        f"picture vanish under it. A print by {press.process} {turned}, so white must be printed {needed}"
    )
    x, y = scene.mm(*place(covered))
    if needed in press.white_positions:
        fix = scene.with_white(position=needed)
        yield Finding("white-on-top", "stop", f"{text}.", x, y, area_mm2, "mm²", fix, f"Print white {needed}")
    else:
        text += "; this press cannot do that: choose one whose white can go there, or another process."
        yield Finding("white-on-top", "stop", text, x, y, area_mm2, "mm²")


def reads_backwards(scene: Scene) -> Iterator[Finding]:
    """A print that is mirrored on the finished item."""
    settings, press = scene.settings, scene.profile
    if settings.is_mirrored(press) == press.mirrored or not scene.measures.printed_px:
        return
    word, item = ("mirrored", "turned over") if press.mirrored else ("not mirrored", "not turned over")
    text = (
        f"The print will read backwards: a print by {press.process} is {item} and must be {word}, "
        f"{scene.measures.printed_mm2 / 100:.0f} cm² of it."
    )
    x, y = scene.centre()
    fix = replace(settings, mirrored=None)
    yield Finding("reads-backwards", "stop", text, x, y, scene.measures.printed_mm2, "mm²", fix, f"Print {word}")


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
        f"White lies under black over {area_mm2 / 100:.1f} cm² of a black {scene.item}: "
        f"{amount_text(ml, scene.profile.ink_unit)} of white that nobody sees and that stiffens the print."
    )
    if scene.profile.printing.thin_ink_fails:
        text += " One school keeps it on film: white under black carries the transfer where black alone holds poorly."
    x, y = scene.mm(*place(mask))
    fix = scene.with_white(mode="need")
    yield Finding("white-under-black", "look", text, x, y, area_mm2, "mm²", fix, "White by need")


def design_white_missing(scene: Scene) -> Iterator[Finding]:
    """White of the design that is left to a cloth which is not white."""
    settings = scene.settings
    if settings.prints_design_white or is_white(settings.garment) or settings.white.whole_sheet:
        return
    own = own_mask(scene.art, design_ramp(scene.profile.white))
    if scene.exceptions is not None:
        own = np.asarray(cv2.bitwise_and(own, cv2.bitwise_not(scene.exceptions)), np.uint8)
    area_mm2 = cv2.countNonZero(own) * scene.pixel_mm2
    if area_mm2 < _DESIGN_AT_LEAST_MM2:
        return
    x, y = scene.mm(*place(own))
    text = (
        f"White of the design is off: {area_mm2 / 100:.1f} cm² of it, such as here, will show the {scene.item} "
        f"({hex_from_rgb(settings.garment)}) instead."
    )
    severity: Severity = "stop" if is_dark(settings.garment) else "look"
    if not scene.profile.has_white:
        yield Finding("design-white-missing", severity, text, x, y, area_mm2, "mm²")
        return
    fix = scene.with_white(design=True)
    yield Finding("design-white-missing", severity, text, x, y, area_mm2, "mm²", fix, "Print white of the design")


def white_not_needed(scene: Scene) -> Iterator[Finding]:
    """White under colours that this garment shows well enough without."""
    white, advice = scene.settings.white, scene.advice
    if white.mode not in ("need", "solid", "limit") or is_white(scene.settings.garment) or not advice.colours:
        return
    fixes = {
        "none": (scene.with_white(mode="none"), "No white under colour"),
        "strengthen": (scene.with_white(mode="none", strengthen=True), "Strengthen the inks"),
        "highlight": (scene.with_white(mode="highlight"), "White under highlights"),
    }
    if advice.enough not in fixes or not scene.measures.white_px or not scene.profile.white_under_colour:
        return  # white that lies over the colours helps none of them: that is told as a stop
    fix, what = fixes[advice.enough]
    x, y = scene.centre()
    spent = scene.measures.coverage["W"] * scene.measures.artboard_mm2 / 1e6 * scene.full_white_per_m2
    text = f"{advice.reason} This plan lays {amount_text(spent, scene.profile.ink_unit)} of white."
    yield Finding("white-needless", "note", text, x, y, scene.measures.white_mm2, "mm²", fix, what)


def push_through(scene: Scene) -> Iterator[Finding]:
    """Dark toner that white under it will grey and speckle."""
    share = scene.profile.white.bleed_share
    if share == 0 or not scene.profile.white_under_colour or scene.settings.white.mode == "only":
        return
    dark = cv2.inRange(scene.art, (0, 0, 0, 128), (_DARK_BELOW - 1,) * 3 + (255,))
    mask = np.asarray(cv2.bitwise_and(dark, cv2.inRange(scene.white, 96, 255)), np.uint8)
    area_mm2 = cv2.countNonZero(mask) * scene.pixel_mm2
    if area_mm2 < _PUSHED_AT_LEAST_MM2:
        return
    inks = np.array(cv2.mean(scene.cmyk, mask), np.float64) / 255
    look = Appearance.of(scene.settings.garment, scene.profile)
    ground = np.asarray(bands_from_srgb8(scene.settings.garment), np.float64)
    amount = np.array(cv2.mean(scene.white, mask)[0] / 255)
    with_white, without = (
        float(lab_from_bands(seen_bands(inks, amount, ground, kind))[0])
        for kind in (look, replace(look, bleed_share=0))
    )
    text = (
        f"White toner pushes through dark colours over {area_mm2 / 100:.1f} cm²: pale speckle, and L* {with_white:.0f} "
        f"instead of {without:.0f}."
    )
    x, y = scene.mm(*place(mask))
    fix = scene.with_white(mode="need")
    yield Finding("toner-push-through", "look", text, x, y, area_mm2, "mm²", fix, "White by need")


def white_outside(scene: Scene) -> Iterator[Finding]:
    """White where the artwork has nothing."""
    nothing = cv2.inRange(scene.art, (0, 0, 0, 0), (255, 255, 255, 0))
    mask = np.asarray(cv2.bitwise_and(nothing, cv2.inRange(scene.white, 1, 255)), np.uint8)
    area_mm2 = cv2.countNonZero(mask) * scene.pixel_mm2
    if area_mm2 < _OUTSIDE_AT_LEAST_MM2:
        return
    spent = cv2.mean(scene.white, mask)[0] / 255 * area_mm2 / 1e6 * scene.full_white_per_m2
    text = (
        f"White is laid over {area_mm2 / 100:.0f} cm² where the artwork has nothing: a white sheet round the picture, "
        f"and {amount_text(spent, scene.profile.ink_unit)} of white for it."
    )
    x, y = scene.mm(*place(mask))
    fix = scene.with_white(whole_sheet=False)
    yield Finding("white-outside", "stop", text, x, y, area_mm2, "mm²", fix, "White under the picture only")


def beyond_cure(scene: Scene) -> Iterator[Finding]:
    """More ink at a place than dries and cures."""
    most, lay = scene.profile.cures_per_m2, scene.profile.lay_down_per_m2
    colours = np.array([lay[ink] for ink in INKS])
    full_white = scene.full_white_per_m2
    if most is None or full_white + scene.profile.separation.total_area_limit / 100 * colours.max() <= most:
        return
    load = cv2.transform(scene.cmyk.astype(np.float32), colours[None].astype(np.float32)).reshape(scene.white.shape)
    load += scene.white * np.float32(full_white)
    load /= np.float32(255)
    mask = np.asarray(cv2.inRange(load, most, float("inf")), np.uint8)
    area_mm2 = cv2.countNonZero(mask) * scene.pixel_mm2
    if area_mm2 < _UNCURED_AT_LEAST_MM2:
        return
    heaviest = float(load.max())
    white_there = float(scene.white[mask > 0].max()) / 255 * full_white
    share = max(0.0, 1 - (heaviest - most) / max(white_there, 1e-9))
    unit, hits = scene.profile.ink_unit, scene.profile.hits
    text = (
        f"{heaviest:.0f} {unit}/m² of ink lie on {area_mm2 / 100:.1f} cm², more than the {most:.0f} that cure here: "
        f"{len(hits)} hit{'s' if len(hits) > 1 else ''} of white are too much."
    )
    x, y = scene.mm(*place(mask))
    fix = scene.with_white(hits=tuple(math.floor(amount * share * 100) / 100 for amount in hits))
    yield Finding("beyond-cure", "stop", text, x, y, heaviest, f"{unit}/m²", fix, "Less white per hit")
