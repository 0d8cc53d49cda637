"""A job: artwork, settings and profile under a name. Immutable; every change makes a new one."""

from dataclasses import dataclass, field
from functools import partial

from swaddon.core.plan.artwork import Artwork
from swaddon.core.plan.settings import PlanSettings
from swaddon.core.plan.stages import PlanRequest
from swaddon.core.profile import PressProfile
from swaddon.io.tables import separation_table


@dataclass(frozen=True, eq=False)
class ArtworkFile:
    """The decoded artwork together with the bytes it came from, which the job file keeps."""

    artwork: Artwork
    data: bytes


@dataclass(frozen=True)
class Job:
    """One order as the bench holds it. ``cloth`` names the garment shape and knit the proof is drawn on."""

    name: str = "Untitled job"
    file: ArtworkFile | None = None
    settings: PlanSettings = field(default_factory=PlanSettings)
    profile: PressProfile | None = None
    cloth: str = "shirt"
    customer: str = ""

    def request(self) -> PlanRequest | None:
        """What to plan; ``None`` while there is no artwork."""
        if self.file is None or self.profile is None:
            return None
        return request_for(self.file.artwork, self.settings, self.profile)


def request_for(artwork: Artwork, settings: PlanSettings, profile: PressProfile) -> PlanRequest:
    """A full-resolution plan request with the profile's separation table."""
    return PlanRequest(artwork, settings, profile, partial(separation_table, profile.separation), profile.plan_ppi)
