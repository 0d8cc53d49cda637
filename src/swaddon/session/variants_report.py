"""Variants that were worked out, as JSON values, CSV rows and one HTML page with their proofs."""

import json
from base64 import b64encode
from collections.abc import Sequence
from decimal import Decimal
from html import escape
from pathlib import Path
from typing import Any

import cv2

from swaddon.core.colour.spaces import Rgb, hex_from_rgb
from swaddon.core.count.money import at_quantities, money_text
from swaddon.core.errors import PlanError
from swaddon.core.holes.settings import Screen
from swaddon.core.plan.outcome import NONE_UNDER, Outcome
from swaddon.core.plan.variants import AS_IT_IS, GarmentChoice, Variant, Worked, differing_colour, dominated
from swaddon.io.outputs import output_set
from swaddon.io.profiles import reason, shipped_names
from swaddon.io.spreadsheet import write_rows
from swaddon.session import as_typed

NAMES = ("variants.json", "variants.csv", "variants.html")
_HEADS = (
    "garment", "process", "press", "white", "knockout", "holes", "white_amount", "white_unit", "cost", "cost_of_order",
    "cost_per_100", "quantity", "currency",
    "print_s", "hand_g_m2", "worst_de", "stops", "looks", "dominated", "problem",
)  # fmt: skip

_STYLE = """
body { font: 15px/1.45 sans-serif; color: #222; background: #f1f1f0; }
body { margin: 2em auto; max-width: 1180px; padding: 0 1em; }
h1 { font-size: 1.5em; } h2 { font-size: 1.1em; margin: 1.5em 0 .5em; }
.ladder { display: grid; grid-template-columns: repeat(auto-fill, minmax(240px, 1fr)); gap: 14px; }
article { background: #fff; border: 1px solid #ccc; padding: 10px; break-inside: avoid; }
article img { width: 100%; } article p { margin: .3em 0; }
.dominated { opacity: .55; } .money { font-size: 1.25em; font-weight: 600; font-variant-numeric: tabular-nums; }
.quiet { color: #555; font-size: .92em; }
"""


def variant_report(item: Worked, is_dominated: bool, quantity: int = 1) -> dict[str, Any]:
    """One variant as JSON-ready values; amounts of one piece, besides cost of the order and of a hundred.

    Names are a contract (docs/orders.md).
    """
    variant, outcome = item.variant, item.outcome
    out: dict[str, Any] = {
        "garment": variant.garment.title,
        "garment_rgb": hex_from_rgb(variant.garment.rgb),
        "process": variant.press.process,
        "press": variant.press.name,
        "white": variant.white.title,
        "knockout": variant.knockout.title,
        "holes": variant.holes.title,
        "options": options_of(variant),
    }
    if outcome is None:
        return out | {"problem": item.problem, "dominated": False}
    worst = outcome.shifts[0].colour if outcome.shifts else None
    return out | {
        "white_amount": round(outcome.white_amount, 4),
        "white_unit": variant.press.ink_unit,
        "cost": f"{outcome.cost:f}",
        "cost_of_order": f"{outcome.cost * quantity:f}",
        "cost_per_100": f"{outcome.cost * 100:f}",
        "quantity": quantity,
        "currency": outcome.currency,
        "print_s": round(outcome.print_s, 2),
        "hand_g_m2": round(outcome.hand_g_m2, 2),
        "worst_de": round(outcome.worst_de, 2),
        "worst_de_solid": round(outcome.shifts[0].solid, 2) if outcome.shifts else 0.0,
        "worst_colour": None if worst is None else hex_from_rgb(worst),
        "findings": [
            {"code": found.code, "severity": found.severity, "text": found.text} for found in outcome.findings
        ],
        "dominated": is_dominated,
    }


def options_of(variant: Variant) -> dict[str, str | list[str]]:
    """The variant as the options of ``plan`` that make it; what stays as the job has it is left out."""
    out: dict[str, str | list[str]] = {"--garment": hex_from_rgb(variant.garment.rgb)}
    press = variant.press
    out |= {"--profile": press.name} if press.name in shipped_names() else {"--process": press.process}
    white = {path.removeprefix("white."): value for path, value in variant.white.changes}
    if "mode" in white:
        out["--white"] = as_typed.white(white)
    for path, value in variant.knockout.changes:
        if path == "knockouts" and isinstance(value, tuple):
            out["--knockout"] = [as_typed.knockout(item) for item in value]
    for path, value in variant.holes.at(press).changes:
        if path == "holes.default":
            assert value is None or isinstance(value, Screen)
            out["--holes"] = as_typed.screen(value)
    return out


