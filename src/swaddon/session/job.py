"""A job: artwork, settings and profile under a name. Immutable; every change makes a new one."""

import hashlib
from dataclasses import dataclass, field, replace
from functools import cached_property

from swaddon.core.artwork.artwork import Artwork
from swaddon.core.flow.quote import QuoteTerms
from swaddon.core.holes.screen import TileArt, Tiles
from swaddon.core.inks.separation import Table
from swaddon.core.inks.settings import IccChoice
from swaddon.core.order.lines import Goods, OrderLine, carried
from swaddon.core.order.request import PlanRequest
from swaddon.core.order.settings import PlanSettings
from swaddon.core.press.processes import USUAL
from swaddon.core.press.profile import PressProfile, Separation
from swaddon.core.press.wares import Ware
from swaddon.core.sheet.room import Room, room_for
from swaddon.core.sheet.settings import SheetSettings
from swaddon.core.white.settings import WhiteSettings
from swaddon.io import profiles
from swaddon.io.icc import IccFile, output_table
from swaddon.io.jobfile import Unknown
from swaddon.io.tables import separation_table
from swaddon.io.tiles import shipped_tiles
from swaddon.session import shop


def key_of(data: bytes) -> str:
    """By what a file is known: its SHA-256."""
    return hashlib.sha256(data).hexdigest()


@dataclass(frozen=True, eq=False)
class ArtworkFile:
    """The decoded artwork together with the bytes it came from, which the job file keeps."""

    artwork: Artwork
    data: bytes

    @cached_property
    def key(self) -> str:
        """By what the file is known: its SHA-256, worked out once."""
        return key_of(self.data)


@dataclass(frozen=True)
class TileFile:
    """A pattern tile of the operator's own, with the PNG it came from, which the job file keeps."""

    art: TileArt
    data: bytes = field(repr=False)


@dataclass(frozen=True)
class Job:
    """One order as the bench holds it, with one of its lines at hand.

    ``settings``, ``cloth``, ``goods`` and ``own`` are of the line at hand, ``above`` and ``below`` are the others, in
    the order of the list. ``quote`` says how the order is sold, once it was quoted, ``sheet`` how its prints are laid
    on their medium. ``cloth`` names the garment shape and knit the proof is drawn on. ``icc`` is the colour profile
    that ``settings.icc`` speaks of. ``unknown`` is what a newer Swaddon wrote into its file, ``notices`` what is to be
    told of it when it opens.
    """

    name: str = "Untitled job"
    file: ArtworkFile | None = None
    settings: PlanSettings = field(default_factory=PlanSettings)
    profile: PressProfile | None = None
    cloth: str = "shirt"
    customer: str = ""
    tiles: tuple[TileFile, ...] = ()
    icc: IccFile | None = None
    goods: Goods = field(default_factory=Goods)
    own: tuple[str, ...] = ()
    above: tuple[OrderLine, ...] = ()
    below: tuple[OrderLine, ...] = ()
    quote: QuoteTerms | None = None
    sheet: SheetSettings = field(default_factory=SheetSettings)
    unknown: Unknown | None = None
    notices: tuple[str, ...] = field(default=(), compare=False)

    @property
    def line(self) -> OrderLine:
        """The line at hand."""
        return OrderLine(self.settings, self.cloth, self.goods, self.own)

    @property
    def lines(self) -> tuple[OrderLine, ...]:
        """All lines of the order; at least one."""
        return (*self.above, self.line, *self.below)

    @property
    def at(self) -> int:
        """Place of the line at hand, from 0."""
        return len(self.above)

    def of_lines(self, lines: tuple[OrderLine, ...], at: int) -> "Job":
        """The same job with these lines, one of them at hand."""
        line = lines[at]
        own = line.own if len(lines) > 1 else ()
        return replace(
            self,
            settings=line.settings,
            cloth=line.shape,
            goods=line.goods,
            own=own,
            above=lines[:at],
            below=lines[at + 1 :],
        )

    def turned_to(self, at: int) -> "Job":
        """The same job with another line at hand; one that there is."""
        at = max(0, min(at, len(self.lines) - 1))
        return self if at == self.at else self.of_lines(self.lines, at)

    def is_same(self, other: "Job") -> bool:
        """Whether both are the same job, whichever line is at hand."""
        return self == other or (self.at != other.at and self.turned_to(other.at) == other)

    def followed(self, before: "Job", alone: bool) -> "Job":
        """The job after an edit to the line at hand, with what concerns all lines carried to the others."""
        if (self.above, self.below) != (before.above, before.below):
            return self
        line, others = carried(before.line, self.line, (*self.above, *self.below), alone)
        return replace(self, own=line.own, above=others[: self.at], below=others[self.at :])

    @property
    def height_mm(self) -> float:
        """Height of the artboard; 0 without artwork."""
        if self.file is None:
            return 0.0
        return self.file.artwork.height_mm_at(self.settings.width_mm, self.settings.placement)

    @property
    def press(self) -> PressProfile | None:
        """The press profile as the settings use it."""
        return None if self.profile is None else self.settings.used(self.profile, self.height_mm)

    @property
    def ware(self) -> Ware:
        """What the line at hand is made on, in words."""
        return self.line.ware((self.profile or profiles.shipped(USUAL)).printing)

    @property
    def room(self) -> Room:
        """What one print may take up on the press and the medium of the job."""
        press = self.profile or profiles.shipped(USUAL)
        return room_for(press, shop.medium_for(self.sheet.medium, press))

    def taken_to(self, press: PressProfile) -> "Job":
        """This job for another press: its lines start as that one does, where they stood as the former one starts."""

        def line_on(line: OrderLine) -> OrderLine:
            on = line.settings.taken_to(self.profile, press)
            return line if "white.choke_mm" in line.own else replace(line, settings=on)

        return self.of_lines(tuple(line_on(line) for line in self.lines), self.at)

    def all_tiles(self) -> dict[str, TileArt]:
        """Shipped tiles and the job's own, by name."""
        return shipped_tiles() | {tile.art.name: tile.art for tile in self.tiles}

    def request(self) -> PlanRequest | None:
        """What to plan; ``None`` while there is no artwork."""
        if self.file is None or self.profile is None:
            return None
        return request_for(
            self.file.artwork, self.settings, self.profile, self.all_tiles(), self.icc, self.sheet, self.ware
        )


def request_for(
    artwork: Artwork,
    settings: PlanSettings,
    profile: PressProfile,
    tiles: Tiles | None = None,
    icc: IccFile | None = None,
    sheet: SheetSettings | None = None,
    ware: Ware | None = None,
) -> PlanRequest:
    """A full-resolution plan request with stored separation tables.

    Where none are given it has the shipped tiles, and the usual medium of the press.
    """
    known = shipped_tiles() if tiles is None else tiles

    def solve(separation: Separation, choice: IccChoice | None) -> Table:
        return separation_table(separation) if choice is None or icc is None else output_table(icc, choice)

    laid = sheet or SheetSettings()
    medium = replace(shop.medium_for(laid.medium, profile), left_mm=None)  # what is left of a roll plans nothing anew
    ppi, on = profile.plan_ppi, settings.on(profile)
    return PlanRequest(
        artwork,
        on,
        profile,
        solve,
        ppi,
        known,
        medium=medium,
        split_rules=laid.split_rules,
        spacing_mm=laid.spacing_mm,
        called=ware,
    )


def first_settings(profile: PressProfile) -> PlanSettings:
    """Settings that a new job starts with."""
    return PlanSettings(white=WhiteSettings(choke_mm=profile.white.default_choke_mm))
