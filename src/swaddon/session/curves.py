"""Curves as charts show them."""

import itertools
from dataclasses import dataclass

Points = tuple[tuple[float, float], ...]


@dataclass(frozen=True)
class Line:
    """One line: its name, its points by growing x, and how it is drawn (``solid``, ``dash`` or ``dot``)."""

    name: str
    points: Points
    style: str = "solid"


def height_at(points: Points, x: float) -> float:
    """Height of a line at a place, straight between its points and level beyond them; 0 without any."""
    if not points:
        return 0.0
    for (x0, y0), (x1, y1) in itertools.pairwise(points):
        if x0 <= x <= x1:
            return y0 + (y1 - y0) * (x - x0) / max(x1 - x0, 1e-9)
    return points[0][1] if x < points[0][0] else points[-1][1]
