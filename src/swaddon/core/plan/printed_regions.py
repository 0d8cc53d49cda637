"""Which regions of an artwork print: what was knocked out, cropped away or is left white is none to work on."""

from dataclasses import replace

import cv2
import numpy as np

from swaddon.core.artwork.placement import PointMap
from swaddon.core.artwork.raster import Mask
from swaddon.core.artwork.regions import RegionMap
from swaddon.core.plan.stages import Plan
from swaddon.core.proof.optics import printed_share

_SAMPLED_PX = 1_000_000
"""Regions are looked at on a grid of about so many points; one that no point meets is taken to print."""

_LEAST_SHARE = 0.05
"""A region prints from this share of it on: less is a rim that a knockout left (assumed)."""


def printing(found: RegionMap, plan: Plan) -> RegionMap:
    """The regions with those hidden that the plan prints nothing of."""
    white = plan.white_plane
    if plan.highlight is not None:
        white = np.asarray(cv2.max(white, plan.highlight), np.uint8)
    return replace(found, hidden=hidden_of(found, printed_share(plan.cmyk, white), plan.request.point_map))


def hidden_of(found: RegionMap, printed: Mask, where: PointMap) -> frozenset[int]:
    """Numbers of the regions that print nothing; ``printed`` is above 0 where ink is, on the plan's grid."""
    stride = max(1, round((found.labels.size / _SAMPLED_PX) ** 0.5))
    labels = found.labels[::stride, ::stride]
    rows, columns = np.nonzero(labels)
    numbers = labels[rows, columns]
    step = stride * found.reduction
    x, y = columns * step + found.reduction / 2, rows * step + found.reduction / 2
    across, down = where.placement.to_artboard((x, y), where.width_px, where.height_px)
    width, height = where.grid_size
    column, row = np.floor(across * width).astype(int), np.floor(down * height).astype(int)
    there = (column >= 0) & (row >= 0) & (column < printed.shape[1]) & (row < printed.shape[0])
    inked = np.zeros(len(numbers), np.bool_)
    inked[there] = printed[row[there], column[there]] > 0
    met = np.bincount(numbers, minlength=len(found.regions) + 1)
    shares = np.bincount(numbers, inked, minlength=len(found.regions) + 1) / np.maximum(met, 1)
    return frozenset(np.flatnonzero((met > 0) & (shares < _LEAST_SHARE)).tolist())
