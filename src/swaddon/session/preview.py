"""Pictures of the visible part: quickly from what is at hand, then from the finished plan.

A picture is made at screen size from the nearest level of a pyramid of the plan's own planes. While a plan is being
computed, its white alone is recomputed on the visible part when nothing before it changed; otherwise the whole plan is
run on a proxy of at most a megapixel. Both use the production stages.
"""

import math
from dataclasses import dataclass, replace
from functools import partial
from typing import Any, Literal

import cv2
import numpy as np
from numpy.typing import NDArray

from swaddon.core import underbase
from swaddon.core.cloth import ClothKind, texture
from swaddon.core.optics import FULL_WHITE, Appearance, fine_white, seen
from swaddon.core.plan.artwork import Artwork
from swaddon.core.plan.engine import Cache, Run, run_stages, stage_keys
from swaddon.core.plan.stages import STAGES, Plan, PlanRequest, fade_tables, white_of
from swaddon.core.raster import Sample, half, halve
from swaddon.core.units import MM_PER_INCH, px_from_mm

Way = Literal["cloth", "artwork", "white", "C", "M", "Y", "K", "black"]
WAYS: tuple[Way, ...] = ("cloth", "artwork", "white", "C", "M", "Y", "K", "black")

_PROXY_PX = 900_000
_PAPER = np.array([232, 232, 232], np.float32)
_INK_RGB = {"C": (0, 150, 205), "M": (200, 20, 110), "Y": (238, 205, 0), "K": (24, 24, 26)}
_WHITE_GROUND, _WHITE_INK = 72.0, 250.0


@dataclass(frozen=True)
class View:
    """What part of the artboard is on the screen: size in device pixels, scale, and the mm of its first corner."""

    width: int
    height: int
    px_per_mm: float
    x0_mm: float
    y0_mm: float


@dataclass(frozen=True, eq=False)
class Frame:
    """A picture of one view. ``is_final`` is False while it shows a proxy of the plan to come."""

    image: NDArray[np.uint8]
    view: View
    way: Way
    is_final: bool


@dataclass(frozen=True, eq=False)
class Layers:
    """The planes that pictures are made of, at ``ppi``, with the mm of their first corner."""

    grid: NDArray[np.uint8]
    art: NDArray[np.uint8]
    cmyk: NDArray[np.uint8]
    white: NDArray[np.uint16]
    ppi: float
    x0_mm: float = 0.0
    y0_mm: float = 0.0


