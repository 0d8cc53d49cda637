"""Stages of the inks: how they follow fades, separation, and white, before and after the holes."""

from collections.abc import Mapping
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from swaddon.core import holes, underbase
from swaddon.core.colour import lab_from_srgb8, xyz_from_lab
from swaddon.core.optics import Appearance
from swaddon.core.plan.engine import Run, Stage
from swaddon.core.plan.request import PlanRequest
from swaddon.core.plan.settings import PlanSettings
from swaddon.core.raster import Plane, Rgba
from swaddon.core.separation import separate
from swaddon.core.underbase import White
from swaddon.core.units import px_from_mm


def _separate(request: PlanRequest, done: Mapping[str, Any], _run: Run) -> NDArray[np.uint8]:
    art: Rgba = done["fades"].art
    if cv2.countNonZero(done["fades"].soft):
        art = art.copy()
        cv2.insertChannel(done["alpha"].ink, art, 3)
    return separate(art, request.table())


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


def white_limit(settings: PlanSettings) -> float | None:
    """Total coverage in percent up to which white lies under a colour; ``None``: no white under colour."""
    return {"none": None, "solid": 400.0, "limit": settings.white.limit}[settings.white.mode]


def white_of(
    request: PlanRequest,
    art: Rgba,
    cmyk: NDArray[np.uint8],
    soft: Plane,
    alpha: underbase.PrintAlpha,
    run: Run,
) -> White:
    """The white of artwork whose knockout and separation are done, before any holes; also serves a cut-out of it."""
    white = request.settings.white
    ramp = underbase.design_ramp(request.profile.white)
    figure = underbase.figure(art, soft, ramp, white.design)
    run.check()
    coverage = underbase.pull_in(figure, px_from_mm(white.choke_mm, request.ppi))
    run.check()
    plane = underbase.lay(art, cmyk, coverage, alpha, ramp, white_limit(request.settings), white.design)
    whole, left = cv2.sumElems(figure)[0], cv2.sumElems(coverage)[0]
    taken = 1 - left / whole if whole > 0 and white.mode != "none" else 0.0
    return White(plane, taken)


def _whole_white(request: PlanRequest, done: Mapping[str, Any], run: Run) -> White:
    return white_of(request, done["fades"].art, done["separate"], done["fades"].soft, done["alpha"], run)


def _white(_request: PlanRequest, done: Mapping[str, Any], _run: Run) -> White:
    """White and colour share their holes, so white is cut by the same mask; the choke never widens a hole."""
    whole: White = done["whole white"]
    mask = done["cut"]
    if mask is None:
        return whole
    return White(np.asarray(cv2.bitwise_and(whole.plane, mask), np.uint8), whole.pulled_in_share)


INK_STAGES = (
    Stage(
        "alpha",
        1,
        ("fades",),
        lambda r: (r.profile.white, r.profile.slots, r.settings.garment, r.settings.white.mode == "none"),
        _alpha,
        "Following fades",
    ),
    Stage("separate", 1, ("fades", "alpha"), lambda r: r.profile.separation, _separate, "Separating inks"),
    Stage("inks", 1, ("separate", "zones", "cut", "give back"), lambda _: None, _inks, "Cutting inks"),
    Stage(
        "whole white",
        1,
        ("fades", "separate", "alpha"),
        lambda r: (r.settings.white, r.profile.white, r.ppi),
        _whole_white,
        "Laying white",
    ),
    Stage("white", 2, ("whole white", "cut"), lambda _: None, _white, "Cutting white"),
)
