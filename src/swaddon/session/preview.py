"""Pictures of the visible part: quickly from what is at hand, then from the finished plan.

A picture is made at screen size from the nearest level of a pyramid of the plan's own planes. While a plan is being
computed, its holes and white alone are recomputed on the visible part when nothing before them changed; otherwise the
whole plan is run on a proxy of at most a megapixel. Both use the production stages.
"""

import math
from collections.abc import Callable, Mapping
from dataclasses import dataclass, replace
from functools import partial
from typing import Any, Literal

import cv2
import numpy as np
from numpy.typing import NDArray

from swaddon.core.artwork.artwork import Artwork
from swaddon.core.artwork.raster import Plane, half, halve
from swaddon.core.engine import Cache, Run, run_stages, stage_keys
from swaddon.core.holes import holes
from swaddon.core.holes.holes import GiveBack, Zones
from swaddon.core.holes.screen import Cut, cut
from swaddon.core.knockout.fades import Treated
from swaddon.core.knockout.soft import soft_area
from swaddon.core.order.request import PlanRequest
from swaddon.core.plan.hole_stages import given_back, needs_regions, screens_of
from swaddon.core.plan.ink_stages import fade_tables
from swaddon.core.plan.stages import STAGES, Plan
from swaddon.core.plan.trouble import Patch, Trouble, find_trouble
from swaddon.core.plan.white_stages import Ground, choked, figure_of, highlight_of, screen_choke_px, white_of
from swaddon.core.press.profile import PressProfile
from swaddon.core.proof.cloth import ClothKind, texture
from swaddon.core.proof.misregistration import Missed
from swaddon.core.proof.optics import FULL_WHITE, Appearance, both_whites, fine_white, printed_share, seen, speckle
from swaddon.core.units import MM_PER_INCH, px_from_mm
from swaddon.core.white import underbase
from swaddon.session.pictures import INK_RGB, dim, every_second, footprint, hatched, on_check, on_paper, worst_of_four
from swaddon.session.view import (
    Layers,
    View,
    coarsest,
    halved,
    nearest,
    nearest_level,
    visible,
    warped,
    with_white_missed,
)

Way = Literal["cloth", "artwork", "white", "highlight", "C", "M", "Y", "K", "footprint", "trouble"]
WAYS: tuple[Way, ...] = ("cloth", "artwork", "white", "highlight", "C", "M", "Y", "K", "footprint", "trouble")
Whites = Literal["both", "white", "highlight"]
"""Which white is looked at: on a press with a highlight white each can be seen alone."""

_PROXY_PX = 450_000
_EXACT_PX = 5_000_000
"""Visible pixels of the plan up to which holes are cut one by one while a slider moves."""

_WHITE_GROUND, _WHITE_INK = 72.0, 250.0


@dataclass(frozen=True, eq=False)
class Frame:
    """A picture of one view. ``is_final`` is False while it shows a proxy of the plan to come."""

    image: NDArray[np.uint8]
    view: View
    way: Way
    is_final: bool
    legend: tuple[Patch, ...] = ()


@dataclass(frozen=True, eq=False)
class _Stock:
    """What the cache holds of a request whose knockouts, zones and separation are done."""

    grid: NDArray[np.uint8]
    taken: Plane
    treated: Treated
    separated: NDArray[np.uint8]
    zones: Zones | None
    design: Plane | None = None


@dataclass(frozen=True)
class _Place:
    """A part of the pyramid of what has the ``keys``: its level, and its top, left, bottom and right there."""

    keys: Mapping[str, str]
    level: int
    box: tuple[int, int, int, int]
    whites: Whites

    def of(self, *stages: str) -> Any:
        """Names this part of some stages' results."""
        return "part", tuple(self.keys[stage] for stage in stages), self.level, self.box