class Previewer:
    """Makes frames; thread-safe as far as its cache is."""

    def __init__(self, cache: Cache) -> None:
        self._cache = cache

    def frame(self, view: View, way: Way, cloth: ClothKind, request: PlanRequest, plan: Plan | None, run: Run) -> Frame:
        """The picture of ``request``, from ``plan`` when that is its finished plan."""
        is_final = plan is not None and plan.request is request
        if is_final and plan is not None:
            layers = self._of_plan(plan, view)
        else:
            layers = self._white_only(request, view, run) or self._proxy(request, run)
        run.check()
        return Frame(self._picture(view, way, cloth, request, layers), view, way, is_final)

    def warm(self, plan: Plan) -> None:
        """Prepare what the next slider drag needs."""
        self._levels(stage_keys(STAGES, plan.request), plan.grid, plan.art, plan.cmyk, _coarsest(plan.art.shape))

    def _levels(
        self, keys: dict[str, str], grid: NDArray[np.uint8], art: NDArray[np.uint8], cmyk: NDArray[np.uint8], level: int
    ) -> tuple[NDArray[np.uint8], NDArray[np.uint8], NDArray[np.uint8]]:
        """Grid, art and inks at 1 / 2^level of their size, each level made of the one before."""
        for step in range(1, level + 1):
            grid = self._memo(("level", keys["grid"], step), partial(halve, grid))
            art = self._memo(("level", keys["knockout"], step), partial(halve, art))
            cmyk = self._memo(("level", keys["inks"], step), partial(half, cmyk))
        return grid, art, cmyk

    def _memo(self, parts: Any, compute: Any) -> Any:
        return Run(self._cache).memo(parts, compute)

    def _of_plan(self, plan: Plan, view: View) -> Layers:
        level = _level(view, plan.ppi, plan.white_plane.shape)
        keys = stage_keys(STAGES, plan.request)
        grid, art, cmyk = self._levels(keys, plan.grid, plan.art, plan.cmyk, level)
        white = self._white_level(keys["white"], plan.white_plane, level)
        return Layers(grid, art, cmyk, white, plan.ppi / 2**level)

    def _white_level(self, key: str, plane: NDArray[np.uint8], level: int) -> NDArray[np.uint16]:
        if level == 0:
            return self._memo(("fine", key), partial(fine_white, plane))
        finer = self._white_level(key, plane, level - 1)
        return self._memo(("fine", key, level), partial(half, finer))

    def _white_only(self, request: PlanRequest, view: View, run: Run) -> Layers | None:
        """White recomputed on the visible part, when knockout and inks of this request are in the cache."""
        keys = stage_keys(STAGES, request)
        found = [self._cache.get(keys[name]) for name in ("grid", "knockout", "inks")]
        if found[0] is None or found[1] is None or found[2] is None:
            return None
        shape = found[1].shape
        level = _level(view, request.ppi, shape)
        grid, art, cmyk = self._levels(keys, found[0], found[1], found[2], level)
        ppi = request.ppi / 2**level
        rim = math.ceil(px_from_mm(request.settings.white.choke_mm, ppi)) + 8
        top, left, bottom, right = _visible(view, ppi, art.shape, rim)
        if bottom <= top or right <= left:
            return None
        part = (slice(top, bottom), slice(left, right))
        grid, art, cmyk = (np.ascontiguousarray(plane[part]) for plane in (grid, art, cmyk))
        soft = underbase.soft_area(art)
        alpha = underbase.print_alpha(art, soft, fade_tables(request))
        white = white_of(replace(request, ppi=ppi), art, cmyk, soft, alpha, run)
        mm = MM_PER_INCH / ppi
        return Layers(grid, art, cmyk, fine_white(white.plane), ppi, left * mm, top * mm)

    def _proxy(self, request: PlanRequest, run: Run) -> Layers:
        """The whole plan on fewer pixels."""
        width, height = request.grid_size
        scale = min(1.0, math.sqrt(_PROXY_PX / (width * height)))
        small = replace(request, ppi=request.ppi * scale, artwork=self._reduced(request, scale))
        values = run_stages(STAGES, small, run, until="white").values
        ppi = small.grid_size[0] / request.settings.width_mm * MM_PER_INCH
        return Layers(values["grid"], values["knockout"], values["inks"], fine_white(values["white"].plane), ppi)

    def _reduced(self, request: PlanRequest, scale: float) -> Artwork:
        """The artwork with no more pixels than a proxy needs."""
        artwork = request.artwork
        wanted = request.grid_size[0] * scale
        while artwork.width_px >= 2 * wanted and artwork.height_px >= 2:
            rgba = self._memo(("reduced", artwork.content_id), partial(halve, artwork.rgba))
            artwork = replace(artwork, rgba=rgba, content_id=artwork.content_id + "/2")
        return artwork

    def _picture(
        self, view: View, way: Way, cloth: ClothKind, request: PlanRequest, layers: Layers
    ) -> NDArray[np.uint8]:
        if way == "cloth":
            fabric = self._memo(
                ("cloth", cloth, view),
                lambda: texture(cloth, view.x0_mm, view.y0_mm, view.px_per_mm, view.width, view.height),
            )
            look = Appearance.of(request.settings.garment, request.profile)
            return seen(_warped(layers.cmyk, layers, view), _warped(layers.white, layers, view), look, fabric)
        if way == "artwork":
            return _artwork(_warped(layers.grid, layers, view), _warped(layers.art, layers, view))
        if way == "white":
            white = _warped(layers.white, layers, view).astype(np.float32) / FULL_WHITE
            grey = _WHITE_GROUND + white * (_WHITE_INK - _WHITE_GROUND)
            return np.repeat(grey.astype(np.uint8)[..., None], 3, axis=2)
        cmyk = _warped(layers.cmyk, layers, view)
        if way == "black":
            ink = np.maximum(cmyk.max(axis=2), (_warped(layers.white, layers, view) >> 8).astype(np.uint8))
            return _on_paper(ink, _INK_RGB["K"])
        return _on_paper(cmyk[..., "CMYK".index(way)], _INK_RGB[way])


