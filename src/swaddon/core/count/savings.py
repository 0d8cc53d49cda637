"""What a knockout saves: the ink, powder and money that its colours would have cost."""

from collections.abc import Callable
from dataclasses import dataclass
from decimal import Decimal

import numpy as np
from numpy.typing import NDArray

from swaddon.core.count.consumption import Material, total_cost
from swaddon.core.inks.separation import Table, interpolate
from swaddon.core.press.profile import INKS, PressProfile
from swaddon.core.units import pixel_area_mm2


@dataclass(frozen=True)
class Worth:
    """Removed pixels and the ink they would have got, as full pixels of each ink (one hit)."""

    pixels: int
    full_px: dict[str, float]


@dataclass(frozen=True)
class Saving:
    """What one knockout leaves out: area in mm², inks in ml, powder in g, money unrounded."""

    area_mm2: float
    white_ml: float
    colour_ml: float
    powder_g: float
    cost: Decimal


def worth(
    codes: NDArray[np.int64],
    counts: NDArray[np.int64],
    table: Table,
    ramp: NDArray[np.uint8],
    under: Callable[[NDArray[np.uint8], NDArray[np.floating]], NDArray[np.float64]],
    design_white: bool,
) -> Worth:
    """Ink of removed colours under the plan's white, before any choke.

    Parameters
    ----------
    codes, counts
        Packed colours and how many pixels have each (``knockout.colour_counts``).
    table
        Inverse separation.
    ramp, design_white
        As in ``underbase.lay``.
    under
        White under colours, 0..1, by their sRGB ``(n, 3)`` and inks ``(n, 4)``.
    """
    rgb = np.stack([codes >> 16, codes >> 8 & 255, codes & 255], axis=-1).astype(np.uint8)
    inks = interpolate(table, rgb) / 255
    own = ramp[rgb.min(axis=1)] / 255 if len(rgb) else np.zeros(0)
    white = own * float(design_white) + (1 - own) * under(rgb, inks)
    full = {ink: float(counts @ inks[:, index]) for index, ink in enumerate(INKS)}
    return Worth(int(counts.sum()), full | {"W": float(counts @ white)})


def saving(item: Worth, profile: PressProfile, ppi: float) -> Saving:
    """Amounts and money of what was left out."""
    pixel_m2 = pixel_area_mm2(ppi) / 1e6
    ml = {ink: px * pixel_m2 * profile.lay_down_per_m2.get(ink, 0.0) for ink, px in item.full_px.items()}
    white = ml["W"] * sum(profile.hits)
    colour = sum(ml[slot.ink] for slot in profile.colour_slots)
    area_m2 = item.pixels * pixel_m2
    lines = [
        Material("White ink", "white", white, profile.white_ink),
        Material("Colour ink", "colour", colour, profile.colour_ink),
    ]
    powder = 0.0
    if profile.powder is not None and white + colour > 0:
        powder = profile.powder.per_area_g_m2 * area_m2 + profile.powder.per_ink_g_ml * (white + colour)
        lines.append(Material("Powder", "powder", powder, profile.powder.supply))
    return Saving(area_m2 * 1e6, white, colour, powder, total_cost(lines))
