"""What one piece costs, part by part, each with its formula. Money is Decimal, rounded only when it is shown."""

import math
from collections.abc import Iterable
from dataclasses import dataclass
from decimal import Decimal

from swaddon.core.count.consumption import Material, amount_text
from swaddon.core.count.money import money_text, places
from swaddon.core.press.profile import INKS, PressProfile
from swaddon.core.press.wares import ware_of
from swaddon.core.shop.book import Book, Price, page_g
from swaddon.core.shop.sureness import CostSpread, cost_spread
from swaddon.core.shop.used import INK_ROLES, Used

PRINT_KINDS = ("white", "colour", "film", "sheet", "powder", "pretreat")
"""Kinds of parts that the print itself is made of; all others are round it."""


@dataclass(frozen=True)
class Part:
    """One part of a cost.

    Attributes
    ----------
    kind, title
        ``white``, ``colour``, ``film``, ``sheet``, ``powder``, ``pretreat``, ``upkeep``, ``cover``, ``garment``,
        ``labour``, ``machine``, ``energy``, ``packaging`` or ``spoilage``; and its name on the bench.
    amount, unit, unit_price
        What is paid for, waste included, and the price of one unit.
    cost
        Unrounded.
    formula
        Lines of its arithmetic with the numbers in it, the last one the result.
    pm
        95 % interval of the cost by what its constants are unsure, in money.
    """

    kind: str
    title: str
    amount: float
    unit: str
    unit_price: Decimal
    cost: Decimal
    formula: tuple[str, ...]
    pm: float = 0.0


@dataclass(frozen=True)
class Costing:
    """The cost of one piece: its parts in the order of the work, and how sure the sum is."""

    parts: tuple[Part, ...]
    currency: str
    spread: CostSpread

    @property
    def total(self) -> Decimal:
        """Unrounded sum of all parts."""
        return _sum(self.parts)

    @property
    def of_print(self) -> Decimal:
        """Unrounded sum of the parts that the print is made of."""
        return _sum(part for part in self.parts if part.kind in PRINT_KINDS)

    @property
    def pm(self) -> float:
        """95 % interval of the total: what is round the print is taken as known, spoilage follows it."""
        scale = 1.0 if not self.total else float(self.total / (self.total - self.cost_of("spoilage")))
        return self.spread.pm * scale

    @property
    def places(self) -> int:
        """Decimals that tell the total and each of its parts."""
        return places(self.total, (part.cost for part in self.parts if part.cost))

    def cost_of(self, kind: str) -> Decimal:
        """Unrounded cost of a kind of part; 0 where there is none."""
        return _sum(part for part in self.parts if part.kind == kind)


def _sum(parts: Iterable[Part]) -> Decimal:
    return sum((part.cost for part in parts), Decimal(0))


def costing(used: Used, press: PressProfile, book: Book, garment: str = "", piece: str = "") -> Costing:
    """What one piece costs on a garment of some name; ``piece`` is what it is called where the name does not say.

    Materials are at the prices of the press profile (``book.with_prices``), all else at those of the table; what has no
    row there is not counted.
    """
    spread = cost_spread(used, press)
    piece = piece or ware_of(press.printing, garment).piece
    parts = [
        material_part(material, used, press, piece, spread.by_kind.get(material.kind, 0.0))
        for material in used.materials
    ]
    if used.printed_m2 > 0:
        parts += _round_the_print(used, press, book, garment, piece)
    return Costing((*parts, *_spoilage(parts, press)), press.currency, spread)


def material_part(material: Material, used: Used, press: PressProfile, piece: str, pm: float = 0.0) -> Part:
    """The part of a material, with the arithmetic from its areas to its money."""
    supply, currency = material.supply, press.currency
    lines = [
        *_amount_lines(material, used, press),
        *_pages_line(material, press),
        f"{amount_text(material.amount, supply.unit)} on the {piece} + {supply.waste_share:.0%} waste = "
        f"{_number(material.bought)} {supply.unit}",
        f"× {_price(supply.unit_price)} {currency} per {supply.unit}" + (f" ({supply.note})" if supply.note else ""),
        _result(material.cost, currency, pm),
    ]
    return Part(
        material.kind, material.name, material.bought, supply.unit, supply.unit_price, material.cost, tuple(lines), pm
    )


