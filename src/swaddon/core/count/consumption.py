"""What one shirt uses and costs. Amounts are floats in ml, g and m²; money is Decimal and rounded once, at the end."""

from collections.abc import Iterable
from dataclasses import dataclass, replace
from decimal import Decimal

from swaddon.core.count.measure import Measures
from swaddon.core.count.shared import SheetShare
from swaddon.core.press.profile import Powder, PressProfile, Sheet, Supply


@dataclass(frozen=True)
class Material:
    """One line of the tally: ``amount`` ends on the shirt, ``waste_share`` of it is bought on top."""

    name: str
    kind: str
    amount: float
    supply: Supply

    @property
    def bought(self) -> float:
        """Amount with waste."""
        return self.amount * (1 + self.supply.waste_share)

    @property
    def cost(self) -> Decimal:
        """Unrounded cost."""
        return Decimal(repr(self.bought)) * self.supply.unit_price


def total_cost(materials: Iterable[Material]) -> Decimal:
    """Unrounded sum of the materials' costs."""
    return sum((material.cost for material in materials), Decimal(0))


def amount_text(amount: float, unit: str) -> str:
    """An amount with its unit; areas in cm², because m² of one shirt say little; three digits when it is small.

    >>> amount_text(0.0123, "ml"), amount_text(1.5, "ml")
    ('0.012 ml', '1.50 ml')
    """
    if unit == "m²":
        return f"{amount * 10000:.0f} cm²"
    return f"{amount:.{3 if 0.0005 <= abs(amount) < 0.0995 else 2}f} {unit}"


def ink_amount(ink: str, measures: Measures, profile: PressProfile) -> float:
    """Amount of one full hit of an ink (C, M, Y, K, W, highlight H) in ml or g: coverage × area × lay-down."""
    return measures.coverage[ink] * measures.artboard_mm2 / 1e6 * profile.lay_down_per_m2["W" if ink == "H" else ink]


def powder_g(powder: Powder, printed_mm2: float, ink_volume_ml: float) -> float:
    """Adhesive powder in g: one share by printed area, one by ink volume.

    >>> from decimal import Decimal
    >>> supply = Supply("Powder", "g", Decimal("0.07"), 0.2)
    >>> round(powder_g(Powder(38.0, 0.5, supply), 0.02e6, 2.0), 2)
    1.76
    """
    if ink_volume_ml <= 0:
        return 0.0
    return powder.per_area_g_m2 * printed_mm2 / 1e6 + powder.per_ink_g_ml * ink_volume_ml


def sheet_amount(sheet: Sheet, measures: Measures) -> float:
    """Amount of a medium or fluid that goes by the box round the print, with the sheet's margin on each side."""
    width, height = measures.printed_size_mm
    if width == 0:
        return 0.0
    margin = 2 * sheet.margin_mm
    return (width + margin) * (height + margin) / 1e6 * sheet.amount_per_m2


def _sheets(sheet: Supply, measures: Measures, share: SheetShare | None) -> Material:
    whole = 1.0 if measures.printed_px else 0.0
    if share is None or not share.sheets:
        return Material(sheet.name, "sheet", whole, sheet)
    return Material(sheet.name, "sheet", whole * share.sheets, sheet)


def _film(film: Sheet, measures: Measures, share: SheetShare | None) -> Material:
    if share is None or not measures.printed_px:
        return Material("Film", "film", sheet_amount(film, measures), film.supply)
    return Material("Film", "film", share.film_mm2 / 1e6 * film.amount_per_m2, replace(film.supply, waste_share=0.0))


def materials_of(measures: Measures, profile: PressProfile, share: SheetShare | None = None) -> tuple[Material, ...]:
    """All that one shirt uses, in the order in which it is used.

    Film and sheets are those of the sheet that it was laid on, where there is one: its waste is in the share already.
    """
    ink = profile.ink_name
    white = ink_amount("W", measures, profile) * sum(profile.hits)
    white += ink_amount("H", measures, profile) * len(profile.highlight_slots)
    colour = sum(ink_amount(slot.ink, measures, profile) for slot in profile.colour_slots)
    lines = [Material(f"White {ink}", "white", white, profile.white_ink)] if profile.has_white else []
    lines.append(Material(f"Colour {ink}", "colour", colour, profile.colour_ink))
    if profile.pretreat is not None:
        treats = white > 0 or not profile.pretreat.only_under_white
        amount = sheet_amount(profile.pretreat, measures) if treats else 0.0
        lines.insert(0, Material("Pretreat", "pretreat", amount, profile.pretreat.supply))
    if profile.sheet is not None:
        lines.append(_sheets(profile.sheet, measures, share))
    if profile.film is not None:
        lines.append(_film(profile.film, measures, share))
    if profile.powder is not None:
        amount = powder_g(profile.powder, measures.printed_mm2, white + colour)
        lines.append(Material("Powder", "powder", amount, profile.powder.supply))
    return tuple(lines)
