"""A log book of the demo shop, for pictures and for trying things out: invented runs of its own jobs."""

import random
from dataclasses import replace
from datetime import UTC, datetime, timedelta

from swaddon.core.log.entry import Entry, Happened, Verdict
from swaddon.core.log.troubles import TROUBLES
from swaddon.core.plan.stages import make_plan
from swaddon.session.demo import DEMO_JOBS
from swaddon.session.job import Job
from swaddon.session.log_drafts import Files, draft
from swaddon.store.book import Blob, LogBook

_LAST = datetime(2026, 11, 27, 16, 20, tzinfo=UTC)
_REASONS = ("crooked", "peek", "not-lifted", "banding", "scorched", "wrong-goods")
_NOTES = (
    "", "", "Left press, it runs 4 degrees cooler.", "", "New roll of film from here on.",
    "Customer wants the same in spring.", "Second press pulled specks: once is enough here.", "",
)  # fmt: skip


def fill(book: LogBook, seed: int = 16, each: int = 4) -> None:
    """Fill a book with invented runs of the demo jobs, newest last."""
    rng, made = random.Random(seed), []
    for demo in DEMO_JOBS:
        for variant, job in enumerate(_variants(demo.open(), each)):
            request = job.request()
            if request is not None:
                plan = make_plan(request, lean=True)
                made.append((job, plan, variant))
    rng.shuffle(made)
    for number, (job, plan, _) in enumerate(made):
        at = _LAST - timedelta(days=0.8 * (len(made) - 1 - number))
        at = at.replace(hour=9 + number % 8, minute=7 * number % 60)
        entry, files = draft(job, plan, f"{rng.getrandbits(128):032x}", at.strftime("%Y-%m-%dT%H:%M:%SZ"), "Boathouse")
        _write(book, _ended(entry, at, rng, _NOTES[number % len(_NOTES)]), files, rng)


def _variants(job: Job, count: int) -> list[Job]:
    """The job as it was, and with other chokes and whites."""
    white = job.settings.white
    others = [
        white,
        replace(white, choke_mm=0.1),
        replace(white, mode="solid", choke_mm=0.25),
        replace(white, choke_mm=0.4),
    ]
    return [replace(job, settings=replace(job.settings, white=other)) for other in others[:count]]


def _ended(entry: Entry, at: datetime, rng: random.Random, note: str) -> Entry:
    wanted = 1 if entry.ordered is None else entry.ordered.quantity
    lost = sum(rng.random() < 0.05 for _ in range(wanted))
    reasons: dict[str, int] = {}
    for _ in range(lost):
        reason = rng.choice(_REASONS)
        reasons[reason] = reasons.get(reason, 0) + 1
    print_s = 60.0 if entry.planned is None else entry.planned.figure("print_s")
    taken = (print_s + rng.uniform(35, 70)) * (wanted + lost)
    began = (at - timedelta(seconds=taken)).strftime("%Y-%m-%dT%H:%M:%SZ")
    steps = (("print", 4, round(print_s * rng.uniform(0.97, 1.12), 1)), ("press", 6, round(rng.uniform(10, 14), 1)))
    happened = Happened(began, entry.at, wanted, tuple(reasons.items()), round(taken), 600.0 * rng.randint(0, 2), steps)
    return replace(entry, happened=happened, note=note)


def _write(book: LogBook, entry: Entry, files: Files, rng: random.Random) -> None:
    blobs = {key: Blob(media, data) for key, (media, data) in files.items()}
    book.add([entry], blobs)
    if rng.random() < 0.7:
        choke = 0.25 if entry.planned is None else entry.planned.figure("choke_mm")
        seen = {"peek": choke < 0.2, "halo": choke > 0.35, "stiff": rng.random() < 0.1}
        looked = tuple((trouble.key, seen.get(trouble.key, False)) for trouble in TROUBLES[:9])
        book.add(
            [
                Entry(
                    f"{rng.getrandbits(128):032x}",
                    entry.head,
                    "verdict",
                    entry.at,
                    "Boathouse",
                    verdict=Verdict(looked),
                )
            ],
            {},
        )
