"""Background that the figure encloses: what a knockout from outside cannot reach, and nobody has decided about yet."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from typing import Literal

import cv2
import numpy as np

from swaddon.core.artwork.placement import Point
from swaddon.core.artwork.raster import Box, Mask, place
from swaddon.core.knockout.settings import Knockout

MOST_ISLANDS = 200
"""The largest that are told."""


@dataclass(frozen=True)
class Island:
    """An enclosed area of a removed colour.

    Attributes
    ----------
    knockout
        Index of the knockout whose colour it has.
    point
        A place inside it, in artwork pixels.
    x_px, y_px, area_px, box
        Where it lies on the grid, and how large it is there.
    """

    knockout: int
    point: Point
    x_px: float
    y_px: float
    area_px: int
    box: Box


def islands_of(
    index: int, left: Mask, least_px: float, to_artwork: Callable[[float, float], Point]
) -> tuple[Island, ...]:
    """The connected areas of a mask (255) of what a knockout left of its colour, the largest first.

    Parameters
    ----------
    left
        ``uint8 (H, W)`` on the grid.
    least_px
        What is smaller is no island.
    to_artwork
        Artwork point of a place on the grid.
    """
    if cv2.countNonZero(left) < least_px:
        return ()
    _, labels, stats, _ = cv2.connectedComponentsWithStats(left, connectivity=4)
    areas = stats[1:, cv2.CC_STAT_AREA]
    order = np.argsort(-areas, kind="stable")[:MOST_ISLANDS]
    out = []
    for label in (int(at) + 1 for at in order if areas[at] >= least_px):
        x, y, width, height = (int(value) for value in stats[label, :4])
        own = (labels[y : y + height, x : x + width] == label).astype(np.uint8)
        inside = place(own)
        at = x + inside[0], y + inside[1]
        out.append(Island(index, to_artwork(*at), *at, int(stats[label, 4]), Box(x, y, x + width, y + height)))
    return tuple(out)


def with_islands(
    knockouts: tuple[Knockout, ...], islands: Sequence[Island], as_: Literal["points", "kept"] = "points"
) -> tuple[Knockout, ...]:
    """Knockouts that take islands too, or keep them, each by a point inside it."""
    out = list(knockouts)
    for island in (item for item in islands if item.knockout < len(out)):
        own = out[island.knockout]
        out[island.knockout] = replace(own, **{as_: (*getattr(own, as_), island.point)})  # type: ignore[arg-type]
    return tuple(out)
