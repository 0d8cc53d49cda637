"""Choke held against edges, strokes and registration."""

from collections.abc import Iterator

import cv2

from swaddon.core.artwork.raster import bounds, place
from swaddon.core.colour.goods import is_dark, is_white
from swaddon.core.findings.scene import Finding, Scene, Severity

_LOST_AT_LEAST_MM = 2.0
_EDGE_AT_LEAST_MM2 = 1.0

_RIM_AT_LEAST_MM = 0.05
"""Width from which a rim that is always bare is told (assumed)."""

_OTHER_CHOKE_MM = 0.08
"""Distance from every advised choke from which one that was set by hand is told (assumed)."""

_SAME_MM = 0.005

_MUCH_WORSE = 1.25
"""Harm, as a multiple of the least there is, from which a choke should be changed (assumed)."""


def peek(scene: Scene) -> Iterator[Finding]:
    """White that comes out of the colour under the worst registration and the squeeze of the press."""
    area_mm2, white = scene.edges.peek_mm2, scene.settings.white
    if area_mm2 < _EDGE_AT_LEAST_MM2 or is_white(scene.settings.garment) or white.choke_mm == 0:
        return
    registration = scene.settings.registration(scene.profile)
    if white.choke_mm >= registration.no_peek_mm or white.choke_mm >= scene.choke.recommended_mm - _SAME_MM:
        return  # what is left of it the recommended choke accepts: it stands beside the choke
    by_mm = registration.reach_mm - white.choke_mm
    too_little = _should_change(scene) and white.choke_mm < scene.choke.recommended_mm
    x, y = scene.mm(*place(scene.edges.peek)) if cv2.countNonZero(scene.edges.peek) else scene.centre()
    where = "" if registration.spread is None else " at the corners, where a second pass misses most"
    text = (
        f"White could peek out by up to {by_mm:.2f} mm{where}, {area_mm2:.0f} mm² in all, when white and colour miss "
        f"each other by {registration.reach_mm - registration.squeeze_mm:.2f} mm and the press squeezes "
        f"{registration.squeeze_mm:.2f} mm."
    )
    severity: Severity = "look" if too_little else "note"
    fix = scene.with_white(choke_mm=registration.no_peek_mm)
    yield Finding("peek", severity, text, x, y, area_mm2, "mm²", fix, f"Choke {registration.no_peek_mm:g} mm")


def bare_rim(scene: Scene) -> Iterator[Finding]:
    """Colour that the choke leaves without white, however well white and colour meet."""
    area_mm2 = scene.edges.rim_mm2
    white, enough = scene.settings.white, scene.settings.registration(scene.profile).no_peek_mm
    always_mm = white.choke_mm - enough
    if area_mm2 < _EDGE_AT_LEAST_MM2 or always_mm < _RIM_AT_LEAST_MM or is_white(scene.settings.garment):
        return
    if not _should_change(scene):
        return
    x, y = scene.mm(*place(scene.edges.rim))
    text = (
        f"A rim up to {white.choke_mm:.2f} mm wide, {area_mm2:.0f} mm² in all, has colour without white: a dull edge. "
        f"With this registration a choke of {enough:.2f} mm hides white as well."
    )
    yield Finding(
        "bare-rim", "note", text, x, y, area_mm2, "mm²", scene.with_white(choke_mm=enough), f"Choke {enough:g} mm"
    )


def _should_change(scene: Scene) -> bool:
    """Whether the choke does much more harm than the recommended one."""
    return scene.choke.total_at(scene.settings.white.choke_mm) > _MUCH_WORSE * float(scene.choke.total.min()) + 1e-9


def choke_kept(scene: Scene) -> Iterator[Finding]:
    """A choke that is neither what the press starts with nor advised: set by hand, or kept from another press."""
    white, usual = scene.settings.white, scene.profile.white.default_choke_mm
    advised = (usual, scene.choke.recommended_mm, scene.settings.registration(scene.profile).no_peek_mm)
    if white.choke_mm == 0 or not scene.measures.white_px:
        return
    if min(abs(white.choke_mm - good) for good in advised) < _OTHER_CHOKE_MM:
        return
    x, y = scene.centre()
    text = (
        f"The choke of {white.choke_mm:.2f} mm was set by hand and stays: the press {scene.profile.name} starts with "
        f"{usual:.2f} mm."
    )
    size = white.choke_mm - usual
    yield Finding("choke-kept", "note", text, x, y, size, "mm", scene.with_white(choke_mm=usual), f"Choke {usual:g} mm")


def choke_zero(scene: Scene) -> Iterator[Finding]:
    white = scene.settings.white
    if white.choke_mm > 0 or white.mode == "none" or not is_dark(scene.settings.garment):
        return
    if scene.choke.recommended_mm < _SAME_MM:
        return  # no edge of the print has white under colour: the recommendation says so itself
    box = bounds(scene.white)
    if box is None:
        return
    x, y = scene.mm(box.left, (box.top + box.bottom) / 2)
    start = scene.profile.white.default_choke_mm
    text = (
        f"Choke is 0 on a dark {scene.item}: white reaches the edge of the print and shows there "
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
        f"A choke of {white.choke_mm:.2f} mm leaves {lost.bare_mm:.0f} mm of strokes about {lost.width_mm:.2f} mm wide "
        f"without white: they turn dull or vanish on this {scene.item}."
    )
    if white.guard:
        fix, what = scene.with_white(choke_mm=round(white.choke_mm / 2, 2)), "Halve the choke"
    else:
        fix, what = scene.with_white(guard=True), "Guard thin strokes"
    yield Finding("lost-lines", "look", text, x, y, lost.bare_mm, "mm", fix, what)


def _kept_by_the_guard(scene: Scene) -> Iterator[Finding]:
    """What a wide choke costs although the guard keeps cores: strokes with less white than they might have."""
    strokes, white, best = scene.strokes, scene.settings.white, scene.choke.recommended_mm
    if white.choke_mm <= best + _SAME_MM or strokes.saved_mm < _LOST_AT_LEAST_MM or not _should_change(scene):
        return
    _, rim_mm2 = scene.choke.areas_at(white.choke_mm)
    _, best_mm2 = scene.choke.areas_at(best)
    bare = f", and {strokes.bare_mm:.0f} mm have none" if strokes.bare_mm >= 1 else ""
    text = (
        f"At a choke of {white.choke_mm:.2f} mm the guard leaves {strokes.saved_mm:.0f} mm of strokes about "
        f"{strokes.width_mm:.2f} mm wide no more than a core of white{bare}; rims without white are {rim_mm2:.0f} mm² "
        f"in all, {best_mm2:.0f} at {best:.2f} mm."
    )
    x, y = scene.centre()
    fix = scene.with_white(choke_mm=best)
    yield Finding("choke-guarded", "note", text, x, y, white.choke_mm, "mm", fix, f"Choke {best:g} mm")


def choke_too_large(scene: Scene) -> Iterator[Finding]:
    """A choke of more than half of the finest stroke."""
    fine, white = scene.inspection.line, scene.settings.white
    if fine is None or white.mode == "none" or white.choke_mm <= fine.width_mm / 2:
        return
    if white.guard:
        yield from _kept_by_the_guard(scene)
        return
    text = (
        f"The choke of {white.choke_mm:.2f} mm is more than half of the finest stroke ({fine.width_mm:.2f} mm): "
        "nothing of its white is left."
    )
    fix = scene.with_white(guard=True)
    yield Finding("choke-large", "look", text, fine.x_mm, fine.y_mm, white.choke_mm, "mm", fix, "Guard thin strokes")
