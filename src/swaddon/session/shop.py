"""What the shop keeps of each press: line-ups by name, and what the next program calls its white.

A file that cannot be read is as good as none; a full disk must not stop the work.
"""

import datetime
import json
from collections.abc import Sequence
from contextlib import suppress
from dataclasses import dataclass, replace
from decimal import Decimal
from pathlib import Path
from typing import Annotated, Literal

from pydantic import Field, ValidationError

from swaddon.core.errors import PlanError
from swaddon.core.flow.quote import QuoteTerms
from swaddon.core.flow.shop import Shop
from swaddon.core.press import lineup as lineups
from swaddon.core.press.lineup import LineUp
from swaddon.core.press.profile import PressProfile
from swaddon.core.schema import document as document_of
from swaddon.core.sheet.media import Medium
from swaddon.core.shop.book import Book
from swaddon.core.shop.rule import Counted
from swaddon.io import print_areas, profiles
from swaddon.io.garments import FILE as GARMENTS_FILE
from swaddon.io.garments import LibraryGarment, read_garments, shipped_garments, write_garments
from swaddon.io.media import FILE as MEDIA_FILE
from swaddon.io.media import read_media, shipped_media, write_media
from swaddon.io.names import shown
from swaddon.io.priced import priced_profile
from swaddon.io.print_areas import SizeTable
from swaddon.io.profiles import reason
from swaddon.io.settings_file import Strict, model_of, value_of
from swaddon.io.shops import FILE as SHOP_FILE
from swaddon.io.shops import read_shop, shipped_shop, write_shop
from swaddon.io.supplies import FILE as PRICES_FILE
from swaddon.io.supplies import read_book, shipped_book, write_book
from swaddon.io.whole import whole_file
from swaddon.session.line_list import ShopGoods
from swaddon.session.preferences import config_folder

LINEUP_SCHEMA = "swaddon-lineup/1"
_LARGEST_BYTES = 100_000
_MOST_LINEUPS = 40
_MOST_IN_MIX = 200


@dataclass(frozen=True)
class Memory:
    """What is kept of one press."""

    white_name: str = ""
    lineups: tuple[LineUp, ...] = ()

    def with_lineup(self, made: LineUp) -> "Memory":
        """With a line-up more, or in the place of one of its name."""
        others = tuple(kept for kept in self.lineups if kept.name != made.name)
        return replace(self, lineups=(*others, made)[-_MOST_LINEUPS:])

    def without_lineup(self, name: str) -> "Memory":
        return replace(self, lineups=tuple(kept for kept in self.lineups if kept.name != name))


class _Press(Strict):
    white_name: Annotated[str, Field(max_length=60)] = ""
    lineups: list[model_of(LineUp)] = Field(default_factory=list)  # type: ignore[valid-type]


class _MixEntry(Strict):
    press: str
    name: str
    square_inches: Annotated[float, Field(ge=0)]
    cost: Annotated[Decimal, Field(ge=0)]
    quantity: Annotated[int, Field(ge=1)]


class _Mix(Strict):
    prints: list[_MixEntry] = Field(default_factory=list)


class _Presses(Strict):
    presses: dict[str, _Press] = Field(default_factory=dict)


class _LineUpFile(Strict):
    schema_: Literal["swaddon-lineup/1"] = Field(alias="schema")
    press: str = ""
    name: Annotated[str, Field(min_length=1, max_length=60)]
    slots: Annotated[list[Literal["C", "M", "Y", "K", "W", "H"] | None], Field(min_length=1, max_length=12)]


def _file() -> Path:
    return config_folder() / "presses.json"


def _all() -> _Presses:
    try:
        return _Presses.model_validate_json(_file().read_bytes())
    except (OSError, ValueError):
        return _Presses()


def memory(press: str) -> Memory:
    """What is kept of a press, by its name."""
    held = _all().presses.get(press)
    if held is None:
        return Memory()
    return Memory(held.white_name, tuple(value_of(LineUp, item) for item in held.lineups))


def keep(press: str, kept: Memory) -> None:
    """Keep this of a press."""
    raw = _all().model_dump(mode="json")
    raw["presses"][press] = {
        "white_name": kept.white_name,
        "lineups": [{"name": item.name, "slots": list(item.slots)} for item in kept.lineups],
    }
    with suppress(OSError):
        config_folder().mkdir(parents=True, exist_ok=True)
        with whole_file(_file()) as file:
            file.write(json.dumps(raw, indent=2, ensure_ascii=False).encode("utf-8"))


