"""Trouble: where white could peek, where colour lies bare, which lines are lost, haze, and dots too small to hold."""

import math
from dataclasses import dataclass
from typing import Literal

import cv2
import numpy as np

from swaddon.core import underbase
from swaddon.core.optics import printed_share
from swaddon.core.plan.engine import Run
from swaddon.core.plan.ink_stages import fade_tables
from swaddon.core.plan.stages import Plan
from swaddon.core.plan.white_stages import Ground, figure_of, laid, white_limit
from swaddon.core.raster import Mask, Plane, place
from swaddon.core.strokes import thinner_than
from swaddon.core.units import mm_from_px, pixel_area_mm2, px_from_mm

Kind = Literal["haze", "dots", "peek", "rim", "lost"]
KINDS: tuple[Kind, ...] = ("haze", "dots", "peek", "rim", "lost")
"""In the order in which one covers another: a lost line is also a bare rim."""

_LITTLE, _SOME = 32, 64


@dataclass(frozen=True)
class Patch:
    """One kind of trouble: its area in mm², and a place well inside its largest part (mm on the artboard)."""

    kind: Kind
    area_mm2: float
    x_mm: float
    y_mm: float


@dataclass(frozen=True, eq=False)
class Trouble:
    """``plane`` is ``uint8 (H, W)``: 0 = none, else 1 + the place of its kind in ``KINDS``."""

    plane: Plane
    patches: tuple[Patch, ...]


def find_trouble(plan: Plan, run: Run) -> Trouble:
    """Look a whole (not lean) plan over."""
    masks: dict[Kind, Mask] = {"haze": underbase.haze(plan.art, plan.treated.soft)}
    printed = printed_share(plan.cmyk, plan.white_plane)
    run.check()
    masks["dots"] = _small_dots(printed, px_from_mm(plan.request.profile.holds.dot_mm, plan.ppi))
    masks["peek"] = _peeking(plan)
    run.check()
    masks["rim"] = _bare(plan, run)
    white = plan.request.settings.white
    least_px, choke_px = (
        px_from_mm(mm, plan.ppi) for mm in (plan.request.profile.white.least_stroke_mm, white.choke_mm)
    )
    thin = thinner_than(_figure(plan), choke_px + least_px / 2)
    masks["lost"] = np.asarray(cv2.bitwise_and(masks["rim"], thin), np.uint8)
    plane = np.zeros(printed.shape, np.uint8)
    patches = []
    for index, kind in enumerate(KINDS, start=1):
        mask = masks[kind]
        plane[mask > 0] = index
        count = cv2.countNonZero(mask)
        x, y = place(mask) if count else (0.0, 0.0)
        area = count * pixel_area_mm2(plan.ppi)
        patches.append(Patch(kind, area, mm_from_px(x, plan.ppi), mm_from_px(y, plan.ppi)))
    return Trouble(plane, tuple(patches))


def _figure(plan: Plan) -> Plane:
    return figure_of(plan.request, plan.art, plan.treated.soft, plan.design)


def _own_white(plan: Plan) -> Mask:
    """Mask (255) of white of the design, which is meant to be seen."""
    ramp = underbase.design_ramp(plan.request.profile.white)
    lowest = plan.art[..., :3].min(axis=2)
    return np.asarray(cv2.bitwise_and(cv2.inRange(ramp[lowest], 128, 255), cv2.inRange(plan.art[..., 3], 1, 255)))


def _peeking(plan: Plan) -> Mask:
    """Where white under colour comes out of it under the worst registration and the press's squeeze."""
    reach = math.ceil(px_from_mm(plan.request.settings.registration(plan.request.profile).reach_mm, plan.ppi))
    own = _own_white(plan)
    under = cv2.bitwise_and(cv2.inRange(plan.white_plane, 128, 255), cv2.bitwise_not(own))
    disc = cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (2 * reach + 1, 2 * reach + 1))
    figure = cv2.inRange(_figure(plan), 128, 255)
    return np.asarray(cv2.bitwise_and(cv2.dilate(under, disc), cv2.bitwise_not(cv2.bitwise_or(figure, own))), np.uint8)


def _bare(plan: Plan, run: Run) -> Mask:
    """Where colour is printed that white should lie under, and none does."""
    assert plan.separated is not None
    request, white = plan.request, plan.request.settings.white
    if white.mode == "none":
        return np.zeros(plan.white_plane.shape, np.uint8)
    alpha = underbase.print_alpha(plan.art, plan.treated.soft, fade_tables(request))
    full = np.full(plan.white_plane.shape, 255, np.uint8)
    ground = Ground(plan.art, plan.separated, plan.treated.soft, alpha, plan.design)
    wanted = laid(request, ground, full, white_limit(request.settings), run)
    inked = printed_share(plan.cmyk, np.zeros_like(full))
    bare = cv2.bitwise_and(cv2.inRange(wanted, _SOME, 255), cv2.inRange(plan.white_plane, 0, _LITTLE))
    return np.asarray(cv2.bitwise_and(bare, inked), np.uint8)


def _small_dots(printed: Mask, dot_px: float) -> Mask:
    """Lone printed specks of less area than the smallest dot that holds."""
    count, parts, stats, _ = cv2.connectedComponentsWithStats(printed, connectivity=8)
    small = np.where(stats[:, cv2.CC_STAT_AREA] < math.pi / 4 * dot_px**2, np.uint8(255), np.uint8(0))
    small[0] = 0
    return small[parts] if count > 1 else np.zeros_like(printed)
