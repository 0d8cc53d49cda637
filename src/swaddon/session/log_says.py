"""What is said of a run later on: verdicts, corrections, notes and photos. Each is an entry of its own."""

from collections.abc import Iterable, Sequence
from dataclasses import replace
from pathlib import Path

from swaddon.core.log.entry import Entry, Happened, Kind, Verdict
from swaddon.io.photos import MEDIA, read_photo
from swaddon.session.job import key_of
from swaddon.session.log_drafts import Files
from swaddon.session.log_keeper import LogKeeper, new_uid, time_text

LONGEST_NOTE = 20_000


def _entry(keeper: LogKeeper, head: str, kind: Kind) -> Entry:
    return Entry(new_uid(), head, kind, time_text(keeper.clock()), keeper.bench)


def say_verdict(
    keeper: LogKeeper, head: str, looked: Iterable[tuple[str, bool]], washes: int = 0, note: str = ""
) -> Entry:
    """Keep what was seen on a piece: each trouble that was looked for, and whether it is there."""
    verdict = Verdict(tuple(looked), washes)
    return _keep(keeper, _entry(keeper, head, "verdict"), verdict=verdict, note=note[:LONGEST_NOTE])


def put_right(keeper: LogKeeper, head: str, happened: Happened, note: str = "") -> Entry:
    """Keep counts or times put right; what was written before stays in the book."""
    return _keep(keeper, _entry(keeper, head, "correction"), happened=happened, note=note[:LONGEST_NOTE])


def say_note(keeper: LogKeeper, head: str, text: str, photos: Sequence[Path] = ()) -> Entry:
    """Keep a note, with photos.

    Raises
    ------
    PlanError
        One sentence: a photo cannot be taken, or the disk does not take the entry.
    """
    files: Files = {}
    for path in photos:
        data = read_photo(path)
        files[key_of(data)] = MEDIA, data
    return _keep(keeper, _entry(keeper, head, "note"), files, note=text[:LONGEST_NOTE], photos=tuple(files))


def _keep(keeper: LogKeeper, entry: Entry, files: Files | None = None, **what: object) -> Entry:
    made = replace(entry, **what)  # type: ignore[arg-type]
    keeper.write(made, files)
    return made
