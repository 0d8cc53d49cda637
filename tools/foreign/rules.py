"""Rules that need no eye: what a plan of any artwork must keep."""

import io
import itertools
from dataclasses import dataclass
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray
from PIL import Image

from swaddon.core.artwork.artwork import Artwork
from swaddon.core.colour.spaces import bands_from_srgb8, delta_e_2000, lab_from_bands, lab_from_srgb8
from swaddon.core.engine import Cache, Run, run_stages
from swaddon.core.inks.inverse import target_lab
from swaddon.core.inks.separation import interpolate
from swaddon.core.plan.stages import STAGES, Plan
from swaddon.core.proof.optics import Appearance, seen_bands
from swaddon.core.white.design_white import own_mask
from swaddon.core.white.underbase import Choked, design_ramp
from swaddon.io.export import proof_picture

FAINT = 3
FAINT_MOST = 0.12
"""Mean print of pixels of alpha 1 to ``FAINT`` that is let pass, as a share of a full one."""

INKED = 64
"""Ink of 255 that an opaque colour has at least, to be asked how it fades."""

LOOKS_LIKE, WITHIN = 12.0, 3.0
"""Median ΔE00 of the proof to the artwork's own aim where nothing was knocked out, of colours that the inks come within
``WITHIN`` of on full white."""


@dataclass(frozen=True)
class Broken:
    """One rule that a plan breaks: by how much, as a multiple of what is let pass."""

    rule: str
    by: float
    text: str


def decoded_otherwise(data: bytes, art: Artwork) -> Broken | None:
    """The decode held against OpenCV's, and where they differ against Pillow's: none of the three is always right.

    Profiles, palettes with odd alpha and turned pictures are left to tests.
    """
    if b"acTL" in data[:4096]:
        return None  # an animation: its frames may differ from its still picture
    if art.profile or any("turned" in note or "CMYK" in note or "profile" in note for note in art.notes):
        return None
    other = cv2.imdecode(np.frombuffer(data, np.uint8), cv2.IMREAD_UNCHANGED | cv2.IMREAD_IGNORE_ORIENTATION)
    if other is None or other.shape[:2] != art.rgba.shape[:2]:
        return None
    wanted = _eight(other)
    if wanted.ndim == 2:
        wanted = np.repeat(wanted[..., None], 3, axis=2)
    try:
        head = Image.open(io.BytesIO(data))
        if head.mode in ("P", "PA", "1", "F", "I") or "transparency" in head.info:
            return None
        third = np.asarray(head.convert("RGBA"))[..., :3]
    except OSError:
        third = wanted[..., 2::-1]
    worst = min(_off(art, wanted[..., 2::-1]), _off(art, third))
    limit = 12.0 if art.file_format in ("JPEG", "WEBP") else 1.5
    return Broken("decoded alike", worst / limit, f"off by {worst:.0f} of 255") if worst > limit else None


def meant(art: Artwork, meaning: NDArray[np.uint8]) -> Broken | None:
    """The decode held against what a picture means; the last value is how far it may be off."""
    off, limit = np.abs(art.rgba.astype(int) - meaning[:-1].reshape(art.rgba.shape)).max(), int(meaning[-1])
    return Broken("colour as its profile says", float(off / limit), f"off by {off} of 255") if off > limit else None


def _off(art: Artwork, rgb: NDArray[Any]) -> float:
    """The 99th percentile of the differences where anything is to be seen."""
    off = np.abs(art.rgba[..., :3].astype(int) - rgb)[art.rgba[..., 3] > 0]
    return float(np.percentile(off, 99)) if off.size else 0.0


def _eight(values: NDArray[Any]) -> NDArray[np.uint8]:
    if values.dtype in (np.uint16, np.uint32):
        return np.rint(values * (255.0 / np.iinfo(values.dtype).max)).astype(np.uint8)
    if values.dtype != np.uint8:
        return np.clip(np.rint(values * 255.0), 0, 255).astype(np.uint8)
    return values


def broken(plan: Plan) -> list[Broken]:
    """The rules that a plan breaks."""
    assert plan.grid is not None
    found: list[Broken | None] = [_outside(plan), _faint(plan), _grows(plan), _white_outside(plan), _shares(plan)]
    found.append(_looks(plan))
    return [item for item in found if item is not None]


def _laid(plan: Plan) -> NDArray[np.float64]:
    return np.maximum(plan.cmyk.max(axis=2), plan.white_plane) / 255


def _outside(plan: Plan) -> Broken | None:
    assert plan.grid is not None
    outside = int(np.count_nonzero((plan.grid[..., 3] == 0) & (_laid(plan) > 0)))
    return (
        Broken("nothing outside the artwork", outside, f"{outside} px print where there is no artwork")
        if outside
        else None
    )


