"""A scanned picture and what its numbers mean."""

from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from swaddon.core.colour.spaces import linear_table

Picture = NDArray[np.uint8]


def _srgb_curves() -> NDArray[np.float32]:
    return np.tile(linear_table(), (3, 1))


def _same() -> NDArray[np.float32]:
    return np.eye(3, dtype=np.float32)


@dataclass(frozen=True, eq=False)
class Scan:
    """A scan in its own colour space.

    Attributes
    ----------
    pixels
        ``uint8 (H, W, 3)``.
    curves
        ``float32 (3, 256)``: linear light of each value, by channel.
    matrix
        ``float32 (3, 3)``: linear sRGB from it; without any clipping.
    """

    pixels: Picture
    curves: NDArray[np.float32] = field(default_factory=_srgb_curves)
    matrix: NDArray[np.float32] = field(default_factory=_same)

    def light(self, part: Picture) -> NDArray[np.float32]:
        """Linear sRGB, ``float32 (h, w, 3)``, of some pixels; colours beyond sRGB are below 0 or above 1."""
        linear = np.stack([self.curves[channel][part[..., channel]] for channel in range(3)], axis=-1)
        return np.asarray(linear @ self.matrix.T, np.float32)

    def is_clipped(self, part: Picture) -> NDArray[np.bool_]:
        """Of the channels of some pixels, where the darkest values are that there are: ``bool (h, w, 3)``."""
        return np.asarray(part <= _DARKEST)


_DARKEST = 2
