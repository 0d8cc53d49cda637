"""What the log book is told of a job's line: the entry that a run begins with, and the files that go with it."""

import io
import json
from dataclasses import dataclass, replace
from typing import Any

from PIL import Image

from swaddon.core.count.money import STORED_PLACES, rounded
from swaddon.core.log.entry import Entry, Ordered, Planned, Told
from swaddon.core.order.lines import PLACES
from swaddon.core.plan.outcome import Outcome, outcome_of
from swaddon.core.plan.report import settings_report
from swaddon.core.plan.stages import Plan
from swaddon.io.jobfile import MEDIA_TYPE, pack_job
from swaddon.session.job import Job, key_of
from swaddon.session.storage import stored_of

THUMBNAIL_PX = 260
LARGEST_ARTWORK = 64_000_000
"""Bytes of artwork that the book keeps, so that a print can be made again; of larger ones only the key."""

Files = dict[str, tuple[str, bytes]]
"""Files by their SHA-256: media type and bytes."""


@dataclass(frozen=True)
class WhichRun:
    """By what a run belongs to a job's line: order, artwork and line."""

    order: str
    artwork_key: str
    line: str


def which(job: Job) -> WhichRun:
    """The run that belongs to the line at hand."""
    return WhichRun(job.name[:300], artwork_key(job), job.line.title[:300])


def which_of(entry: Entry) -> WhichRun:
    """The job's line that a run belongs to."""
    ordered = entry.ordered or Ordered()
    return WhichRun(ordered.order, ordered.artwork_key, ordered.line)


def artwork_key(job: Job) -> str:
    """Key of the job's artwork; empty without."""
    return "" if job.file is None else job.file.key


def draft(job: Job, plan: Plan, uid: str, at: str, bench: str, path: str = "") -> tuple[Entry, Files]:
    """The entry that a run of the line at hand begins with."""
    files: Files = {}

    def put(media: str, data: bytes) -> str:
        key = key_of(data)
        files[key] = media, data
        return key

    outcome = outcome_of(plan, THUMBNAIL_PX)
    thumbnail = put("image/png", _png(outcome))
    if job.file is not None and len(job.file.data) <= LARGEST_ARTWORK:
        put("application/octet-stream", job.file.data)
    packed = io.BytesIO()
    pack_job(packed, replace(stored_of(job), artwork_name=None, artwork_data=None))
    profile = "" if job.profile is None else put("application/toml", job.profile.source.encode("utf-8"))
    planned = replace(_planned(job, plan, outcome), job=put(MEDIA_TYPE, packed.getvalue()), profile=profile)
    ordered = replace(_ordered(job), thumbnail=thumbnail, job_path=path[:4000])
    return Entry(uid, uid, "run", at, bench[:300], ordered, planned), files


def _png(outcome: Outcome) -> bytes:
    held = io.BytesIO()
    Image.fromarray(outcome.proof).save(held, "PNG", optimize=True)
    return held.getvalue()


def _ordered(job: Job) -> Ordered:
    line, press = job.line, job.profile
    return Ordered(
        order=job.name[:300],
        customer=job.customer[:300],
        line=line.title[:300],
        garment=line.garment_name[:300],
        garment_rgb=job.settings.garment,
        cloth=line.goods.cloth,
        size=line.goods.size,
        place=PLACES[line.goods.place].title,
        process="" if press is None else press.process,
        press="" if press is None else press.name[:300],
        press_title="" if press is None else press.title[:300],
        artwork="" if job.file is None else job.file.artwork.file_name[:300],
        artwork_key=artwork_key(job),
        width_mm=round(job.settings.width_mm, 3),
        height_mm=round(job.height_mm, 3),
        quantity=job.settings.quantity,
    )


def _planned(job: Job, plan: Plan, outcome: Outcome) -> Planned:
    profile, measures = plan.request.profile, plan.measures
    printed = measures.printed_px / max(1, measures.width_px * measures.height_px)
    white = measures.white_mm2 / measures.printed_mm2 if measures.printed_mm2 else 0.0
    line = plan.inspection.line
    return Planned(
        settings=tuple(_flat(settings_report(job.settings, plan.request.press))),
        constants=tuple(
            (item.constant[:300], json.dumps(item.value), f"{item.source} {item.date}"[:300])
            for item in profile.measured[-500:]
        ),
        figures=_figures(plan, outcome),
        cost=str(rounded(outcome.cost, STORED_PLACES)),
        currency=outcome.currency,
        findings=tuple(Told(found.code, found.severity, found.text[:2000]) for found in plan.findings[:500]),
        colours=tuple((shift.colour, min(1.0, max(0.0, float(shift.share)))) for shift in outcome.shifts[:24]),
        coverage=min(1.0, round(printed, 5)),
        white_share=min(1.0, round(white, 5)),
        finest_mm=0.0 if line is None else round(line.width_mm, 3),
        lineup=tuple(slot.ink for slot in profile.slots),
    )


_NOT_PRINTED = ("handover.", "sheet_share.")
"""Settings that change nothing of what is printed."""


def settings_told(job: Job) -> list[tuple[str, str]]:
    """The settings of the line at hand that decide what is printed and how it is pressed, as an entry tells them."""
    if job.profile is None:
        return []
    told = _flat(settings_report(job.settings, job.profile))
    return [(path, value) for path, value in told if not path.startswith(_NOT_PRINTED) and path != "sheet_share"]


def _figures(plan: Plan, outcome: Outcome) -> tuple[tuple[str, float], ...]:
    """What one piece comes to; ``used:`` figures are materials with waste, by kind and unit."""
    registration = plan.request.profile.registration
    out = {
        "print_s": plan.time.print_s,
        "hand_g_m2": outcome.hand_g_m2,
        "open_share": outcome.open_share,
        "worst_de": outcome.worst_de,
        "choke_mm": plan.request.settings.white.choke_mm,
        "sigma_mm": registration.sigma_mm,
        "squeeze_mm": registration.squeeze_mm,
        "white_mean": plan.measures.coverage["W"],
    }
    for material in outcome.materials:
        unit = material.supply.unit.replace("²", "2")
        out[f"used:{material.kind}:{unit}"] = material.bought
    return tuple((key, round(float(value), 6)) for key, value in out.items())


def _flat(document: Any, above: str = "") -> list[tuple[str, str]]:
    """Settings by path, each as JSON text."""
    out: list[tuple[str, str]] = []
    for key, value in document.items():
        if isinstance(value, dict):
            out += _flat(value, f"{above}{key}.")
        else:
            out.append((f"{above}{key}"[:300], json.dumps(value, ensure_ascii=False)[:100_000]))
    return out[:2000]
