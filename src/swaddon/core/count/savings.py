"""What ink that is not printed would cost: its amounts, powder and money."""

from dataclasses import dataclass
from decimal import Decimal

from swaddon.core.count.consumption import Material, total_cost
from swaddon.core.press.profile import PressProfile
from swaddon.core.units import pixel_area_mm2


@dataclass(frozen=True)
class Worth:
    """Pixels that might be left out and the ink they get, as full pixels of each ink (one hit)."""

    pixels: int
    full_px: dict[str, float]


@dataclass(frozen=True)
class Spared:
    """What is spared where pixels are left out: area in mm², inks in ml, powder in g, money unrounded."""

    area_mm2: float
    white_ml: float
    colour_ml: float
    powder_g: float
    cost: Decimal


def spared(item: Worth, profile: PressProfile, ppi: float) -> Spared:
    """Amounts and money of what would be left out."""
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
    return Spared(area_m2 * 1e6, white, colour, powder, total_cost(lines))
