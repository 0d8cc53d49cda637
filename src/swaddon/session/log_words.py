"""Entries of the log book in words, and what differs between two of them."""

import json
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from typing import Any

from swaddon.core.colour.spaces import hex_from_rgb
from swaddon.core.log.days import local_text
from swaddon.core.log.entry import Entry, Happened, Ordered, Planned, Verdict
from swaddon.core.log.troubles import trouble_title
from swaddon.core.press.processes import PROCESSES
from swaddon.session.figure_words import time_text
from swaddon.session.setting_words import title_of, value_text

_UNITS = {"m2": "m²"}
_FIGURES = {
    "print_s": ("Print time", "s"),
    "hand_g_m2": ("Hand", "g/m²"),
    "open_share": ("Left open by holes", "%"),
    "worst_de": ("Colour that comes out worst", "ΔE"),
    "choke_mm": ("Choke", "mm"),
    "sigma_mm": ("Registration, standard deviation", "mm"),
    "squeeze_mm": ("Squeeze", "mm"),
    "white_mean": ("White over the artboard", "%"),
}
_MATERIALS = {"white": "White", "colour": "Colour", "film": "Film", "sheet": "Sheets", "powder": "Powder"}
_LONGEST = 90
_AMONG_SETTINGS = frozenset({"choke_mm"})
"""Figures that are a setting as well: told once."""


def day_text(at: str) -> str:
    """The day of an entry, by the shop's clock."""
    return local_text(at)[:10]


def title_text(entry: Entry) -> str:
    """What a run is called in a list."""
    ordered = entry.ordered
    return (ordered.order if ordered is not None else "") or "A note"


def line_text(entry: Entry) -> str:
    """Line, process and day, for the second line of a list."""
    ordered = entry.ordered or Ordered()
    process = PROCESSES[ordered.process].title if ordered.process in PROCESSES else ordered.process
    return " · ".join(filter(None, (day_text(entry.at), ordered.line, process.lower())))


def count_text(happened: Happened | None) -> str:
    """Good and spoiled pieces.

    >>> count_text(Happened(good=11, spoiled=(("peek", 1),)))
    '11 good, 1 spoiled'
    """
    if happened is None:
        return ""
    return f"{happened.good} good" + (f", {happened.lost} spoiled" if happened.lost else "")


def verdict_text(verdict: Verdict | None) -> str:
    """What was seen.

    >>> verdict_text(Verdict((("peek", True), ("halo", False)))), verdict_text(None)
    ('White peeks out', 'not looked at')
    """
    if verdict is None or not verdict.looked:
        return "not looked at"
    after = f", after {verdict.washes} wash{'es' if verdict.washes > 1 else ''}" if verdict.washes else ""
    return (", ".join(map(trouble_title, verdict.seen)) or f"fine, {len(verdict.looked)} looked for") + after


def reasons_text(happened: Happened | None) -> str:
    """Why pieces were spoiled."""
    if happened is None:
        return ""
    return ", ".join(f"{count} {trouble_title(why).lower()}" for why, count in happened.spoiled)


def figure_text(key: str, value: float) -> tuple[str, str]:
    """A figure of the plan: its title, and its value with the unit.

    >>> figure_text("used:white:ml", 0.6754), figure_text("open_share", 0.52)
    (('White', '0.675 ml'), ('Left open by holes', '52 %'))
    """
    if key.startswith("used:"):
        _, kind, unit = key.split(":", 2)
        if unit == "m2":
            return _MATERIALS.get(kind, kind.capitalize()), f"{10_000 * value:.0f} cm²"
        return _MATERIALS.get(kind, kind.capitalize()), f"{value:.3g} {_UNITS.get(unit, unit)}"
    title, unit = _FIGURES.get(key, (key.replace("_", " ").capitalize(), ""))
    if unit == "%":
        return title, f"{100 * value:.0f} %"
    return title, f"{value:.3g} {unit}".strip()


def setting_text(path: str, text: str) -> str:
    """The value of a setting, from the JSON text that an entry keeps."""
    try:
        value: Any = json.loads(text)
    except ValueError:
        return text[:_LONGEST]
    if isinstance(value, list) and value:
        value = "; ".join(_item_text(item) for item in value)
        return value if len(value) <= _LONGEST else value[: _LONGEST - 1] + "…"
    if isinstance(value, list):
        return "none"
    return value_text(path, value)[:_LONGEST]


def _item_text(item: Any) -> str:
    if isinstance(item, dict):
        return " ".join(f"{_short(value)}" for value in item.values() if value not in (None, [], ""))
    return _short(item)


def _short(value: Any) -> str:
    return f"{value:g}" if isinstance(value, float) else str(value)


# two side by side


@dataclass(frozen=True)
class Row:
    """One thing told of two runs; ``part`` is what it belongs to."""

    part: str
    title: str
    one: str
    other: str

    @property
    def differs(self) -> bool:
        return self.one != self.other


def compared(one: Entry, other: Entry) -> tuple[Row, ...]:
    """Two runs side by side, what differs first: what became of them, then settings, figures, goods and press."""
    rows = [Row(part, title, left, right) for part, title, left, right in _rows(one, other)]
    return (*(row for row in rows if row.differs), *(row for row in rows if not row.differs))