def _faint(plan: Plan) -> Broken | None:
    assert plan.grid is not None
    alpha = plan.grid[..., 3]
    faint = (alpha > 0) & (alpha <= FAINT)
    if np.count_nonzero(faint) < 200:
        return None
    mean = float(_laid(plan)[faint].mean())
    return (
        Broken("faint alpha prints faintly", mean / FAINT_MOST, f"{mean:.2f} of a full print")
        if mean > FAINT_MOST
        else None
    )


def _grows(plan: Plan) -> Broken | None:
    """White of fades, and ink as a share of the colour's own, hardly ever fall in sixteen steps of alpha.

    A pale fade prints less ink than a dark one, whatever its alpha; inks are told by what it has when opaque.
    Rims are cut, not faded, and the choke takes white from them.
    """
    assert plan.grid is not None
    is_fade = (plan.treated.soft_before > 0) & (_choked(plan).kept == 255)
    alpha = np.where(is_fade, plan.grid[..., 3], 0)
    opaque = interpolate(plan.request.table(), np.ascontiguousarray(plan.grid[..., :3].reshape(-1, 3))).max(axis=1)
    own = opaque.reshape(alpha.shape).astype(np.float64)
    share = plan.cmyk.max(axis=2) / np.maximum(own, 1)
    worst = max(_fall(share, alpha, own >= INKED), _fall(plan.white_plane / 255, alpha, own >= 0))
    return Broken("print grows with alpha", worst / 0.25, f"falls by {worst:.2f}") if worst > 0.25 else None


def _choked(plan: Plan) -> Choked:
    """The figure under the choke, computed again: no plan keeps it."""
    found = run_stages(STAGES, plan.request, Run(Cache()), until=("choked",), known=plan.results)
    choked: Choked = found.values["choked"]
    return choked


def _fall(share: NDArray[np.float64], alpha: NDArray[np.uint8], where: NDArray[np.bool_]) -> float:
    """The largest fall of a mean from one step of alpha to the next."""
    means = [float(share[chosen].mean()) for low in range(1, 255, 16)
             if np.count_nonzero(chosen := where & (alpha >= low) & (alpha < low + 16)) > 400]  # fmt: skip
    return max((before - after for before, after in itertools.pairwise(means)), default=0.0)


def _white_outside(plan: Plan) -> Broken | None:
    """White lies under colour, or is white of the design."""
    own = own_mask(plan.art, design_ramp(plan.request.profile.white)) > 0
    pale = plan.art[..., :3].min(axis=2) >= 200
    beside = int(np.count_nonzero((plan.white_plane > 8) & (plan.cmyk.max(axis=2) == 0) & ~own & ~pale))
    return (
        Broken("white under colour only", beside / 50, f"{beside} px of white without colour") if beside > 50 else None
    )


def _shares(plan: Plan) -> Broken | None:
    shares = [*plan.measures.coverage.values(), plan.checks.white.of_solid, plan.checks.white.taken_share]
    off = [value for value in shares if not -1e-9 <= value <= 1 + 1e-9]
    return Broken("shares within 0 to 1", len(off), f"{off}") if off else None


def _looks(plan: Plan) -> Broken | None:
    """The proof against the artwork's aim, on opaque colours away from edges."""
    assert plan.grid is not None
    picture, ppi = proof_picture(plan)
    height, width = picture.shape[:2]
    art, drawn = (cv2.resize(part, (width, height), interpolation=cv2.INTER_AREA) for part in (plan.art, plan.grid))
    whole = (art[..., 3] == 255) & (drawn[..., 3] == 255)
    solid = cv2.erode(whole.astype(np.uint8), np.ones((9, 9), np.uint8)) > 0
    if np.count_nonzero(solid) < 400 or plan.request.settings.white.mode == "none":
        return None
    separation = plan.request.profile.separation
    every = max(1, np.count_nonzero(solid) // 4000)
    rgb = art[solid][::every, :3]
    aim = target_lab(rgb.astype(float), separation)
    inks = interpolate(plan.request.table(), np.ascontiguousarray(rgb)) / 255
    held = delta_e_2000(_on_full_white(plan, inks), aim) < WITHIN
    off = delta_e_2000(lab_from_srgb8(picture[solid][::every]), aim)[held]
    if off.size < 100:
        return None
    median = float(np.median(off))
    return (
        Broken("looks like the artwork", median / LOOKS_LIKE, f"median ΔE {median:.1f}")
        if median > LOOKS_LIKE
        else None
    )


def _on_full_white(plan: Plan, inks: NDArray[Any]) -> NDArray[Any]:
    """CIELAB of inks on solid white on the plan's garment."""
    garment = plan.request.settings.garment
    ground = np.asarray(bands_from_srgb8(garment), np.float64)
    look = Appearance.of(garment, plan.request.profile)
    return np.asarray(lab_from_bands(seen_bands(inks.astype(np.float64), np.ones(len(inks)), ground, look)))
