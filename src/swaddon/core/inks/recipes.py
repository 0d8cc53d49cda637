"""Exact recipes: picked colours of the artwork get their inks as they were typed."""

from collections.abc import Sequence

import cv2
import numpy as np
from numpy.typing import NDArray

from swaddon.core import fast
from swaddon.core.artwork.near import Distances, distances, near
from swaddon.core.artwork.raster import Plane, Rgba
from swaddon.core.inks.settings import Recipe

MOST = 254
"""Recipes that a plan may have: their numbers are kept in a byte."""


def recipe_plane(art: Rgba, recipes: Sequence[Recipe], found: Sequence[Distances] | None = None) -> Plane | None:
    """``uint8 (H, W)``: ``i + 1`` where recipe ``i`` holds, a later one before an earlier; ``None``: nowhere.

    ``found`` are the distances of the artwork's colours to each recipe's.
    """
    out: Plane | None = None
    for index, recipe in enumerate(recipes):
        known = distances(art, recipe.colour, recipe.tolerance_de) if found is None else found[index]
        mask = near(art, known, recipe.tolerance_de)
        if not cv2.countNonZero(mask):
            continue
        out = np.zeros(mask.shape, np.uint8) if out is None else out
        out[mask > 0] = index + 1
    return out


def with_recipes(
    cmyk: NDArray[np.uint8], alpha: Plane, plane: Plane, recipes: Sequence[Recipe], inks: Sequence[str]
) -> NDArray[np.uint8]:
    """Inks with every recipe in its place, in proportion to alpha; an ink that the press lacks is left out.

    >>> cmyk, full = np.zeros((1, 2, 4), np.uint8), np.array([[255, 51]], np.uint8)
    >>> red = Recipe((200, 30, 40), (0.2, 1.0, 1.0, 0.0))
    >>> with_recipes(cmyk, full, np.ones((1, 2), np.uint8), [red], "CMYK").tolist()
    [[[51, 255, 255, 0], [10, 51, 51, 0]]]
    """
    has = np.array([ink in inks for ink in "CMYK"])
    table = np.zeros((len(recipes) + 1, 256, 4), np.uint8)
    for index, recipe in enumerate(recipes, start=1):
        table[index] = np.rint(np.arange(256)[:, None] * np.where(has, recipe.inks, 0.0))
    out = cmyk.copy()

    def work(rows: slice) -> None:
        at = np.nonzero(plane[rows])
        out[rows][at] = table[plane[rows][at], alpha[rows][at]]

    fast.by_rows(plane.shape[0], work)
    return out
