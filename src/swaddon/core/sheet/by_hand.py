"""Prints moved by hand: they snap to where nothing is nearer than the spacing, and never overlap."""

from dataclasses import dataclass, replace

import cv2
import numpy as np
from numpy.typing import NDArray

from swaddon.core.artwork.raster import Mask
from swaddon.core.sheet.gang import Gang, Spot
from swaddon.core.sheet.prints import Cells, Turn, cell_px, cells_of


@dataclass(frozen=True, eq=False)
class FreePlaces:
    """Where a print may lie on a sheet while all others stay.

    ``nearest`` holds for each cell the free cell (x, y) next to it, ``int32 (rows, columns, 2)``; ``None``: there is
    none.
    """

    side: int
    nearest: NDArray[np.int32] | None

    def snapped(self, x_px: float, y_px: float) -> tuple[int, int] | None:
        """The free place next to a wish for the upper left corner of its box; ``None``: there is none."""
        if self.nearest is None:
            return None
        rows, columns = self.nearest.shape[:2]
        column = min(max(round(x_px / self.side), 0), columns - 1)
        row = min(max(round(y_px / self.side), 0), rows - 1)
        x, y = self.nearest[row, column]
        return int(x) * self.side, int(y) * self.side


class Hands:
    """Moves and turns prints of a gang."""

    def __init__(self, gang: Gang) -> None:
        self.gang = gang

    def free_for(self, spot: Spot, turn: Turn | None = None, sheet: int | None = None) -> FreePlaces:
        """Where a print may lie, perhaps turned otherwise or on another sheet."""
        gang, own_turn = self.gang, spot.turn if turn is None else turn
        area, side = gang.area, cell_px(gang.area.ppi)
        where = spot.sheet if sheet is None else sheet
        thin = self.cells(spot.item, own_turn).thin
        height, width = thin.shape
        taken = self._taken(where, spot, height)
        width_px, height_px = gang.items[spot.item].outline.size_px(own_turn)
        most_x = (area.width_px - width_px) // side
        most_y = (area.height_px - height_px) // side if area.height_px else taken.shape[0] - height
        if most_x < 0 or most_y < 0:
            return FreePlaces(side, None)
        wide = np.zeros((most_y + height, most_x + width), np.float32)
        part = taken[: wide.shape[0], : wide.shape[1]]
        wide[: part.shape[0], : part.shape[1]] = part
        met = np.asarray(cv2.matchTemplate(wide, thin.astype(np.float32), cv2.TM_CCORR))
        free = met[: most_y + 1, : most_x + 1] < 0.5
        return FreePlaces(side, _nearest(free))

    def moved(self, spot: Spot, x_px: float, y_px: float, turn: Turn | None = None) -> tuple[Gang, Spot] | None:
        """The gang with a print moved next to a wish, and where it lies now; ``None``: there is no room."""
        place = self.free_for(spot, turn).snapped(x_px, y_px)
        if place is None:
            return None
        new = replace(spot, x_px=place[0], y_px=place[1], turn=spot.turn if turn is None else turn)
        return self.gang.moved(spot, new), new

    def _taken(self, sheet: int, without: Spot, height: int) -> Mask:
        """Cells that no other print leaves free."""
        gang = self.gang
        area, side = gang.area, cell_px(gang.area.ppi)
        across = -(-area.width_px // side)
        down = -(-area.height_px // side) if area.height_px else -(-max(gang.lengths_px) // side) + height + 8
        taken = np.zeros((down, across), np.uint8)
        for other in gang.spots:
            if other.sheet == sheet and other != without:
                stamp(taken, self.cells(other.item, other.turn), other, side)
        return taken

    def cells(self, item: int, turn: Turn) -> Cells:
        """The cells of a print that lies so."""
        rules = self.gang.rules
        return cells_of(self.gang.items[item].outline, turn, rules.spacing_mm, rules.fill_rings)


def stamp(taken: Mask, cells: Cells, spot: Spot, side: int) -> None:
    """Mark the cells that a print takes with its spacing."""
    x, y = spot.x_px // side - cells.reach, spot.y_px // side - cells.reach
    height, width = cells.fat.shape
    top, left = max(0, y), max(0, x)
    bottom, right = min(taken.shape[0], y + height), min(taken.shape[1], x + width)
    if bottom > top and right > left:
        here = taken[top:bottom, left:right]
        np.maximum(here, cells.fat[top - y : bottom - y, left - x : right - x], out=here)


def _nearest(free: NDArray[np.bool_]) -> NDArray[np.int32] | None:
    if not free.any():
        return None
    _, labels = cv2.distanceTransformWithLabels(
        np.where(free, 0, 255).astype(np.uint8), cv2.DIST_L2, 5, labelType=cv2.DIST_LABEL_PIXEL
    )
    ys, xs = np.nonzero(free)
    places = np.zeros((int(labels.max()) + 1, 2), np.int32)
    places[labels[ys, xs]] = np.stack([xs, ys], axis=1)
    return places[labels]


def is_clear(gang: Gang) -> bool:
    """Whether all prints of a gang lie on the grid, inside the printable area and apart by the spacing."""
    area, side = gang.area, cell_px(gang.area.ppi)
    hands = Hands(gang)
    for spot in gang.spots:
        width, height = gang.items[spot.item].outline.size_px(spot.turn)
        inside = spot.x_px >= 0 and spot.y_px >= 0 and spot.x_px + width <= area.width_px
        if not inside or (area.height_px and spot.y_px + height > area.height_px):
            return False
        if spot.x_px % side or spot.y_px % side:
            return False
    return all(_sheet_is_clear(hands, [spot for spot in gang.spots if spot.sheet == sheet], side)
               for sheet in range(1, gang.sheets + 1))  # fmt: skip


def _sheet_is_clear(hands: Hands, spots: list[Spot], side: int) -> bool:
    """Whether prints of one sheet keep apart: the cells of one of each two miss the widened ones of the other."""
    area = hands.gang.area
    down = -(-(area.height_px or max(hands.gang.lengths_px)) // side) + 2
    taken = np.zeros((down, -(-area.width_px // side) + 1), np.uint8)
    for index, spot in enumerate(spots):
        cells = hands.cells(spot.item, spot.turn)
        y, x = spot.y_px // side, spot.x_px // side
        here = taken[y : y + cells.thin.shape[0], x : x + cells.thin.shape[1]]
        met = (here & cells.thin[: here.shape[0], : here.shape[1]]).any()
        if met and not all(_are_apart(hands, spot, other, side) for other in spots[:index]):
            return False
        stamp(taken, cells, spot, side)
    return True


def _are_apart(hands: Hands, one: Spot, other: Spot, side: int) -> bool:
    return not (_meets(hands, one, other, side) and _meets(hands, other, one, side))


def _meets(hands: Hands, one: Spot, other: Spot, side: int) -> bool:
    """Whether the cells of one print meet the widened cells of another."""
    thin, wide = hands.cells(one.item, one.turn).thin, hands.cells(other.item, other.turn)
    room = np.zeros(thin.shape, np.uint8)
    moved = replace(other, x_px=other.x_px - one.x_px, y_px=other.y_px - one.y_px)
    stamp(room, wide, moved, side)
    return bool((room & thin).any())
