"""A print of a job on several sheets: cut along its seams, told as JSON, written as files."""

import json
from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from swaddon import __version__
from swaddon.core.artwork.raster import Box, Mask
from swaddon.core.count.shared import SheetShare
from swaddon.core.engine import Run
from swaddon.core.errors import PlanError
from swaddon.core.findings import Finding
from swaddon.core.findings.sheets import Unmarked, split_findings
from swaddon.core.plan.stages import Plan
from swaddon.core.press.profile import INKS
from swaddon.core.sheet.grid import Grid, SplitRules, laid_on_side, split_share
from swaddon.core.sheet.layout import Area
from swaddon.core.sheet.lettering import lettering_of
from swaddon.core.sheet.media import Medium
from swaddon.core.sheet.room import as_printed
from swaddon.core.sheet.seam import Through
from swaddon.core.sheet.split import MARK_MM, Cut, Part, Split, split_print
from swaddon.core.units import mm_from_px, px_from_mm
from swaddon.io.handover import planes as white_planes
from swaddon.io.sheet_bands import PlateStore, SheetPlanes, Stamp
from swaddon.session.sheet_files import tag_plane, whole_sheets, write_planes
from swaddon.session.sheet_prints import Wanted, plan_of, printed_of, white_names
from swaddon.session.sheets import SEEN_FROM

SCHEMA = "swaddon-split/1"
_MARK_LINE_MM, _MARK_GAP_MM, _NUMBER_MM = 0.3, 1.0, 3.0

Mark = tuple[NDArray[np.uint8], int, int]
"""What is printed beside a part: its plane, and left and top on the sheet, not mirrored."""


