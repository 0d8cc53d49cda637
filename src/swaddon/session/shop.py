"""What the shop keeps of each press: line-ups by name, and what the next program calls its white."""

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
from swaddon.io.print_areas import FILE as SIZES_FILE
from swaddon.io.print_areas import SizeTable
from swaddon.io.profiles import reason
from swaddon.io.settings_file import Strict, model_of, value_of
from swaddon.io.shops import FILE as SHOP_FILE
from swaddon.io.shops import read_shop, shipped_shop, write_shop
from swaddon.io.supplies import FILE as PRICES_FILE
from swaddon.io.supplies import read_book, shipped_book, write_book
from swaddon.io.whole import whole_file
from swaddon.session.folders import config_folder
from swaddon.session.kept import Kept, of_model, write_bytes
from swaddon.session.line_list import ShopGoods

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
    schema_: Literal["swaddon-mix/1"] = Field("swaddon-mix/1", alias="schema")
    prints: list[_MixEntry] = Field(default_factory=list)


class _Presses(Strict):
    schema_: Literal["swaddon-presses/1"] = Field("swaddon-presses/1", alias="schema")
    presses: dict[str, _Press] = Field(default_factory=dict)


class _LineUpFile(Strict):
    schema_: Literal["swaddon-lineup/1"] = Field(alias="schema")
    press: str = ""
    name: Annotated[str, Field(min_length=1, max_length=60)]
    slots: Annotated[list[Literal["C", "M", "Y", "K", "W", "H"] | None], Field(min_length=1, max_length=12)]


class _Quotes(Strict):
    schema_: Literal["swaddon-quotes/1"] = Field("swaddon-quotes/1", alias="schema")
    last: dict[str, Annotated[int, Field(ge=0)]] = Field(default_factory=dict)
    terms: model_of(QuoteTerms) | None = None  # type: ignore[valid-type]


def _read_profile(file: Path) -> PressProfile:
    return profiles.parse(file.read_text(encoding="utf-8"), file.stem)


_NO_LINEUPS = "neither line-ups nor names of white are known"
_PRESSES = of_model(_Presses, "The line-ups and names of white", _NO_LINEUPS)
_QUOTES = of_model(_Quotes, "The numbers and terms of quotes", "they begin anew: look at the last quote’s number")
_MIX = of_model(_Mix, "The prints that were exported lately", "the mix begins anew")
_PROFILES = Kept(
    "The shop’s profile of a press", _read_profile, lambda file, made: write_bytes(file, made.source.encode("utf-8")),
    lambda: profiles.shipped("film"), "the shipped one is used",
)  # fmt: skip
_BOOK = Kept("The shop’s prices", read_book, write_book, shipped_book, "the shipped, invented prices are used")
_GARMENTS = Kept(
    "The shop’s garments", read_garments, write_garments, shipped_garments, "the shipped garments are used"
)
_SIZES = Kept(
    "The shop’s print areas", print_areas.read_table, print_areas.write_table, print_areas.shipped_table,
    "the shipped areas are used",
)  # fmt: skip
_MEDIA = Kept("The shop’s media", read_media, write_media, shipped_media, "the shipped media are used")
_SHOP = Kept("The shop’s machines and hours", read_shop, write_shop, shipped_shop, "the shipped shop is used")


def _file() -> Path:
    return config_folder() / "presses.json"


def memory(press: str) -> Memory:
    """What is kept of a press, by its name."""
    held = _PRESSES.of(_file()).presses.get(press)
    if held is None:
        return Memory()
    return Memory(held.white_name, tuple(value_of(LineUp, item) for item in held.lineups))


def keep(press: str, kept: Memory) -> None:
    """Keep this of a press."""

    def changed(held: _Presses) -> _Presses:
        raw = held.model_dump(mode="json", by_alias=True)
        raw["presses"][press] = {
            "white_name": kept.white_name,
            "lineups": [{"name": item.name, "slots": list(item.slots)} for item in kept.lineups],
        }
        return _Presses.model_validate(raw)

    _PRESSES.change(_file(), changed)


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
    if profile == profiles.shipped(profile.name):
        _PROFILES.remove(file)
        return
    _PROFILES.change(file, lambda _before: profile)


