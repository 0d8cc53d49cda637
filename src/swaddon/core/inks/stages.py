"""Stages of the inks: the inverse of the separation, and the artwork's inks before any holes."""

from collections.abc import Callable
from dataclasses import dataclass
from functools import partial

import cv2
import numpy as np
from numpy.typing import NDArray

from swaddon.core.artwork.near import distances
from swaddon.core.artwork.raster import Mask, Plane, Rgba, alpha_of
from swaddon.core.colour.spaces import Rgb, bands_from_srgb8
from swaddon.core.engine import Run, of, settle, stage
from swaddon.core.inks.inverse import inverse_table
from swaddon.core.inks.recipes import recipe_plane, with_recipes
from swaddon.core.inks.separation import Table, separate
from swaddon.core.inks.settings import IccChoice, Recipe
from swaddon.core.press.profile import Separation

_FURTHEST_DE = 30.0
"""The largest tolerance of a recipe: so far distances are kept, and every move of it only looks them up."""

Inks = NDArray[np.uint8]
"""``uint8 (H, W, 4)``: coverage of C, M, Y and K, 255 = full."""


SolveTable = Callable[[Separation, IccChoice | None], Table]


@dataclass(frozen=True)
class TableSettings:
    """``solve_table`` gives the inverse of a separation, or what a profile of one's own says; it may take a while.

    It gets all that it depends on, and so that a key holds it: what it only closed over could change behind the key.
    """

    solve_table: SolveTable
    separation: Separation = of("profile.separation")
    icc: IccChoice | None = of("settings.icc")


def table(settings: TableSettings) -> Table:
    """The inverse separation, on white: the press profile's, or that of an ICC profile."""
    return settings.solve_table(settings.separation, settings.icc)


@dataclass(frozen=True)
class TintSettings:
    """Whether inks are solved for the garment's tint, and which that is."""

    strengthens: bool = of("settings.strengthens")
    garment: Rgb = of("settings.garment")
    separation: Separation | None = of("profile.separation")

    def __post_init__(self) -> None:
        if not self.strengthens:
            settle(self, garment=(0, 0, 0), separation=None)


def ink_table(table: Table, settings: TintSettings) -> Table:
    """The inverse separation that the plan uses: the profile's, or one solved for the garment's tint."""
    if settings.separation is None:
        return table
    r, g, b = bands_from_srgb8(settings.garment).tolist()
    return inverse_table(settings.separation, (r, g, b))


@dataclass(frozen=True)
class RecipeSettings:
    """Colours that get their inks exactly."""

    recipes: tuple[Recipe, ...] = of("settings.recipes")


def recipe_areas(art: Rgba, settings: RecipeSettings, run: Run) -> Plane | None:
    """Which recipe holds where; ``None``: none does anywhere."""
    found = [
        run.beside("art", ("recipe", item.colour), partial(distances, art, item.colour, _FURTHEST_DE))
        for item in settings.recipes
    ]
    return recipe_plane(art, settings.recipes, found)


@dataclass(frozen=True)
class SeparationSettings:
    """Whether the artwork is printed in white alone, and recipes by the inks that the press has."""

    is_white_only: bool = of("settings.white.is_alone")
    recipes: tuple[Recipe, ...] = of("settings.recipes")
    inks: tuple[str, ...] = of("profile.inks")

    def __post_init__(self) -> None:
        if not self.recipes:
            settle(self, inks=())


def separated(
    art: Rgba,
    soft: Mask,
    ink_alpha: Plane,
    ink_table: Table,
    recipe_areas: Plane | None,
    settings: SeparationSettings,
) -> Inks:
    """Inks before any holes; in fades they follow ``ink_alpha``."""
    if settings.is_white_only:
        return np.zeros_like(art)
    if cv2.countNonZero(soft):
        art = art.copy()
        cv2.insertChannel(ink_alpha, art, 3)
    out = separate(art, ink_table)
    if recipe_areas is None:
        return out
    return with_recipes(out, alpha_of(art), recipe_areas, settings.recipes, settings.inks)


STAGES = (
    stage(table, 1, "Solving the inks"),
    stage(ink_table, 1),
    stage(recipe_areas, 1),
    stage(separated, 3, "Separating inks"),
)
