"""A job: artwork, settings and profile under a name. Immutable; every change makes a new one."""

from dataclasses import dataclass, field

from swaddon.core.artwork.artwork import Artwork
from swaddon.core.holes.screen import TileArt, Tiles
from swaddon.core.inks.separation import Table
from swaddon.core.order.request import PlanRequest
from swaddon.core.order.settings import PlanSettings
from swaddon.core.press.profile import PressProfile, Separation
from swaddon.core.white.settings import WhiteSettings
from swaddon.io.icc import IccFile, output_table
from swaddon.io.jobfile import Unknown
from swaddon.io.tables import separation_table
from swaddon.io.tiles import shipped_tiles


@dataclass(frozen=True, eq=False)
class ArtworkFile:
    """The decoded artwork together with the bytes it came from, which the job file keeps."""

    artwork: Artwork
    data: bytes


@dataclass(frozen=True)
class TileFile:
    """A pattern tile of the operator's own, with the PNG it came from, which the job file keeps."""

    art: TileArt
    data: bytes = field(repr=False)


@dataclass(frozen=True)
class Job:
    """One order as the bench holds it. ``cloth`` names the garment shape and knit the proof is drawn on.

    ``icc`` is the colour profile that ``settings.icc`` speaks of. ``unknown`` is what a newer Swaddon wrote into its
    file, ``notices`` what is to be told of it when it opens.
    """

    name: str = "Untitled job"
    file: ArtworkFile | None = None
    settings: PlanSettings = field(default_factory=PlanSettings)
    profile: PressProfile | None = None
    cloth: str = "shirt"
    customer: str = ""
    tiles: tuple[TileFile, ...] = ()
    icc: IccFile | None = None
    unknown: Unknown | None = None
    notices: tuple[str, ...] = field(default=(), compare=False)

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

    def all_tiles(self) -> dict[str, TileArt]:
        """Shipped tiles and the job's own, by name."""
        return shipped_tiles() | {tile.art.name: tile.art for tile in self.tiles}

    def request(self) -> PlanRequest | None:
        """What to plan; ``None`` while there is no artwork."""
        if self.file is None or self.profile is None:
            return None
        return request_for(self.file.artwork, self.settings, self.profile, self.all_tiles(), self.icc)


def request_for(
    artwork: Artwork,
    settings: PlanSettings,
    profile: PressProfile,
    tiles: Tiles | None = None,
    icc: IccFile | None = None,
) -> PlanRequest:
    """A full-resolution plan request with stored separation tables and, where none are given, shipped tiles."""
    known = shipped_tiles() if tiles is None else tiles
    choice = settings.icc

    def solve(separation: Separation) -> Table:
        return separation_table(separation) if choice is None or icc is None else output_table(icc, choice)

    return PlanRequest(artwork, settings.on(profile), profile, solve, profile.plan_ppi, known)


def first_settings(profile: PressProfile) -> PlanSettings:
    """Settings that a new job starts with."""
    return PlanSettings(white=WhiteSettings(choke_mm=profile.white.default_choke_mm))
