"""Film that is left on a roll, counted down when a run on it ends."""

from collections.abc import Sequence
from dataclasses import replace

from swaddon.core.errors import PlanError
from swaddon.core.log.entry import Entry
from swaddon.core.run.record import Record
from swaddon.core.sheet.media import Medium
from swaddon.session import shop
from swaddon.session.job import Job

_FILM = "used:film:m2"


def medium_name(job: Job) -> str:
    """What the job is printed on: as its sheet says, else as the press mostly does."""
    return job.sheet.medium or ("" if job.profile is None else job.profile.usual_medium)


def film_taken_mm(entry: Entry, record: Record, width_mm: float) -> float:
    """Length of film that a run took of a roll of this width: as measured, else by its plan, with waste."""
    measured = dict(record.used).get(_FILM.removeprefix("used:"))
    area_m2 = measured
    if area_m2 is None:
        each = 0.0 if entry.planned is None else entry.planned.figure(_FILM)
        area_m2 = each * (record.good + record.lost)
    return 1e6 * area_m2 / width_mm


def counted_down(media: Sequence[Medium], name: str, entry: Entry, record: Record) -> tuple[Medium, ...]:
    """The media with what a run took of its roll; unchanged where nobody knows what was left on it."""
    return tuple(
        replace(item, left_mm=round(max(0.0, item.left_mm - film_taken_mm(entry, record, item.width_mm)), 1))
        if item.name == name and item.kind == "roll" and item.left_mm is not None
        else item
        for item in media
    )


def count_down(job: Job, entry: Entry, record: Record) -> str:
    """Count the shop's roll down; gives what is left in a sentence, empty where nobody knows."""
    try:
        before, name = shop.checked_media(), medium_name(job)
        after = counted_down(before, name, entry, record)
        if after == before:
            return ""
        shop.keep_media(after)
    except PlanError as error:
        return str(error)
    left = next(item for item in after if item.name == name)
    return f"{left.title}: {(left.left_mm or 0.0) / 1000:.1f} m of film are left, by the plan."
