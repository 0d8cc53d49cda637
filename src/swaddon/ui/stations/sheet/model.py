"""What the Sheet station tells, in words; no Qt."""

from collections.abc import Sequence
from dataclasses import dataclass

from swaddon.core.count.shared import SheetShare
from swaddon.core.findings import Finding
from swaddon.core.findings.sheets import place_mm
from swaddon.core.sheet.gang import Spot
from swaddon.core.sheet.media import KINDS, Medium
from swaddon.core.sheet.split import press_plan
from swaddon.core.units import mm_from_px
from swaddon.session.job import Job
from swaddon.session.lengths import length_text, size_text
from swaddon.session.sheets import SheetPlan
from swaddon.session.splits import SplitPlan

_MARKS = {"stop": "■ Stop", "look": "▲ Look", "note": "● Note"}


@dataclass(frozen=True)
class Told:
    """A finding in words, and the place that it is about: number of the sheet, x and y in mm."""

    text: str
    severity: str
    sheet: int
    x_mm: float
    y_mm: float


def medium_words(medium: Medium) -> str:
    """A medium with its kind, size and what is left."""
    left = "" if medium.left_mm is None else f", {medium.left_mm / 1000:g} m left"
    kind = KINDS[medium.kind] if not any(word in medium.title.lower() for word in KINDS[medium.kind].split()) else ""
    return f"{medium.title} · {kind + ', ' if kind else ''}{medium.size_text}{left}"


def gang_words(plan: SheetPlan | None, waiting: str, is_current: bool = True) -> str:
    """The sheets in one or two lines; of an old one, what is waited for instead."""
    if plan is None:
        return waiting
    if not is_current:
        return f"{waiting} What lies there is the sheet as it was before."
    gang = plan.gang
    prints = len(gang.spots)
    count = "one print" if prints == 1 else f"{prints} prints"
    sheets = "one sheet" if gang.sheets == 1 else f"{gang.sheets} sheets"
    if gang.medium.is_roll:
        long = f"{sum(gang.used_mm) / 10:.1f} cm of film"
        on = long if gang.sheets == 1 else f"{long} in {gang.sheets} runs"
    else:
        on = f"{sheets} of {gang.medium.title}"
    return f"{count} on {on}, {gang.filled_share:.0%} of it printed."


def saved_words(plan: SheetPlan | None) -> str:
    """What laying by shape saves against boxes."""
    if plan is None:
        return ""
    press, gang = plan.laid[0].made.press, plan.gang
    if plan.settings.way == "box":
        return "Laid by the boxes round the prints."
    boxes = sum(plan.by_box.printed_mm) / 10
    if plan.by_box.sheets > gang.sheets:
        return f"Boxes would take {plan.by_box.sheets} sheets, {plan.by_box.sheets - gang.sheets} more."
    if not gang.medium.is_roll:
        return f"Boxes would take as many sheets, {plan.saved_mm / 10:.1f} cm of them more."
    if plan.saved_mm < 0.5:
        return f"Boxes would take {boxes:.1f} cm: nothing is saved by shape here."
    money = f", {plan.saved_cost:.2f} {press.currency}" if plan.saved_cost else ""
    return f"Boxes would take {boxes:.1f} cm: {plan.saved_mm / 10:.1f} cm{money} saved by shape."


def job_rows(plan: SheetPlan | None) -> tuple[tuple[str, str], ...]:
    """Each job with its share of the film."""
    if plan is None:
        return ()
    total = plan.gang.film_mm2
    counts: dict[str, int] = {}
    for item in plan.laid:
        counts[item.wanted.label] = counts.get(item.wanted.label, 0) + item.copies
    return tuple(
        (job, f"{counts[job]} × · {film / 100:.0f} cm² · {film / total:.0%}")
        for job, film in plan.film_by_job().items()
    )


def told(plan: SheetPlan | None) -> tuple[Told, ...]:
    """Findings of the sheets, worst first."""
    if plan is None:
        return ()
    return tuple(_told(item, _sheet_of(plan, item)) for item in plan.findings)


