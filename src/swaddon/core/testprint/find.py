"""Find a test page in a scan: fiducials, the homography from mm to pixels, and what is wrong with a page not found.

Fiducials are ArUco markers (Garrido-Jurado et al. 2014), found at about 150 ppi, their edges located to a fraction of
a pixel at full resolution; the homography is a least-squares fit after RANSAC (Hartley & Zisserman 2004, chapter 4).
"""

from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from swaddon.core.testprint.layout import MARKER_MM, WIDTH_MM, Marker, Page
from swaddon.core.testprint.refusal import UnreadablePageError
from swaddon.core.testprint.scan import Picture
from swaddon.core.units import MM_PER_INCH

Points = NDArray[np.float64]

LEAST_PPI, MOST_PPI = 240.0, 1300.0
_SEARCH_PX_PER_MM = 6.0
_LEAST_PX = 600
_RESIDUAL_MM = 0.04
"""Largest root mean square of the fiducials' misses at 600 ppi (a good scan has 0.01; assumed)."""

_STRAY_MM, _LEAST_KEPT = 0.09, 0.6
"""How far a corner may stray and still count, and the least share of corners that must (assumed)."""

_EDGE_PLACES, _EDGE_REACH_MM = 32, 0.6
_STRETCH = 0.02
_OUTWARDS = np.array([(-1.0, -1.0), (1.0, -1.0), (1.0, 1.0), (-1.0, 1.0)])
"""From the middle of a fiducial to its corners."""


@dataclass(frozen=True, eq=False)
class Found:
    """Where the page lies.

    Attributes
    ----------
    matrix
        ``float64 (3, 3)``: pixels of the scan (centre of the first pixel at 0, 0) from mm on the page.
    ppi
        Resolution of the scan along the page.
    residual_mm
        Root mean square of the fiducials' misses.
    slots
        Channels whose fiducials shine: those that really hold white.
    turned_deg
        How the page lies, clockwise.
    """

    matrix: Points
    ppi: float
    residual_mm: float
    slots: frozenset[int]
    turned_deg: float

    def places(self, mm: Points) -> Points:
        """Pixels of places ``(n, 2)`` in mm."""
        return np.asarray(cv2.perspectiveTransform(mm.reshape(-1, 1, 2), self.matrix).reshape(-1, 2), np.float64)


def find_page(scan: Picture, page: Page) -> Found:
    """Locate a page in a scan ``uint8 (H, W, 3)``.

    Raises
    ------
    UnreadablePageError
        One sentence on what is wrong.
    """
    if min(scan.shape[:2]) < _LEAST_PX:
        raise UnreadablePageError(
            "small", "The scan is too small for a test print: scan the whole page at 300 ppi or more."
        )
    grey = _grey(scan)
    factor = max(1.0, _longest_mm_px(scan, page) / _SEARCH_PX_PER_MM)
    small = cv2.resize(grey, None, fx=1 / factor, fy=1 / factor, interpolation=cv2.INTER_AREA) if factor > 1 else grey
    seen = _markers(np.asarray(small, np.uint8), page)
    if len(seen) < 4:
        _tell_why(np.asarray(small, np.uint8), page)
    _check_corners(seen)
    corners = {number: _refined(grey, where * factor + (factor - 1) / 2) for number, where in seen.items()}
    return _fitted(corners, page)


def _grey(scan: Picture) -> Picture:
    """The lightest channel: white ink is light in all, and inks on it hardly matter."""
    return np.asarray(cv2.cvtColor(scan, cv2.COLOR_RGB2GRAY), np.uint8)


def _longest_mm_px(scan: Picture, page: Page) -> float:
    """Pixels per mm if the page fills the scan."""
    return max(scan.shape[:2]) / max(page.height_mm, WIDTH_MM)


def _markers(grey: Picture, page: Page) -> dict[int, Points]:
    """Corners of the fiducials of a page that are seen, by number; each number once, the largest."""
    parameters = cv2.aruco.DetectorParameters()
    parameters.adaptiveThreshWinSizeMin, parameters.adaptiveThreshWinSizeMax = 15, 63
    parameters.adaptiveThreshWinSizeStep = 24
    parameters.minMarkerPerimeterRate = 0.02
    parameters.maxMarkerPerimeterRate = 0.5
    detector = cv2.aruco.ArucoDetector(cv2.aruco.getPredefinedDictionary(cv2.aruco.DICT_5X5_50), parameters)
    corners, numbers, _ = detector.detectMarkers(grey)
    known = {marker.number for marker in page.markers}
    out: dict[int, Points] = {}
    for where, number in zip(corners, [] if numbers is None else np.ravel(numbers), strict=True):
        if int(number) in known:
            out[int(number)] = np.asarray(where, np.float64).reshape(4, 2)
    return out


