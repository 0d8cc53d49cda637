"""The shop as a TOML file: what it has, when it is open, and the stages of each process."""

import re
import tomllib
from dataclasses import asdict
from functools import cache
from importlib import resources
from pathlib import Path
from typing import Annotated, Any, Literal

from pydantic import AfterValidator, Field, ValidationError

from swaddon.core.errors import PlanError
from swaddon.core.flow.shop import HANDS, PLATEN, RESOURCES, Shop, Stage, is_printer
from swaddon.core.press.processes import PROCESSES
from swaddon.io.names import shown
from swaddon.io.outputs import output_file
from swaddon.io.profiles import reason
from swaddon.io.profiles.document import ModelBase

FILE = "shop.toml"
_LARGEST_BYTES = 200_000
_CLOCK = re.compile(r"([01]?\d|2[0-4]):([0-5]\d)")
_NAME = re.compile(r"[a-z0-9-]{1,30}")
_MOST = 50


def minutes(text: str) -> float:
    """Minutes of the day of a time such as 16:00; raises ``ValueError``."""
    found = _CLOCK.fullmatch(text.strip())
    if found is None or int(found[1]) * 60 + int(found[2]) > 1440:
        raise ValueError(f"“{text}” is no time of day; give it as 16:00")
    return float(int(found[1]) * 60 + int(found[2]))


def clock_text(minute: float) -> str:
    """A time of day, with the day where it is not the first.

    >>> clock_text(967.4), clock_text(1440 + 485)
    ('16:07', '08:05 on day 2')
    """
    whole = round(minute)
    day, rest = divmod(whole, 1440)
    return f"{rest // 60:02d}:{rest % 60:02d}" + (f" on day {day + 1}" if day else "")


def _time(text: str) -> str:
    minutes(text)
    return text


Clock = Annotated[str, AfterValidator(_time)]
Seconds = Annotated[float, Field(ge=0, le=86_400, allow_inf_nan=False)]
Count = Annotated[int, Field(ge=0, le=_MOST)]
Share = Annotated[float, Field(ge=0, le=0.9)]


def known(resource: str) -> str:
    """A resource that a shop can have; raises ``ValueError``."""
    if resource not in RESOURCES and not (is_printer(resource) and _NAME.fullmatch(resource)):
        raise ValueError(f"not one of {', '.join(RESOURCES)}, nor a kind of printer such as film-printer")
    return resource


def _machine(name: str) -> str:
    if name in ("", HANDS):
        return ""
    if name == PLATEN:
        raise ValueError("goods lie on a platen at a printer; say on_platen there")
    return known(name)


class _Stage(ModelBase):
    name: Annotated[str, Field(min_length=1, max_length=40)]
    machine: Annotated[str, AfterValidator(_machine)] = ""
    hands_s: Seconds = 0.0
    machine_s: Seconds = 0.0
    after_s: Seconds = 0.0
    attended: bool = False
    rests_s: Seconds = 0.0
    is_gang: bool = False
    only_pretreated: bool = False
    on_platen: bool = False


class _Hours(ModelBase):
    open: Annotated[list[tuple[Clock, Clock]], Field(min_length=1, max_length=6)]
    breaks: Annotated[tuple[tuple[Clock, Clock], ...], Field(max_length=12)] = ()


class _Printers(ModelBase):
    stop_share: Share = 0.0
    stop_s: Annotated[float, Field(gt=0, le=86_400)] = 90.0
    change_s: Seconds = 0.0
    refill_every: Annotated[int, Field(ge=0, le=100_000)] = 0
    refill_s: Seconds = 0.0


class _ShopFile(ModelBase):
    schema_: Literal["swaddon-shop/1"] = Field(alias="schema")
    name: Annotated[str, Field(max_length=80)] = ""
    rack: Annotated[int, Field(ge=1, le=10_000)] = 24
    held_platen: bool = False
    spoilage_share: Share = 0.0
    hand_scatter: Annotated[float, Field(ge=0, le=2)] = 0.0
    machine_scatter: Annotated[float, Field(ge=0, le=2)] = 0.0
    resources: dict[Annotated[str, AfterValidator(known)], Count]
    hours: _Hours
    printers: _Printers = _Printers()
    gangs: dict[str, Annotated[int, Field(ge=1, le=1000)]] = Field(default_factory=dict)
    swaps: dict[str, Seconds] = Field(default_factory=dict)
    routes: dict[str, Annotated[list[_Stage], Field(min_length=1, max_length=30)]]


@cache
def shipped_shop() -> Shop:
    """The invented shop that comes with Swaddon."""
    return parse((resources.files("swaddon.io") / FILE).read_text(encoding="utf-8"), FILE)


