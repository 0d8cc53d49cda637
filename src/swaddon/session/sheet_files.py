"""Sheets as files: every ink of each sheet, cut lines and ``sheet.json``. All of them or none."""

import errno
import json
import math
from collections.abc import Callable, Iterator, Sequence
from contextlib import contextmanager
from dataclasses import replace
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray
from PIL import Image, ImageDraw, ImageFont

from swaddon.core.artwork.raster import Box
from swaddon.core.engine import Run
from swaddon.core.errors import PlanError
from swaddon.core.plan.stages import Plan
from swaddon.core.press.profile import INKS
from swaddon.core.sheet.gang import Gang, Spot
from swaddon.core.sheet.prints import Turn
from swaddon.core.sheet.tags import TagPlace, cut_paths
from swaddon.core.units import mm_from_px
from swaddon.io.cut_lines import Path_mm, write_cut_pdf, write_cut_svg
from swaddon.io.handover import planes as white_planes
from swaddon.io.names import shown
from swaddon.io.outputs import output_set
from swaddon.io.sheet_bands import PlateStore, SheetPlanes, Stamp, Stored
from swaddon.io.sheet_writers import write_sheet_pdf, write_sheet_pngs, write_sheet_tiff
from swaddon.session.sheet_prints import Laid, plan_of
from swaddon.session.sheets import SheetPlan, sheet_report

KINDS = ("tiff", "pdf", "png", "cut")
"""Kinds of files of a sheet, besides ``sheet.json``."""

Progress = Callable[[str, float], None]


@contextmanager
def whole_sheets(folder: Path, of: str) -> Iterator[Path]:
    """A folder whose files take their places together, in the place of those of sheets before; raises ``PlanError``.

    ``of`` is the key of what is printed on them.
    """
    try:
        with output_set(folder, of, ("sheet.json", "split.json")) as part:
            yield part
    except OSError as error:
        if error.errno in (errno.ENOSPC, errno.EDQUOT):
            text = f"The disk of “{shown(folder)}” is full: no sheet was written; free some space or choose another."
        else:
            why = (error.strerror or "the system refused it").lower()
            text = f"No sheet could be written to “{shown(folder)}” ({why}): choose another folder."
        raise PlanError(text) from error


def write_sheets(
    plan: SheetPlan,
    folder: Path,
    run: Run,
    kinds: Sequence[str] = KINDS,
    whole: Callable[[Laid], Plan | None] = lambda _: None,
) -> dict[str, Any]:
    """Write all sheets into a folder; gives what ``sheet.json`` holds.

    ``whole`` gives the plan of a print that is at hand; others are planned anew.

    Raises
    ------
    PlanError
        One sentence: a print cannot be planned, the folder not be written, the disk is full.
    Superseded
        It is not wanted any more; nothing is left half-written.
    """
    of = "sheets " + " ".join(
        sorted({item.wanted.job.file.artwork.content_id for item in plan.laid if item.wanted.job.file})
    )
    with whole_sheets(folder, of) as part:
        names = plan.laid[0].made.white_names
        with PlateStore(part, 4 + len(names)) as store:
            stored = _stored(plan, store, run, whole)
            files: dict[int, list[str]] = {}
            for number in range(1, plan.gang.sheets + 1):
                sheet = _planes(plan, stored, store, number)
                files[number] = write_planes(store, sheet, part, f"sheet-{number}", _told(plan, number), kinds, run)
                if "cut" in kinds:
                    files[number] += _write_cuts(plan, number, part)
        report = sheet_report(plan, files)
        (part / "sheet.json").write_text(json.dumps(report, indent=2, ensure_ascii=False) + "\n", encoding="utf-8")
    return report


def write_planes(
    store: PlateStore, sheet: SheetPlanes, folder: Path, stem: str, told: str, kinds: Sequence[str], run: Run
) -> list[str]:
    """Write the inks of one sheet; gives the names of the files."""
    out: list[str] = []

    def progress(kind: str) -> Callable[[float], None]:
        def tell(share: float) -> None:
            run.check()
            run.report(f"Writing {stem}, {kind}", share)

        return tell

    if "tiff" in kinds:
        out.append(f"{stem}.tif")
        write_sheet_tiff(folder / out[-1], store, sheet, told, progress("TIFF"))
    if "pdf" in kinds:
        out.append(f"{stem}.pdf")
        write_sheet_pdf(folder / out[-1], store, sheet, told, progress("PDF"))
    if "png" in kinds:
        inks = dict(zip((*INKS, *sheet.whites), (*INKS, *("white", "highlight")[: len(sheet.whites)]), strict=True))
        paths = {name: folder / f"{stem}-{inks[name]}.png" for name in inks}
        write_sheet_pngs(paths, store, sheet, told, progress("PNG"))
        out += [path.name for path in paths.values()]
    return out


def _told(plan: SheetPlan, number: int) -> str:
    gang, made = plan.gang, plan.laid[0].made
    mirrored = "mirrored" if made.mirrored else "not mirrored"
    whites = ", ".join(made.white_names) or "none"
    return f"sheet {number} of {gang.sheets}; {gang.medium.title}; {mirrored}; {gang.area.ppi:.0f} ppi; white: {whites}"


_Kept = dict[tuple[int, Turn], Stored]


