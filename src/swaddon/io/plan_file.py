"""What a print uses, read back from the plan.json of an export."""

import json
from dataclasses import replace
from decimal import Decimal
from pathlib import Path
from typing import Annotated

from pydantic import BaseModel, Field, ValidationError

from swaddon.core.count.consumption import Material, powder_g
from swaddon.core.errors import PlanError
from swaddon.core.press.profile import PressProfile, Supply
from swaddon.core.shop.used import INK_ROLES, Used, film_m2, pretreated_m2
from swaddon.io.names import shown
from swaddon.io.profiles import reason

_LARGEST_BYTES = 50_000_000
_Positive = Annotated[float, Field(ge=0, allow_inf_nan=False)]


class _Print(BaseModel):
    width_mm: _Positive
    height_mm: _Positive
    printed_area_mm2: _Positive
    printed_size_mm: tuple[_Positive, _Positive] | None = None


class _Channel(BaseModel):
    ink: str
    hit_amount: _Positive
    coverage_mean: _Positive


class _Material(BaseModel):
    name: str
    kind: str = ""
    amount: _Positive
    unit_price: Decimal
    waste_share: _Positive
    cost_exact: Decimal


class _Phase(BaseModel):
    bands: Annotated[int, Field(ge=0)]


class _Time(BaseModel):
    print_s: _Positive
    travel_mm: _Positive = 0.0
    phases: list[_Phase]


class _Artwork(BaseModel):
    file: str = ""


class _PlanFile(BaseModel):
    profile: str
    artwork: _Artwork = _Artwork()
    print: _Print
    channels: list[_Channel]
    materials: list[_Material]
    time: _Time


class PlanFile:
    """A plan.json that was read."""

    def __init__(self, document: _PlanFile) -> None:
        self._document = document

    @property
    def press_name(self) -> str:
        """Name of the press profile that the plan was made with."""
        return self._document.profile

    @property
    def title(self) -> str:
        """Name of its artwork."""
        return self._document.artwork.file

    def used(self, press: PressProfile, *, anew: bool = False) -> Used:
        """What the print uses, with materials as the press names and prices them now.

        Amounts are those of the plan, or ``anew`` from its areas by the constants of the press.
        """
        found = self._document
        area = found.print.width_mm * found.print.height_mm / 1e6
        full: dict[str, float] = {}
        for channel in found.channels:
            amount = channel.coverage_mean * channel.hit_amount * area
            full[channel.ink] = full.get(channel.ink, 0.0) + amount
        printed = found.print.printed_area_mm2 / 1e6
        materials = tuple(_material(item, press) for item in found.materials)
        if anew:
            materials = tuple(_anew(item, full, printed, press) for item in materials)
        return Used(
            full_m2=full,
            printed_m2=printed,
            pretreat_m2=pretreated_m2(materials, press),
            width_mm=found.print.width_mm,
            height_mm=found.print.height_mm,
            printed_size_mm=found.print.printed_size_mm or (found.print.width_mm, found.print.height_mm),
            bands=sum(phase.bands for phase in found.time.phases),
            travel_mm=found.time.travel_mm,
            materials=materials,
            print_s=found.time.print_s,
            film_m2=film_m2(materials, press),
        )


def read_plan(path: Path) -> PlanFile:
    """The plan.json in a folder, or the file itself.

    Raises
    ------
    PlanError
        One sentence: it cannot be read, or is no plan.
    """
    file = path / "plan.json" if path.is_dir() else path
    try:
        if file.stat().st_size > _LARGEST_BYTES:
            raise PlanError(f"“{shown(file)}” is too large for a plan.json (over 50 MB).")
        return PlanFile(_PlanFile.model_validate(json.loads(file.read_text(encoding="utf-8"))))
    except OSError as error:
        raise PlanError(f"There is no plan.json to read at “{shown(path)}” ({reason(error)}).") from error
    except ValidationError as error:
        first = error.errors()[0]
        where = ".".join(str(part) for part in first["loc"])
        raise PlanError(f"“{shown(file)}” is no plan.json of Swaddon: {where}: {first['msg'].lower()}.") from error
    except (ValueError, RecursionError) as error:
        raise PlanError(f"“{shown(file)}” is no plan.json: it is not JSON.") from error


def _material(item: _Material, press: PressProfile) -> Material:
    """A material at its exact amount: the stored one is rounded, the exact cost is not."""
    kind = item.kind or _kind_of(item.name)
    supply = _supply(kind, press)
    per_unit = float(item.unit_price) * (1 + item.waste_share)
    amount = float(item.cost_exact) / per_unit if per_unit else item.amount
    return Material(item.name, kind, amount, supply)


def _anew(item: Material, full_m2: dict[str, float], printed_m2: float, press: PressProfile) -> Material:
    """A material by the constants of another press: ink and powder by their areas, all else as it was."""
    ink = {"white": 0.0, "colour": 0.0}
    for name, area in full_m2.items():
        ink[INK_ROLES[name]] += area * press.lay_down_per_m2["W" if name == "H" else name]
    if item.kind in ink:
        return replace(item, amount=ink[item.kind])
    if item.kind == "powder" and press.powder is not None:
        return replace(item, amount=powder_g(press.powder, printed_m2 * 1e6, sum(ink.values())))
    return item


def _kind_of(name: str) -> str:
    """The kind of a material by its name, for plans that do not tell it."""
    first = name.split(maxsplit=1)[0].lower()
    return first if first in ("white", "colour", "film", "powder", "pretreat") else "sheet"


def _supply(kind: str, press: PressProfile) -> Supply:
    holders = {"film": press.film, "powder": press.powder, "pretreat": press.pretreat}
    plain = {"white": press.white_ink, "colour": press.colour_ink, "sheet": press.sheet}
    holder = holders.get(kind)
    supply = holder.supply if holder is not None else plain.get(kind)
    if supply is None:
        raise PlanError(f"The plan uses {kind}, which the press {press.name} does not: give its press with --profile.")
    return supply
