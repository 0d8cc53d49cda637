"""Stages of the inks: how they follow fades, separation, and white, before and after the holes."""

from collections.abc import Hashable, Mapping
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from swaddon.core import holes, need, underbase
from swaddon.core.colour import lab_from_srgb8, xyz_from_lab
from swaddon.core.optics import Appearance
from swaddon.core.plan.engine import Run, Stage
from swaddon.core.plan.request import PlanRequest
from swaddon.core.plan.settings import PlanSettings
from swaddon.core.raster import Plane, Rgba
from swaddon.core.separation import interpolate, separate
from swaddon.core.strokes import Strokes, stroke_lengths, thin_strokes
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
    """Total coverage in percent up to which white lies under a colour; ``None``: by need, or no white under colour."""
    return {"none": None, "need": None, "solid": 400.0, "limit": settings.white.limit}[settings.white.mode]


def amount_key(settings: PlanSettings) -> Hashable:
    """What decides how much white lies under a colour, apart from garment and profile."""
    white = settings.white
    return white.mode, white.limit, white.allowed_shift, white.least, white.most


def colour_errors(request: PlanRequest, run: Run) -> need.NodeErrors:
    """ΔE00 of every colour for every amount of white on this garment, solved once and kept."""
    look = Appearance.of(request.settings.garment, request.profile)
    separation = request.profile.separation
    errors: need.NodeErrors = run.memo(
        ("white errors", separation, request.settings.garment, look.scatter, look.white_under),
        lambda: need.node_errors(separation, request.table(), look),
    )
    return errors


def white_need(request: PlanRequest, run: Run) -> need.NeedTable | None:
    """White by colour; ``None`` when white does not go by need."""
    white = request.settings.white
    if white.mode != "need":
        return None
    return need.need_table(colour_errors(request, run), white.allowed_shift, white.least, white.most)


def white_under(request: PlanRequest, run: Run, rgb: NDArray[np.uint8], inks: NDArray[Any]) -> NDArray[np.float64]:
    """White under some colours, 0..1: sRGB ``(n, 3)`` and their inks 0..1 ``(n, 4)``."""
    table, limit = white_need(request, run), white_limit(request.settings)
    if table is not None:
        four = np.repeat(table[..., None], 4, axis=3)
        return np.asarray(interpolate(four, rgb)[..., 0], np.float64)
    if limit is None:
        return np.zeros(len(rgb))
    return np.asarray(inks.sum(axis=-1) * 100 <= limit + 1, np.float64)


def white_of(
    request: PlanRequest,
    art: Rgba,
    cmyk: NDArray[np.uint8],
    soft: Plane,
    alpha: underbase.PrintAlpha,
    run: Run,
    counts: bool = False,
) -> White:
    """The white of artwork whose knockout and separation are done, before any holes; also serves a cut-out of it."""
    white = request.settings.white
    ramp = underbase.design_ramp(request.profile.white)
    figure = underbase.figure(art, soft, ramp, white.design)
    run.check()
    choke_px, least_px = (px_from_mm(mm, request.ppi) for mm in (white.choke_mm, request.profile.white.least_stroke_mm))
    chosen = pulled = underbase.pull_in(figure, choke_px)
    has_white = white.mode != "none" and choke_px > 0
    thin = thin_strokes(figure, choke_px, least_px) if has_white and (white.guard or counts) else None
    if white.guard and thin is not None:
        chosen = underbase.guarded(figure, pulled, thin, choke_px)
    run.check()
    table = white_need(request, run)
    amount = None if table is None else need.need_plane(art, table)
    limit = white_limit(request.settings)
    plane = underbase.lay(art, cmyk, chosen, alpha, ramp, limit, white.design, amount)
    whole, left = cv2.sumElems(figure)[0], cv2.sumElems(chosen)[0]
    taken = 1 - left / whole if whole > 0 and white.mode != "none" else 0.0
    if not counts or white.mode == "none":
        return White(plane, taken)
    strokes, of_solid = Strokes(), 1.0
    if thin is not None:
        strokes = stroke_lengths(figure, thin[0], pulled, chosen, choke_px + least_px, request.ppi)
    if white.mode != "solid":
        solid = cv2.sumElems(underbase.lay(art, cmyk, chosen, alpha, ramp, 400.0, white.design))[0]
        of_solid = cv2.sumElems(plane)[0] / solid if solid > 0 else 1.0
    return White(plane, taken, strokes, of_solid)


def _whole_white(request: PlanRequest, done: Mapping[str, Any], run: Run) -> White:
    return white_of(request, done["fades"].art, done["separate"], done["fades"].soft, done["alpha"], run, counts=True)


def _white(_request: PlanRequest, done: Mapping[str, Any], _run: Run) -> White:
    """White and colour share their holes, so white is cut by the same mask; the choke never widens a hole."""
    whole: White = done["whole white"]
    mask = done["cut"]
    if mask is None:
        return whole
    return White(
        np.asarray(cv2.bitwise_and(whole.plane, mask), np.uint8), whole.pulled_in_share, whole.strokes, whole.of_solid
    )


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
        lambda r: (
            r.settings.white,
            r.profile.white,
            r.profile.separation if r.settings.white.mode == "need" else None,
            r.settings.garment if r.settings.white.mode == "need" else None,
            r.ppi,
        ),
        _whole_white,
        "Laying white",
    ),
    Stage("white", 2, ("whole white", "cut"), lambda _: None, _white, "Cutting white"),
)
