"""The limit ladder: one artwork under several total-coverage limits, with the white each takes and how it will look."""

from dataclasses import dataclass, replace

import cv2
import numpy as np
from numpy.typing import NDArray

from swaddon.core.artwork.raster import Plane
from swaddon.core.colour.spaces import Rgb, bands_from_srgb8, delta_e_2000, lab_from_bands
from swaddon.core.engine import Run, run_stages
from swaddon.core.inks.inverse import target_lab
from swaddon.core.inks.separation import interpolate
from swaddon.core.order.request import PlanRequest
from swaddon.core.plan.outcome import PROOF_PX, small_proof
from swaddon.core.plan.stages import STAGES, Plan
from swaddon.core.proof.optics import Appearance, seen_bands

LIMITS = (170.0, 250.0, 280.0, 400.0)
"""Limits that are compared, in percent of C+M+Y+K (common practice, no source)."""


@dataclass(frozen=True, eq=False)
class Rung:
    """One limit.

    Attributes
    ----------
    limit
        Percent of C+M+Y+K up to which white lies under a colour.
    amount
        White of one shirt, in the ink's unit, all hits.
    worst_delta_e, worst
        Largest ΔE00 of a main colour to what was drawn, and that colour; ``None`` when nothing is printed.
    bare
        Main colours that get no white, largest first.
    proof
        ``uint8 (H, W, 3)``, sRGB on plain cloth.
    """

    limit: float
    amount: float
    worst_delta_e: float
    worst: Rgb | None
    bare: tuple[Rgb, ...]
    proof: NDArray[np.uint8]


def limit_ladder(plan: Plan, run: Run, longest_px: int = PROOF_PX) -> tuple[Rung, ...]:
    """The rungs of a whole (not lean) plan, lowest limit first; each is as the plan would be with that limit."""
    request, profile = plan.request, plan.request.profile
    full = plan.measures.artboard_mm2 / 1e6 * profile.lay_down_per_m2["W"] * sum(profile.hits)
    rungs = []
    for limit in LIMITS:
        white: Plane = run_stages(STAGES, _limited(request, limit), run, ("white",), known=plan.results).values["white"]
        worst, off, bare = _colours(plan, limit)
        amount = cv2.mean(white)[0] / 255 * full
        rungs.append(Rung(limit, amount, off, worst, bare, small_proof(plan, longest_px, white)))
    return tuple(rungs)


def _limited(request: PlanRequest, limit: float) -> PlanRequest:
    white = replace(request.settings.white, mode="limit", limit=limit)
    return replace(request, settings=replace(request.settings, white=white))


def _colours(plan: Plan, limit: float) -> tuple[Rgb | None, float, tuple[Rgb, ...]]:
    """The main colour that comes out worst, its ΔE00, and the main colours without white."""
    request = plan.request
    colours = [item.colour for item in plan.advice.colours]
    if not colours:
        return None, 0.0, ()
    rgb = np.array(colours, np.uint8)
    inks = interpolate(request.table(), rgb).astype(np.float64) / 255
    under = np.asarray(inks.sum(axis=1) * 100 <= limit + 1)
    look = Appearance.of(request.settings.garment, request.profile)
    ground = np.asarray(bands_from_srgb8(request.settings.garment), np.float64)
    light = lab_from_bands(seen_bands(inks, under.astype(np.float64), ground, look))
    off = delta_e_2000(light, target_lab(rgb.astype(np.float64), request.profile.separation))
    worst = int(np.argmax(off))
    return colours[worst], float(off[worst]), tuple(c for c, has in zip(colours, under, strict=True) if not has)