def write_lineup(path: Path, made: LineUp, press: PressProfile) -> None:
    """Write a line-up as JSON; raises ``PlanError`` with one sentence."""
    text = json.dumps(
        {"schema": LINEUP_SCHEMA, "press": press.name, "name": made.name, "slots": [ink or None for ink in made.slots]},
        indent=2,
        ensure_ascii=False,
    )
    try:
        with whole_file(path) as file:
            file.write((text + "\n").encode("utf-8"))
    except OSError as error:
        raise PlanError(f"The line-up could not be saved as “{shown(path)}” ({reason(error)}).") from error


def read_lineup(path: Path, press: PressProfile) -> LineUp:
    """A line-up from JSON, checked against a press.

    Raises
    ------
    PlanError
        One sentence: what is wrong, and in which slot.
    """
    try:
        if path.stat().st_size > _LARGEST_BYTES:
            raise PlanError(f"“{shown(path)}” is too large for a line-up (over 100 kB).")
        document = _LineUpFile.model_validate_json(path.read_bytes())
    except OSError as error:
        raise PlanError(f"The line-up “{shown(path)}” cannot be read ({reason(error)}).") from error
    except ValidationError as error:
        first = error.errors()[0]
        where = _place(first["loc"])
        raise PlanError(f"“{shown(path)}” is no line-up: {where}{first['msg'].lower()}.") from error
    made = LineUp(document.name, tuple(ink or "" for ink in document.slots))
    lineups.check(made, press)
    return made


def _place(location: tuple[int | str, ...]) -> str:
    """Where in the file, in words; slots count from 1."""
    if len(location) > 1 and location[0] == "slots":
        return f"slot {int(location[1]) + 1}: "
    return f"{location[0]}: " if location else ""


def _profile_file(press: str) -> Path:
    return config_folder() / "presses" / f"{press}.toml"


def keep_profile(profile: PressProfile) -> None:
    """Let new jobs start with this profile of a shipped press; a profile of one's own stays in its file."""
    if profile.name not in profiles.shipped_names():
        return
    file = _profile_file(profile.name)
    with suppress(OSError):
        if profile == profiles.shipped(profile.name):
            file.unlink(missing_ok=True)
            return
        file.parent.mkdir(parents=True, exist_ok=True)
        with whole_file(file) as out:
            out.write(profile.source.encode("utf-8"))


def garments() -> tuple[LibraryGarment, ...]:
    """The shop's garments, else the shipped ones."""
    with suppress(OSError, PlanError):
        return read_garments(config_folder() / GARMENTS_FILE)
    return shipped_garments()


def keep_garments(kept: Sequence[LibraryGarment]) -> None:
    """Keep the shop's garments; raises ``PlanError`` with one sentence."""
    write_garments(config_folder() / GARMENTS_FILE, kept)


def sizes() -> SizeTable:
    """The shop's table of print areas and sizes, else the shipped one."""
    with suppress(PlanError):
        return print_areas.read_table(config_folder())
    return print_areas.shipped_table()


def book() -> Book:
    """The shop's prices, else the shipped ones."""
    return own_book() or shipped_book()


def own_book() -> Book | None:
    """The shop's own prices; ``None``: it keeps none."""
    try:
        return read_book(config_folder() / PRICES_FILE)
    except PlanError:
        return None


def media() -> tuple[Medium, ...]:
    """The shop's media, else the shipped ones."""
    try:
        return checked_media()
    except PlanError:
        return shipped_media()


def medium_for(name: str, press: PressProfile | None, known: Sequence[Medium] | None = None) -> Medium:
    """A medium by its name, else the usual one of a press, else the first that is printed on."""
    every = tuple(media() if known is None else known)
    for wanted in (name, "" if press is None else press.usual_medium):
        for medium in every:
            if wanted and medium.name == wanted:
                return medium
    return next(medium for medium in every if medium.kind != "plate")


def checked_media() -> tuple[Medium, ...]:
    """The shop's media, where it keeps any; raises ``PlanError`` where its file is wrong."""
    file = config_folder() / MEDIA_FILE
    return read_media(file) if file.exists() else shipped_media()


