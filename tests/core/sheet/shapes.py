"""Outlines drawn for tests of sheets, and what independent code says of a layout."""

from collections.abc import Sequence

import cv2
import numpy as np
from scipy.ndimage import distance_transform_edt

from swaddon.core.sheet.gang import Gang, Item
from swaddon.core.sheet.media import Medium
from swaddon.core.sheet.prints import Outline

PPI = 72.0
ROLL = Medium("roll", "Roll", "roll", 300, 0, (5, 4, 5, 6))
SHEET = Medium("sheet", "Sheet", "cut", 200, 150, (5, 5, 5, 5))


def px(length_mm: float, ppi: float = PPI) -> int:
    return round(length_mm * ppi / 25.4)


def shape(kind: str, width_mm: float, height_mm: float, ppi: float = PPI, rim: int = 0) -> Outline:
    """A rectangle, disc, arch, crescent, ring or corner; ``rim`` pixels of nothing stand round it."""
    width, height = px(width_mm, ppi), px(height_mm, ppi)
    mask = np.zeros((height, width), np.uint8)
    middle, axes = (width // 2, height // 2), (width // 2 - 1, height // 2 - 1)
    if kind == "rectangle":
        mask[:] = 255
    elif kind == "disc":
        cv2.ellipse(mask, middle, axes, 0, 0, 360, 255, -1)
    elif kind == "arch":
        low = (width // 2, height - 1)
        cv2.ellipse(mask, low, (axes[0], height - 2), 0, 180, 360, 255, -1)
        cv2.ellipse(mask, low, (int(axes[0] * 0.65), int(height * 0.65)), 0, 180, 360, 0, -1)
    elif kind == "crescent":
        cv2.ellipse(mask, middle, axes, 0, 0, 360, 255, -1)
        cv2.ellipse(mask, (int(width * 0.75), height // 2), (int(axes[0] * 0.8), int(axes[1] * 0.8)), 0, 0, 360, 0, -1)
    elif kind == "ring":
        cv2.ellipse(mask, middle, axes, 0, 0, 360, 255, -1)
        cv2.ellipse(mask, middle, (int(axes[0] * 0.8), int(axes[1] * 0.8)), 0, 0, 360, 0, -1)
    elif kind == "corner":
        mask[:] = 255
        mask[: height // 2, width // 2 :] = 0
    made = Outline.of(np.pad(mask, rim), ppi)
    assert made is not None
    return made


def items(*wanted: tuple[str, float, float, int]) -> list[Item]:
    return [Item(f"{kind} {at}", shape(kind, w, h), copies) for at, (kind, w, h, copies) in enumerate(wanted)]


def painted(gang: Gang, sheet: int) -> np.ndarray:
    """Whose pixel is whose on the printable area: 0 nobody's, else the number of the spot; asserts no overlap."""
    height = gang.area.height_px or max(gang.lengths_px)
    out = np.zeros((height, gang.area.width_px), np.int32)
    for number, spot in enumerate(gang.spots, start=1):
        if spot.sheet != sheet:
            continue
        mask = gang.items[spot.item].outline.mask(spot.turn) > 0
        assert spot.x_px >= 0
        assert spot.y_px >= 0
        here = out[spot.y_px : spot.y_px + mask.shape[0], spot.x_px : spot.x_px + mask.shape[1]]
        assert here.shape == mask.shape, "a print sticks out of the printable area"
        assert not (here[mask] > 0).any(), "two prints overlap"
        here[mask] = number
    return out


def least_distance_mm(labels: np.ndarray, ppi: float = PPI) -> float:
    """Least distance between the edges of pixels of two prints, by SciPy's exact distance transform."""
    least = np.inf
    for number in np.unique(labels[labels > 0]):
        others = (labels > 0) & (labels != number)
        if others.any():
            away = distance_transform_edt(labels != number)
            least = min(least, float(away[others].min()))
    return (least - 1) * 25.4 / ppi


def check(gang: Gang, copies: Sequence[int], spacing_mm: float) -> None:
    """Every wanted copy is there once, nothing overlaps or sticks out, and the spacing is kept."""
    for index, count in enumerate(copies):
        own = sorted(spot.copy for spot in gang.spots if spot.item == index)
        assert own == list(range(1, count + 1))
    for sheet in range(1, gang.sheets + 1):
        labels = painted(gang, sheet)
        assert least_distance_mm(labels) >= spacing_mm - 1e-9
        rows = np.flatnonzero((labels > 0).any(axis=1))
        assert gang.lengths_px[sheet - 1] == rows[-1] + 1
