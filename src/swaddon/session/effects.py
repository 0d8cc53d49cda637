"""What other constants of a press change in a job: white, choke, and how near the print comes to its artwork."""

from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from swaddon.core.colour.spaces import bands_from_srgb8, delta_e_2000, lab_from_bands, lab_from_srgb8
from swaddon.core.engine import Run
from swaddon.core.plan.stages import Plan, make_plan
from swaddon.core.press.profile import PressProfile
from swaddon.core.proof.optics import Appearance, seen_bands
from swaddon.session.job import Job, request_for

_SAMPLES = 20_000


@dataclass(frozen=True)
class Effect:
    """One number of a job before and after."""

    title: str
    before: float
    after: float
    unit: str
    places: int

    @property
    def text(self) -> str:
        now, then = (f"{value:.{self.places}f}" for value in (self.after, self.before))
        unit = f" {self.unit}" if self.unit else ""
        return f"{self.title} {then} → {now}{unit}" if now != then else f"{self.title} {now}{unit}, as before"


def effects(job: Job, before: Plan, press: PressProfile, run: Run) -> tuple[Effect, ...]:
    """What a press profile with other constants changes in a planned job.

    ΔE00 is that of the print as the press really prints it, by the new constants: before with the inks of the old plan.
    """
    if job.file is None:
        return ()
    request = request_for(job.file.artwork, job.settings, press, job.all_tiles(), job.icc, job.sheet, job.ware)
    after = make_plan(replace(request, ppi=before.request.ppi), run)
    unit = before.request.profile.ink_unit
    amounts = [_white(plan) for plan in (before, after)]
    reach = [plan.request.registration.no_peek_mm for plan in (before, after)]
    real = Appearance.of(job.settings.garment, after.request.profile)
    off = [_mean_off(plan, real) for plan in (before, after)]
    out = [Effect("White", amounts[0], amounts[1], unit, 2)] if after.request.profile.has_white else []
    if after.request.profile.has_white:
        out.append(Effect("Choke that never peeks", reach[0], reach[1], "mm", 2))
        out.append(Effect("Choke that harms least", before.choke.recommended_mm, after.choke.recommended_mm, "mm", 2))
    return (*out, Effect("Mean ΔE of the print on this press", off[0], off[1], "", 1))


def _white(plan: Plan) -> float:
    return next((material.amount for material in plan.materials if material.kind == "white"), 0.0)


def _mean_off(plan: Plan, look: Appearance) -> float:
    """Mean ΔE00 between artwork and print over printed places, as a press of that appearance prints them."""
    alpha = plan.art[..., 3]
    places = np.flatnonzero((alpha > 250) & (plan.cmyk.any(axis=2) | (plan.white_plane > 0)))
    if not places.size:
        return 0.0
    chosen = places[:: max(1, places.size // _SAMPLES)]
    aim = plan.art.reshape(-1, 4)[chosen, :3]
    inks = plan.cmyk.reshape(-1, 4)[chosen] / 255
    white = plan.white_plane.ravel()[chosen] / 255
    bands = seen_bands(inks, white, _ground(look, chosen.size), look)
    return float(delta_e_2000(lab_from_bands(bands), lab_from_srgb8(aim)).mean())


def _ground(look: Appearance, count: int) -> NDArray[np.float64]:
    return np.asarray(np.broadcast_to(bands_from_srgb8(look.garment), (count, 3)), np.float64)
