"""Where white comes out of the colour, where colour lies bare, and where white lies beside the artwork."""

from dataclasses import dataclass

import cv2
import numpy as np

from swaddon.core.artwork.raster import Mask, Plane
from swaddon.core.white.strokes import grown

_LITTLE, _SOME = 32, 64
"""White below which a place counts as bare, and from which white was wanted there (assumed)."""


@dataclass(frozen=True, eq=False)
class EdgeTrouble:
    """Masks (255), ``uint8 (H, W)``.

    Attributes
    ----------
    peek
        Cloth that white under colour could reach under the worst registration and the press's squeeze.
    rim
        Colour that white should lie under, and none does.
    """

    peek: Mask
    rim: Mask


def peeking(white: Plane, figure: Plane, own: Mask, reach_px: float) -> Mask:
    """Where white under colour comes out of the figure when it lies up to ``reach_px`` beside its place.

    ``own`` is white of the design, which is meant to be seen. Whole pixels round a reach up as often as down.
    """
    under = cv2.bitwise_and(cv2.inRange(white, 128, 255), cv2.bitwise_not(own))
    hidden = cv2.bitwise_or(cv2.inRange(figure, 128, 255), own)
    return np.asarray(
        cv2.bitwise_and(grown(np.asarray(under, np.uint8), reach_px + 0.25), cv2.bitwise_not(hidden)), np.uint8
    )


def bare(wanted: Plane, white: Plane, inked: Mask) -> Mask:
    """Where colour is printed and white was wanted, but hardly any lies.

    >>> inked, none = np.full((1, 2), 255, np.uint8), np.zeros((1, 2), np.uint8)
    >>> bare(inked, np.array([[255, 0]], np.uint8), inked).tolist()
    [[0, 255]]
    """
    lacks = cv2.bitwise_and(cv2.inRange(wanted, _SOME, 255), cv2.inRange(white, 0, _LITTLE))
    return np.asarray(cv2.bitwise_and(lacks, inked), np.uint8)