def variants_report(found: Sequence[Worked], quantity: int = 1) -> list[dict[str, Any]]:
    """All variants, cheapest first on each garment in the order in which garments were asked for."""
    beaten = dict(zip(map(id, found), dominated(found), strict=True))
    garments = dict.fromkeys(item.variant.garment for item in found)
    differs = {garment: differing_colour(outcomes_on(found, garment)) for garment in garments}
    return [
        variant_report(item, beaten[id(item)], quantity) | _differing(item, differs[item.variant.garment])
        for item in cheapest_first(found)
    ]


def outcomes_on(found: Sequence[Worked], garment: GarmentChoice) -> list[Outcome]:
    """What the variants on one garment come to."""
    return [item.outcome for item in found if item.variant.garment == garment and item.outcome is not None]


def _differing(item: Worked, colour: Rgb | None) -> dict[str, Any]:
    """The colour in which ways differ that lose the worst one alike."""
    if item.outcome is None:
        return {}
    told = None if colour is None else shift_of(item.outcome, colour)
    return {
        "differing_colour": None if colour is None else hex_from_rgb(colour),
        "differing_de": None if told is None else round(told, 2),
    }


def shift_of(outcome: Outcome, colour: Rgb) -> float | None:
    """ΔE00 of one of its main colours."""
    return next((shift.delta_e for shift in outcome.shifts if shift.colour == colour), None)


def cheapest_first(found: Sequence[Worked]) -> list[Worked]:
    """Variants by garment, then by cost; what could not be planned comes last."""
    garments = list(dict.fromkeys(item.variant.garment for item in found))

    def place(item: Worked) -> tuple[int, bool, float]:
        cost = 0.0 if item.outcome is None else float(item.outcome.cost)
        return garments.index(item.variant.garment), item.outcome is None, cost

    return sorted(found, key=place)


def variants_table(found: Sequence[Worked], quantity: int = 1) -> str:
    """Variants for a terminal, cheapest first on each garment; marked where another costs less and is no worse."""
    report = variants_report(found, quantity)
    heads = (
        "Garment",
        "Press",
        "White",
        "Knockout",
        "Holes",
        "Cost",
        "Order" if quantity > 1 else "",
        "White",
        "Time",
        "Hand",
        "Worst ΔE",
        "",
    )
    rows = [heads, *(_row(entry) for entry in report)]
    shown = [column for column in range(len(heads)) if {row[column] for row in rows[1:]} - {AS_IT_IS.title, ""}]
    widths = {column: max(len(row[column]) for row in rows) for column in shown}
    return "\n".join("  ".join(row[column].ljust(widths[column]) for column in shown).rstrip() for row in rows)


def white_title(title: str) -> str:
    """A white plan as it is told: under “none” the design's own white still prints."""
    return NONE_UNDER if title == "none" else title


def _row(entry: dict[str, Any]) -> tuple[str, ...]:
    names = tuple(white_title(str(entry[name])) for name in ("garment", "press", "white", "knockout", "holes"))
    if "problem" in entry:
        return (*names, "", "", "", "", "", "", entry["problem"])
    severities = [found["severity"] for found in entry["findings"]]
    marks = [f"{count} {word}" for word in ("stop", "look") if (count := severities.count(word))]
    return (
        *names,
        f"{money_text(Decimal(entry['cost']))} {entry['currency']}",
        at_quantities(Decimal(entry["cost"]), entry["quantity"]),
        f"{entry['white_amount']:.2f} {entry['white_unit']}",
        f"{entry['print_s']:.0f} s",
        f"{entry['hand_g_m2']:.0f} g/m²",
        f"{entry['worst_de']:.1f}",
        ", ".join([*marks, *(["* dominated"] if entry["dominated"] else [])]),
    )