def _rows(one: Entry, other: Entry) -> Iterator[tuple[str, str, str, str]]:
    yield "Came out", "Verdict", verdict_text(one.verdict), verdict_text(other.verdict)
    yield "Came out", "Spoiled", _spoiled(one.happened), _spoiled(other.happened)
    yield "Came out", "Time at work a piece", _each(one.happened), _each(other.happened)
    left, right = one.planned or Planned(), other.planned or Planned()
    yield from _of_maps("Settings", dict(left.settings), dict(right.settings))
    figures = (dict(left.figures), dict(right.figures))
    for key in dict.fromkeys((*figures[0], *figures[1])):
        if key in _AMONG_SETTINGS:
            continue
        texts = [figure_text(key, held[key]) if key in held else ("", "–") for held in figures]
        yield "Figures", texts[0][0] or texts[1][0], texts[0][1], texts[1][1]
    yield "Figures", "Materials of one", f"{left.cost} {left.currency}", f"{right.cost} {right.currency}"
    yield "Figures", "Findings", _findings(left), _findings(right)
    yield "Press", "Line-up", " ".join(left.lineup), " ".join(right.lineup)
    yield "Press", "Measured constants", _constants(left), _constants(right)
    ordered = (one.ordered or Ordered(), other.ordered or Ordered())
    for part, title, name in (
        ("Goods", "Garment", "garment"), ("Goods", "Cloth", "cloth"), ("Goods", "Place", "place"),
        ("Press", "Press", "press_title"), ("Goods", "Artwork", "artwork"), ("Goods", "Order", "order"),
        ("Goods", "Customer", "customer"),
    ):  # fmt: skip
        yield part, title, str(getattr(ordered[0], name)), str(getattr(ordered[1], name))


def _of_maps(part: str, one: dict[str, str], other: dict[str, str]) -> Iterator[tuple[str, str, str, str]]:
    for path in dict.fromkeys((*one, *other)):
        left, right = (setting_text(path, held[path]) if path in held else "–" for held in (one, other))
        if left == right and one.get(path) != other.get(path):
            right += " (other)"
        yield part, title_of(path), left, right


def _spoiled(happened: Happened | None) -> str:
    if happened is None or not happened.begun:
        return "–"
    return f"{happened.lost} of {happened.begun}" + (f": {reasons_text(happened)}" if happened.lost else "")


def _each(happened: Happened | None) -> str:
    if happened is None or not happened.begun or not happened.taken_s:
        return "–"
    return time_text(happened.taken_s / happened.begun)


def _findings(planned: Planned) -> str:
    return ", ".join(dict.fromkeys(told.code.replace("-", " ") for told in planned.findings)) or "none"


def _constants(planned: Planned) -> str:
    return ", ".join(dict.fromkeys(constant for constant, _, _ in planned.constants)) or "none"


def facts_of(entry: Entry) -> tuple[tuple[str, str], ...]:
    """What was ordered and planned, a few words each."""
    ordered, planned = entry.ordered or Ordered(), entry.planned or Planned()
    size = f"{ordered.width_mm:.0f} × {ordered.height_mm:.0f} mm" if ordered.width_mm else ""
    facts = [
        ("Customer", ordered.customer), ("Garment", f"{ordered.garment} {hex_from_rgb(ordered.garment_rgb)}".strip()),
        ("Place", " · ".join(filter(None, (ordered.place, size)))), ("Press", ordered.press_title),
        ("Artwork", ordered.artwork), ("Line-up", " ".join(planned.lineup)),
        ("Materials of one", f"{planned.cost} {planned.currency}".strip()),
    ]  # fmt: skip
    facts += [figure_text(key, value) for key, value in planned.figures if value]
    return tuple((title, value) for title, value in facts if value)


def history_text(entry: Entry) -> str:
    """One entry of a run's history."""
    kinds = {"run": "Run ended", "verdict": "Looked at", "correction": "Put right", "note": "Note"}
    said = [
        count_text(entry.happened) if entry.kind in ("run", "correction") else "",
        verdict_text(entry.verdict) if entry.verdict is not None else "",
        entry.note,
        f"{len(entry.photos)} photo{'s' if len(entry.photos) > 1 else ''}" if entry.photos else "",
    ]
    return f"{local_text(entry.at)} · {entry.bench} · {kinds[entry.kind]}: {'; '.join(filter(None, said))}".rstrip(": ")


def likeness_text(parts: Sequence[float]) -> str:
    """How like a print is: ΔE of its colours and garment, coverage in points, finest lines as their ratio.

    >>> likeness_text((3.24, 0.0, 0.031, 0.5))
    'ΔE 3 · same garment · ± 3 points · lines × 1.4'
    """
    colours, garment, coverage, finest = parts
    same = "same garment" if garment < 1 else f"garment ΔE {garment:.0f}"
    return f"ΔE {colours:.0f} · {same} · ± {100 * coverage:.0f} points · lines × {2**finest:.2g}"