class Previewer:
    """Makes frames; thread-safe as far as its cache is."""

    def __init__(self, cache: Cache) -> None:
        self._cache = cache

    def frame(
        self,
        view: View,
        way: Way,
        cloth: ClothKind,
        request: PlanRequest,
        plan: Plan | None,
        run: Run,
        missed: Missed = Missed(),  # noqa: B008
    ) -> Frame:
        """The picture of ``request``, from ``plan`` when that is its finished plan; on cloth with white ``missed``."""
        is_final = plan is not None and plan.request is request
        if way == "trouble" and is_final and plan is not None and plan.checks.is_current:
            return self._trouble(view, plan, run)
        whites = _looked_at(way, request.profile)
        if is_final and plan is not None:
            layers = self._of_plan(plan, view, whites)
        else:
            layers = self._visible_part(request, view, whites, run) or self._proxy(request, whites, run)
        run.check()
        if way == "cloth" and not missed.is_none:
            layers = with_white_missed(layers, view, missed)
        return Frame(self._picture(view, way, cloth, request, layers), view, way, is_final)

    def first(self, view: View, cloth: ClothKind, request: PlanRequest) -> Frame:
        """The artwork as it was drawn, laid on the garment: what can be shown before anything is planned."""
        artwork, placement = request.artwork, request.settings.placement
        width_px = artwork.placed_px(placement)[0]
        step = max(1, int(width_px / max(request.settings.width_mm * view.px_per_mm, 1)))
        small = np.ascontiguousarray(artwork.rgba[::step, ::step])
        scale = small.shape[1] / artwork.width_px, small.shape[0] / artwork.height_px
        placed = np.ascontiguousarray(placement.scaled(*scale).place(small))
        ppi = placed.shape[1] / request.settings.width_mm * MM_PER_INCH
        none = np.zeros((1, 1), np.uint8)
        layers = Layers(placed, none, placed, none.astype(np.uint16), none, ppi)
        picture = warped(placed, layers, view).astype(np.float32)
        fabric = texture(cloth, view.x0_mm, view.y0_mm, view.px_per_mm, view.width, view.height)
        lift = fabric.astype(np.float32)[..., None] / 128
        ground = np.array(request.settings.garment, np.float32) * np.sqrt(lift)
        alpha = picture[..., 3:] / 255
        shown = np.clip(ground + alpha * (picture[..., :3] - ground) + 0.5, 0, 255).astype(np.uint8)
        return Frame(np.ascontiguousarray(shown), view, "cloth", False)

    def warm(self, plan: Plan) -> None:
        """Prepare what the next slider drag needs."""
        assert plan.grid is not None and plan.knocked is not None and plan.separated is not None  # noqa: PT018
        stock = _Stock(plan.grid, plan.knocked.taken, plan.treated, plan.separated, plan.zones, plan.design)
        self._reduced_stock(plan.keys, stock, coarsest(plan.art.shape))

    def _memo(self, parts: Any, compute: Any) -> Any:
        return Run(self._cache).memo(parts, compute)

    def _level(self, key: str, plane: NDArray[Any], level: int, way: Callable[[Any], Any] = half) -> NDArray[Any]:
        """A plane at 1 / 2^level of its size, each level made of the one before."""
        for step in range(1, level + 1):
            plane = self._memo(("level", key, step), partial(way, plane))
        return plane

    def _gone(self, keys: Mapping[str, str], taken: Plane, level: int) -> Plane:
        """Where knockouts took the pixel, at a level."""
        whole = self._memo(("gone", keys["knockout"]), lambda: _gone(taken))
        return self._level("taken" + keys["knockout"], whole, level)

    def _of_plan(self, plan: Plan, view: View, looked_at: Whites = "both") -> Layers:
        level = nearest_level(view, plan.ppi, plan.white_plane.shape)
        keys = plan.keys
        assert plan.grid is not None and plan.knocked is not None  # noqa: PT018
        profile = plan.request.profile
        whites = keys["white"] + keys["highlight"] + looked_at
        fine = self._memo(
            ("fine", whites, profile.hits), partial(_whites, looked_at, plan.white_plane, plan.highlight, profile)
        )
        share = self._memo(("share", keys["inks"], keys["white"]), partial(printed_share, plan.cmyk, plan.white_plane))
        return Layers(
            grid=self._level(keys["grid"], plan.grid, level, halve),
            taken=self._gone(keys, plan.knocked.taken, level),
            cmyk=self._level(keys["inks"], plan.cmyk, level),
            white=self._level("white" + whites + repr(profile.hits), fine, level),
            share=self._level("share" + keys["inks"] + keys["white"], share, level),
            ppi=plan.ppi / 2**level,
        )

    def _trouble(self, view: View, plan: Plan, run: Run) -> Frame:
        """The artwork, dim, under the hatches of what is wrong with the plan."""
        found: Trouble = self._memo(("trouble", plan.keys["findings"]), lambda: find_trouble(plan, run))
        layers = self._of_plan(plan, view)
        level = nearest_level(view, plan.ppi, plan.white_plane.shape)
        plane = self._level("trouble" + plan.keys["findings"], found.plane, level, worst_of_four)
        ground = dim(on_check(warped(layers.grid, layers, view), np.zeros((view.height, view.width), np.uint8)))
        step = layers.ppi / MM_PER_INCH / view.px_per_mm
        picture = hatched(ground, warped(plane, layers, view) if step <= 1 else nearest(plane, layers, view))
        return Frame(picture, view, "trouble", True, found.patches)

    # while a plan is being made

    def _stock(self, request: PlanRequest, keys: Mapping[str, str]) -> _Stock | None:
        grid, knocked, treated, separated, zones, design = (
            self._cache.get(keys[name]) for name in ("grid", "knockout", "fades", "separate", "zones", "design")
        )
        if grid is None or knocked is None or treated is None or separated is None:
            return None
        if zones is None and (needs_regions(request.settings) or treated.tone is not None):
            return None
        if design is None and request.settings.white.design_rules:
            return None
        return _Stock(grid, knocked.taken, treated, separated, zones, design)

    def _reduced_stock(self, keys: Mapping[str, str], stock: _Stock, level: int) -> _Stock:
        treated, tone = stock.treated, stock.treated.tone
        art = self._level("art" + keys["fades"], treated.art, level, halve)
        if tone is not None:
            tone = self._level("tone" + keys["fades"], tone, level, every_second)
        zones = stock.zones
        if zones is not None:
            zones = replace(zones, plane=self._level("zones" + keys["zones"], zones.plane, level, every_second))
        design = stock.design
        if design is not None:
            design = self._level("design" + keys["design"], design, level, every_second)
        return _Stock(
            grid=self._level(keys["grid"], stock.grid, level, halve),
            taken=self._gone(keys, stock.taken, level),
            treated=replace(treated, art=art, tone=tone),
            separated=self._level("separate" + keys["separate"], stock.separated, level),
            zones=zones,
            design=design,
        )

    def _visible_part(self, request: PlanRequest, view: View, whites: Whites, run: Run) -> Layers | None:
        """Holes and white recomputed on the visible part, when all before them is in the cache.

        Holes are cut at the plan's own pixels, as the plan will cut them, as long as the part is not too large for
        that; else they are shown by their mean.
        """
        keys = stage_keys(STAGES, request)
        stock = self._stock(request, keys)
        if stock is None:
            return None
        level = nearest_level(view, request.ppi, stock.grid.shape)
        rim = math.ceil(px_from_mm(request.settings.white.choke_mm, request.ppi / 2**level)) + 8
        exact = 0 if stock.zones is not None and self._is_small(view, request.ppi, stock.grid.shape) else level
        stock = self._reduced_stock(keys, stock, exact)
        ppi = request.ppi / 2**exact
        top, left, bottom, right = visible(view, ppi, stock.grid.shape, rim << (level - exact))
        if bottom <= top or right <= left:
            return None
        part = _cropped(stock, (slice(top, bottom), slice(left, right)))
        place = _Place(keys, exact, (top, left, bottom, right), whites)
        layers = self._printed(replace(request, ppi=ppi), part, place, run)
        mm = MM_PER_INCH / ppi
        for _ in range(level - exact):
            layers = halved(layers)
        return replace(layers, x0_mm=left * mm, y0_mm=top * mm)

    def _is_small(self, view: View, ppi: float, shape: tuple[int, ...]) -> bool:
        top, left, bottom, right = visible(view, ppi, shape, 16)
        return (bottom - top) * (right - left) <= _EXACT_PX

    def _unholed(self, request: PlanRequest, part: _Stock, place: _Place, run: Run) -> tuple[NDArray[np.uint16], Plane]:
        """White (fine) and printed share of a part before any holes."""
        ground: Ground = self._memo(
            place.of("alpha", "separate", "design"), lambda: _ground(request, part, place.level)
        )
        figure = partial(figure_of, request, ground.art, ground.soft, ground.otherwise)
        under = self._memo(place.of("choked"), lambda: choked(request, figure(), run))
        run.check()
        whole = white_of(request, ground, under, run)
        white = _whites(place.whites, whole, highlight_of(request, ground), request.profile)
        return white, printed_share(part.separated, whole)

    def _printed(self, request: PlanRequest, part: _Stock, place: _Place, run: Run) -> Layers:
        """Holes, inks and white of a part."""
        tone, hits = part.treated.tone, request.profile.hits
        key = (place.of("whole white", "whole highlight"), hits, place.whites)
        white, share = self._memo(key, lambda: self._unholed(request, part, place, run))
        cmyk = part.separated
        if part.zones is not None:
            screens, given = screens_of(request, part.zones), given_back(request, part.zones, run)
            if place.level == 0:
                top, left = place.box[:2]
                mask = cut(part.zones.plane, part.zones.plane if tone is None else tone, screens, left, top)
                cmyk = holes.punch(cmyk, mask, part.zones.plane, given)
                own = underbase.shrunk_screen(mask, screen_choke_px(request))
                white = np.where(own > 0, white, np.uint16(0))
                share = np.asarray(cv2.bitwise_and(share, mask), np.uint8)
            else:
                cmyk, white, share = _mean(cmyk, white, share, part.zones, tone, screens, given)
        return Layers(part.grid, part.taken, cmyk, white, share, request.ppi)

    def _proxy(self, request: PlanRequest, whites: Whites, run: Run) -> Layers:
        """The whole plan on fewer pixels, its holes by their mean."""
        width, height = request.grid_size
        scale = min(1.0, math.sqrt(_PROXY_PX / (width * height)))
        artwork = self._reduced(request, scale)
        settings = request.settings.scaled(artwork.width_px / request.artwork.width_px)
        small = replace(request, ppi=request.ppi * scale, artwork=artwork, settings=settings)
        values = run_stages(STAGES, small, run, until=("whole white", "whole highlight", "zones")).values
        ppi = small.grid_size[0] / request.settings.width_mm * MM_PER_INCH
        cmyk, plane, laid = values["separate"], values["whole white"], values["zones"]
        white = _whites(whites, plane, values["whole highlight"], small.profile)
        share = printed_share(cmyk, plane)
        if laid is not None:
            screens, given = screens_of(small, laid), given_back(small, laid, run)
            cmyk, white, share = _mean(cmyk, white, share, laid, values["fades"].tone, screens, given)
        return Layers(values["grid"], _gone(values["knockout"].taken), cmyk, white, share, ppi)

    def _reduced(self, request: PlanRequest, scale: float) -> Artwork:
        """The artwork with no more pixels than a proxy needs."""
        artwork = request.artwork
        placed = artwork.placed_px(request.settings.placement)[0]
        while placed >= 2 * request.grid_size[0] * scale and min(artwork.rgba.shape[:2]) >= 2:
            rgba = self._memo(("reduced", artwork.content_id), partial(halve, artwork.rgba))
            artwork = replace(artwork, rgba=rgba, content_id=artwork.content_id + "/2", render=None)
            placed //= 2
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
            cmyk, white = warped(layers.cmyk, layers, view), warped(layers.white, layers, view)
            through = speckle(white, look, view.x0_mm, view.y0_mm, view.px_per_mm)
            return seen(cmyk, white, look, fabric, warped(layers.share, layers, view), through)
        if way in ("artwork", "trouble"):
            return on_check(warped(layers.grid, layers, view), warped(layers.taken, layers, view))
        if way in ("white", "highlight"):
            laid = warped(layers.white, layers, view).astype(np.float32) / FULL_WHITE
            grey = _WHITE_GROUND + np.minimum(laid, 1) * (_WHITE_INK - _WHITE_GROUND)
            return np.repeat(grey.astype(np.uint8)[..., None], 3, axis=2)
        cmyk = warped(layers.cmyk, layers, view)
        if way == "footprint":
            laid = np.minimum(warped(layers.white, layers, view) >> 7, 255).astype(np.uint8)
            return footprint(cmyk.max(axis=2), laid)
        return on_paper(cmyk[..., "CMYK".index(way)], INK_RGB[way])