def _on_paper(ink: NDArray[np.uint8], rgb: tuple[int, int, int]) -> NDArray[np.uint8]:
    share = ink.astype(np.float32)[..., None] / 255
    return (_PAPER + share * (np.array(rgb, np.float32) - _PAPER) + 0.5).astype(np.uint8)


def _artwork(grid: NDArray[np.uint8], art: NDArray[np.uint8]) -> NDArray[np.uint8]:
    """Artwork on a neutral check; what the knockouts take is hatched."""
    height, width = grid.shape[:2]
    ys, xs = np.mgrid[0:height, 0:width]
    ground = np.where((xs // 8 + ys // 8) % 2 == 0, 176, 164).astype(np.float32)[..., None]
    alpha = grid[..., 3:].astype(np.float32) / 255
    picture = ground + alpha * (grid[..., :3].astype(np.float32) - ground)
    lost = (grid[..., 3].astype(np.int16) - art[..., 3] > 96)[..., None]
    line = ((xs + ys) % 8 < 2)[..., None]
    pale = 0.45 * picture + 0.55 * 170
    picture = np.where(lost, np.where(line, 96, pale), picture)
    return (picture + 0.5).astype(np.uint8)


def _coarsest(shape: tuple[int, ...]) -> int:
    """The last level worth having."""
    return max(0, int(math.log2(max(1, min(shape[0], shape[1]) / 256))))


def _level(view: View, ppi: float, shape: tuple[int, ...]) -> int:
    """The pyramid level whose pixels are just no larger than the screen's."""
    ratio = ppi / MM_PER_INCH / view.px_per_mm
    level = max(0, math.floor(math.log2(max(ratio, 1.0)) + 0.01))
    return min(level, _coarsest(shape))


def _visible(view: View, ppi: float, shape: tuple[int, ...], rim: int) -> tuple[int, int, int, int]:
    """Top, left, bottom, right of the visible part in layer pixels, with a rim, within the layer."""
    scale = ppi / MM_PER_INCH
    left, top = math.floor(view.x0_mm * scale) - rim, math.floor(view.y0_mm * scale) - rim
    right = math.ceil((view.x0_mm + view.width / view.px_per_mm) * scale) + rim
    bottom = math.ceil((view.y0_mm + view.height / view.px_per_mm) * scale) + rim
    return max(0, top), max(0, left), min(shape[0], bottom), min(shape[1], right)


def _warped(plane: NDArray[Sample], layers: Layers, view: View) -> NDArray[Sample]:
    """A layer's plane at the view's pixels; nothing beyond its edge."""
    step = layers.ppi / MM_PER_INCH / view.px_per_mm
    tx = (view.x0_mm - layers.x0_mm) * layers.ppi / MM_PER_INCH + 0.5 * step - 0.5
    ty = (view.y0_mm - layers.y0_mm) * layers.ppi / MM_PER_INCH + 0.5 * step - 0.5
    how = cv2.INTER_NEAREST if step <= 1.0 else cv2.INTER_LINEAR
    matrix = np.array([[step, 0, tx], [0, step, ty]])
    out = cv2.warpAffine(plane, matrix, (view.width, view.height), flags=how | cv2.WARP_INVERSE_MAP)
    return np.ascontiguousarray(out, plane.dtype)
