"""The core sample: what lies at one point of the finished shirt, layer by layer, and how it looks."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from swaddon.core.colour.spaces import Rgb, bands_from_srgb8, delta_e_2000, lab_from_bands, srgb8_from_bands
from swaddon.core.inks.inverse import black_point
from swaddon.core.plan.report_inks import stack
from swaddon.core.plan.stages import Plan
from swaddon.core.press.profile import INKS
from swaddon.core.proof.optics import Appearance, seen_bands

TITLES = {
    "garment": "Garment", "pretreat": "Pretreat", "powder": "Powder", "W": "White", "H": "Highlight white",
    "C": "Cyan", "M": "Magenta",
    "Y": "Yellow", "K": "Black",
}  # fmt: skip


@dataclass(frozen=True)
class Layer:
    """One layer at the point: its name, how much of it, 0..1 of a full layer, and the amount in words."""

    key: str
    title: str
    share: float
    amount: str


@dataclass(frozen=True)
class CoreSample:
    """Layers from the garment outward; the colour seen, the colour wanted, and the ΔE00 between them."""

    x_mm: float
    y_mm: float
    layers: tuple[Layer, ...]
    seen: Rgb
    wanted: Rgb
    delta_e: float


def core_sample(plan: Plan, x_mm: float, y_mm: float) -> CoreSample | None:
    """What the plan lays at a place on the artboard; ``None`` beside it."""
    column, row = (int(mm / 25.4 * plan.ppi) for mm in (x_mm, y_mm))
    height, width = plan.white_plane.shape
    if not (0 <= column < width and 0 <= row < height) or min(x_mm, y_mm) < 0 or plan.grid is None:
        return None
    request = plan.request
    cmyk, white = plan.cmyk[row, column] / 255, float(plan.white_plane[row, column]) / 255
    light = 0.0 if plan.highlight is None else float(plan.highlight[row, column]) / 255
    look = Appearance.of(request.settings.garment, request.profile)
    ground = np.asarray(bands_from_srgb8(request.settings.garment), np.float64)
    both = white + light * request.profile.highlight_scatter / max(request.profile.scatter, 1e-9)
    bands = seen_bands(cmyk, np.array(both), ground, look)
    wanted, aim = _wanted(plan, row, column)
    layers = tuple(_layer(key, plan, cmyk.tolist(), white, light) for key in stack(request.profile))
    printed = white > 0 or bool(cmyk.any())
    kept = tuple(layer for layer in layers if layer.share > 0 and (printed or layer.key == "garment"))
    seen = srgb8_from_bands(bands)
    return CoreSample(
        x_mm,
        y_mm,
        kept,
        (int(seen[0]), int(seen[1]), int(seen[2])),
        wanted,
        float(delta_e_2000(lab_from_bands(bands), lab_from_bands(aim))),
    )


def _wanted(plan: Plan, row: int, column: int) -> tuple[Rgb, NDArray[np.float64]]:
    """The artwork's colour there, the garment's where a knockout took it or nothing is drawn; and the bands aimed at.

    The inks aim a little lighter than dark artwork, by their darkest print, as for every number of a plan.
    """
    assert plan.grid is not None
    garment = np.array(plan.request.settings.garment, np.float64)
    pixel = plan.grid[row, column].astype(np.float64)
    gone = plan.knocked is not None and plan.knocked.taken[row, column] > 0
    alpha = 0.0 if gone else pixel[3] / 255
    r, g, b = np.rint(alpha * pixel[:3] + (1 - alpha) * garment).astype(int).tolist()
    lift = alpha * black_point(plan.request.profile.separation)
    bands = np.asarray(bands_from_srgb8((r, g, b)), np.float64)
    return (r, g, b), lift + (1 - lift) * bands


def _layer(key: str, plan: Plan, cmyk: list[float], white: float, light: float) -> Layer:
    if key == "H":
        return Layer(key, TITLES[key], light, f"{light:.0%}")
    if key in INKS:
        share = cmyk[INKS.index(key)]
        return Layer(key, TITLES[key], share, f"{share:.0%}")
    if key == "W":
        hits = plan.request.profile.hits
        share = white * sum(hits) / max(len(hits), 1)
        return Layer(key, TITLES[key], share, f"{white:.0%}" + (f" × {len(hits)} hits" if len(hits) > 1 else ""))
    return Layer(key, TITLES[key], 1.0, "")
