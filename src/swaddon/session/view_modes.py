"""The ways of seeing a plan: each is one entry with its title, its key and how it is drawn."""

from collections.abc import Callable, Iterable
from dataclasses import dataclass
from functools import cache, partial
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from swaddon.core.artwork.raster import Plane
from swaddon.core.count.coverage import totals
from swaddon.core.engine import Run
from swaddon.core.order.request import PlanRequest
from swaddon.core.press.profile import PressProfile
from swaddon.core.proof.cloth import ClothKind, texture
from swaddon.core.proof.optics import FULL_WHITE, both_whites, fine_white, seen, speckle
from swaddon.session.pictures import INK_RGB, coverage_map, footprint, on_check, on_paper, one_tone, together
from swaddon.session.view import Layers, View, warped

Picture = NDArray[np.uint8]
"""``uint8 (H, W, 3)``, sRGB, of a view."""

Whites = Literal["both", "white", "highlight"]
"""Which white is looked at: on a press with a highlight white each can be seen alone."""

_WHITE_GROUND, _WHITE_INK = 72.0, 250.0


@dataclass(frozen=True, eq=False)
class Scene:
    """What a picture is drawn of: a part of a plan, the cloth under it, and the view."""

    layers: Layers
    view: View
    cloth: ClothKind
    request: PlanRequest
    run: Run


@dataclass(frozen=True)
class ViewMode:
    """One way of seeing.

    Attributes
    ----------
    key, title, shortcut
        Its name in the code, on the bench, and the key that takes it.
    draw
        The picture of a scene.
    white
        Which white it looks at, where the press has two.
    in_bar
        Whether it has a button over the table; else it is in the menu, and where it belongs on a sheet.
    """

    key: str
    title: str
    shortcut: str
    draw: Callable[[Scene], Picture]
    white: Whites = "both"
    in_bar: bool = True

    def white_of(self, profile: PressProfile) -> Whites:
        """The white that is looked at on a press: without a highlight white there is but one."""
        return "both" if self.white == "white" and not profile.has_highlight else self.white


def fabric(run: Run, cloth: ClothKind, view: View) -> NDArray[np.uint8]:
    """Lightness of the cloth in a view; every picture of it lies on the same."""
    made: NDArray[np.uint8] = run.memo(
        ("cloth", cloth, view),
        lambda: texture(cloth, view.x0_mm, view.y0_mm, view.px_per_mm, view.width, view.height),
    )
    return made


def _on_cloth(scene: Scene) -> Picture:
    layers, view = scene.layers, scene.view
    look = scene.request.look
    cmyk, white = warped(layers.cmyk, layers, view), warped(layers.white, layers, view)
    through = speckle(white, look, view.x0_mm, view.y0_mm, view.px_per_mm)
    return seen(cmyk, white, look, fabric(scene.run, scene.cloth, view), warped(layers.share, layers, view), through)


def _artwork(scene: Scene) -> Picture:
    layers, view = scene.layers, scene.view
    return on_check(warped(layers.grid, layers, view), warped(layers.taken, layers, view))


def _white(scene: Scene) -> Picture:
    share = warped(scene.layers.white, scene.layers, scene.view).astype(np.float32) / FULL_WHITE
    grey = _WHITE_GROUND + np.minimum(share, 1) * (_WHITE_INK - _WHITE_GROUND)
    return np.repeat(grey.astype(np.uint8)[..., None], 3, axis=2)


def _footprint(scene: Scene) -> Picture:
    layers, view = scene.layers, scene.view
    white = np.minimum(warped(layers.white, layers, view) >> 7, 255).astype(np.uint8)
    return footprint(warped(layers.cmyk, layers, view).max(axis=2), white)


def _ink(scene: Scene, ink: str) -> Picture:
    cmyk = warped(scene.layers.cmyk, scene.layers, scene.view)
    return on_paper(cmyk[..., "CMYK".index(ink)], INK_RGB[ink])


def _one_tone(scene: Scene) -> Picture:
    layers, view = scene.layers, scene.view
    white = np.minimum(warped(layers.white, layers, view) >> 7, 255).astype(np.uint8)
    return one_tone(warped(layers.cmyk, layers, view).max(axis=2), white)


def _coverage(scene: Scene) -> Picture:
    layers, view = scene.layers, scene.view
    total = totals(np.ascontiguousarray(warped(layers.cmyk, layers, view))).astype(np.float32) / 2.55
    return coverage_map(total, scene.request.profile.separation.total_area_limit)


def _inks_together(scene: Scene, inks: str) -> Picture:
    layers, view = scene.layers, scene.view
    white = np.minimum(warped(layers.white, layers, view) / np.float32(FULL_WHITE), 1) if "W" in inks else None
    return together(warped(layers.cmyk, layers, view), white, inks)


_TOGETHER = "inks:"


def together_key(inks: Iterable[str]) -> str:
    """The way of seeing some inks at once; of one ink, its own."""
    chosen = "".join(ink for ink in "CMYKW" if ink in inks)
    return {"W": "white"}.get(chosen, chosen) if len(chosen) == 1 else _TOGETHER + chosen


def inks_in(key: str) -> str:
    """The inks that a way of seeing shows for themselves, such as ``CM``; empty: it shows something else."""
    if key.startswith(_TOGETHER):
        return key.removeprefix(_TOGETHER)
    return {"white": "W"}.get(key, key if key in INK_RGB else "")


@cache
def view_mode_of(key: str) -> ViewMode:
    """A way of seeing by its key; those of several inks at once are made as they are asked for."""
    if key.startswith(_TOGETHER):
        inks = key.removeprefix(_TOGETHER)
        return ViewMode(key, " ".join(inks), "", partial(_inks_together, inks=inks), in_bar=False)
    return VIEW_MODES[key]


_INK_KEYS = {"C": "F5", "M": "F6", "Y": "F7", "K": "F8"}

VIEW_MODES = {
    view_mode.key: view_mode
    for view_mode in (
        ViewMode("cloth", "On cloth", "F1", _on_cloth),
        ViewMode("artwork", "Artwork", "F2", _artwork),
        ViewMode("white", "White", "F3", _white, "white"),
        ViewMode("highlight", "Highlight", "Shift+F3", _white, "highlight"),
        *(ViewMode(ink, ink, key, partial(_ink, ink=ink)) for ink, key in _INK_KEYS.items()),
        ViewMode("footprint", "Footprint", "F4", _footprint),
        ViewMode("coverage", "Coverage", "Shift+F4", _coverage, in_bar=False),
        ViewMode("one-tone", "All in one tone", "Ctrl+F4", _one_tone, in_bar=False),
        ViewMode("trouble", "Trouble", "F9", _artwork),
    )
}
"""All ways by key, in the order in which they are offered. Trouble shows the artwork until its hatches are there."""


BAR_MODES = tuple((mode.key, mode.title) for mode in VIEW_MODES.values() if mode.in_bar)
"""Keys and titles of the ways that have a button over the table."""


def white_seen(which: Whites, white: Plane, highlight: Plane | None, profile: PressProfile) -> NDArray[np.uint16]:
    """Fine white of what is looked at: coverage of one of both, or both together in units of full underbase."""
    if which == "both":
        return both_whites(white, highlight, profile)
    if which == "white":
        return fine_white(white)
    return np.zeros(white.shape, np.uint16) if highlight is None else fine_white(highlight)
