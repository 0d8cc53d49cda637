"""Chance of a simulated day: every piece has its own, so that another shop meets the same pieces.

Common random numbers: with them two shops differ by what they are, not by their luck (Law, “Simulation Modeling and
Analysis”, variance reduction; from memory).
"""

import math

import numpy as np

_AT_ONCE = 64
_STOPS = 8
"""Stops of one print whose lengths are drawn; more of them last as long as they do in the mean."""

PER_STAGE = 3
"""Times of a stage that scatter: hands before, the machine, hands after."""


class Chance:
    """Random numbers of the pieces of some orders; ``stages`` are how many each order's pieces go through."""

    def __init__(self, seed: int, stages: list[int]) -> None:
        self._seed, self._stages = seed, stages
        self._normals: list[list[list[float]]] = [[] for _ in stages]
        self._uniforms: list[list[list[float]]] = [[] for _ in stages]

    def _draw(self, order: int) -> None:
        chunk = len(self._normals[order]) // _AT_ONCE
        drawn = np.random.default_rng([self._seed, order, chunk])
        self._normals[order] += drawn.standard_normal((_AT_ONCE, PER_STAGE * self._stages[order])).tolist()
        self._uniforms[order] += drawn.random((_AT_ONCE, 2 + _STOPS)).tolist()

    def _of(self, rows: list[list[list[float]]], order: int, piece: int) -> list[float]:
        while piece >= len(rows[order]):
            self._draw(order)
        return rows[order][piece]

    def scattered(self, seconds: float, scatter: float, order: int, piece: int, time: int) -> float:
        """A time of a piece: lognormal about what is stated, with that mean; ``time`` counts those of its stages."""
        if not seconds or not scatter:
            return seconds
        square = math.log1p(scatter * scatter)
        return seconds * math.exp(self._of(self._normals, order, piece)[time] * math.sqrt(square) - square / 2)

    def is_spoiled(self, share: float, order: int, piece: int) -> bool:
        """Whether a piece is thrown away."""
        return self._of(self._uniforms, order, piece)[0] < share

    def stopped_s(self, lost_s: float, stop_s: float, order: int, piece: int) -> float:
        """How long a printer stands still during a print: stops come as they come, ``lost_s`` in the mean."""
        own = self._of(self._uniforms, order, piece)
        stops = _poisson(lost_s / stop_s, own[1])
        drawn = sum(-math.log(1 - value) for value in own[2 : 2 + min(stops, _STOPS)])
        return stop_s * (drawn + max(0, stops - _STOPS))


def _poisson(mean: float, uniform: float) -> int:
    """A Poisson number by inversion.

    >>> [_poisson(0.5, uniform) for uniform in (0.1, 0.7, 0.95)]
    [0, 1, 2]
    """
    count, part = 0, math.exp(-mean)
    total = part
    while uniform > total and part > 1e-12:
        count += 1
        part *= mean / count
        total += part
    return count
