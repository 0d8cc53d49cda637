"""Half-transparent areas and screens against what the process holds."""

from collections.abc import Iterator
from dataclasses import replace

import cv2
import numpy as np

from swaddon.core.artwork.raster import Mask, place
from swaddon.core.colour.goods import is_dark
from swaddon.core.findings.scene import Finding, Scene
from swaddon.core.holes.beat import Beat, Patch, beat, is_seen, patches
from swaddon.core.holes.held import LPI_STEP, features, weave_offset
from swaddon.core.holes.screen import FADE, Ruled, rule
from swaddon.core.holes.settings import HoleSettings, Screen
from swaddon.core.knockout.fades import Treated
from swaddon.core.knockout.settings import AlphaTreatment
from swaddon.core.knockout.soft import haze
from swaddon.core.order.settings import PlanSettings
from swaddon.core.schema import allowed

_HAZE_AT_LEAST_MM2 = 2.0
_HAZE_INK, _HAZE_ASKS, _HAZE_LACKS = 24, 8, 3
"""A fade of so much ink, that asks for so much white and gets less than a third of it, counts as bare (assumed)."""

_WEAVE_DEGREES = 4.0
_LEAST_LEVELS = 16
"""Tones below which a screen shows steps and jagged dots (assumed)."""


def half_transparent(scene: Scene) -> Iterator[Finding]:
    """Fades where thin ink fails: a warning while they stay, a note once they are screened."""
    if not scene.profile.printing.thin_ink_fails:
        return
    if scene.treated.tone is not None:
        yield from _screened(scene, scene.treated)
        return
    thin = haze(scene.art, scene.soft)
    size_mm2 = int(np.count_nonzero(thin)) * scene.pixel_mm2
    if size_mm2 < _HAZE_AT_LEAST_MM2:
        return
    x, y = scene.mm(*place(thin))
    text = (
        f"Half-transparent areas, {size_mm2 / 100:.1f} cm²: on film they print as dirty haze, "
        "because the powder has little to hold on to."
    )
    fix = replace(scene.settings, alpha=AlphaTreatment("screen"))
    yield Finding("half-transparent", "look", text, x, y, size_mm2, "mm²", fix, "Screen the fades")


def bare_haze(scene: Scene) -> Iterator[Finding]:
    """Fades of colour with no white under them, on a garment that shows through."""
    if scene.settings.white.mode in ("none", "only") or not is_dark(scene.settings.garment):
        return
    if not cv2.countNonZero(scene.soft):
        return
    inked = cv2.bitwise_not(cv2.inRange(scene.cmyk, (0, 0, 0, 0), (_HAZE_INK - 1,) * 4))
    asks = cv2.bitwise_and(inked, cv2.inRange(scene.fade, _HAZE_ASKS, 255))
    bare = cv2.bitwise_and(asks, cv2.compare(cv2.multiply(scene.white, _HAZE_LACKS), scene.fade, cv2.CMP_LT))
    mask = np.asarray(cv2.bitwise_and(haze(scene.art, scene.soft), bare), np.uint8)
    size_mm2 = cv2.countNonZero(mask) * scene.pixel_mm2
    if size_mm2 < _HAZE_AT_LEAST_MM2:
        return
    x, y = scene.mm(*place(mask))
    text = (
        f"A half-transparent edge has colour but no white over {size_mm2:.0f} mm²: it vanishes on this "
        f"{scene.item}, or shows as dirty haze."
    )
    fix = replace(scene.settings, alpha=AlphaTreatment("hard"))
    yield Finding("haze-bare", "look", text, x, y, size_mm2, "mm²", fix, "Cut the fades hard")


def _screened(scene: Scene, treated: Treated) -> Iterator[Finding]:
    assert treated.tone is not None
    size_mm2 = cv2.countNonZero(treated.tone) * scene.pixel_mm2
    screen = scene.screens.fade
    if screen is None or size_mm2 < _HAZE_AT_LEAST_MM2:
        return
    x, y = scene.mm(*place(treated.tone))
    text = (
        f"Half-transparent areas, {size_mm2 / 100:.1f} cm², are screened at {screen.screen.lpi:.4g} lpi, "
        f"{screen.screen.angle:g}°, so that the powder finds full dots."
    )
    yield Finding("half-transparent", "note", text, x, y, size_mm2, "mm²")


def too_fine(scene: Scene) -> Iterator[Finding]:
    """Dots, holes and tones of each screen against the process."""
    holds, ppi = scene.profile.holds, scene.measures.ppi
    for index, ruled in _used(scene):
        what = features(ruled, ppi)
        at = _place(scene, index)
        if at is None:
            continue
        is_fade = index == FADE
        name = "The fades' screen" if is_fade else _name(ruled)
        if not is_fade and what.fills(holds):
            text = f"{name} leaves holes of {what.hole_mm:.2f} mm; below {holds.hole_mm:g} mm they close."
            yield _with_coarser(scene, ruled, "hole-small", text, at, what.hole_mm, holds.hole_mm)
        if not is_fade and what.washes(holds):
            text = f"{name} leaves ink of {what.ink_mm:.2f} mm; below {holds.dot_mm:g} mm it does not hold or wash."
            yield _with_coarser(scene, ruled, "dot-small", text, at, what.ink_mm, holds.dot_mm)
        if ruled.screen.pattern != "tile" and what.levels < _LEAST_LEVELS:
            text = f"{name} has {what.levels} tones at {ppi:g} ppi: steps will show; a coarser screen has more."
            yield Finding("screen-fine", "look", text, *at, float(what.levels), "tones")


