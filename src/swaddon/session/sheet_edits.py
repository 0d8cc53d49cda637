"""Edits of how a job's prints are laid, and which jobs share its sheet."""

from collections.abc import Sequence
from dataclasses import replace
from typing import Any

from swaddon.core.count.shared import SheetShare
from swaddon.core.order.lines import OrderLine
from swaddon.core.schema import named
from swaddon.core.sheet.media import Medium
from swaddon.core.sheet.settings import DraggedPoint, PlacedPrint, SheetSettings
from swaddon.session import shop
from swaddon.session.job import Job
from swaddon.session.session import Edit
from swaddon.session.sheet_prints import Wanted

_LAYS = frozenset({"medium", "spacing_mm", "way", "turns", "fill_rings", "apart", "tags", "seed"})
"""Settings after whose change prints are laid anew."""

_CUTS = frozenset({"medium", "overlap_mm", "bent"})

_WORDS = {"medium": "Change the medium", "plate": "Change the plate", "seed": "Lay prints anew"}


def change_sheet(merge_key: str | None = None, **values: Any) -> Edit:
    """Change how prints are laid; what was put by hand goes where it would not hold any more."""
    first = next(iter(values))
    label = _WORDS.get(first) or named(SheetSettings, first).change

    def change(job: Job) -> Job:
        sheet = replace(job.sheet, **values)
        if _LAYS & set(values):
            sheet = replace(sheet, placed=())
        if _CUTS & set(values):
            sheet = replace(sheet, dragged=())
            job = whole_again().made(job)
        return replace(job, sheet=sheet)

    return Edit(label, change, merge_key)


def place(placed: Sequence[PlacedPrint], merge_key: str | None = None) -> Edit:
    """Keep prints where they were put."""
    return Edit("Move a print", lambda job: replace(job, sheet=replace(job.sheet, placed=tuple(placed))), merge_key)


def use_split(share: SheetShare) -> Edit:
    """Print the line at hand on the sheets that it was split onto: cost, time, card and findings follow."""

    def change(job: Job) -> Job:
        return replace(job, settings=replace(job.settings, sheet_share=share))

    return Edit(f"Print it on {share.parts} sheets", change)


def whole_again() -> Edit:
    """Print no line on several sheets any more."""

    def whole(line: OrderLine) -> OrderLine:
        share = line.settings.sheet_share
        is_split = share is not None and share.parts > 1
        return replace(line, settings=replace(line.settings, sheet_share=None)) if is_split else line

    return Edit("Print it whole", lambda job: job.of_lines(tuple(whole(line) for line in job.lines), job.at))


def lay_anew() -> Edit:
    """Let prints be laid again, as if none had been moved."""
    return Edit("Lay prints anew", lambda job: replace(job, sheet=replace(job.sheet, placed=())))


def drag_seam(point: DraggedPoint, merge_key: str | None = None) -> Edit:
    """Drag a seam through a point; it has one at a time."""

    def change(job: Job) -> Job:
        others = tuple(item for item in job.sheet.dragged if item.seam != point.seam)
        return replace(job, sheet=replace(job.sheet, dragged=(*others, point)))

    return Edit("Drag the seam", change, merge_key)


def free_seam() -> Edit:
    """Let seams go where they cross least again."""
    return Edit("Let the seam go", lambda job: replace(job, sheet=replace(job.sheet, dragged=())))


def medium_of(job: Job, known: Sequence[Medium] | None = None) -> Medium:
    """The medium of a job: the one that was chosen, else the usual one of its press, else the first."""
    return shop.medium_for(job.sheet.medium, job.profile, known)


def plate_of(job: Job, known: Sequence[Medium] | None = None) -> Medium | None:
    """The heat-press plate of a job: the one that was chosen, else the largest."""
    plates = [medium for medium in (shop.media() if known is None else known) if medium.kind == "plate"]
    chosen = next((plate for plate in plates if plate.name == job.sheet.plate), None)
    return chosen or max(plates, key=lambda plate: plate.width_mm * plate.height_mm, default=None)


def wanted_of(job: Job, uid: int, others: Sequence[tuple[int, Job]]) -> tuple[Wanted, ...]:
    """What lies on the sheet of a job: its own prints and those of other open jobs, each under a name of its own."""
    out: list[Wanted] = []
    taken: set[str] = set()
    for number, item in ((uid, job), *others):
        name, count = item.name, 2
        while name in taken:
            name, count = f"{item.name} ({count})", count + 1
        taken.add(name)
        out.append(Wanted(name, item, uid=number))
    return tuple(out)


def can_share(job: Job, other: Job) -> str:
    """Why another job cannot lie on the same sheet; empty: it can."""
    if other.file is None:
        return "no artwork"
    if job.profile is None or other.profile is None or job.profile.name != other.profile.name:
        return "another press"
    return ""
