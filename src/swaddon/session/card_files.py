"""The run card as a file, and the code on it by which its job is found again."""

from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path
from urllib.parse import parse_qs, urlencode, urlsplit

from swaddon.core.plan.outcome import small_proof
from swaddon.core.plan.stages import Plan
from swaddon.core.proof.garments import shape
from swaddon.core.run.card import Placing, RunCard
from swaddon.core.units import inches_from_mm, number_of
from swaddon.io.card_pdf import CardLine, CardPage, write_card
from swaddon.io.jobfile import SUFFIX
from swaddon.session.figure_words import figures_text, heat_text, time_text
from swaddon.session.job import Job
from swaddon.session.log_drafts import artwork_key
from swaddon.session.preferences import Preferences
from swaddon.session.run_cards import card_of, run_findings

_PROOF_PX = 700
_SCHEME, _HOST = "swaddon", "job"
_LONGEST_CODE, _LONGEST_ORDER, _KEY_SIGNS = 400, 50, 12
"""Signs at most: a square of more is too fine for a hand scanner."""


@dataclass(frozen=True)
class JobCode:
    """What a card's code tells: the job's file, the artwork's key (its beginning), order and line, from 1."""

    path: str
    artwork_key: str
    order: str
    line: int


def code_text(job: Job, path: Path | None) -> str:
    """The code on a card, as text: an address of our own.

    A hand scanner types it, and the bench opens it where it is pasted, typed or given to the command.
    """
    told = {"line": str(job.at + 1), "art": artwork_key(job)[:_KEY_SIGNS], "order": job.name[:_LONGEST_ORDER]}
    whole = told if path is None else told | {"file": str(path.absolute())}
    text = f"{_SCHEME}:{_HOST}?{urlencode(whole, safe='/')}"
    return text if len(text) <= _LONGEST_CODE else f"{_SCHEME}:{_HOST}?{urlencode(told)}"


def read_code(text: str) -> JobCode | None:
    """What a code tells; ``None``: it is no code of ours."""
    bare = text.strip()
    if len(bare) > 4 * _LONGEST_CODE or not bare.lower().startswith(f"{_SCHEME}:{_HOST}?"):
        return None
    told = parse_qs(urlsplit(bare).query)

    def one(key: str) -> str:
        return told.get(key, [""])[0]

    line = one("line")
    path = one("file") if one("file").endswith(SUFFIX) else ""
    return JobCode(path, one("art"), one("order"), int(line) if line.isdigit() and len(line) < 5 else 1)


def card_page(job: Job, plan: Plan, preferences: Preferences, path: Path | None = None) -> CardPage:
    """What stands on the card of the line at hand."""
    unit = preferences.inches
    card = card_of(job, plan, "in" if unit else "mm")
    settings, line = job.settings, job.line
    made = shape(line.shape)
    top = settings.drop_mm if made.has_collar else made.print_top_mm
    hot = {conflict.step: conflict for conflict in card.conflicts}
    told: set[str] = set()
    steps = []
    for step in card.steps:
        figures = list(figures_text(step.figures, preferences))
        if not step.counts_down and step.expected_s is not None:
            figures.append(f"about {time_text(step.expected_s)}")
        too_hot = hot.get(step.key)
        warning = "" if too_hot is None else f"Garment bears {heat_text(too_hot.bears_c, preferences)}"
        caution = "" if step.caution in told else step.caution
        steps.append(CardLine(step.number, step.text, " · ".join(figures), caution, warning))
        told.add(step.caution)
    return CardPage(
        title=job.name,
        head=" · ".join(filter(None, (line.title, number_of(settings.quantity, "piece"), card.title))),
        facts=_facts(job, plan, card, preferences),
        steps=steps,
        marks=card.marks,
        where=f"{card.placing.place}: {card.placing.words('in' if unit else 'mm')}",
        drop=_length(card.placing.ink_drop_mm, unit),
        size=_size(card.placing.ink_mm[2:], unit),
        cautions=" ".join(card.cautions),
        warnings=[found.text for found in run_findings(job)] + [f.text for f in plan.findings if f.severity == "stop"],
        proof=small_proof(plan, _PROOF_PX),
        garment=settings.garment,
        shape=made,
        place=(-settings.width_mm / 2, top, settings.width_mm, job.height_mm),
        ink=_on_goods(card.placing, top),
        code=code_text(job, path),
        paper=preferences.paper,
        mirrored=card.mirrored,
        notes=[f"{school.title}: {way.title.lower()}." for school, way in card.schools],
    )


def _facts(job: Job, plan: Plan, card: RunCard, preferences: Preferences) -> list[tuple[str, str]]:
    """Whose it is and what it is printed with, a few words each."""
    ink, artboard = (_size(size, preferences.inches) for size in (card.placing.ink_mm[2:], card.placing.artboard_mm))
    size = ink if ink == artboard else f"{ink} (artboard {artboard})"
    return [
        (title, value)
        for title, value in (
            ("Customer", job.customer),
            ("Artwork", "" if job.file is None else job.file.artwork.file_name),
            ("Print", size),
            ("Press", card.press),
            ("Printing", f"about {time_text(plan.time.print_s)} each"),
        )
        if value
    ]


def _on_goods(placing: Placing, top_mm: float) -> tuple[float, float, float, float]:
    """Left, top, width and height of the ink on the goods, from the collar's middle."""
    left, down, width, height = placing.ink_mm
    return left - placing.artboard_mm[0] / 2, top_mm + down, width, height


def _size(size_mm: Sequence[float], inches: bool) -> str:
    return " × ".join(_length(side, inches) for side in size_mm)


def _length(length_mm: float, inches: bool) -> str:
    return f"{inches_from_mm(length_mm):.3g} in" if inches else f"{length_mm:.0f} mm"


def write_card_file(path: Path, job: Job, plan: Plan, preferences: Preferences, made_from: Path | None = None) -> None:
    """Write the card of the line at hand; raises ``PlanError`` with one sentence."""
    write_card(path, card_page(job, plan, preferences, made_from))