def _sheet_of(plan: SheetPlan, finding: Finding) -> int:
    """The sheet that a finding lies on: that of the print whose middle it is at."""
    for spot in plan.gang.spots:
        if place_mm(plan.gang, spot) == (finding.x_mm, finding.y_mm):
            return spot.sheet
    return 1


def _told(finding: Finding, sheet: int = 1) -> Told:
    return Told(f"{_MARKS[finding.severity]}: {finding.text}", finding.severity, sheet, finding.x_mm, finding.y_mm)


def spot_words(plan: SheetPlan, spot: Spot, inches: bool) -> str:
    """A print on its sheet in words."""
    item, gang = plan.laid[spot.item], plan.gang
    width, height = gang.items[spot.item].outline.size_px(spot.turn)
    size = size_text(mm_from_px(width, gang.area.ppi), mm_from_px(height, gang.area.ppi), inches)
    turned = f", turned by {spot.turn}°" if spot.turn else ""
    film = gang.film_of(spot.item) / 100
    return f"{item.title} · copy {spot.copy} of {item.copies} · {size}{turned} · {film:.0f} cm² of film"


# the split


def split_words(made: SplitPlan | None, waiting: str) -> str:
    """How a print is split, in a line."""
    if made is None:
        return waiting
    count = len(made.split.parts)
    if count == 1:
        return f"It fits on one sheet of {made.medium.title}: nothing is cut."
    lies = ", lying on its side" if made.split.turned else ""
    return f"{count} sheets of {made.medium.title}{lies}."


def used_split(job: Job) -> SheetShare | None:
    """The sheets that the line at hand is split onto; ``None``: it is printed whole."""
    share = None if job.profile is None else job.settings.share(job.profile)
    return share if share is not None and share.parts > 1 else None


def split_use(job: Job, made: SplitPlan | None) -> tuple[str, bool, bool]:
    """What the line is printed on, in words; whether that is several sheets, and whether it can be those of a split."""
    share, can_use = used_split(job), made is not None and len(made.split.parts) > 1
    if share is None:
        return "", False, can_use
    words = f"Cost, time and card of this line are those of {share.parts} × {share.medium}."
    if made is not None and len(made.split.parts) != share.parts:
        words += f" This split takes {len(made.split.parts)}: print it whole, then use it."
    return words, True, can_use


def seam_rows(made: SplitPlan | None, inches: bool) -> tuple[str, ...]:
    """Each seam with what it crosses."""
    if made is None:
        return ()
    out = []
    for cut in made.split.cuts:
        one, other = cut.parts
        seam = cut.seam
        digits = 1
        crossing = length_text(seam.crossing_mm, inches, digits)
        straight = length_text(seam.straight_mm, inches, digits)
        how = "straight" if seam.is_straight else f"{seam.turns} turns"
        letters = f", {length_text(seam.lettering_mm, inches, digits)} of it lettering" if seam.lettering_mm else ""
        best = "" if seam.is_straight else f" · best straight {straight}"
        out.append(f"{one} | {other}: crosses {crossing} of print{letters} · {how}{best}")
    return tuple(out)


def split_told(made: SplitPlan | None, more: Sequence[Finding] = ()) -> tuple[Told, ...]:
    """Findings of the seams, and others."""
    found = () if made is None else made.findings
    return tuple(_told(item) for item in (*more, *found))


def press_words(width_mm: float, height_mm: float, plate: Medium | None, inches: bool) -> str:
    """How often the plate goes over a transfer, and where."""
    if plate is None or not width_mm:
        return ""
    goes = press_plan(width_mm, height_mm, plate)
    if len(goes) == 1:
        return f"{plate.title} covers it: one press."
    places = "; ".join(
        f"{number}. from {length_text(go.x_mm, inches)} across, {length_text(go.y_mm, inches)} down"
        for number, go in enumerate(goes, start=1)
    )
    size = size_text(goes[0].width_mm, goes[0].height_mm, inches)
    return f"{len(goes)} goes of {size}, overlapping by 20 mm: {places}. Hot plate: burns and pinching."
