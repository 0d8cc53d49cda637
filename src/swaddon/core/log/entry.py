"""An entry of the log book. Entries are only ever added: a later one refers to the run that it speaks of.

The plain document of an entry (``core.schema.document``) is a contract, ``docs/log.md``.
"""

from dataclasses import dataclass, field, replace
from typing import Annotated, Literal

from annotated_types import Ge, Le, MaxLen

from swaddon.core.colour.spaces import Rgb
from swaddon.core.schema import Pattern

SCHEMA = "swaddon-log/1"

Kind = Literal["run", "verdict", "correction", "note"]
Text = Annotated[str, MaxLen(300)]
Key = Annotated[str, MaxLen(64), Pattern("[0-9a-f]*", "letters a to f and digits")]
Count = Annotated[int, Ge(0), Le(10_000_000)]
Amount = Annotated[float, Ge(0), Le(1e12)]
Seconds = Annotated[float, Ge(0), Le(1e9)]
Share = Annotated[float, Ge(0), Le(1)]


@dataclass(frozen=True)
class Ordered:
    """What was ordered: order, customer and line, the goods, the artwork and the press.

    ``artwork_key`` is the SHA-256 of the artwork's file, ``thumbnail`` that of its small picture (PNG).
    """

    order: Text = ""
    customer: Text = ""
    line: Text = ""
    garment: Text = ""
    garment_rgb: Rgb = (0, 0, 0)
    cloth: Text = ""
    size: Text = ""
    place: Text = ""
    process: Text = ""
    press: Text = ""
    press_title: Text = ""
    artwork: Text = ""
    artwork_key: Key = ""
    thumbnail: Key = ""
    width_mm: Annotated[float, Ge(0), Le(1e5)] = 0.0
    height_mm: Annotated[float, Ge(0), Le(1e5)] = 0.0
    quantity: Count = 0
    job_path: Annotated[str, MaxLen(4000)] = ""


@dataclass(frozen=True)
class Told:
    """A finding of the plan."""

    code: Text
    severity: Literal["stop", "look", "note"]
    text: Annotated[str, MaxLen(2000)]


@dataclass(frozen=True)
class Planned:
    """The plan in full.

    Attributes
    ----------
    settings
        All settings by path, each as JSON text.
    constants
        Measured constants in force: place in the profile, value as JSON text, where it is from.
    figures
        What one piece comes to: key and number (``white_ml``, ``powder_g``, ``film_m2``, ``print_s``, …).
    cost, currency
        Materials of one piece, exact, as text.
    colours
        Main colours as printed, each with its share of the print.
    coverage, white_share
        Share of the artboard that prints, and of the print under which white lies.
    finest_mm
        Finest line; 0: none finer than is looked for.
    lineup
        Inks from the left.
    job, profile
        SHA-256 of the job file without its artwork, and of the press profile's text.
    """

    settings: Annotated[tuple[tuple[Text, Annotated[str, MaxLen(100_000)]], ...], MaxLen(2000)] = ()
    constants: Annotated[tuple[tuple[Text, Annotated[str, MaxLen(4000)], Text], ...], MaxLen(500)] = ()
    figures: Annotated[tuple[tuple[Text, float], ...], MaxLen(200)] = ()
    cost: Annotated[str, MaxLen(60), Pattern(r"-?\d*\.?\d*", "a number")] = ""
    currency: Annotated[str, MaxLen(3)] = ""
    findings: Annotated[tuple[Told, ...], MaxLen(500)] = ()
    colours: Annotated[tuple[tuple[Rgb, Share], ...], MaxLen(24)] = ()
    coverage: Share = 0.0
    white_share: Share = 0.0
    finest_mm: Amount = 0.0
    lineup: Annotated[tuple[Text, ...], MaxLen(20)] = ()
    job: Key = ""
    profile: Key = ""

    def figure(self, key: str) -> float:
        """A figure by its key; 0 where there is none."""
        return dict(self.figures).get(key, 0.0)


