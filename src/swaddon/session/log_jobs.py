"""Jobs of entries: taken up again with exactly the settings that were planned with."""

from collections.abc import Callable
from dataclasses import replace
from pathlib import PurePath

from swaddon.core.errors import PlanError
from swaddon.core.log.entry import Entry
from swaddon.io.jobfile import unpack_job
from swaddon.session.job import Job
from swaddon.session.storage import job_of

Fetch = Callable[[str], bytes | None]
"""Bytes of a file by its key; ``None``: there is none."""


def job_again(entry: Entry, fetch: Fetch) -> Job:
    """The job that an entry was planned from, artwork, line at hand, settings and press profile as they were.

    Raises
    ------
    PlanError
        One sentence: the entry has no plan, or its job or artwork is not kept.
    """
    planned, ordered = entry.planned, entry.ordered
    data = None if planned is None or not planned.job else fetch(planned.job)
    if data is None or ordered is None:
        raise PlanError("This entry keeps no job to take up: it tells only what happened.")
    name = f"job of {entry.at[:10]}"
    stored = unpack_job(data, name)
    artwork = fetch(ordered.artwork_key) if ordered.artwork_key else None
    if ordered.artwork_key and artwork is None:
        raise PlanError(
            f"The artwork “{ordered.artwork}” is too large for the log book to keep: open it, and choose the settings "
            "of this entry."
        )
    if artwork is None:
        return job_of(stored, name)
    file_name = PurePath(ordered.artwork.replace("\\", "/")).name or "artwork"
    return job_of(replace(stored, artwork_name=file_name, artwork_data=artwork), name)