def write_variants(found: Sequence[Worked], folder: Path, title: str, of: str, quantity: int = 1) -> list[Path]:
    """Write ``variants.json``, ``variants.csv`` and ``variants.html``, all or none; ``of`` is the artwork's content.

    Raises
    ------
    PlanError
        One sentence: the folder cannot be written.
    """
    report = variants_report(found, quantity)
    try:
        with output_set(folder, f"variants {of}", NAMES) as part:
            text = json.dumps(report, indent=2, ensure_ascii=False) + "\n"
            (part / NAMES[0]).write_text(text, encoding="utf-8")
            write_rows(part / NAMES[1], [_HEADS, *(_cells(entry) for entry in report)])
            (part / NAMES[2]).write_text(_page(found, title, quantity), encoding="utf-8")
    except OSError as error:
        raise PlanError(f"The variants could not be written to “{folder}” ({reason(error)}).") from error
    return [folder / name for name in NAMES]


def _cells(entry: dict[str, Any]) -> list[str]:
    severities = [found["severity"] for found in entry.get("findings", ())]
    entry = entry | {"stops": severities.count("stop"), "looks": severities.count("look")}
    return [_cell(entry.get(name, "")) for name in _HEADS]


def _cell(value: object) -> str:
    return ("yes" if value else "no") if isinstance(value, bool) else str(value)


def _page(found: Sequence[Worked], title: str, quantity: int) -> str:
    beaten = dict(zip(map(id, found), dominated(found), strict=True))
    parts = [f'<!doctype html>\n<html lang="en"><meta charset="utf-8"><title>{escape(title)}</title>']
    parts.append(f"<style>{_STYLE}</style><h1>{escape(title)}</h1>")
    parts.append(
        '<p class="quiet">One piece each, cheapest first. Pale: another on the same garment costs less and is worse in '
        "nothing. Pictures are computed, not photographed.</p>"
    )
    for garment in dict.fromkeys(item.variant.garment for item in found):
        parts.append(f'<h2>{escape(garment.title)}</h2><div class="ladder">')
        parts += [
            _card(item, beaten[id(item)], quantity) for item in cheapest_first(found) if item.variant.garment == garment
        ]
        parts.append("</div>")
    return "\n".join(parts) + "\n</html>\n"


def _card(item: Worked, is_dominated: bool, quantity: int) -> str:
    variant, outcome = item.variant, item.outcome
    ways = [white_title(variant.white.title), variant.knockout.title, variant.holes.title]
    told = escape(" · ".join(way for way in ways if way != AS_IT_IS.title) or "as it is")
    head = f'<p><b>{told}</b><br><span class="quiet">{escape(variant.press.title)}</span></p>'
    if outcome is None:
        return f"<article>{head}<p>{escape(item.problem)}</p></article>"
    _, coded = cv2.imencode(".png", cv2.cvtColor(outcome.proof, cv2.COLOR_RGB2BGR))
    data = b64encode(coded.tobytes()).decode("ascii")
    told = at_quantities(outcome.cost, quantity)
    order = f"<p>{told} {outcome.currency}</p>" if told else ""
    kind = ' class="dominated"' if is_dominated else ""
    return (
        f'<article{kind}><img alt="{escape(variant.title)}" src="data:image/png;base64,{data}">{head}'
        f'<p class="money">{money_text(outcome.cost)} {outcome.currency}</p>{order}<p>{escape(facts(outcome))}</p>'
        f'<p class="quiet">{escape(troubles_text(outcome))}</p></article>'
    )


def facts(outcome: Outcome) -> str:
    """White, time, hand and worst colour of a piece in one line."""
    rest = f"{outcome.print_s:.0f} s · {outcome.hand_g_m2:.0f} g/m² · {outcome.worst_words}"
    return f"{outcome.white_words} · {rest}"


def troubles_text(outcome: Outcome) -> str:
    """What was found wrong, worst first, in one line."""
    serious = [found for found in outcome.findings if found.severity != "note"]
    if not serious:
        return "nothing found"
    more = f" and {len(serious) - 1} more" if len(serious) > 1 else ""
    return f"{serious[0].severity.capitalize()}: {serious[0].text}{more}"
