"""The visible part of a plan to come: what the stages before it gave, reduced and cropped, as seeds of the rest."""

from collections.abc import Callable, Mapping
from dataclasses import replace
from functools import partial
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from swaddon.core.artwork.raster import Mask, Plane, Rgba, half, halve
from swaddon.core.engine import Results, Run, key_of
from swaddon.core.knockout.soft import soft_area
from swaddon.core.knockout.stages import Knocked
from swaddon.session.pictures import every_second

_MASKS = ("design_exceptions", "fine_black")

SEEDS = ("placed", "knocked", "art", "soft", "tone", "separated", "zones", "design_exceptions", "fine_black")
"""Stages whose results have a place in a picture, or are what holes, inks and white are made of."""

Box = tuple[int, int, int, int]
"""Top, left, bottom, right in pixels."""


def seeds_in(values: Mapping[str, Any]) -> dict[str, Any]:
    """Those of some results that a part is made of."""
    return {name: values[name] for name in SEEDS}


def at_level(run: Run, key: str, plane: NDArray[Any], level: int, reduce: Callable[[Any], Any] = half) -> NDArray[Any]:
    """A plane at 1 / 2^level of its size, each level made of the one before, and kept."""
    for step in range(1, level + 1):
        plane = run.memo(("level", key, step), partial(reduce, plane))
    return plane


THINNED = 128
"""In the plane of what knockouts change: their soft edge left less than was there; 255: it went."""


def taken_at(run: Run, keys: Mapping[str, str], knocked: Knocked, level: int) -> Plane:
    """Where knockouts took the pixel or thinned it, at a level."""

    def changed() -> Plane:
        out = np.asarray(cv2.inRange(knocked.taken, 1, 255), np.uint8)
        if knocked.thinned is not None:
            out[(knocked.thinned > 0) & (out == 0)] = THINNED
        return out

    whole = run.memo(("gone", keys["knocked"]), changed)
    return at_level(run, "taken" + keys["knocked"], whole, level)


def reduced(run: Run, keys: Mapping[str, str], values: Mapping[str, Any], level: int) -> dict[str, Any]:
    """Seeds at a level; of knockouts only where they took something. Soft places are looked for anew."""
    view_modes: dict[str, Callable[[Any], Any]] = {"placed": halve, "art": halve, "separated": half}

    def at(name: str, plane: NDArray[Any] | None) -> NDArray[Any] | None:
        return None if plane is None else at_level(run, keys[name], plane, level, view_modes.get(name, every_second))

    out = {name: at(name, values[name]) for name in ("placed", "art", "tone", "separated", *_MASKS)}
    zones = values["zones"]
    out["zones"] = None if zones is None else replace(zones, plane=at("zones", zones.plane))
    out["knocked"] = taken_at(run, keys, values["knocked"], level)
    soft: Mask = values["soft"]
    if level:
        art: Rgba = out["art"]  # type: ignore[assignment]
        soft = run.memo(("soft", keys["art"], level), partial(soft_area, art))
    out["soft"] = soft
    return out


def part_of(keys: Mapping[str, str], values: Mapping[str, Any], level: int, box: Box) -> Results:
    """Seeds of a part, with keys that tell it from others."""
    top, left, bottom, right = box

    def cropped(value: Any) -> Any:
        if value is None:
            return None
        if isinstance(value, np.ndarray):
            return np.ascontiguousarray(value[top:bottom, left:right])
        return replace(value, plane=cropped(value.plane))

    own = {name: key_of("part", keys[name], level, box) for name in SEEDS}
    return Results({name: cropped(values[name]) for name in SEEDS}, own)