def _stored(plan: SheetPlan, store: PlateStore, run: Run, whole: Callable[[Laid], Plan | None]) -> _Kept:
    """Every print in every way that it lies, packed."""
    out: _Kept = {}
    for index, item in enumerate(plan.laid):
        run.check()
        run.report(f"Planning {item.wanted.label}", index / len(plan.laid))
        made = whole(item) or plan_of(item.wanted, item.line, run)
        whites = list(white_planes(made, lambda plane: plane).values())
        outline = item.made.outline
        box = outline.box
        if item.made.mirrored:
            width = outline.width_px
            box = Box(width - box.right, box.top, width - box.left, box.bottom)
        for turn in sorted({spot.turn for spot in plan.gang.spots if spot.item == index}):
            out[index, turn] = store.keep(made.cmyk, whites, box, turn, item.made.mirrored)
    return out


def sheet_size_px(gang: Gang, number: int) -> tuple[int, int]:
    """Width and height of the file of a sheet, in pixels."""
    px = gang.area.ppi / 25.4
    width = round(gang.medium.width_mm * px)
    if gang.medium.is_roll:
        return width, gang.area.top_px + gang.lengths_px[number - 1] + gang.area.bottom_px
    return width, round(gang.medium.height_mm * px)


def _planes(plan: SheetPlan, stored: _Kept, store: PlateStore, number: int) -> SheetPlanes:
    gang, made = plan.gang, plan.laid[0].made
    stamps = []
    for spot in gang.spots:
        if spot.sheet != number:
            continue
        kept = stored[spot.item, spot.turn]
        x, y = _art_px(plan, spot)
        stamps.append(Stamp(kept, x, y))
        tag = plan.tags[spot.item]
        if tag is not None:
            stamps.append(_tag_stamp(plan, spot, tag, store))
    width, height = sheet_size_px(gang, number)
    return SheetPlanes(width, height, gang.area.ppi, made.white_names, made.mirrored, tuple(stamps))


def _art_px(plan: SheetPlan, spot: Spot) -> tuple[int, int]:
    """Upper left corner on the sheet of the box round a print's art, without its tag."""
    area, own = plan.gang.area, plan.laid[spot.item].made.outline
    whole = plan.gang.items[spot.item].outline
    inset, art = whole.inset_px(spot.turn), own.inset_px(spot.turn)
    return area.left_px + spot.x_px - inset[0] + art[0], area.top_px + spot.y_px - inset[1] + art[1]


def _tag_stamp(plan: SheetPlan, spot: Spot, tag: TagPlace, store: PlateStore) -> Stamp:
    """A tag beside its print, mirrored and turned with it; black alone."""
    item, area = plan.laid[spot.item], plan.gang.area
    words = f"{spot.sheet} · {item.tag}"
    plane = tag_plane(words, tag.box.width, tag.box.height)
    if item.made.mirrored:
        plane = np.ascontiguousarray(plane[:, ::-1])
    cmyk = np.zeros((*plane.shape, 4), np.uint8)
    cmyk[..., INKS.index("K") if item.made.press.has_black else 0] = plane
    whites = [np.zeros_like(plane) for _ in item.made.white_names]
    kept = store.keep(cmyk, whites, Box(0, 0, plane.shape[1], plane.shape[0]), spot.turn, False)
    whole = plan.gang.items[spot.item].outline
    own = replace(whole, box=tag.box)
    inset, mine = whole.inset_px(spot.turn), own.inset_px(spot.turn)
    return Stamp(kept, area.left_px + spot.x_px - inset[0] + mine[0], area.top_px + spot.y_px - inset[1] + mine[1])


def tag_plane(words: str, width: int, height: int) -> NDArray[np.uint8]:
    """A tag's words as a plane, 255 where they print; drawn smaller where they would not fit."""
    size = max(6, round(height * 0.8))
    font = ImageFont.load_default(size)
    long = font.getlength(words)
    if long > width:
        font = ImageFont.load_default(max(5, math.floor(size * width / long)))
    picture = Image.new("L", (width, height), 0)
    ImageDraw.Draw(picture).text((0, height / 2), words, fill=255, font=font, anchor="lm")
    return np.asarray(picture, np.uint8)


def cut_lines(plan: SheetPlan, number: int, check: Callable[[], None] = lambda: None) -> list[Path_mm]:
    """Cut lines of a sheet in mm: round each print, half the spacing away; ``check`` raises when nobody waits."""
    gang = plan.gang
    area = gang.area
    out: list[Path_mm] = []
    for spot in gang.spots:
        if spot.sheet != number:
            continue
        check()
        width, height = gang.items[spot.item].outline.size_px()
        corner = np.array([area.left_px + spot.x_px, area.top_px + spot.y_px], np.float64)
        outline = gang.items[spot.item].outline
        for path in cut_paths(outline, plan.settings.spacing_mm, plan.settings.fill_rings):
            out.append((_turned(path, spot.turn, width, height) + corner) * mm_from_px(1, area.ppi))
    return out


def _turned(path: NDArray[np.float64], turn: Turn, width: int, height: int) -> NDArray[np.float64]:
    x, y = path[:, 0], path[:, 1]
    if turn == 90:
        return np.stack([height - y, x], axis=1)
    if turn == 180:
        return np.stack([width - x, height - y], axis=1)
    if turn == 270:
        return np.stack([y, width - x], axis=1)
    return path


def _write_cuts(plan: SheetPlan, number: int, folder: Path) -> list[str]:
    width, height = sheet_size_px(plan.gang, number)
    ppi = plan.gang.area.ppi
    size = mm_from_px(width, ppi), mm_from_px(height, ppi)
    lines, title = cut_lines(plan, number), f"Cut lines of sheet {number}"
    names = [f"sheet-{number}-cut.svg", f"sheet-{number}-cut.pdf"]
    write_cut_svg(folder / names[0], size, lines, title)
    write_cut_pdf(folder / names[1], size, lines, title)
    return names