@dataclass(frozen=True, eq=False)
class SplitPlan:
    """A print cut for a medium; ``label`` names it, ``plan`` holds its inks."""

    label: str
    plan: Plan
    medium: Medium
    split: Split
    printed: Mask
    lettering: Mask | None

    @property
    def area(self) -> Area:
        """The printable part of each sheet, as the medium lies."""
        return Area.of(laid_on_side(self.medium) if self.split.turned else self.medium, self.split.ppi)

    @property
    def mirrored(self) -> bool:
        return self.plan.request.settings.is_mirrored(self.plan.request.profile)

    @property
    def share(self) -> SheetShare:
        """What the print takes of its sheets; it has more than one part."""
        request, split = self.plan.request, self.split
        columns = 1 + max(part.column for part in split.parts)
        grid = Grid(columns, len(split.parts) // columns, split.turned, (0, 0))
        return split_share(self.plan.measures, request.profile, self.medium, grid, request.settings.width_mm)

    @property
    def unmarked(self) -> tuple[Unmarked, ...]:
        """Ends of seams whose alignment mark has no room on one of the sheets that meet there."""
        if not self.split.rules.marks:
            return ()
        out = []
        for cut in self.split.cuts:
            for outward in (-1, 1):
                lacks = tuple(
                    part.number
                    for part in self.split.parts
                    if part.number in cut.parts and _cross(self, part, cut, outward) is None
                )
                if lacks:
                    out.append(Unmarked(cut, outward, lacks))
        return tuple(out)

    @property
    def findings(self) -> tuple[Finding, ...]:
        return split_findings(self.split, f"“{self.label}”", self.medium, self.unmarked)


def split_plan(wanted: Wanted, medium: Medium, rules: SplitRules, run: Run) -> SplitPlan:
    """Plan a print and cut it; raises ``PlanError`` with one sentence naming it."""
    plan = plan_of(wanted, 1, run)
    return cut_plan(plan, wanted.label, medium, rules, run)


def cut_plan(
    plan: Plan,
    label: str,
    medium: Medium,
    rules: SplitRules,
    run: Run,
    through: Sequence[tuple[Through, ...]] = (),
    known: SplitPlan | None = None,
) -> SplitPlan:
    """Cut a plan; ``through`` are points that each seam goes through, in mm on the artboard.

    ``known`` is an earlier cut of the same plan: what is printed and where lettering is are taken from it.
    """
    if known is not None and known.plan is plan:
        printed, lettering = known.printed, known.lettering
    else:
        run.report("Looking for lettering", 0.3)
        printed = printed_of(plan)
        lettering = lettering_of(plan.art, plan.ppi)
        if lettering is not None:
            lettering = np.where(printed > 0, lettering, 0).astype(np.uint8)
        run.check()
    run.report("Looking for the seam", 0.6)
    press = plan.request.profile
    medium = as_printed(medium, press, one_print=True)
    longest_mm = press.largest_print_mm[1]
    try:
        split = split_print(printed, lettering, medium, plan.ppi, rules, through, run.check, longest_mm)
    except ValueError as error:
        raise PlanError(f"“{label}” on {medium.title}: {error}.") from error
    return SplitPlan(label, plan, medium, split, printed, lettering)


def split_report(made: SplitPlan, files: dict[int, list[str]] | None = None) -> dict[str, Any]:
    """The split as JSON-ready values. Names are a contract (docs/sheets.md): fields may be added, none renamed."""
    split, ppi, medium = made.split, made.split.ppi, made.medium
    seams = [
        {
            "seam": [list(point) for point in cut.polyline_mm],
            "between": list(cut.parts),
            "is_level": cut.is_level,
            "crossing_mm": round(cut.seam.crossing_mm, 4),
            "lettering_mm": round(cut.seam.lettering_mm, 4),
            "best_straight_mm": round(cut.seam.straight_mm, 4),
            "turns": cut.seam.turns,
        }
        for cut in split.cuts
    ]
    return {
        "schema": SCHEMA,
        "swaddon_version": __version__,
        "print": made.label,
        "medium": {"name": medium.name, "title": medium.title, "width_mm": medium.width_mm,
                   "height_mm": medium.height_mm, "margin_mm": list(medium.margin_mm), "turned": split.turned},
        "ppi": ppi,
        "mirrored": made.mirrored,
        "seen_from": SEEN_FROM,
        "overlap_mm": split.rules.overlap_mm,
        "step_mm": split.rules.step_mm,
        "unmarked": [{"between": list(item.cut.parts), "end": item.end, "sheets": list(item.sheets)}
                     for item in made.unmarked],
        "seam": seams[0]["seam"] if seams else [],
        "crossing_mm": round(split.crossing_mm, 4),
        "lettering_mm": round(split.lettering_mm, 4),
        "seams": seams,
        "sheets": [_sheet(made, part, (files or {}).get(part.number, [])) for part in split.parts],
        "findings": [
            {"code": item.code, "severity": item.severity, "text": item.text} for item in made.findings
        ],
    }  # fmt: skip


def _sheet(made: SplitPlan, part: Part, files: list[str]) -> dict[str, Any]:
    ppi, box = made.split.ppi, part.box
    x, y = placed_px(made, part)
    return {
        "number": part.number,
        "x_mm": round(mm_from_px(box.left, ppi), 4),
        "y_mm": round(mm_from_px(box.top, ppi), 4),
        "width_mm": round(mm_from_px(box.width, ppi), 4),
        "height_mm": round(mm_from_px(box.height, ppi), 4),
        "on_sheet_mm": [round(mm_from_px(x, ppi), 4), round(mm_from_px(y, ppi), 4)],
        "files": files,
    }


def placed_px(made: SplitPlan, part: Part) -> tuple[int, int]:
    """Upper left corner of a part on its sheet: in the middle of what can be printed."""
    area = made.area
    height = area.height_px or part.box.height
    return (
        area.left_px + (area.width_px - part.box.width) // 2,
        area.top_px + (height - part.box.height) // 2,
    )


def split_table(made: SplitPlan) -> str:
    """The split in a few lines for a terminal."""
    split = made.split
    if len(split.parts) == 1:
        return f"“{made.label}” fits on one sheet of {made.medium.title} ({made.medium.size_text})"
    lines = [f"“{made.label}” on {len(split.parts)} sheets of {made.medium.title} ({made.medium.size_text})"]
    for cut in split.cuts:
        one, other = cut.parts
        lines.append(
            f"Seam {one} | {other}: crosses {cut.seam.crossing_mm:.1f} mm of print, {cut.seam.lettering_mm:.1f} mm of "
            f"lettering, {cut.seam.turns} turns (best straight {cut.seam.straight_mm:.1f} mm)"
        )
    for part in split.parts:
        width, height = mm_from_px(part.box.width, split.ppi), mm_from_px(part.box.height, split.ppi)
        lines.append(f"Sheet {part.number}: {width:.1f} × {height:.1f} mm")
    lines += [f"{item.severity}: {item.text}" for item in made.findings]
    return "\n".join(lines)


def write_split(made: SplitPlan, folder: Path, run: Run, kinds: Sequence[str]) -> dict[str, Any]:
    """Write a sheet for each part and ``split.json``; gives what that holds. Raises ``PlanError``."""
    whites = white_names(made.plan)
    files: dict[int, list[str]] = {}
    with whole_sheets(folder, f"split {made.plan.request.artwork.content_id}") as place:
        with PlateStore(place, 4 + len(whites)) as store:
            for part in made.split.parts:
                sheet = _planes(made, part, store, whites)
                mirrored = "mirrored" if made.mirrored else "not mirrored"
                told = (
                    f"{made.label}: part {part.number} of {len(made.split.parts)}; {mirrored}; {made.split.ppi:.0f} ppi"
                )
                files[part.number] = write_planes(store, sheet, place, f"sheet-{part.number}", told, kinds, run)
        report = split_report(made, files)
        (place / "split.json").write_text(json.dumps(report, indent=2, ensure_ascii=False) + "\n", encoding="utf-8")
    return report


def _planes(made: SplitPlan, part: Part, store: PlateStore, whites: tuple[str, ...]) -> SheetPlanes:
    area, plan = made.area, made.plan
    spots = list(white_planes(plan, lambda plane: plane).values())
    x, y = placed_px(made, part)
    stamps = [Stamp(store.keep(plan.cmyk, spots, part.box, 0, made.mirrored, part.mask()), x, y)]
    for plane, left, top in marks(made, part):
        stamps.append(_mark(made, store, plane, left, top, len(spots)))
    px = made.split.ppi / 25.4
    medium = laid_on_side(made.medium) if made.split.turned else made.medium
    height = round(medium.height_mm * px) if not medium.is_roll else area.top_px + part.box.height + area.bottom_px
    return SheetPlanes(round(medium.width_mm * px), height, made.split.ppi, whites, made.mirrored, tuple(stamps))


def _mark(made: SplitPlan, store: PlateStore, plane: NDArray[np.uint8], left: int, top: int, spots: int) -> Stamp:
    """A mark in black, or in the first ink where the press has no black; mirrored with its sheet."""
    cmyk = np.zeros((*plane.shape, 4), np.uint8)
    cmyk[..., INKS.index("K") if made.plan.request.profile.has_black else 0] = plane
    empty = [np.zeros_like(plane)] * spots
    kept = store.keep(cmyk, empty, Box(0, 0, plane.shape[1], plane.shape[0]), 0, made.mirrored)
    if made.mirrored:
        left = 2 * made.area.left_px + made.area.width_px - left - plane.shape[1]
    return Stamp(kept, left, top)


def marks(made: SplitPlan, part: Part) -> list[Mark]:
    """Alignment marks and the number of a part, each a plane with its corner on the sheet, not mirrored.

    They stand beyond the ends of its seams and above it, where its sheet has room: marks of neighbours come to lie on
    each other when the parts are laid together.
    """
    ppi, area = made.split.ppi, made.area
    x, y = _placed_as_seen(made, part)
    out = []
    for cut in made.split.cuts:
        if part.number in cut.parts and made.split.rules.marks:
            crosses = (_cross(made, part, cut, outward) for outward in (-1, 1))
            out += [cross for cross in crosses if cross is not None]
    words = f"{part.number} of {len(made.split.parts)}"
    width, height = round(px_from_mm(14, ppi)), round(px_from_mm(_NUMBER_MM, ppi))
    number = tag_plane(words, width, height), x, y - height - round(px_from_mm(_MARK_GAP_MM, ppi))
    if len(made.split.parts) > 1 and _inside(number, area):
        out.append(number)
    return out


def _placed_as_seen(made: SplitPlan, part: Part) -> tuple[int, int]:
    """Upper left corner of a part on its sheet, seen from the side on which it is not mirrored."""
    x, y = placed_px(made, part)
    if made.mirrored:
        x = 2 * made.area.left_px + made.area.width_px - x - part.box.width
    return x, y


def _cross(made: SplitPlan, part: Part, cut: Cut, outward: int) -> Mark | None:
    """A line in the run of the seam with a bar across it, beyond its first (−1) or last (1) end; ``None``: no room."""
    ppi, is_level = made.split.ppi, cut.is_level
    x, y = _placed_as_seen(made, part)
    mx, my = cut.polyline_mm[0 if outward < 0 else -1]
    at = px_from_mm(mx, ppi) - part.box.left + x, px_from_mm(my, ppi) - part.box.top + y
    length, gap = round(px_from_mm(MARK_MM - _MARK_GAP_MM, ppi)), round(px_from_mm(_MARK_GAP_MM, ppi))
    across, line = round(px_from_mm(3.0, ppi)) | 1, max(1, round(px_from_mm(_MARK_LINE_MM, ppi)))
    plane = np.zeros((length, across), np.uint8)
    middle = (across - line) // 2
    plane[:, middle : middle + line] = 255
    plane[(length - line) // 2 : (length + line) // 2 or 1, :] = 255
    along = -gap - length if outward < 0 else gap
    mark = plane, round(at[0]) - across // 2, round(at[1] + along)
    if is_level:
        mark = np.ascontiguousarray(plane.T), round(at[0] + along), round(at[1]) - across // 2
    return mark if _inside(mark, made.area) else None


def _inside(mark: Mark, area: Area) -> bool:
    plane, left, top = mark
    right, bottom = left + plane.shape[1], top + plane.shape[0]
    within = left >= area.left_px and right <= area.left_px + area.width_px and top >= area.top_px
    return within and (not area.height_px or bottom <= area.top_px + area.height_px)
