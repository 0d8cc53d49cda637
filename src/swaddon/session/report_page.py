"""One HTML page about a plan, whole in one file: the shirt, its white, its trouble, curves, amounts and findings."""

import base64
from collections.abc import Iterable, Sequence
from html import escape
from pathlib import Path

import cv2
import numpy as np
from numpy.typing import NDArray

from swaddon.core.colour.goods import colour_word
from swaddon.core.colour.spaces import hex_from_rgb
from swaddon.core.engine import Cache, Run
from swaddon.core.errors import PlanError
from swaddon.core.findings.told import small_words, told
from swaddon.core.plan.stages import Plan
from swaddon.core.plan.trouble import Patch
from swaddon.core.units import inches_from_mm, plural
from swaddon.io.outputs import output_file
from swaddon.io.profiles import reason
from swaddon.session.curves import Line, choke_lines, height_at, need_lines
from swaddon.session.pictures import HATCHES, KIND_TITLES
from swaddon.session.preview import Previewer
from swaddon.session.tally import tally_lines
from swaddon.session.view import View

LONGEST_PX = 1000
_MARGIN_MM = 3.0
_CHART_W, _CHART_H = 360, 150
_DASHES = {"solid": "none", "dash": "7 4", "dot": "2 4"}

_CAUTION = (
    "Heat presses, ovens, inks, powder and pretreatment can hurt: follow the safety data sheets, the makers’ "
    "instructions and your local rules."
)

_STYLE = """
body { font: 15px/1.5 sans-serif; color: #222; background: #fff; max-width: 1060px; margin: 2em auto; padding: 0 1em; }
h1 { font-size: 1.5em; } h2 { font-size: 1.1em; margin: 1.6em 0 .4em; }
figure { display: inline-block; vertical-align: top; margin: 0 1em 1em 0; width: 31%; min-width: 180px; }
figure img { width: 100%; } figcaption { font-size: .9em; color: #444; }
table { border-collapse: collapse; } td, th { padding: .2em 1.2em .2em 0; text-align: left; vertical-align: top; }
tr + tr td, tr + tr th { border-top: 1px solid #ddd; } th { font-weight: 600; }
.colour, .short { white-space: nowrap; width: 1%; }
.wide { width: 100%; } .wide td { overflow-wrap: anywhere; }
.number { text-align: right; font-variant-numeric: tabular-nums; }
.swatch { display: inline-block; width: 1em; height: 1em; margin-right: .4em; vertical-align: -.15em; }
.swatch { border: 1px solid #888; }
svg text { font: 12px sans-serif; fill: #333; }
@media print { body { margin: 0; } figure, table, svg { break-inside: avoid; } }
"""


def write_report_page(plan: Plan, path: Path, run: Run) -> None:
    """Write the page of a whole (not lean) plan; on failure a page that was there before stays as it was.

    Raises
    ------
    PlanError
        One sentence: the file cannot be written.
    """
    page = report_page(plan, run)
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
        with output_file(path) as file:
            file.write(page.encode())
    except OSError as error:
        raise PlanError(
            f"The report could not be written to “{path}” ({reason(error)}): choose another file."
        ) from error


def report_page(plan: Plan, run: Run) -> str:
    """The page as HTML with its pictures inside; nothing in it is fetched."""
    request, settings = plan.request, plan.request.settings
    name = escape(request.artwork.file_name)
    garment = hex_from_rgb(settings.garment)
    wide, high = settings.width_mm, request.height_mm
    size = f"{wide:.0f} × {high:.0f} mm ({inches_from_mm(wide):.1f} × {inches_from_mm(high):.1f} in)"
    item = piece = request.ware.piece
    shirts = f"1 {item}" if settings.quantity == 1 else f"{settings.quantity} {plural(item)}"
    return "\n".join(
        (
            '<!doctype html>\n<html lang="en">\n<meta charset="utf-8">',
            f"<title>{name} – white and cost</title>\n<style>{_STYLE}</style>",
            f"<h1>{name}</h1>",
            f"<p>A print of {size} on {shirts}, {_swatch(garment)}{colour_word(settings.garment)} ({garment}), by "
            f"{request.profile.printing.described} ({escape(request.profile.title)}). {_white(plan)}</p>",
            _pictures(plan, run),
            "<h2>Findings</h2>",
            _findings(plan),
            f"<h2>Per {piece}</h2>",
            _table(((line.title, line.value) for line in tally_lines(plan, None)), ("", "Amount")),
            f"<h2>Does this {item} need white?</h2>",
            f"<p>{escape(plan.advice.reason)}</p>",
            _colours(plan),
            "<h2>Choke and white</h2>",
            _charts(plan),
            f"<p>{_CAUTION}</p>\n</html>\n",
        )
    )