def _amount_lines(material: Material, used: Used, press: PressProfile) -> list[str]:
    """Where the amount of a material comes from."""
    unit = material.supply.unit
    if material.kind in ("white", "colour"):
        inks = [ink for ink in ("W", "H", *INKS) if INK_ROLES[ink] == material.kind and used.full_m2.get(ink)]
        hits = sum(press.hits)
        return [
            f"{ink}: {used.full_m2[ink] * 1e4:.1f} cm² of full hits"
            + (f" ({hits:g} hits)" if ink == "W" and hits != 1 else "")
            + f" × {press.lay_down_per_m2['W' if ink == 'H' else ink]:g} {unit}/m²"
            for ink in inks
        ]
    if material.kind == "powder" and press.powder is not None:
        ink = used.amount("white") + used.amount("colour")
        return [
            f"{used.printed_m2 * 1e4:.1f} cm² printed × {press.powder.per_area_g_m2:g} g/m²",
            f"+ {_number(ink)} {press.ink_unit} of ink × {press.powder.per_ink_g_ml:g} g/{press.ink_unit}",
        ]
    if material.kind in ("film", "sheet"):
        return _medium_lines(material, used, press)
    if material.kind == "pretreat" and press.pretreat is not None:
        per_m2 = press.pretreat.amount_per_m2
        return [
            _box_line(used, press.pretreat.margin_mm),
            f"{used.pretreat_m2 * 1e4:.0f} cm² sprayed × {per_m2:g} {unit}/m²",
        ]
    return []


def _medium_lines(material: Material, used: Used, press: PressProfile) -> list[str]:
    """Where an amount of film or sheets comes from."""
    if used.share is not None and (material.kind == "film" or used.share.sheets):
        return [f"Its share of {used.share.medium}, by area, with what lies empty between the prints"]
    if material.kind == "film" and press.film is not None:
        return [_box_line(used, press.film.margin_mm)]
    return []


def _box_line(used: Used, margin_mm: float) -> str:
    """The box that film or pretreat takes up."""
    length, width = used.printed_size_mm[1], used.printed_size_mm[0]
    return f"Length ({length:.1f} + 2 × {margin_mm:g}) mm × width ({width:.1f} + 2 × {margin_mm:g}) mm"


def _pages_line(material: Material, press: PressProfile) -> list[str]:
    """Toner as pages by which yields are stated."""
    if press.ink_unit != "g" or material.kind not in ("white", "colour") or not material.amount:
        return []
    page = float(page_g(press, "white ink" if material.kind == "white" else "colour ink"))
    return [f"= {material.amount / page:.1f} pages of 5 % coverage (ISO/IEC 19798), {_number(page)} g each"]


def _round_the_print(used: Used, press: PressProfile, book: Book, garment: str, piece: str) -> list[Part]:
    working, out = press.working, []

    def price(item: str, *names: str) -> Price | None:
        found = book.price(item, *names)  # type: ignore[arg-type]
        return found if found is None or found.currency == press.currency else None

    out += _upkeep(press)
    names = (press.name, press.process)
    if (cover := price("cover sheet", *names)) and (covers := working.covers_for(used.gets)):
        out.append(_part("cover", "Cover sheets", covers, cover, press, (f"{covers:g} presses under a sheet",)))
    if goods := price("garment", garment):
        out.append(_part("garment", garment or piece.capitalize(), 1.0, goods, press, (f"One {piece}",)))
    if labour := price("labour", *names):
        hands = used.gets.of(working.hands_s)
        seconds = sum(each for _, each in hands)
        lines = tuple(f"{stage}: {each:g} s" for stage, each in hands)
        out.append(_part("labour", "Labour", seconds / 3600, labour, press, (*lines, f"= {seconds:g} s")))
    if machine := price("machine", *names):
        why = (f"{used.print_s:.1f} s of printing",)
        out.append(_part("machine", "Machine hours", used.print_s / 3600, machine, press, why))
    if energy := price("energy", *names):
        machines = used.gets.of(working.energy_wh)
        drawn = sum(each for _, each in machines)
        lines = tuple(f"{name}: {each:g} Wh" for name, each in machines)
        out.append(_part("energy", "Energy", drawn / 1000, energy, press, lines))
    if packaging := price("packaging", *names):
        out.append(_part("packaging", "Packaging", 1.0, packaging, press, ("One piece packed",)))
    return [part for part in out if part.amount > 0]