def read_shop(path: Path) -> Shop:
    """A shop from a TOML file; raises ``PlanError`` with one sentence."""
    try:
        if path.stat().st_size > _LARGEST_BYTES:
            raise PlanError(f"“{shown(path)}” is too large for a shop (over 200 kB).")
        text = path.read_text(encoding="utf-8")
    except (OSError, UnicodeDecodeError) as error:
        raise PlanError(f"The shop “{shown(path)}” cannot be read ({reason(error)}).") from error
    return parse(text, shown(path))


def parse(text: str, name: str) -> Shop:
    """A shop from TOML text; ``name`` is used in error sentences."""
    try:
        document = _ShopFile.model_validate(tomllib.loads(text))
        return checked(_shop(document))
    except tomllib.TOMLDecodeError as error:
        raise PlanError(f"The shop {name} is not valid TOML: {error}.") from error
    except ValidationError as error:
        first = error.errors()[0]
        place = ".".join(str(part) for part in first["loc"])
        raise PlanError(f"The shop {name} has a wrong value at {place}: {first['msg']}.") from error
    except ValueError as error:
        raise PlanError(f"The shop {name}: {error}.") from error


def _shop(document: _ShopFile) -> Shop:
    unknown = [key for key in (*document.routes, *document.gangs, *document.swaps) if key not in PROCESSES]
    if unknown:
        raise ValueError(f"“{unknown[0]}” is none of the processes {', '.join(PROCESSES)}")
    hours = document.hours
    return Shop(
        name=document.name,
        counts={name: count for name, count in document.resources.items() if count},
        routes={
            process: tuple(Stage(**stage.model_dump()) for stage in route) for process, route in document.routes.items()
        },
        gangs=document.gangs,
        swaps=document.swaps,
        rack=document.rack,
        held_platen=document.held_platen,
        open=tuple((minutes(start), minutes(end)) for start, end in hours.open),
        breaks=tuple((minutes(start), minutes(end)) for start, end in hours.breaks),
        spoilage_share=document.spoilage_share,
        hand_scatter=document.hand_scatter,
        machine_scatter=document.machine_scatter,
        **document.printers.model_dump(),
    )


def checked(shop: Shop) -> Shop:
    """A shop in which something can be done; raises ``ValueError`` with what is missing."""
    if not shop.counts.get(HANDS):
        raise ValueError("it has no hands: nothing moves without at least one pair")
    if not any(is_printer(name) for name in shop.counts):
        raise ValueError("it has no printer")
    if sum(end - start for start, end in shop.spans) <= 0:
        raise ValueError("it is never open: an end of its hours must come after their begin")
    for process, route in shop.routes.items():
        if sum(is_printer(stage.machine) for stage in route) != 1:
            raise ValueError(f"the route of {process} needs one stage on a printer")
        if any(stage.on_platen and not is_printer(stage.machine) for stage in route):
            raise ValueError(f"the route of {process}: only what is done at a printer lies on a platen")
        gangs = [stage.is_gang for stage in route]
        if gangs != sorted(gangs, reverse=True):
            raise ValueError(f"the route of {process}: what is done to gangs comes first")
    return shop


def able(shop: Shop, process: str, what: str) -> None:
    """Refuse a process that the shop has no machine for; raises ``ValueError`` that names ``what`` asks for it."""
    if process not in shop.routes:
        raise ValueError(f"{what} is printed by {process}, for which the shop has no route")
    missing = [stage for stage in shop.routes[process] if stage.machine and not shop.counts.get(stage.machine)]
    if missing:
        raise ValueError(
            f"{what} needs a {missing[0].machine.replace('-', ' ')} for “{missing[0].name}”, and the shop has none"
        )


def write_shop(path: Path, shop: Shop) -> None:
    """Write a shop as TOML; raises ``PlanError`` with one sentence."""
    import tomli_w

    try:
        path.parent.mkdir(parents=True, exist_ok=True)
        with output_file(path) as file:
            file.write(tomli_w.dumps(_document(shop)).encode("utf-8"))
    except OSError as error:
        raise PlanError(f"The shop could not be written to “{shown(path)}” ({reason(error)}).") from error


def _document(shop: Shop) -> dict[str, Any]:
    def clock(minute: float) -> str:
        return f"{int(minute) // 60:02d}:{int(minute) % 60:02d}"

    return {
        "schema": "swaddon-shop/1",
        **{
            key: getattr(shop, key)
            for key in ("name", "rack", "held_platen", "spoilage_share", "hand_scatter", "machine_scatter")
        },
        "resources": dict(shop.counts),
        "hours": {
            key: [[clock(start), clock(end)] for start, end in spans]
            for key, spans in (("open", shop.open), ("breaks", shop.breaks))
        },
        "printers": {
            key: getattr(shop, key) for key in ("stop_share", "stop_s", "change_s", "refill_every", "refill_s")
        },
        "gangs": dict(shop.gangs),
        "swaps": dict(shop.swaps),
        "routes": {process: [asdict(stage) for stage in route] for process, route in shop.routes.items()},
    }