def _white(plan: Plan) -> str:
    """How much white lies under the colours and why, for somebody who does not print."""
    white, saved = plan.request.settings.white, f"{1 - plan.checks.white.of_solid:.0%} less than everywhere"
    edge = ""
    if white.choke_mm > 0:
        edge = f" It ends {white.choke_mm:.2f} mm inside the edges of the colours (the choke), so that none shows."
    bare = plan.request.ware.surface
    view_modes = {
        "none": f"No white lies under the colours: the {bare} shows through them.",
        "highlight": f"White lies under the lightest colours only, {saved}.{edge}",
        "only": "It is printed in white alone, without colour.",
        "solid": f"White lies under all colours (solid).{edge}",
        "limit": f"White lies under colours of up to {white.limit:g} % ink in all, {saved}.{edge}",
        "need": f"Each colour has the least white that holds it on this {bare} (to ΔE {white.allowed_shift:g}), "
        f"{saved}.{edge}",
    }
    return view_modes[white.mode]


def _pictures(plan: Plan, run: Run) -> str:
    request, previewer = plan.request, Previewer(Cache())
    width, height = (mm + 2 * _MARGIN_MM for mm in (request.settings.width_mm, request.height_mm))
    scale = LONGEST_PX / max(width, height)
    view = View(max(1, round(width * scale)), max(1, round(height * scale)), scale, -_MARGIN_MM, -_MARGIN_MM)
    shirt, white, trouble = (
        previewer.frame(view, view_mode, "jersey", request, plan, run) for view_mode in ("cloth", "white", "trouble")
    )
    return (
        _figure(shirt.image, f"The print on the {request.ware.item}", f"The print on the {request.ware.item}.")
        + _figure(white.image, "The white", "The white: the lighter, the more.")
        + _figure(trouble.image, "Trouble", "Trouble:<br>" + _legend(trouble.legend))
    )


def _figure(picture: NDArray[np.uint8], name: str, caption: str) -> str:
    _, coded = cv2.imencode(".png", cv2.cvtColor(picture, cv2.COLOR_RGB2BGR))
    data = base64.b64encode(coded.tobytes()).decode("ascii")
    return f'<figure><img alt="{name}" src="data:image/png;base64,{data}"><figcaption>{caption}</figcaption></figure>\n'


def _legend(patches: Sequence[Patch]) -> str:
    found = [patch for patch in reversed(patches) if patch.area_mm2 >= 0.05]
    if not found:
        return "None found."
    return "<br>".join(
        f"{_swatch(hex_from_rgb(HATCHES[patch.kind][0]))}{KIND_TITLES[patch.kind]}, {patch.area_mm2:.1f} mm², "
        f"mostly at {patch.x_mm:.0f}, {patch.y_mm:.0f} mm"
        for patch in found
    )


def _swatch(colour: str) -> str:
    return f'<span class="swatch" style="background:{colour}"></span>'


def _findings(plan: Plan) -> str:
    if not plan.findings:
        return "<p>None.</p>"
    large, small = told(plan.findings)
    rows = "".join(
        f'<tr><th class="short">{found.severity.capitalize()}<td>{escape(found.text)}'
        f'<td class="short">{found.x_mm:.0f}, {found.y_mm:.0f} mm</tr>'
        for found in (large if len(small) > 1 else (*large, *small))
    )
    if len(small) > 1:
        rows += f'<tr><th class="short">Note<td>{small_words(small)}.<td></tr>'
    return f'<table class="wide"><tr><th><th>What was found<th class="short">Where</tr>{rows}</table>'


