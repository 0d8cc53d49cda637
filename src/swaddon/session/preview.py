"""Pictures of the visible part: quickly from what is at hand, then from the finished plan.

A picture is made at screen size from the nearest level of a pyramid of the plan's own planes. While a plan is being
computed, its holes and white alone are recomputed on the visible part when nothing before them changed; otherwise the
whole plan is run on a proxy of at most a megapixel. Both use the production stages.
"""

import math
from collections.abc import Callable, Mapping
from dataclasses import dataclass, replace
from functools import partial
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from swaddon.core.artwork.artwork import Artwork
from swaddon.core.artwork.raster import Plane, half, halve
from swaddon.core.engine import MISSING, Cache, Results, Run, needed_by, run_stages, stage_keys
from swaddon.core.holes import holes
from swaddon.core.holes.holes import Zones
from swaddon.core.order.request import PlanRequest
from swaddon.core.plan.stages import STAGES, Plan
from swaddon.core.plan.trouble import Patch, Trouble, find_trouble
from swaddon.core.proof.cloth import ClothKind
from swaddon.core.proof.misregistration import Misregistration
from swaddon.core.proof.optics import FLAT_CLOTH, printed_share
from swaddon.core.units import MM_PER_INCH
from swaddon.session.part import SEEDS, at_level, part_of, reduced, seeds_in, taken_at
from swaddon.session.pictures import dim, hatched, on_check, worst_of_four
from swaddon.session.view import (
    Layers,
    View,
    coarsest,
    halved,
    nearest,
    nearest_level,
    visible,
    warped,
    with_white_misregistered,
)
from swaddon.session.view_modes import Scene, Whites, fabric, view_mode_of, white_seen

_PROXY_PX = 450_000
_EXACT_PX = 5_000_000
"""Visible pixels of the plan up to which holes are cut one by one while a slider moves."""

_BEFORE = needed_by(STAGES, SEEDS, frozenset())
"""Stages whose results the visible part is made of."""

_EXACT = ("inks", "white", "highlight")
_MEAN = ("separated", "whole_white", "whole_highlight", "zones", "tone", "screens", "given_back")
"""Stages that a picture is made of: of holes cut one by one, and of holes by their mean."""


@dataclass(frozen=True, eq=False)
class Frame:
    """A picture of one view. ``is_final`` is False while it shows a proxy of the plan to come."""

    image: NDArray[np.uint8]
    view: View
    view_mode: str
    is_final: bool
    legend: tuple[Patch, ...] = ()