def keep_media(kept: Sequence[Medium]) -> None:
    """Keep the shop's media; raises ``PlanError`` with one sentence."""
    write_media(config_folder() / MEDIA_FILE, kept)


def flow_shop() -> Shop:
    """The shop's resources, hours and stages, else the shipped ones."""
    try:
        return read_shop(config_folder() / SHOP_FILE)
    except PlanError:
        return shipped_shop()


def keep_flow_shop(kept: Shop) -> None:
    """Keep the shop's resources, hours and stages; raises ``PlanError`` with one sentence."""
    write_shop(config_folder() / SHOP_FILE, kept)


def keep_book(kept: Book) -> None:
    """Keep the shop's prices; raises ``PlanError`` with one sentence."""
    write_book(config_folder() / PRICES_FILE, kept)


class _Quotes(Strict):
    last: dict[str, Annotated[int, Field(ge=0)]] = Field(default_factory=dict)
    terms: model_of(QuoteTerms) | None = None  # type: ignore[valid-type]


def _quotes() -> _Quotes:
    try:
        return _Quotes.model_validate_json((config_folder() / "quotes.json").read_bytes())
    except (OSError, ValueError):
        return _Quotes()


def _keep_quotes(held: _Quotes) -> None:
    with suppress(OSError):
        config_folder().mkdir(parents=True, exist_ok=True)
        with whole_file(config_folder() / "quotes.json") as file:
            file.write(held.model_dump_json(indent=1).encode("utf-8"))


def next_quote(today: datetime.date) -> str:
    """The number of the next quote: year and a count from 1; it is given once."""
    held, year = _quotes(), str(today.year)
    held.last[year] = held.last.get(year, 0) + 1
    _keep_quotes(held)
    return f"{year}-{held.last[year]:04d}"


def quote_terms() -> QuoteTerms:
    """How the shop priced last, without number and date."""
    terms = _quotes().terms
    return QuoteTerms() if terms is None else value_of(QuoteTerms, terms)


def keep_quote_terms(terms: QuoteTerms) -> None:
    """Let the next quote begin with these terms."""
    held = _quotes()
    bare = replace(terms, number="", date="", note="")
    _keep_quotes(_Quotes.model_validate({"last": held.last, "terms": document_of(bare)}))


def _mix_file() -> Path:
    return config_folder() / "mix.json"


def mix_of(press: str) -> tuple[Counted, ...]:
    """Prints of a press that were exported lately, for the rule of thumb that is right for the shop's mix."""
    try:
        held = _Mix.model_validate_json(_mix_file().read_bytes())
    except (OSError, ValueError):
        return ()
    return tuple(Counted(item.square_inches, item.cost, item.quantity) for item in held.prints if item.press == press)


def keep_in_mix(press: str, name: str, print_: Counted) -> None:
    """Put an exported print to the shop's mix, once for each job."""
    try:
        held = _Mix.model_validate_json(_mix_file().read_bytes())
    except (OSError, ValueError):
        held = _Mix()
    entry = _MixEntry(
        press=press, name=name[:200], square_inches=print_.square_inches, cost=print_.cost, quantity=print_.quantity
    )
    others = [item for item in held.prints if (item.press, item.name) != (entry.press, entry.name)]
    with suppress(OSError):
        config_folder().mkdir(parents=True, exist_ok=True)
        with whole_file(_mix_file()) as file:
            file.write(_Mix(prints=[*others, entry][-_MOST_IN_MIX:]).model_dump_json(indent=1).encode("utf-8"))


def goods() -> ShopGoods:
    """What lines of an order are read with."""
    return ShopGoods(garments(), sizes())


def press_of(name_or_file: str) -> PressProfile:
    """The shop's own of a shipped name, else a profile from its file; raises ``PlanError`` with one sentence."""
    return press(name_or_file) if name_or_file in profiles.shipped_names() else profiles.load(name_or_file)


def named(name: str) -> PressProfile:
    """The shop's own of the name in a document, which never says what file to read; raises ``PlanError``."""
    return press(profiles.named(name).name)


def press(name: str) -> PressProfile:
    """A shipped press with what the shop has measured of it, at the shop's prices."""
    found = profiles.shipped(name)
    with suppress(OSError, UnicodeDecodeError, PlanError):
        found = profiles.parse(_profile_file(name).read_text(encoding="utf-8"), name)
    own = own_book()
    with suppress(PlanError):
        return found if own is None else priced_profile(found, own)
    return found