def _with_coarser(
    scene: Scene, ruled: Ruled, code: str, text: str, at: tuple[float, float], size: float, least: float
) -> Finding:
    if ruled.screen.pattern == "tile":
        wider = replace(ruled.asked, tile_mm=round(ruled.asked.tile_mm * least / size + 0.05, 1))
        return Finding(code, "look", text, *at, size, "mm", _changed(scene, ruled.asked, wider), "Enlarge the tile")
    lpi = max(5.0, float(int(ruled.asked.lpi * size / least * 2)) / 2)
    coarser = replace(ruled.asked, lpi=lpi)
    return Finding(code, "look", text, *at, size, "mm", _changed(scene, ruled.asked, coarser), f"Screen at {lpi:g} lpi")


def on_the_weave(scene: Scene) -> Iterator[Finding]:
    """Stripes nearly along the cloth's yarns."""
    for index, ruled in _used(scene):
        off = weave_offset(ruled.screen)
        at = _place(scene, index)
        if ruled.screen.pattern != "line" or off > _WEAVE_DEGREES or off == 0 or at is None:
            continue
        text = (
            f"Stripes at {ruled.screen.angle:g}° lie {off:g}° off the weave: they drift across the yarns. "
            "Follow the weave exactly (0 or 90°) or keep well away (72°)."
        )
        fix = _changed(scene, ruled.asked, replace(ruled.asked, angle=72.0))
        yield Finding("screen-on-weave", "look", text, *at, off, "°", fix, "Turn to 72°")


def beating(scene: Scene) -> Iterator[Finding]:
    """A screen that overprints dots or stripes of the artwork itself and makes bands with them."""
    if scene.zones is None:
        return
    for index, ruled in _used(scene):
        if index == FADE or ruled.screen.pattern == "tile":
            continue
        found = _strongest(scene, index, ruled)
        if found is None:
            continue
        bands, patch = found
        text = (
            f"{_name(ruled)} at {ruled.screen.angle:g}° overprints dots or stripes of the artwork (about "
            f"{bands.art_lpi:.0f} to the inch): bands every {bands.period_mm:.0f} mm. Leave such parts solid, since "
            "they have holes of their own, or part the rulings."
        )
        parted = _parted(patch, ruled, scene.measures.ppi)
        fix = None if parted is None else _changed(scene, ruled.asked, parted)
        label = "" if parted is None else f"Screen at {parted.lpi:g} lpi"
        x, y = scene.mm(bands.x_px, bands.y_px)
        yield Finding("screens-beat", "look", text, x, y, bands.period_mm, "mm", fix, label)


def _strongest(scene: Scene, index: int, ruled: Ruled) -> tuple[Beat, Patch] | None:
    """The most contrast of bands that are seen, and where."""
    assert scene.zones is not None
    looked = [
        (beat(patch, ruled, scene.measures.ppi), patch)
        for patch in patches(scene.art, scene.zones, index, scene.settings.garment)
    ]
    seen = [item for item in looked if is_seen(item[0])]
    return max(seen, key=lambda item: item[0].contrast, default=None)


def _parted(patch: Patch, ruled: Ruled, ppi: float) -> Screen | None:
    """The next coarser ruling whose bands with a patch are not seen."""
    asked = ruled.asked
    lpi = asked.lpi - LPI_STEP
    while lpi >= max(asked.lpi / 2, allowed(Screen, "lpi")[0]):
        tried = replace(asked, lpi=lpi)
        if not is_seen(beat(patch, rule(tried, {}, ppi), ppi)):
            return tried
        lpi -= LPI_STEP
    return None


def _used(scene: Scene) -> list[tuple[int, Ruled]]:
    """Distinct screens in use, with a class that has them."""
    first: dict[Screen, tuple[int, Ruled]] = {}
    for index, ruled in enumerate(scene.screens.ruled, start=1):
        first.setdefault(ruled.asked, (index, ruled))
    used = list(first.values())
    if scene.screens.fade is not None and scene.treated.tone is not None:
        used.append((FADE, scene.screens.fade))
    return used


def _place(scene: Scene, index: int) -> tuple[float, float] | None:
    if scene.zones is None:
        return None
    where: Mask = np.asarray(cv2.inRange(scene.zones, index, index), np.uint8)
    return scene.mm(*place(where)) if cv2.countNonZero(where) else None


def _name(ruled: Ruled) -> str:
    screen = ruled.screen
    if screen.pattern == "tile":
        return f"The tile “{screen.tile}” at {screen.tile_mm:.3g} mm"
    kind = {"round": "The dot screen", "inverted": "The screen of round holes", "line": "The line screen"}
    return f"{kind[screen.pattern]} of {screen.lpi:.4g} lpi"


def _changed(scene: Scene, before: Screen, after: Screen) -> PlanSettings:
    """Settings with one screen replaced wherever it is used."""
    holes: HoleSettings = scene.settings.holes
    default = after if holes.default == before else holes.default
    rules = tuple(replace(rule, screen=after) if rule.screen == before else rule for rule in holes.rules)
    return replace(scene.settings, holes=replace(holes, default=default, rules=rules))
