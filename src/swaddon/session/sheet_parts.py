"""Parts of an artwork that is a whole gang sheet: told, and taken out as artworks of their own."""

import io
import json
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Any

from swaddon.core.artwork.artwork import Artwork
from swaddon.core.artwork.placement import Placement
from swaddon.core.engine import Run
from swaddon.core.errors import PlanError
from swaddon.core.sheet.parts import FoundPart, Parts, find_parts
from swaddon.core.sheet.settings import SheetSettings
from swaddon.core.units import MM_PER_INCH, mm_from_px, px_from_mm
from swaddon.io.images import decode_artwork, read_artwork
from swaddon.io.names import shown
from swaddon.io.outputs import output_set
from swaddon.io.png import png_chunks
from swaddon.session.job import ArtworkFile, Job

SCHEMA = "swaddon-parts/1"
NORM_PPI = 300.0
CUTTER_MM = 4.0
"""Parts nearer than this are told as tight (assumed: what scissors and cutters part well)."""


@dataclass(frozen=True, eq=False)
class SheetParts:
    """The prints found on an artwork, whose whole is ``width_mm`` wide."""

    artwork: Artwork
    found: Parts
    width_mm: float

    @property
    def ppi(self) -> float:
        return self.artwork.width_px * MM_PER_INCH / self.width_mm

    def size_mm(self, part: FoundPart) -> tuple[float, float]:
        return mm_from_px(part.box.width, self.ppi), mm_from_px(part.box.height, self.ppi)

    def nearest_mm(self, part: FoundPart) -> float:
        """Distance to the next print between their edges."""
        return mm_from_px(max(0.0, part.nearest_px - 1), self.ppi)

    def is_tight(self, part: FoundPart) -> bool:
        """Whether it lies too near to the next one to be cut."""
        return self.nearest_mm(part) < CUTTER_MM

    def copies(self, kind: int) -> int:
        return sum(part.kind == kind for part in self.found.parts)

    @property
    def told(self) -> str:
        """How many prints of how many kinds there are."""
        if len(self.found.parts) == 1:
            return "one print"
        return f"{len(self.found.parts)} prints of {'one kind' if len(self.kinds) == 1 else f'{len(self.kinds)} kinds'}"

    @property
    def kinds(self) -> tuple[FoundPart, ...]:
        """The first print of each kind."""
        first: dict[int, FoundPart] = {}
        for part in self.found.parts:
            first.setdefault(part.kind, part)
        return tuple(first.values())

    def name(self, part: FoundPart) -> str:
        stem = Path(self.artwork.file_name).stem
        return f"{stem}-{part.kind}.png"


def found_parts(path: Path, width_mm: float | None, gap_mm: float) -> SheetParts:
    """The prints of an artwork file; raises ``PlanError`` with one sentence."""
    return parts_of(read_artwork(path), width_mm, gap_mm)


def parts_of(artwork: Artwork, width_mm: float | None, gap_mm: float, run: Run | None = None) -> SheetParts:
    """The prints of an artwork; without a width it is taken to have 300 ppi."""
    whole = width_mm or mm_from_px(artwork.width_px, NORM_PPI)
    ppi = artwork.width_px * MM_PER_INCH / whole
    check = (lambda: None) if run is None else run.check
    try:
        found = find_parts(
            artwork.rgba, artwork.background, px_from_mm(gap_mm, ppi), px_from_mm(CUTTER_MM, ppi) + 1, check
        )
    except ValueError as error:
        raise PlanError(f"“{artwork.file_name}”: {error}.") from error
    if not found.parts:
        raise PlanError(f"“{artwork.file_name}” holds nothing: there is no print on it.")
    return SheetParts(artwork, found, whole)


def taken_out(parts: SheetParts, part: FoundPart) -> ArtworkFile:
    """A print as an artwork of its own."""
    picture = parts.found.cut_out(parts.artwork.rgba, part)
    data = b"".join(png_chunks(picture, parts.ppi))
    return ArtworkFile(decode_artwork(data, parts.name(part)), data)


def job_of(parts: SheetParts, part: FoundPart, like: Job) -> Job:
    """A job for a kind of print, ordered like another one: at its size on the sheet, as often as it was found."""
    file = taken_out(parts, part)
    settings = replace(
        like.settings,
        width_mm=round(min(max(parts.size_mm(part)[0], 1.0), 5000.0), 2),
        quantity=parts.copies(part.kind),
        placement=Placement(),
        outlines=(),
        keeps=(),
        knockouts=tuple(item for item in like.settings.knockouts if not (item.points or item.kept)),
        holes=replace(like.settings.holes, rules=()),
        sheet_share=None,
    )
    name = f"{like.name}, print {part.kind}"
    return replace(like, name=name, file=file, settings=settings, sheet=SheetSettings(), quote=None, notices=())


def parts_report(parts: SheetParts, files: dict[int, str] | None = None) -> dict[str, Any]:
    """The prints as JSON-ready values. Names are a contract (docs/sheets.md)."""
    ppi = parts.ppi
    return {
        "schema": SCHEMA,
        "artwork": parts.artwork.file_name,
        "width_mm": round(parts.width_mm, 3),
        "ppi": round(ppi, 3),
        "count": len(parts.found.parts),
        "kinds": len(parts.kinds),
        "parts": [
            {
                "number": part.number,
                "kind": part.kind,
                "x_mm": round(mm_from_px(part.box.left, ppi), 3),
                "y_mm": round(mm_from_px(part.box.top, ppi), 3),
                "width_mm": round(parts.size_mm(part)[0], 3),
                "height_mm": round(parts.size_mm(part)[1], 3),
                "nearest_mm": round(parts.nearest_mm(part), 3) if parts.is_tight(part) else None,
                "is_tight": parts.is_tight(part),
                "file": (files or {}).get(part.kind),
            }
            for part in parts.found.parts
        ],
    }


def parts_table(parts: SheetParts) -> str:
    """The prints in a few lines for a terminal."""
    lines = [f"“{parts.artwork.file_name}”: {parts.told}, {parts.width_mm:.0f} mm wide at {parts.ppi:.0f} ppi"]
    for part in parts.kinds:
        width, height = parts.size_mm(part)
        lines.append(f"Kind {part.kind:<3} {parts.copies(part.kind):>4} ×  {width:.1f} × {height:.1f} mm")
    tight = [part for part in parts.found.parts if parts.is_tight(part)]
    if tight:
        least = min(parts.nearest_mm(part) for part in tight)
        numbers = ", ".join(str(part.number) for part in tight[:12]) + (" …" if len(tight) > 12 else "")
        lines.append(
            f"Tight: {len(tight)} prints lie nearer than {CUTTER_MM:g} mm ({least:.1f} mm at least): {numbers}"
        )
    return "\n".join(lines)


def write_parts(parts: SheetParts, folder: Path) -> dict[str, Any]:
    """Write a PNG of each kind and ``parts.json``; raises ``PlanError``."""
    files: dict[int, str] = {}
    try:
        with output_set(folder, f"parts {parts.artwork.content_id}", ("parts.json",)) as place:
            for part in parts.kinds:
                files[part.kind] = parts.name(part)
                (place / files[part.kind]).write_bytes(taken_out(parts, part).data)
            report = parts_report(parts, files)
            text = io.StringIO()
            json.dump(report, text, indent=2, ensure_ascii=False)
            (place / "parts.json").write_text(text.getvalue() + "\n", encoding="utf-8")
    except OSError as error:
        why = (error.strerror or "the system refused it").lower()
        raise PlanError(
            f"The parts could not be written to “{shown(folder)}” ({why}): choose another folder."
        ) from error
    return report
