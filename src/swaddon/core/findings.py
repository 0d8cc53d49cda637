"""Findings: what is wrong with a plan, by measurement. Each has a place, a size and, where one exists, one fix."""

from collections.abc import Callable, Iterator
from dataclasses import dataclass, replace
from decimal import Decimal
from typing import Literal

import numpy as np

from swaddon.core import knockout
from swaddon.core.colour import Rgb, delta_e_76, hex_from_rgb, lab_from_srgb8
from swaddon.core.consumption import Material, rounded
from swaddon.core.measure import Measures
from swaddon.core.plan.artwork import Artwork
from swaddon.core.plan.settings import Knockout, PlanSettings
from swaddon.core.profile import PressProfile
from swaddon.core.raster import Mask, Plane, Rgba, bounds, place
from swaddon.core.underbase import haze
from swaddon.core.units import inches_from_mm, mm_from_px, pixel_area_mm2

Severity = Literal["stop", "look", "note"]

NORM_PPI = 300
"""Artwork resolution at print size that is asked for (common practice, no source)."""

DARK_LIGHTNESS = 60.0
"""Garments below this L* need white to show colours as they are (assumed)."""

WHITE_LIGHTNESS, WHITE_CHROMA = 93.0, 5.0
"""Garments lighter and greyer than this count as white goods (assumed)."""

_BORDER_PX = 4
_UNIFORM_SHARE = 0.9
_UNIFORM_DELTA_E = {"JPEG": 12.0}
_UNIFORM_DELTA_E_ELSE = 6.0
_HAZE_AT_LEAST_MM2 = 2.0


@dataclass(frozen=True)
class Finding:
    """One measured warning. ``fix`` is the settings that mend it; ``fix_label`` names that step."""

    code: str
    severity: Severity
    text: str
    x_mm: float
    y_mm: float
    size: float
    unit: str
    fix: PlanSettings | None = None
    fix_label: str = ""


@dataclass(frozen=True, eq=False)
class Scene:
    """What the findings are measured on; planes and settings of one plan."""

    artwork: Artwork
    settings: PlanSettings
    profile: PressProfile
    art: Rgba
    soft: Mask
    white: Plane
    measures: Measures
    check: Callable[[], None] = lambda: None

    @property
    def pixel_mm2(self) -> float:
        return pixel_area_mm2(self.measures.ppi)

    def centre(self) -> tuple[float, float]:
        """Middle of the print, else of the artboard, in mm."""
        box = self.measures.printed
        if box is None:
            return self.mm(self.measures.width_px / 2, self.measures.height_px / 2)
        return self.mm((box.left + box.right) / 2, (box.top + box.bottom) / 2)

    def mm(self, x_px: float, y_px: float) -> tuple[float, float]:
        return mm_from_px(x_px, self.measures.ppi), mm_from_px(y_px, self.measures.ppi)

    def with_white(self, **changes: object) -> PlanSettings:
        return replace(self.settings, white=replace(self.settings.white, **changes))  # type: ignore[arg-type]


def all_findings(scene: Scene) -> tuple[Finding, ...]:
    """Every finding of a plan, worst first."""
    found: list[Finding] = []
    for look in (_nothing_printed, _box, _white_choice, _choke_zero, _half_transparent, _low_ppi):
        scene.check()
        found.extend(look(scene))
    order = {"stop": 0, "look": 1, "note": 2}
    return tuple(sorted(found, key=lambda finding: order[finding.severity]))


def is_dark(garment: Rgb) -> bool:
    """Whether colours on this garment need white under them."""
    return float(lab_from_srgb8(garment)[0]) < DARK_LIGHTNESS


def is_white(garment: Rgb) -> bool:
    """Whether the garment counts as white goods."""
    lightness, a, b = lab_from_srgb8(garment)
    return bool(lightness >= WHITE_LIGHTNESS and np.hypot(a, b) <= WHITE_CHROMA)


def _nothing_printed(scene: Scene) -> Iterator[Finding]:
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


