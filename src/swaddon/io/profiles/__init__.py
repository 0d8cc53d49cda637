"""Press profiles: TOML files of a device and its supplies, checked at the door."""

import itertools
import math
import tomllib
from dataclasses import replace
from functools import lru_cache
from importlib import resources
from pathlib import Path

from pydantic import ValidationError

from swaddon.core.errors import PlanError
from swaddon.core.press.lineup import ROLES
from swaddon.core.press.measured import Measured
from swaddon.core.press.processes import PROCESSES
from swaddon.core.press.profile import (
    INKS,
    PRIMARY_NAMES,
    Carriage,
    Holds,
    Phase,
    Position,
    Powder,
    PressProfile,
    Separation,
    Sheet,
    Slot,
    Supply,
    WhiteInk,
)
from swaddon.core.press.registration import Refeed, Registration
from swaddon.core.press.steps import Figures
from swaddon.core.press.working import Stated, Weighed, Working
from swaddon.io.names import clean
from swaddon.io.profiles.document import (
    ProfileFile,
    SeparationEntry,
    SlotEntry,
    SupplyEntry,
    TimeEntry,
    WeighedEntry,
    WorkingEntry,
)

SCHEMA = "swaddon-profile/1"
FOLDER = resources.files(__package__)
_LONGEST_NAME = 80
_LARGEST_BYTES = 1_000_000


def shipped_names() -> tuple[str, ...]:
    """Names of the profiles that come with Swaddon."""
    files = FOLDER.iterdir()
    return tuple(sorted(file.name.removesuffix(".toml") for file in files if file.name.endswith(".toml")))


def presses(process: str) -> tuple[PressProfile, ...]:
    """Shipped profiles of a process, the usual one first."""
    found = (shipped(name) for name in shipped_names())
    return tuple(
        sorted((press for press in found if press.process == process), key=lambda press: press.name != process)
    )


@lru_cache
def shipped(name: str) -> PressProfile:
    """A shipped profile by name."""
    return parse((FOLDER / f"{name}.toml").read_text(encoding="utf-8"), name)


def load(name_or_file: str) -> PressProfile:
    """A profile by shipped name or from a TOML file.

    Raises
    ------
    PlanError
        One sentence on what is wrong with it.
    """
    if name_or_file in shipped_names():
        return shipped(name_or_file)
    path = Path(name_or_file)
    try:
        is_file = bool(name_or_file) and path.is_file()
    except (OSError, ValueError):
        is_file = False
    if not is_file:
        names = ", ".join(shipped_names())
        what = clean(name_or_file if len(name_or_file) <= _LONGEST_NAME else name_or_file[:_LONGEST_NAME] + "…")
        raise PlanError(f"No press profile “{what}”: give one of {names}, or the path of a TOML file.")
    try:
        if path.stat().st_size > _LARGEST_BYTES:
            raise PlanError(f"{path.name} is too large for a press profile (over 1 MB).")
        text = path.read_text(encoding="utf-8")
    except (OSError, UnicodeDecodeError) as error:
        raise PlanError(f"The press profile {path.name} cannot be read: {reason(error)}.") from error
    return parse(text, path.name)


def named(name: str) -> PressProfile:
    """A profile that is known by its name alone, as jobs name theirs: a job never says which file on a disk to read.

    Raises
    ------
    PlanError
        When there is none of that name.
    """
    if name in shipped_names():
        return shipped(name)
    what = clean(name if len(name) <= _LONGEST_NAME else name[:_LONGEST_NAME] + "…")
    raise PlanError(f"The job asks for the press profile “{what}”, which is not known here: give it with --profile.")


def reason(error: Exception) -> str:
    """Short cause of an error, for the middle of a sentence."""
    if isinstance(error, OSError):
        return (error.strerror or "the system refused it").lower()
    return "it is not UTF-8 text"


def parse(text: str, name: str) -> PressProfile:
    """A profile from TOML text; ``name`` is used in error sentences."""
    try:
        document = ProfileFile.model_validate(tomllib.loads(text))
        return replace(_profile(document), source=text)
    except tomllib.TOMLDecodeError as error:
        raise PlanError(f"The press profile {name} is not valid TOML: {error}.") from error
    except ValidationError as error:
        first = error.errors()[0]
        place = ".".join(str(part) for part in first["loc"])
        raise PlanError(f"The press profile {name} has a wrong value at {place}: {first['msg']}.") from error
    except ValueError as error:
        raise PlanError(f"The press profile {name}: {error}.") from error


