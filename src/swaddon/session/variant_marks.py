"""Where two proofs of one artwork differ, drawn as hatches that no artwork has."""

import cv2
import numpy as np
from numpy.typing import NDArray

from swaddon.core.colour.spaces import delta_e_2000, lab_from_srgb8

SEEN_DE = 3.0
"""ΔE00 from which a difference is marked (assumed: what an eye sees beside each other on cloth)."""

_LONGEST_PX = 240
_STEP_PX = 6


def differs(proof: NDArray[np.uint8], other: NDArray[np.uint8]) -> NDArray[np.bool_]:
    """Mask of a proof's pixels that are off from another's by ``SEEN_DE``; both ``uint8 (H, W, 3)``.

    Compared at no more than ``_LONGEST_PX``; proofs of other sizes are brought to that of the first.
    """
    height, width = proof.shape[:2]
    scale = min(1.0, _LONGEST_PX / max(height, width))
    size = max(1, round(width * scale)), max(1, round(height * scale))
    one, two = (cv2.resize(picture, size, interpolation=cv2.INTER_AREA) for picture in (proof, other))
    apart = delta_e_2000(lab_from_srgb8(np.asarray(one)), lab_from_srgb8(np.asarray(two)))
    mask = (apart >= SEEN_DE).astype(np.uint8)
    return np.asarray(cv2.resize(mask, (width, height), interpolation=cv2.INTER_NEAREST) > 0)


def marked(proof: NDArray[np.uint8], other: NDArray[np.uint8]) -> tuple[NDArray[np.uint8], float]:
    """A proof with its differences from another under diagonal lines, black beside white; and their share, 0..1."""
    mask = differs(proof, other)
    height, width = mask.shape
    across = (np.arange(width)[None, :] + np.arange(height)[:, None]) % (2 * _STEP_PX)
    out = proof.copy()
    out[mask & (across == 0)] = 255
    out[mask & (across == 1)] = 0
    return out, float(mask.mean())