def _looked_at(way: Way, profile: PressProfile) -> Whites:
    if way == "highlight":
        return "highlight"
    return "white" if way == "white" and profile.highlight_slots else "both"


def _whites(which: Whites, white: Plane, highlight: Plane | None, profile: PressProfile) -> NDArray[np.uint16]:
    """Fine white of what is looked at: coverage of one of both, or both together in units of full underbase."""
    if which == "both":
        return both_whites(white, highlight, profile)
    if which == "white":
        return fine_white(white)
    return np.zeros(white.shape, np.uint16) if highlight is None else fine_white(highlight)


def _ground(request: PlanRequest, part: _Stock, level: int) -> Ground:
    """What white is laid on in a part; soft places are looked for anew where it is reduced."""
    art, soft = part.treated.art, part.treated.soft
    soft = soft_area(art) if level or soft.shape != art.shape[:2] else soft
    return Ground(art, part.separated, soft, underbase.print_alpha(art, soft, fade_tables(request)), part.design)


def _gone(taken: Plane) -> Plane:
    return np.asarray(cv2.inRange(taken, 1, 255), np.uint8)


def _cropped(stock: _Stock, part: tuple[slice, slice]) -> _Stock:
    def crop(plane: NDArray[Any]) -> NDArray[Any]:
        return np.ascontiguousarray(plane[part])

    treated, zones = stock.treated, stock.zones
    soft = treated.soft if treated.soft.shape != treated.art.shape[:2] else crop(treated.soft)
    return _Stock(
        crop(stock.grid),
        crop(stock.taken),
        replace(treated, art=crop(treated.art), tone=None if treated.tone is None else crop(treated.tone), soft=soft),
        crop(stock.separated),
        None if zones is None else replace(zones, plane=crop(zones.plane)),
        None if stock.design is None else crop(stock.design),
    )


def _mean(
    cmyk: NDArray[np.uint8],
    white: NDArray[np.uint16],
    share: Plane,
    laid: Zones,
    tone: Plane | None,
    screens: Cut,
    given: tuple[GiveBack, ...],
) -> tuple[NDArray[np.uint8], NDArray[np.uint16], Plane]:
    shares, boosts = np.ones(256, np.float32), np.ones(256, np.float32)
    for index, (ruled, back) in enumerate(zip(screens.ruled, given, strict=True), start=1):
        shares[index], boosts[index] = ruled.share, back.boost
    mean = holes.mean_print(cmyk, white, share, laid.plane, tone, shares, boosts)
    return mean.cmyk, mean.white, mean.share