def _slots(document: ProfileFile) -> tuple[Slot, ...]:
    """The slots, checked against the order of printing."""
    slots = _numbered(document.slots)
    colours = sorted(slot.ink for slot in slots if slot.role == "colour")
    if colours not in (sorted("CMYK"), sorted("CMY")):
        raise ValueError("slots must hold each of C, M and Y once, and K once or not at all")
    if "K" not in colours and document.separation.black_strength > 0:
        raise ValueError("separation.black_strength must be 0: no slot holds K")
    if sorted(document.print_order) != sorted({"colour", *(slot.role for slot in slots)}):
        raise ValueError("print_order must name colour and, where slots hold them, white and highlight once each")
    if any(slot.role == "highlight" for slot in slots) and not any(slot.role == "white" for slot in slots):
        raise ValueError("slots hold highlight white and no white under it")
    return slots


def _numbered(slots: tuple[SlotEntry, ...]) -> tuple[Slot, ...]:
    """The slots by number from the left; an ink that is swapped in has the number of the one that it takes out."""
    out: list[Slot] = []
    places = 0
    for slot in slots:
        if slot.ink == "":
            places += 1
            continue
        if slot.swaps is None:
            places += 1
            number = places
        else:
            number = next((made.number for made in out if made.ink == slot.swaps), 0)
            if number == 0:
                raise ValueError(f"slots: {slot.ink} swaps with {slot.swaps}, which no slot before it holds")
        out.append(Slot(number, slot.ink, ROLES.get(slot.ink, "colour")))
    return tuple(out)


def _lay_down(document: ProfileFile, slots: tuple[Slot, ...]) -> dict[str, float]:
    """Ink or toner of a full hit by ink, each slot's there."""
    unit = document.supplies.white_ink.unit
    lay_down = {"ml": document.lay_down_ml_m2, "g": document.lay_down_g_m2}.get(unit)
    if lay_down is None or document.supplies.colour_ink.unit != unit:
        raise ValueError("supplies.white_ink and supplies.colour_ink must both be counted in ml, or both in g")
    absent = [slot.ink for slot in slots if slot.ink not in lay_down and slot.ink != "H"]
    if absent:
        raise ValueError(f"lay_down_{unit}_m2 lacks {absent[0]}")
    return dict.fromkeys((*INKS, "W"), 0.0) | {str(ink): amount for ink, amount in lay_down.items()}


def _profile(document: ProfileFile) -> PressProfile:
    slots = _slots(document)
    supplies = document.supplies
    return PressProfile(
        name=document.name,
        title=document.title,
        process=document.process,
        plan_ppi=document.plan_ppi,
        currency=document.currency,
        mirrored=document.mirrored,
        slots=slots,
        last_slot=sum(slot.swaps is None for slot in document.slots),
        print_order=document.print_order,
        white_can_go=_places(document),
        white_name=document.white_name,
        separation=_separation(document.separation, has_black=any(slot.ink == "K" for slot in slots)),
        white=WhiteInk(**document.white.model_dump()),
        lay_down_per_m2=_lay_down(document, slots),
        white_ink=_supply("White ink", supplies.white_ink),
        colour_ink=_supply("Colour ink", supplies.colour_ink),
        film=_sheet("Film", supplies.film),
        sheet=None if supplies.sheet is None else _supply("Transfer sheets", supplies.sheet),
        pretreat=_sheet("Pretreat", supplies.pretreat),
        powder=_powder(supplies.powder),
        carriage=_carriage(document.time),
        largest_print_mm=document.largest_print_mm,
        usual_medium=document.usual_medium,
        cures_per_m2=document.cures_per_m2,
        holds=Holds(**document.holds.model_dump()),
        registration=Registration(**document.registration.model_dump()),
        refeed=_refeed(document),
        notes=document.notes,
        cautions=document.cautions,
        measured=tuple(Measured(**entry.model_dump()) for entry in document.measured),
        working=_working(document.working),
        stated=tuple(Stated(**entry.model_dump()) for entry in document.stated),
        weighed=tuple(_weighed(entry) for entry in document.weighed),
        steps=_steps(document),
        ways=_ways(document),
    )


def _steps(document: ProfileFile) -> tuple[tuple[str, Figures], ...]:
    """Figures of the steps; those of a step that the process has not count for nothing."""
    return tuple((key, Figures(**entry.model_dump())) for key, entry in document.steps.items())


def _ways(document: ProfileFile) -> tuple[tuple[str, str], ...]:
    """Which way of each school the shop goes."""
    for school in PROCESSES[document.process].schools:
        known, chosen = [way.key for way in school.ways], document.ways.get(school.key)
        if chosen is not None and chosen not in known:
            raise ValueError(f"ways.{school.key} must be {' or '.join(known)}")
    return tuple(document.ways.items())