def _table(rows: Iterable[Sequence[str]], heads: Sequence[str] = ()) -> str:
    top = "<tr>" + "".join(f"<th>{escape(head)}" for head in heads) + "</tr>" if heads else ""
    body = "".join("<tr>" + "".join(f"<td>{escape(cell)}" for cell in row) + "</tr>" for row in rows)
    return f"<table>{top}{body}</table>"


def _colours(plan: Plan) -> str:
    heads = ("Share", "ΔE without white", "strengthened", "with highlights", "by need", "on solid white")
    rows = ["<tr><th>Colour" + "".join(f'<th class="number">{head}' for head in heads) + "</tr>"]
    for item in plan.advice.colours:
        colour = hex_from_rgb(item.colour)
        errors = (item.bare, item.strengthened, item.highlights, item.by_need, item.solid)
        numbers = (f"{item.share:.0%}", *(f"{error:.1f}" for error in errors))
        cells = "".join(f'<td class="number">{number}' for number in numbers)
        rows.append(f'<tr><td class="colour">{_swatch(colour)}{colour}{cells}</tr>')
    return f"<table>{''.join(rows)}</table>"


def _charts(plan: Plan) -> str:
    white = plan.request.settings.white
    parts = []
    harm, registration = choke_lines(plan), plan.request.registration
    kind = "the worst that occurs" if registration.is_worst_case else "σ"
    grows = registration.spread is not None
    corners = f" in the mean, {registration.worst_sigma_mm:.2f} mm at the corners," if grows else ""
    if harm and white.mode not in ("none", "only"):
        parts.append(
            f"<p>For a registration error ({kind}) of {registration.sigma_mm:.2f} mm{corners} "
            f"a choke of {plan.choke.recommended_mm:.2f} mm does the least harm; "
            f"from {registration.no_peek_mm:.2f} mm on white stays hidden{' at the corners too' if grows else ''}; "
            f"this plan has {white.choke_mm:.2f} mm.</p>"
        )
        parts.append(_chart(harm, white.choke_mm, "Harm in ΔE·mm² against choke in mm"))
    need = need_lines(plan)
    if need and white.mode == "need":
        parts.append(
            _chart(need, white.allowed_shift, f"White in {plan.request.profile.ink_unit} against allowed shift in ΔE")
        )
    return "".join(parts) or "<p>No edge of white under colour here: nothing to choke.</p>"


def _short(value: float) -> str:
    return f"{value:,.0f}".replace(",", " ") if value >= 100 else f"{value:.2g}"


def _chart(lines: Sequence[Line], today: float, says: str) -> str:
    """Lines over one axis from 0, with today's point on the first of them."""
    right = max(x for line in lines for x, _ in line.points)
    top = max(y for line in lines for _, y in line.points) or 1.0
    left, base, high = 60, _CHART_H - 34, 12

    def at(x: float, y: float) -> str:
        return f"{left + min(x / right, 1) * (_CHART_W - left - 12):.1f},{base - y / top * (base - high):.1f}"

    drawn = "".join(
        f'<polyline fill="none" stroke="#333" stroke-width="1.5" stroke-dasharray="{_DASHES[line.style]}" '
        f'points="{" ".join(at(*point) for point in line.points)}"/>'
        for line in lines
    )
    x, y = at(today, height_at(lines[0].points, today)).split(",")
    names = {"solid": "line", "dash": "dashes", "dot": "dots"}
    key = ", ".join(f"{names[line.style]}: {line.name}" for line in lines) if len(lines) > 1 else ""
    return (
        f'<figure style="width:{_CHART_W}px"><svg width="{_CHART_W}" height="{_CHART_H}" role="img">'
        f'<path d="M{left},{high} V{base} H{_CHART_W - 12}" fill="none" stroke="#999"/>{drawn}'
        f'<circle cx="{x}" cy="{y}" r="5" fill="#c2185b"/>'
        f'<text x="{left - 6}" y="{high + 5}" text-anchor="end">{_short(top)}</text>'
        f'<text x="{left - 6}" y="{base}" text-anchor="end">0</text>'
        f'<text x="{left}" y="{base + 16}">0</text>'
        f'<text x="{_CHART_W - 12}" y="{base + 16}" text-anchor="end">{right:g}</text></svg>'
        f"<figcaption>{escape(says)}; the disc is this plan{'; ' + key if key else ''}.</figcaption>"
        "</figure>\n"
    )