def garments() -> tuple[LibraryGarment, ...]:
    """The shop's garments, else the shipped ones."""
    return _GARMENTS.of(config_folder() / GARMENTS_FILE)


def keep_garments(kept: Sequence[LibraryGarment]) -> None:
    """Keep the shop's garments; raises ``PlanError`` with one sentence."""
    _GARMENTS.keep(config_folder() / GARMENTS_FILE, tuple(kept))


def sizes() -> SizeTable:
    """The shop's table of print areas and sizes, else the shipped one."""
    return _SIZES.of(config_folder() / SIZES_FILE)


def keep_sizes(kept: SizeTable) -> None:
    """Keep the shop's print areas and sizes; raises ``PlanError`` with one sentence."""
    _SIZES.keep(config_folder() / SIZES_FILE, kept)


def book() -> Book:
    """The shop's prices, else the shipped ones."""
    return own_book() or shipped_book()


def own_book() -> Book | None:
    """The shop's own prices; ``None``: it keeps none."""
    return _BOOK.own(config_folder() / PRICES_FILE)


def book_problem() -> str:
    """What is wrong with the shop's prices and what is used instead, in a sentence; empty: nothing."""
    return _BOOK.problem(config_folder() / PRICES_FILE)


def media() -> tuple[Medium, ...]:
    """The shop's media, else the shipped ones."""
    return _MEDIA.of(config_folder() / MEDIA_FILE)


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
    _MEDIA.keep(config_folder() / MEDIA_FILE, tuple(kept))


def flow_shop() -> Shop:
    """The shop's resources, hours and stages, else the shipped ones."""
    return _SHOP.of(config_folder() / SHOP_FILE)


def keep_flow_shop(kept: Shop) -> None:
    """Keep the shop's resources, hours and stages; where they cannot be, that is told, and they hold all the same."""
    _SHOP.change(config_folder() / SHOP_FILE, lambda _before: kept)


def keep_book(kept: Book) -> None:
    """Keep the shop's prices; raises ``PlanError`` with one sentence."""
    _BOOK.keep(config_folder() / PRICES_FILE, kept)


def _quotes_file() -> Path:
    return config_folder() / "quotes.json"


def next_quote(today: datetime.date) -> str:
    """The number of the next quote: year and a count from 1; it is given once, whatever program asks."""
    year, given = str(today.year), 0

    def counted(held: _Quotes) -> _Quotes:
        nonlocal given
        given = held.last.get(year, 0) + 1
        return held.model_copy(update={"last": {**held.last, year: given}})

    _QUOTES.change(_quotes_file(), counted)
    return f"{year}-{given:04d}"


def quote_terms() -> QuoteTerms:
    """How the shop priced last, without number and date."""
    terms = _QUOTES.of(_quotes_file()).terms
    return QuoteTerms() if terms is None else value_of(QuoteTerms, terms)


def keep_quote_terms(terms: QuoteTerms) -> None:
    """Let the next quote begin with these terms."""
    bare = document_of(replace(terms, number="", date="", note=""))
    _QUOTES.change(_quotes_file(), lambda held: _Quotes.model_validate({"last": held.last, "terms": bare}))


def _mix_file() -> Path:
    return config_folder() / "mix.json"


def mix_of(press: str) -> tuple[Counted, ...]:
    """Prints of a press that were exported lately, for the rule of thumb that is right for the shop's mix."""
    held = _MIX.of(_mix_file())
    return tuple(Counted(item.square_inches, item.cost, item.quantity) for item in held.prints if item.press == press)


def keep_in_mix(press: str, name: str, print_: Counted) -> None:
    """Put an exported print to the shop's mix, once for each job."""
    entry = _MixEntry(
        press=press, name=name[:200], square_inches=print_.square_inches, cost=print_.cost, quantity=print_.quantity
    )

    def added(held: _Mix) -> _Mix:
        others = [item for item in held.prints if (item.press, item.name) != (entry.press, entry.name)]
        return held.model_copy(update={"prints": [*others, entry][-_MOST_IN_MIX:]})

    _MIX.change(_mix_file(), added)


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
    found, own = _PROFILES.own(_profile_file(name)) or profiles.shipped(name), own_book()
    with suppress(PlanError):
        return found if own is None else priced_profile(found, own)
    return found