def uniform_border(art: Rgba, delta_e: float) -> Rgb | None:
    """The colour of an opaque border all round ``art`` (``uint8 (H, W, 4)``), ``None`` when there is none."""
    n = _BORDER_PX
    if min(art.shape[:2]) <= 4 * n:
        return None
    ring = np.concatenate(
        [
            art[:n].reshape(-1, 4),
            art[-n:].reshape(-1, 4),
            art[:, :n].reshape(-1, 4),
            art[:, -n:].reshape(-1, 4),
        ]
    )
    opaque = ring[ring[:, 3] >= 250]
    if len(opaque) < 0.98 * len(ring):
        return None
    middle = np.median(opaque[:, :3], axis=0)
    away = delta_e_76(lab_from_srgb8(opaque[:, :3]), lab_from_srgb8(middle))
    if float((away <= delta_e).mean()) < _UNIFORM_SHARE:
        return None
    r, g, b = (round(float(v)) for v in middle)
    return r, g, b


def border_tolerance(file_format: str) -> float:
    """ΔE within which a border counts as one colour; JPEG speckles."""
    return _UNIFORM_DELTA_E.get(file_format, _UNIFORM_DELTA_E_ELSE)


def _box(scene: Scene) -> Iterator[Finding]:
    tolerance = border_tolerance(scene.artwork.file_format)
    colour = uniform_border(scene.art, tolerance)
    if colour is None:
        return
    found = knockout.distances(scene.art, colour, tolerance)
    area = knockout.removed_area(scene.art, found, tolerance, "outside")
    pixels = int(np.count_nonzero(area))
    size_mm2 = pixels * scene.pixel_mm2
    x, y = scene.mm(*place(area))
    ml = float(scene.white[area > 0].sum(dtype=np.uint64)) / 255 * scene.pixel_mm2 / 1e6
    ml *= scene.profile.lay_down_ml_m2["W"] * len(scene.profile.white_slots)
    money = rounded(Material("White ink", "white", ml, scene.profile.white_ink).cost)
    fix = replace(scene.settings, knockouts=(*scene.settings.knockouts, Knockout(colour, tolerance, "outside", "soft")))
    is_jpeg = scene.artwork.file_format == "JPEG"
    why = "JPEG has no transparency, so its background" if is_jpeg else "An opaque box round the art"
    text = (
        f"{why} ({hex_from_rgb(colour)}) prints as a rectangle: {size_mm2 / 100:.0f} cm², "
        f"{_white_price(ml, money, scene)}."
    )
    code = "jpeg-background" if is_jpeg else "opaque-box"
    yield Finding(code, "stop", text, x, y, size_mm2, "mm²", fix, f"Knock out {hex_from_rgb(colour)}")


def _white_price(ml: float, money: Decimal, scene: Scene) -> str:
    if ml <= 0:
        return "no white under it"
    return f"{ml:.2f} ml white, {money} {scene.profile.currency} of it"


def _white_choice(scene: Scene) -> Iterator[Finding]:
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


def _choke_zero(scene: Scene) -> Iterator[Finding]:
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


def _half_transparent(scene: Scene) -> Iterator[Finding]:
    thin = haze(scene.art, scene.soft)
    size_mm2 = int(np.count_nonzero(thin)) * scene.pixel_mm2
    if size_mm2 < _HAZE_AT_LEAST_MM2 or scene.profile.process != "film":
        return
    x, y = scene.mm(*place(thin))
    text = (
        f"Half-transparent areas, {size_mm2 / 100:.1f} cm²: on film they print as dirty haze, "
        "because the powder has little to hold on to."
    )
    fix = replace(scene.settings, half_transparent=0.5)
    yield Finding("half-transparent", "look", text, x, y, size_mm2, "mm²", fix, "Cut at 50 %")


def _low_ppi(scene: Scene) -> Iterator[Finding]:
    ppi = scene.artwork.ppi_at(scene.settings.width_mm)
    if ppi >= NORM_PPI - 1:
        return
    good_mm = scene.artwork.width_px / NORM_PPI * 25.4
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