def _working(part: WorkingEntry) -> Working:
    values = part.model_dump()
    return Working(**values | {name: tuple(values[name].items()) for name in ("hands_s", "energy_wh", "covered")})


def _weighed(part: WeighedEntry) -> Weighed:
    """How sure a weigh-in is: a square table with no negative variance."""
    size, table = len(part.constants), part.log_covariance
    if len(table) != size or any(len(line) != size for line in table):
        raise ValueError(f"weighed.log_covariance of {part.date} must have {size} rows of {size} numbers")
    if not all(math.isfinite(value) for line in table for value in line) or any(
        table[at][at] < 0 for at in range(size)
    ):
        raise ValueError(f"weighed.log_covariance of {part.date} has a number that is no variance")
    return Weighed(part.date, part.source, part.constants, table)


def _places(document: ProfileFile) -> tuple[Position, ...]:
    """Where white can go, checked against the order of printing and the process."""
    flips = PROCESSES[document.process].flips
    if document.mirrored != flips:
        turned, value = ("is", "true") if flips else ("is not", "false")
        raise ValueError(f"a print by {document.process} {turned} turned over onto the item: mirrored must be {value}")
    if "white" not in document.print_order:
        if document.white_can_go:
            raise ValueError("white_can_go is for presses that have white")
        return ()
    first = document.print_order.index("white") < document.print_order.index("colour")
    if document.white_can_go and ("first" if first else "last") not in document.white_can_go:
        raise ValueError("white_can_go must hold the place that print_order gives white")
    return document.white_can_go


def _refeed(document: ProfileFile) -> Refeed | None:
    """How the second pass misses; a process of two passes must tell."""
    passes = PROCESSES[document.process].passes
    if (passes == 2) != (document.refeed is not None):
        raise ValueError(
            f"{document.process} takes {passes} pass{'es' if passes > 1 else ''}: refeed "
            f"{'is missing' if passes > 1 else 'must be left out'}"
        )
    return None if document.refeed is None else Refeed(**document.refeed.model_dump())


def _carriage(time: TimeEntry) -> Carriage:
    return Carriage(
        fixed_s=time.fixed_s,
        head_height_mm=time.head_height_mm,
        speed_mm_s=time.carriage_speed_mm_s,
        turn_s=time.turn_round_s,
        phases=tuple(Phase(phase.name, phase.roles, phase.passes) for phase in time.phases),
        one_way=time.one_way,
        refeed_s=time.refeed_s,
    )


def _separation(part: SeparationEntry, has_black: bool) -> Separation:
    """The separation; without black its overprints are those of the other inks, and none is ever asked for."""
    names = [name if has_black else name.replace("K", "") or "paper" for name in PRIMARY_NAMES]
    missing = [name for name in names if name not in part.primaries]
    if missing:
        raise ValueError(f"separation.primaries lacks {missing[0]}")
    return Separation(
        primaries_lab=tuple(part.primaries[name] for name in names),
        yule_nielsen_n=part.yule_nielsen_n,
        black_start=part.black_start,
        black_strength=part.black_strength,
        total_area_limit=part.total_area_limit_percent,
        tone_curves=_curves(part),
    )


def _curves(part: SeparationEntry) -> tuple[tuple[float, ...], ...]:
    """Dot gain of C, M, Y and K; inks without a curve cover what was sent."""
    if not part.tone_curves:
        return ()
    for ink, curve in part.tone_curves.items():
        if curve[0] != 0 or any(after < before for before, after in itertools.pairwise(curve)):
            raise ValueError(f"separation.tone_curves.{ink} must start at 0 and never fall")
    return tuple(part.tone_curves.get(ink, (0.0, 1.0)) for ink in INKS)  # type: ignore[call-overload]


def _supply(name: str, part: SupplyEntry) -> Supply:
    unit = {"m2": "m²"}.get(part.unit, part.unit)
    return Supply(part.name or name, unit, part.unit_price, part.waste_share, part.note, part.density_g_ml)


def _sheet(name: str, part: SupplyEntry | None) -> Sheet | None:
    if part is None:
        return None
    return Sheet(part.per_area, part.margin_mm, _supply(name, part), part.only_under_white)


def _powder(part: SupplyEntry | None) -> Powder | None:
    if part is None:
        return None
    return Powder(part.per_area_g_m2, part.per_ink_g_ml, _supply("Powder", part))
