"""Stages of the inks: how they and the white follow fades, separation, and inks before and after the holes."""

from collections.abc import Mapping
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from swaddon.core.artwork.raster import Rgba
from swaddon.core.colour.spaces import bands_from_srgb8, lab_from_srgb8, xyz_from_lab
from swaddon.core.engine import Run, Stage
from swaddon.core.holes import holes
from swaddon.core.inks.inverse import inverse_table
from swaddon.core.inks.separation import Table, separate
from swaddon.core.order.request import LOOK, PlanRequest
from swaddon.core.proof.optics import Appearance
from swaddon.core.white import underbase


def _separate(request: PlanRequest, done: Mapping[str, Any], _run: Run) -> NDArray[np.uint8]:
    art: Rgba = done["fades"].art
    if cv2.countNonZero(done["fades"].soft):
        art = art.copy()
        cv2.insertChannel(done["alpha"].ink, art, 3)
    if request.settings.white.mode == "only":
        return np.zeros_like(art)
    return separate(art, ink_table(request))


def ink_table(request: PlanRequest) -> Table:
    """The inverse separation that the plan uses: the profile's, or one solved for the garment's tint."""
    if not request.settings.strengthens:
        return request.table()
    r, g, b = bands_from_srgb8(request.settings.garment).tolist()
    return inverse_table(request.profile.separation, (r, g, b))


def ink_reads(request: PlanRequest) -> tuple[str, ...]:
    """What decides the inks of a colour."""
    own = ("profile.separation", "solve_table", "settings.white.strengthen", "settings.white.mode")
    return (*own, "settings.garment") if request.settings.strengthens else own


def _inks(_request: PlanRequest, done: Mapping[str, Any], _run: Run) -> NDArray[np.uint8]:
    mask, laid = done["cut"], done["zones"]
    if mask is None or laid is None:
        separated: NDArray[np.uint8] = done["separate"]
        return separated
    return holes.punch(done["separate"], mask, laid.plane, done["give back"])


def _alpha(request: PlanRequest, done: Mapping[str, Any], _run: Run) -> underbase.PrintAlpha:
    return underbase.print_alpha(done["fades"].art, done["fades"].soft, fade_tables(request))


def fade_tables(request: PlanRequest) -> underbase.FadeTables | None:
    """How white and inks follow alpha in fades; plain alpha without white under the colour."""
    if request.settings.white.mode == "none" or not request.profile.white_under_colour:
        return None
    luminance = float(xyz_from_lab(lab_from_srgb8(request.settings.garment))[1])
    look = Appearance.of(request.settings.garment, request.profile)
    return underbase.fade_tables(luminance**0.5, look.scatter)


def _alpha_reads(request: PlanRequest) -> tuple[str, ...]:
    if request.settings.white.mode == "none":
        return ("settings.white.mode",)
    return ("settings.white.mode", *LOOK)


INK_STAGES = (
    Stage("alpha", 1, ("fades",), _alpha_reads, _alpha, "Following fades"),
    Stage("separate", 2, ("fades", "alpha"), ink_reads, _separate, "Separating inks"),
    Stage("inks", 1, ("separate", "zones", "cut", "give back"), (), _inks, "Cutting inks"),
)