def _part(kind: str, title: str, amount: float, price: Price, press: PressProfile, why: tuple[str, ...]) -> Part:
    waste = Decimal(1) if price.waste_percent is None else 1 + price.waste_percent / 100
    cost = Decimal(repr(amount)) * waste * price.unit_price
    lines = [*why]
    if waste != 1:
        lines.append(f"+ {price.waste_percent:f} % waste")
    lines.append(
        f"{_number(amount * float(waste))} {price.base_unit} × {_price(price.unit_price)} {press.currency} "
        f"({price.told})"
    )
    lines.append(_result(cost, press.currency))
    return Part(kind, title, amount * float(waste), price.base_unit, price.unit_price, cost, tuple(lines))


def _upkeep(press: PressProfile) -> list[Part]:
    """Ink of cleaning and circulation, spread over the day's pieces."""
    working = press.working
    shares = [
        ("white", working.purge_white_per_day if press.has_white else 0.0, press.white_ink),
        ("colour", working.purge_colour_per_day, press.colour_ink),
    ]
    amount = sum(each for _, each, _ in shares) / working.pieces_per_day
    if amount <= 0:
        return []
    day = Decimal(repr(working.pieces_per_day))
    cost = sum((Decimal(repr(each)) * supply.unit_price / day for _, each, supply in shares), Decimal(0))
    lines = [
        f"{each:g} {supply.unit} of {name} a day × {_price(supply.unit_price)} {press.currency}"
        for name, each, supply in shares
        if each
    ]
    lines += [f"÷ {working.pieces_per_day:g} pieces a day", _result(cost, press.currency)]
    mean = cost / Decimal(repr(amount))
    return [Part("upkeep", "Purge and cleaning", amount, press.ink_unit, mean, cost, tuple(lines))]


def _spoilage(parts: list[Part], press: PressProfile) -> list[Part]:
    """What the thrown-away pieces cost, borne by the good ones: share ÷ (1 − share) of all else."""
    share, base = press.working.spoilage_share, _sum(parts)
    if not share or not base:
        return []
    lost = Decimal(repr(share)) / (1 - Decimal(repr(share)))
    lines = (
        f"{share:.1%} of the pieces begun are thrown away: {share:g} ÷ (1 − {share:g}) = {float(lost):.4f} lost for a "
        "good one",
        f"× {money_text(base)} {press.currency} all else",
        _result(base * lost, press.currency),
    )
    return [Part("spoilage", "Spoilage", float(lost), "piece", base, base * lost, lines)]


def pm_text(pm: float) -> str:
    """A ± to one digit, to two where the first is a 1.

    >>> pm_text(0.0583), pm_text(0.0124), pm_text(0.1), pm_text(12.3), pm_text(0)
    ('0.06', '0.012', '0.10', '12', '0')
    """
    if pm <= 0:
        return "0"
    leading = math.floor(math.log10(pm))
    decimals = -leading + (1 if float(f"{pm:.0e}") < 2 * 10.0**leading else 0)
    return f"{pm:.{max(0, decimals)}f}"


def _number(value: float) -> str:
    return f"{value:.4g}" if value < 1000 else f"{value:.0f}"


def _price(value: Decimal) -> str:
    """A price of a unit to six digits, without zeros that say nothing."""
    return f"{value:.6g}" if value else "0"


def _result(cost: Decimal, currency: str, pm: float = 0.0) -> str:
    """The last line of a formula."""
    shown = money_text(cost, max(4, places(cost)))
    return f"= {shown} {currency}" + (f" ± {pm:.2g}" if pm else "")