def _tell_why(grey: Picture, page: Page) -> None:
    """Raise with what keeps the page from being found."""
    if len(_markers(np.asarray(cv2.flip(grey, 1), np.uint8), page)) >= 4:
        raise UnreadablePageError(
            "mirrored",
            "The page is mirrored: scan the side that faces out, and mirror the print if its process wants that.",
        )
    if float(grey.std()) < 12:
        raise UnreadablePageError("blank", "The scan is blank: lay the printed side on the glass.")
    raise UnreadablePageError(
        "no-page",
        "No test page of this press was found in the scan: scan the whole page sharply, with its four corners free.",
    )


def _check_corners(seen: dict[int, Points]) -> None:
    names = ("upper left", "upper right", "lower left", "lower right")
    missing = [names[corner] for corner in range(4) if not any(number // 12 == corner for number in seen)]
    if missing:
        raise UnreadablePageError(
            "corner",
            f"The {' and '.join(missing)} corner of the page {'is' if len(missing) == 1 else 'are'} covered or cut "
            "off: scan the whole page, all four corners free.",
        )


def _refined(grey: Picture, where: Points) -> Points:
    """Corners to a fraction of a pixel in the full scan: where lines through the border's edges cross.

    Edges are looked for along each side but for its ends, so that rounded corners do not count.
    """
    middle = where.mean(axis=0)
    lines = [_side(grey, where[at], where[(at + 1) % 4], middle) for at in range(4)]
    return np.array([_crossing(lines[at - 1], lines[at]) for at in range(4)])


Line = tuple[Points, Points]
"""A place on a line, and its direction."""


def _side(grey: Picture, start: Points, end: Points, middle: Points) -> Line:
    """The line along an edge of a fiducial: dark within, light without."""
    along = end - start
    mm = float(np.linalg.norm(along)) / MARKER_MM
    along = along / np.linalg.norm(along)
    out = np.array([along[1], -along[0]])
    if out @ ((start + end) / 2 - middle) < 0:
        out = -out
    shares = np.linspace(0.14, 0.86, _EDGE_PLACES)
    places = start + shares[:, None] * (end - start)
    steps = np.arange(-_EDGE_REACH_MM * mm, _EDGE_REACH_MM * mm, 0.25)
    look = places[:, None, :] + steps[None, :, None] * out
    seen = cv2.remap(grey, look[..., 0].astype(np.float32), look[..., 1].astype(np.float32), cv2.INTER_LINEAR)
    level = np.asarray(seen, np.float64)
    third = len(steps) // 4
    half = (np.median(level[:, :third]) + np.median(level[:, -third:])) / 2
    above = level > half
    first = np.argmax(above, axis=1)
    good = above.any(axis=1) & (first > 0)
    if good.sum() < _EDGE_PLACES // 2:
        return start, along
    rows, at = np.flatnonzero(good), first[good]
    low, high = level[rows, at - 1], level[rows, at]
    off = steps[at - 1] + 0.25 * (half - low) / np.maximum(high - low, 1e-6)
    near = np.abs(off - np.median(off)) < 0.15 * mm
    slope, base = np.polyfit(shares[rows][near], off[near], 1)
    for _ in range(2):  # stripes that a nozzle leaves out stand aside
        miss = np.abs(off - (base + slope * shares[rows]))
        near = miss <= max(2.5 * float(np.median(miss)), 0.1)
        slope, base = np.polyfit(shares[rows][near], off[near], 1)
    one, other = start + base * out, end + (base + slope) * out
    return one, (other - one) / np.linalg.norm(other - one)


def _crossing(one: Line, other: Line) -> Points:
    """Where two lines cross."""
    matrix = np.stack([one[1], -other[1]], axis=1)
    if abs(np.linalg.det(matrix)) < 1e-6:
        return other[0]
    share = np.linalg.solve(matrix, other[0] - one[0])[0]
    return np.asarray(one[0] + share * one[1])


def _fitted(corners: dict[int, Points], page: Page) -> Found:
    """The homography, and whether the fiducials fit it.

    White in a slot of another head lies elsewhere than the rest: where all slots together do not fit, one does.
    """
    slots = frozenset(marker.slot for marker in page.markers if marker.number in corners)
    for chosen in (slots, *(frozenset({slot}) for slot in sorted(slots))):
        own = [marker for marker in page.markers if marker.number in corners and marker.slot in chosen]
        if len(own) >= 4 and len({marker.number // 12 for marker in own}) == 4:
            one = _fit(own, corners, slots, page)
            if one is not None and one.residual_mm <= _RESIDUAL_MM * max(1.0, (600 / one.ppi) ** 0.5):
                return one
    raise UnreadablePageError("bent", _BENT)


def _fit(own: list[Marker], corners: dict[int, Points], slots: frozenset[int], page: Page) -> Found | None:
    """The homography of some fiducials."""
    boxes = [marker.box for marker in own]
    at = np.array(
        [
            [(b.x, b.y), (b.x + b.width, b.y), (b.x + b.width, b.y + b.height), (b.x, b.y + b.height)]
            for b in boxes
        ],
        np.float64,
    ).reshape(-1, 2)  # fmt: skip
    to = np.concatenate([corners[marker.number] for marker in own])
    scale = float(np.linalg.norm(to.max(axis=0) - to.min(axis=0)) / np.linalg.norm(at.max(axis=0) - at.min(axis=0)))
    outwards = np.tile(_OUTWARDS, (len(own), 1))
    inside = np.ones(len(at), bool)
    matrix = np.eye(3)
    for turn in range(5):  # white that spreads moves all corners of a fiducial towards its middle alike
        matrix, _ = cv2.findHomography(at[inside], to[inside], 0)
        if matrix is None:
            return None
        back = cv2.perspectiveTransform(to.reshape(-1, 1, 2), np.linalg.inv(matrix)).reshape(-1, 2)
        at = at + outwards * float(np.median((back - at)[inside] * outwards[inside]))
        if turn == 2:  # an edge on which a blocked nozzle leaves out a row lies elsewhere
            _, kept = cv2.findHomography(at, to, cv2.RANSAC, _STRAY_MM * scale, maxIters=4000, confidence=0.999)
            if kept is None or float(kept.mean()) < _LEAST_KEPT:
                return None
            inside = kept.ravel().astype(bool)
    return _described(np.asarray(matrix, np.float64), at[inside], to[inside], slots, page)


_BENT = "The page does not lie flat, or moved while it was scanned: press it on the glass and scan again."


def _described(matrix: Points, at: Points, to: Points, slots: frozenset[int], page: Page) -> Found:
    if np.linalg.det(matrix[:2, :2]) < 0:
        raise UnreadablePageError("mirrored", "The page is mirrored: mirror the print, or scan its other side.")
    ends = np.array([(0.0, 0.0), (WIDTH_MM, 0.0), (0.0, page.height_mm)])
    corner, right, low = cv2.perspectiveTransform(ends.reshape(-1, 1, 2), matrix).reshape(-1, 2)
    across = float(np.linalg.norm(right - corner)) / WIDTH_MM
    down = float(np.linalg.norm(low - corner)) / page.height_mm
    miss = (cv2.perspectiveTransform(at.reshape(-1, 1, 2), matrix).reshape(-1, 2) - to) / down
    ppi = down * MM_PER_INCH
    if ppi < LEAST_PPI:
        raise UnreadablePageError(
            "coarse", f"The scan has {ppi:.0f} ppi: scan the page at 300 ppi or more, better at 600."
        )
    if ppi > MOST_PPI:
        raise UnreadablePageError("huge", f"The scan has {ppi:.0f} ppi: scan the page at 600 ppi.")
    if abs(across / down - 1) > _STRETCH:
        raise UnreadablePageError(
            "stretched", f"The page is {100 * abs(across / down - 1):.1f} % stretched: scan it, do not photograph it."
        )
    turned = float(np.degrees(np.arctan2(right[1] - corner[1], right[0] - corner[0])))
    return Found(matrix, ppi, float(np.sqrt((miss**2).sum(axis=1).mean())), slots, turned)