@dataclass(frozen=True)
class Happened:
    """What became of it.

    ``taken_s`` is the time from begin to end without breaks, ``steps`` how often each step was timed and its median in
    s, ``weights`` what was weighed of one piece in g, ``used`` what the whole run used where that was measured.
    """

    began: Text = ""
    ended: Text = ""
    good: Count = 0
    spoiled: Annotated[tuple[tuple[Text, Count], ...], MaxLen(100)] = ()
    taken_s: Seconds = 0.0
    paused_s: Seconds = 0.0
    steps: Annotated[tuple[tuple[Text, Count, Seconds], ...], MaxLen(100)] = ()
    weights: Annotated[tuple[tuple[Text, Amount], ...], MaxLen(20)] = ()
    used: Annotated[tuple[tuple[Text, Amount], ...], MaxLen(20)] = ()

    @property
    def lost(self) -> int:
        """Pieces that were spoiled."""
        return sum(count for _, count in self.spoiled)

    @property
    def begun(self) -> int:
        """Pieces that were made at all."""
        return self.good + self.lost


@dataclass(frozen=True)
class Verdict:
    """What was looked for on a finished piece: each trouble seen or not; what is left out was not looked at.

    Not looked at never counts as fine. ``washes`` is after how many washes it was looked at.
    """

    looked: Annotated[tuple[tuple[Text, bool], ...], MaxLen(100)] = ()
    washes: Annotated[int, Ge(0), Le(1000)] = 0

    @property
    def seen(self) -> tuple[str, ...]:
        """Troubles that were seen."""
        return tuple(key for key, is_seen in self.looked if is_seen)

    @property
    def is_fine(self) -> bool:
        """Whether something was looked at and nothing is wrong with it."""
        return bool(self.looked) and not self.seen

    def then(self, later: "Verdict") -> "Verdict":
        """Both: what was looked at again counts as it was seen last."""
        return Verdict(tuple((dict(self.looked) | dict(later.looked)).items()), max(self.washes, later.washes))


@dataclass(frozen=True)
class Entry:
    """One entry.

    Attributes
    ----------
    uid, head
        Its own name (32 hexadecimal digits), and that of the run that it speaks of: its own for a run.
    kind
        ``run``: written when a run ends; ``verdict``, ``correction`` (what ``happened``, put right), ``note``.
    at
        When it was written, UTC, ISO 8601 to the second.
    bench
        Where it was written.
    photos
        SHA-256 of photos (JPEG).
    """

    uid: Annotated[str, Pattern("[0-9a-f]{32}", "32 digits")]
    head: Annotated[str, Pattern("[0-9a-f]{32}", "32 digits")]
    kind: Kind
    at: Annotated[str, Pattern(r"\d{4}-\d\d-\d\dT\d\d:\d\d:\d\dZ", "a time in UTC")]
    bench: Text = ""
    ordered: Ordered | None = None
    planned: Planned | None = None
    happened: Happened | None = None
    verdict: Verdict | None = None
    note: Annotated[str, MaxLen(20_000)] = ""
    photos: Annotated[tuple[Key, ...], MaxLen(200)] = ()


@dataclass(frozen=True)
class Page:
    """A run with all that was said of it since.

    ``entry`` is the run as it stands after all corrections, ``history`` what was written, oldest first.
    """

    entry: Entry
    history: tuple[Entry, ...] = field(default=())

    @property
    def troubles(self) -> tuple[str, ...]:
        """All that went wrong: seen on a piece, or a reason of spoilage."""
        happened, verdict = self.entry.happened, self.entry.verdict
        found = [] if verdict is None else list(verdict.seen)
        found += [] if happened is None else [why for why, _ in happened.spoiled]
        return tuple(dict.fromkeys(found))


def page_of(entries: tuple[Entry, ...]) -> Page:
    """A run and what was said of it, in the order in which the book got it.

    The last correction counts; verdicts add up; notes and photos are kept in their order. Where the run itself has not
    arrived yet, what was said of it stands alone.
    """
    first = next((entry for entry in entries if entry.kind == "run"), entries[0])
    stands = first
    for later in entries:
        if later is first:
            continue
        verdict = later.verdict
        if verdict is not None and stands.verdict is not None:
            verdict = stands.verdict.then(verdict)
        stands = replace(
            stands,
            happened=stands.happened if later.happened is None else later.happened,
            verdict=stands.verdict if verdict is None else verdict,
            note="\n".join(filter(None, (stands.note, later.note)))[:20_000],
            photos=tuple(dict.fromkeys((*stands.photos, *later.photos)))[:200],
        )
    return Page(stands, entries)