class Previewer:
    """Makes frames; thread-safe as far as its cache is."""

    def __init__(self, cache: Cache) -> None:
        self._cache = cache
        self._run = Run(cache)

    def frame(
        self,
        view: View,
        view_mode: str,
        cloth: ClothKind,
        request: PlanRequest,
        plan: Plan | None,
        run: Run,
        misregistration: Misregistration = Misregistration(),  # noqa: B008
    ) -> Frame:
        """The picture of ``request``, from ``plan`` when that is its finished plan; on cloth with white ``missed``."""
        is_final = plan is not None and plan.request is request
        if view_mode == "trouble" and is_final and plan is not None and plan.checks.is_current:
            return self._trouble(view, plan, run)
        whites = view_mode_of(view_mode).white_of(request.profile)
        if is_final and plan is not None:
            layers = self._of_plan(plan, view, whites)
        else:
            layers = self._visible_part(request, view, whites, run) or self._proxy(request, whites, run)
        run.check()
        if view_mode == "cloth" and not misregistration.is_none:
            size_mm = request.settings.width_mm, request.height_mm
            layers = with_white_misregistered(layers, view, misregistration, size_mm)
        picture = view_mode_of(view_mode).draw(Scene(layers, view, cloth, request, self._run))
        return Frame(picture, view, view_mode, is_final)

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
        picture = warped(placed, layers, view)
        lift = np.sqrt(np.arange(256) / FLAT_CLOTH)[:, None]
        shades = np.rint(np.clip(lift * request.settings.garment, 0, 255)).astype(np.uint8)
        ground = cv2.LUT(cv2.merge([fabric(self._run, cloth, view)] * 3), shades[None])
        alpha = picture[..., 3] / np.float32(255)
        shown = cv2.blendLinear(np.ascontiguousarray(picture[..., :3]), ground, alpha, 1 - alpha)
        return Frame(np.asarray(shown, np.uint8), view, "cloth", False)

    def warm(self, plan: Plan) -> None:
        """Prepare what the next slider drag needs."""
        reduced(self._run, plan.keys, seeds_in(plan.results.values), coarsest(plan.art.shape))

    def _level(self, key: str, plane: NDArray[Any], level: int, view_mode: Callable[[Any], Any] = half) -> NDArray[Any]:
        return at_level(self._run, key, plane, level, view_mode)

    def _of_plan(self, plan: Plan, view: View, looked_at: Whites = "both") -> Layers:
        level = nearest_level(view, plan.ppi, plan.white_plane.shape)
        keys = plan.keys
        assert plan.grid is not None and plan.knocked is not None  # noqa: PT018
        profile = plan.request.profile
        whites = keys["white"] + keys["highlight"] + looked_at
        fine = self._run.memo(
            ("fine", whites, profile.hits), partial(white_seen, looked_at, plan.white_plane, plan.highlight, profile)
        )
        share = self._run.memo(
            ("share", keys["inks"], keys["white"]), partial(printed_share, plan.cmyk, plan.white_plane)
        )
        return Layers(
            grid=self._level(keys["placed"], plan.grid, level, halve),
            taken=taken_at(self._run, keys, plan.knocked, level),
            cmyk=self._level(keys["inks"], plan.cmyk, level),
            white=self._level("white" + whites + repr(profile.hits), fine, level),
            share=self._level("share" + keys["inks"] + keys["white"], share, level),
            ppi=plan.ppi / 2**level,
        )

    def _trouble(self, view: View, plan: Plan, run: Run) -> Frame:
        """The artwork, dim, under the hatches of what is wrong with the plan."""
        found: Trouble = self._run.memo(("trouble", plan.keys["findings"]), lambda: find_trouble(plan, run))
        layers = self._of_plan(plan, view)
        level = nearest_level(view, plan.ppi, plan.white_plane.shape)
        plane = self._level("trouble" + plan.keys["findings"], found.plane, level, worst_of_four)
        ground = dim(on_check(warped(layers.grid, layers, view), np.zeros((view.height, view.width), np.uint8)))
        step = layers.ppi / MM_PER_INCH / view.px_per_mm
        picture = hatched(ground, warped(plane, layers, view) if step <= 1 else nearest(plane, layers, view))
        return Frame(picture, view, "trouble", True, found.patches)

    # while a plan is being made

    def _visible_part(self, request: PlanRequest, view: View, whites: Whites, run: Run) -> Layers | None:
        """The stages of holes, inks and white on the visible part, when all before them is in the cache.

        Holes are cut at the plan's own pixels, as the plan will cut them, as long as the part is not too large for
        that; else they are shown by their mean.
        """
        keys = stage_keys(_BEFORE, request)
        held = seeds_in({name: self._cache.get(keys[name]) for name in SEEDS})
        if any(value is MISSING for value in held.values()):
            return None
        shape = held["art"].shape
        level = nearest_level(view, request.ppi, shape)
        rim = math.ceil(request.settings.white.choke_px(request.ppi / 2**level)) + 8
        exact = 0 if held["zones"] is not None and self._is_small(view, request.ppi, shape) else level
        held = reduced(run, keys, held, exact)
        ppi = request.ppi / 2**exact
        box = visible(view, ppi, held["art"].shape, rim << (level - exact))
        top, left, bottom, right = box
        if bottom <= top or right <= left:
            return None
        seeds = part_of(keys, held, exact, box)
        layers = self._printed(replace(request, ppi=ppi, origin_px=(left, top)), seeds, exact == 0, whites, run)
        mm = MM_PER_INCH / ppi
        for _ in range(level - exact):
            layers = halved(layers)
        return replace(layers, x0_mm=left * mm, y0_mm=top * mm)

    def _is_small(self, view: View, ppi: float, shape: tuple[int, ...]) -> bool:
        top, left, bottom, right = visible(view, ppi, shape, 16)
        return (bottom - top) * (right - left) <= _EXACT_PX

    def _printed(self, request: PlanRequest, seeds: Results, is_exact: bool, whites: Whites, run: Run) -> Layers:
        """What is printed of a part: as it is cut, or its holes by their mean."""
        found = run_stages(STAGES, request, run, until=_EXACT if is_exact else _MEAN, seeds=seeds)
        values, keys = found.values, found.keys
        names = ("inks", "white", "highlight") if is_exact else ("separated", "whole_white", "whole_highlight")
        cmyk, plane, light = (values[name] for name in names)
        key = tuple(keys[name] for name in names), request.profile.hits, whites
        white = run.memo(("fine", key), partial(white_seen, whites, plane, light, request.profile))
        share = run.memo(("share", key), partial(printed_share, cmyk, plane))
        if not is_exact:
            cmyk, white, share = _mean(cmyk, white, share, values)
        return Layers(values["placed"], values["knocked"], cmyk, white, share, request.ppi)

    def _proxy(self, request: PlanRequest, whites: Whites, run: Run) -> Layers:
        """The whole plan on fewer pixels, its holes by their mean."""
        width, height = request.grid_size
        scale = min(1.0, math.sqrt(_PROXY_PX / (width * height)))
        artwork = self._reduced(request, scale)
        settings = request.settings.scaled(artwork.width_px / request.artwork.width_px)
        small = replace(request, ppi=request.ppi * scale, artwork=artwork, settings=settings)
        found = run_stages(STAGES, small, run, until=("placed", "knocked", *_MEAN))
        ppi = small.grid_size[0] / request.settings.width_mm * MM_PER_INCH
        taken = taken_at(run, found.keys, found.values["knocked"], 0)
        seen_of = Results({**found.values, "knocked": taken}, found.keys)
        return replace(self._printed(small, seen_of, False, whites, run), ppi=ppi)

    def _reduced(self, request: PlanRequest, scale: float) -> Artwork:
        """The artwork with no more pixels than a proxy needs."""
        artwork = request.artwork
        placed = artwork.placed_px(request.settings.placement)[0]
        while placed >= 2 * request.grid_size[0] * scale and min(artwork.rgba.shape[:2]) >= 2:
            rgba = self._run.memo(("reduced", artwork.content_id), partial(halve, artwork.rgba))
            artwork = replace(artwork, rgba=rgba, content_id=artwork.content_id + "/2", render=None)
            placed //= 2
        return artwork


def _mean(
    cmyk: NDArray[np.uint8], white: NDArray[np.uint16], share: Plane, values: Mapping[str, Any]
) -> tuple[NDArray[np.uint8], NDArray[np.uint16], Plane]:
    """Inks, white and printed share with holes by their mean."""
    zones: Zones | None = values["zones"]
    if zones is None:
        return cmyk, white, share
    shares, boosts = np.ones(256, np.float32), np.ones(256, np.float32)
    for index, (ruled, back) in enumerate(zip(values["screens"].ruled, values["given_back"], strict=True), start=1):
        shares[index], boosts[index] = ruled.share, back.boost
    mean = holes.mean_print(cmyk, white, share, zones.plane, values["tone"], shares, boosts)
    return mean.cmyk, mean.white, mean.share
