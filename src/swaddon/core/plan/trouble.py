"""Trouble: where white could peek, where colour lies bare, which lines are lost, haze, and dots too small to hold."""

import math
from dataclasses import dataclass
from typing import Literal

import cv2
import numpy as np

from swaddon.core.artwork.raster import Mask, Plane, place
from swaddon.core.engine import Run, run_stages
from swaddon.core.knockout.soft import haze
from swaddon.core.plan.stages import STAGES, Plan
from swaddon.core.proof.optics import printed_share
from swaddon.core.units import mm_from_px, pixel_area_mm2, px_from_mm
from swaddon.core.white.strokes import thinner_than

Kind = Literal["haze", "dots", "peek", "rim", "lost"]
KINDS: tuple[Kind, ...] = ("haze", "dots", "peek", "rim", "lost")
"""In the order in which one covers another: a lost line is also a bare rim."""

_SHOWN = 32
"""Coverage, of 255, from which an edge's trouble is drawn (assumed); its area counts all of it."""


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
    masks: dict[Kind, Mask] = {"haze": haze(plan.art, plan.treated.soft)}
    printed = printed_share(plan.cmyk, plan.white_plane)
    run.check()
    masks["dots"] = _small_dots(printed, px_from_mm(plan.request.profile.holds.dot_mm, plan.ppi))
    edges = plan.checks.edges
    areas = {"peek": edges.peek_mm2, "rim": edges.rim_mm2}
    masks["peek"], masks["rim"] = (np.asarray(cv2.inRange(plane, _SHOWN, 255)) for plane in (edges.peek, edges.rim))
    run.check()
    choke_px = plan.request.settings.white.choke_px(plan.ppi)
    least_px = px_from_mm(plan.request.profile.white.least_stroke_mm, plan.ppi)
    figure: Plane = run_stages(STAGES, plan.request, run, ("figure",), known=plan.results).values["figure"]
    thin = thinner_than(figure, choke_px + least_px / 2)
    masks["lost"] = _without_white(cv2.bitwise_and(masks["rim"], thin), plan.white_plane, choke_px + least_px)
    plane = np.zeros(printed.shape, np.uint8)
    patches = []
    for index, kind in enumerate(KINDS, start=1):
        mask = masks[kind]
        plane[mask > 0] = index
        count = cv2.countNonZero(mask)
        x, y = place(mask) if count else (0.0, 0.0)
        area = areas.get(kind, count * pixel_area_mm2(plan.ppi))
        patches.append(Patch(kind, area, mm_from_px(x, plan.ppi), mm_from_px(y, plan.ppi)))
    return Trouble(plane, tuple(patches))


def _without_white(strokes: Mask, white: Plane, reach_px: float) -> Mask:
    """Parts of strokes that have no white within reach: a rim beside a core of white is no lost line."""
    if not cv2.countNonZero(strokes):
        return strokes
    away = cv2.distanceTransform(cv2.inRange(white, 0, 31), cv2.DIST_L2, cv2.DIST_MASK_5)
    return np.asarray(cv2.bitwise_and(strokes, cv2.inRange(away, reach_px, float("inf"))), np.uint8)


def _small_dots(printed: Mask, dot_px: float) -> Mask:
    """Lone printed specks of less area than the smallest dot that holds."""
    count, parts, stats, _ = cv2.connectedComponentsWithStats(printed, connectivity=8)
    small = np.where(stats[:, cv2.CC_STAT_AREA] < math.pi / 4 * dot_px**2, np.uint8(255), np.uint8(0))
    small[0] = 0
    return small[parts] if count > 1 else np.zeros_like(printed)
