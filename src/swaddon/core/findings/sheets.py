"""What is wrong with a sheet: measured on the prints as they lie."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

from swaddon.core.findings.scene import Finding
from swaddon.core.sheet.gang import Gang, Spot
from swaddon.core.sheet.media import Medium
from swaddon.core.sheet.split import Cut, Split, press_plan
from swaddon.core.units import mm_from_px

_LETTERING_LEAST_MM = 0.05


@dataclass(frozen=True)
class OnSheet:
    """What findings need to know of a print on a sheet, besides its outline.

    ``flips`` tells whether its process turns it over onto the garment, ``hole_angles`` are on the garment, in degrees.
    """

    title: str
    garment: str
    mirrored: bool
    flips: bool
    has_white: bool
    wants_white: bool
    hole_angles: tuple[float, ...] = ()


def sheet_findings(gang: Gang, prints: Sequence[OnSheet]) -> tuple[Finding, ...]:
    """Every finding of some sheets, worst first; places are in mm on the sheet of the print."""
    found = [
        *_over_edge(gang, prints),
        *_mirroring(gang, prints),
        *_white(gang, prints),
        *_film_left(gang),
        *_cutter(gang),
        *_turned_holes(gang, prints),
    ]
    order = {"stop": 0, "look": 1, "note": 2}
    return tuple(sorted(found, key=lambda finding: order[finding.severity]))


def _first(gang: Gang, item: int) -> Spot | None:
    return next((spot for spot in gang.spots if spot.item == item), None)


def place_mm(gang: Gang, spot: Spot) -> tuple[float, float]:
    """Middle of a print on its sheet, in mm from the medium's upper left corner."""
    width, height = gang.items[spot.item].outline.size_px(spot.turn)
    area = gang.area
    return (
        mm_from_px(area.left_px + spot.x_px + width / 2, area.ppi),
        mm_from_px(area.top_px + spot.y_px + height / 2, area.ppi),
    )


def _over_edge(gang: Gang, prints: Sequence[OnSheet]) -> Iterator[Finding]:
    area = gang.area
    for spot in gang.spots:
        width, height = gang.items[spot.item].outline.size_px(spot.turn)
        over = max(-spot.x_px, -spot.y_px, spot.x_px + width - area.width_px)
        if area.height_px:
            over = max(over, spot.y_px + height - area.height_px)
        if over > 0:
            over_mm = mm_from_px(over, area.ppi)
            text = f"{prints[spot.item].title} lies {over_mm:.1f} mm over the printable edge of sheet {spot.sheet}."
            yield Finding("sheet-over-edge", "stop", text, *place_mm(gang, spot), over_mm, "mm")


def _mirroring(gang: Gang, prints: Sequence[OnSheet]) -> Iterator[Finding]:
    for index, item in enumerate(prints):
        spot = _first(gang, index)
        if spot is None or item.mirrored == item.flips:
            continue
        if item.flips:
            text = (
                f"{item.title} is not mirrored, but is pressed face down: it will read backwards on the {item.garment}."
            )
        else:
            text = f"{item.title} is mirrored, but is not turned over: it will read backwards."
        yield Finding("sheet-mirrored", "stop", text, *place_mm(gang, spot), 1, "")


def _white(gang: Gang, prints: Sequence[OnSheet]) -> Iterator[Finding]:
    for index, item in enumerate(prints):
        spot = _first(gang, index)
        if spot is not None and item.wants_white and not item.has_white:
            text = f"{item.title} has no white on this sheet, but goes on {item.garment}, which needs it."
            yield Finding("sheet-white", "stop", text, *place_mm(gang, spot), 1, "")


def _film_left(gang: Gang) -> Iterator[Finding]:
    left, needs = gang.medium.left_mm, sum(gang.used_mm)
    if gang.medium.is_roll and left is not None and needs > left:
        text = (
            f"The sheet takes {needs / 1000:.2f} m of film, {left / 1000:.2f} m are left on {gang.medium.title}: "
            "load a full roll, or print it in two runs."
        )
        yield Finding("sheet-film-left", "stop", text, gang.medium.width_mm / 2, needs, needs - left, "mm")


