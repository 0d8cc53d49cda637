"""Stages of the white: how much lies under each colour, how far it is pulled in, and what that saved and bared."""

from collections.abc import Hashable, Mapping
from dataclasses import dataclass, field
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from swaddon.core import need, underbase
from swaddon.core.optics import Appearance
from swaddon.core.plan.engine import Run, Stage
from swaddon.core.plan.request import PlanRequest
from swaddon.core.plan.settings import PlanSettings
from swaddon.core.raster import Plane, Rgba
from swaddon.core.separation import interpolate
from swaddon.core.strokes import Strokes, stroke_lengths, thin_strokes
from swaddon.core.underbase import Choked, White
from swaddon.core.units import px_from_mm


@dataclass(frozen=True)
class WhiteCheck:
    """What the choke did to thin strokes, white as a share of solid white, and the share that the choke took, 0..1."""

    strokes: Strokes = field(default_factory=Strokes)
    of_solid: float = 1.0
    taken_share: float = 0.0


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


def choked(request: PlanRequest, figure: Plane, run: Run, counts: bool = False) -> Choked:
    """The figure under the choke; with ``counts`` thin strokes are looked for even where nothing guards them."""
    white = request.settings.white
    choke_px, least_px = (px_from_mm(mm, request.ppi) for mm in (white.choke_mm, request.profile.white.least_stroke_mm))
    pulled = underbase.pull_in(figure, choke_px)
    if white.mode == "none" or choke_px == 0 or not (white.guard or counts):
        return Choked(figure, pulled, pulled)
    run.check()
    thin = thin_strokes(figure, choke_px, least_px)
    kept = underbase.guarded(figure, pulled, thin, choke_px) if white.guard else pulled
    return Choked(figure, pulled, kept, thin)


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
    under = choked(request, underbase.figure(art, soft, ramp, white.design), run, counts)
    run.check()
    table = white_need(request, run)
    amount = None if table is None else need.need_plane(art, table)
    plane = underbase.lay(art, cmyk, under.kept, alpha, ramp, white_limit(request.settings), white.design, amount)
    return White(plane, under if counts else None)


def _whole_white(request: PlanRequest, done: Mapping[str, Any], run: Run) -> White:
    return white_of(request, done["fades"].art, done["separate"], done["fades"].soft, done["alpha"], run, counts=True)


def _white(_request: PlanRequest, done: Mapping[str, Any], _run: Run) -> Plane:
    """White and colour share their holes, so white is cut by the same mask; the choke never widens a hole."""
    whole: Plane = done["whole white"].plane
    mask = done["cut"]
    return whole if mask is None else np.asarray(cv2.bitwise_and(whole, mask), np.uint8)


def _white_check(request: PlanRequest, done: Mapping[str, Any], _run: Run) -> WhiteCheck:
    settings, profile = request.settings.white, request.profile
    white: White = done["whole white"]
    under = white.choked
    if settings.mode == "none" or under is None:
        return WhiteCheck()
    strokes, of_solid = Strokes(), 1.0
    if under.thin is not None:
        reach_px = px_from_mm(settings.choke_mm + profile.white.least_stroke_mm, request.ppi)
        strokes = stroke_lengths(under.figure, under.thin[0], under.pulled, under.kept, reach_px, request.ppi)
    if settings.mode != "solid":
        ramp, art = underbase.design_ramp(profile.white), done["fades"].art
        solid = underbase.lay(art, done["separate"], under.kept, done["alpha"], ramp, 400.0, settings.design)
        whole = cv2.sumElems(solid)[0]
        of_solid = cv2.sumElems(white.plane)[0] / whole if whole > 0 else 1.0
    return WhiteCheck(strokes, of_solid, under.taken_share)


WHITE_STAGES = (
    Stage(
        "whole white",
        2,
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
    Stage("white", 3, ("whole white", "cut"), lambda _: None, _white, "Cutting white"),
)

CHECK_STAGES = (
    Stage(
        "white check",
        1,
        ("fades", "separate", "alpha", "whole white"),
        lambda _: None,
        _white_check,
        "Following thin strokes",
    ),
)