def _cutter(gang: Gang) -> Iterator[Finding]:
    least, own = gang.medium.cutter_mm, gang.rules.spacing_mm
    if len(gang.spots) > 1 and own < least - 0.005:
        text = f"Prints lie {own:g} mm apart, but {gang.medium.title} is cut with {least:g} mm between them."
        spot = gang.spots[0]
        yield Finding("sheet-spacing", "look", text, *place_mm(gang, spot), own, "mm")


def _turned_holes(gang: Gang, prints: Sequence[OnSheet]) -> Iterator[Finding]:
    for index, item in enumerate(prints):
        spot = next((spot for spot in gang.spots if spot.item == index and spot.turn % 180), None)
        if spot is None or not item.hole_angles:
            continue
        told = ", ".join(
            f"{angle:g}° against the weave, {turned_angle(angle, spot.turn, item.mirrored):g}° on the sheet"
            for angle in item.hole_angles
        )
        text = f"{item.title} is turned by {spot.turn}° with its holes: {told}. On the garment they stay as planned."
        yield Finding("sheet-holes-turned", "note", text, *place_mm(gang, spot), spot.turn, "°")


def turned_angle(angle: float, turn: int, mirrored: bool) -> float:
    """The angle that a screen of some angle on the garment has on its sheet, 0..180°.

    >>> turned_angle(52.5, 90, False), turned_angle(52.5, 0, True)
    (142.5, 127.5)
    """
    return round(((180 - angle if mirrored else angle) + turn) % 180, 2)


@dataclass(frozen=True, eq=False)
class Unmarked:
    """An end of a seam, its first (``outward`` −1) or last (1), whose mark has no room on some of its sheets."""

    cut: Cut
    outward: int
    sheets: tuple[int, ...]

    @property
    def end(self) -> str:
        """Which end, in a word."""
        first, last = ("left", "right") if self.cut.is_level else ("upper", "lower")
        return first if self.outward < 0 else last


def split_findings(split: Split, title: str, medium: Medium, unmarked: Sequence[Unmarked] = ()) -> tuple[Finding, ...]:
    """What is wrong with the seams of a print, worst first."""
    out = []
    for cut in split.cuts:
        points = cut.polyline_mm
        middle = points[len(points) // 2]
        if cut.seam.lettering_mm > _LETTERING_LEAST_MM:
            text = (
                f"The seam of {title} cuts {cut.seam.lettering_mm:.1f} mm of lettering: drag it, let it bend, or take "
                f"a larger medium than {medium.title}."
            )
            out.append(Finding("seam-lettering", "look", text, *middle, cut.seam.lettering_mm, "mm"))
        elif cut.seam.crossing_mm > _LETTERING_LEAST_MM:
            text = f"The seam of {title} crosses {cut.seam.crossing_mm:.1f} mm of print."
            out.append(Finding("seam-crosses", "note", text, *middle, cut.seam.crossing_mm, "mm"))
    for item in unmarked:
        one, other = item.cut.parts
        sheets = " and ".join(map(str, item.sheets))
        text = (
            f"No room for the cross at the {item.end} end of the seam {one} | {other} of {title} on sheet {sheets} of "
            f"{medium.title}: lay the parts by their ink there, or print a little smaller or on a larger medium."
        )
        place = item.cut.polyline_mm[0 if item.outward < 0 else -1]
        out.append(Finding("seam-unmarked", "note", text, *place, float(len(item.sheets)), "sheets"))
    return tuple(out)


def plate_findings(width_mm: float, height_mm: float, plate: Medium, title: str) -> tuple[Finding, ...]:
    """A transfer that is larger than the heat-press plate."""
    goes = press_plan(width_mm, height_mm, plate)
    if len(goes) < 2:
        return ()
    text = (
        f"{title} is {width_mm:.0f} × {height_mm:.0f} mm, more than {plate.title} ({plate.size_text}): press it in "
        f"{len(goes)} goes that overlap, or take a larger plate."
    )
    return (Finding("plate-small", "look", text, goes[1].x_mm, goes[1].y_mm, float(len(goes)), "goes"),)
