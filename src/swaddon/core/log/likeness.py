"""“Prints like this one”: nearest by colours, coverage, finest line and garment.

Each part is a distance of 0 for the same, about 1 where a practitioner would call it another kind of print (assumed);
their sum ranks. Colours are compared as palettes: each main colour with the nearest of the other print, by ΔE76 in
CIELAB (CIE 15:2018), weighted by its share, both ways.
"""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from swaddon.core.colour.spaces import Rgb, bands_from_srgb8, lab_from_bands
from swaddon.core.log.entry import Entry

MOST_COLOURS = 6
WIDTH = 4 * MOST_COLOURS + 6
"""Numbers by which a print is known: L*, a*, b* and share of six colours; coverage, white, log2 of the finest line in
mm; L*, a*, b* of the garment."""

_COLOURS_APART, _GARMENTS_APART, _COVERS_APART, _FINEST_APART = 15.0, 25.0, 0.25, 1.0
_NONE_FINER_MM = 3.0
_OTHER_PROCESS = 0.5
_NO_COLOURS = 100.0
"""How far a print without any colours is from one that has some, ΔE."""


@dataclass(frozen=True)
class Parts:
    """How far apart two prints are: ΔE of colours and garments, shares, and finest lines as log2 of their ratio."""

    colours: float
    garment: float
    coverage: float
    finest: float


def features_of(entry: Entry) -> NDArray[np.float32] | None:
    """What a print is known by, ``float32 (WIDTH,)``; ``None`` for an entry without a plan."""
    if entry.planned is None or entry.ordered is None:
        return None
    planned = entry.planned
    made = np.zeros(WIDTH, np.float32)
    found = sorted(planned.colours, key=lambda item: -item[1])[:MOST_COLOURS]
    for at, (colour, share) in enumerate(found):
        made[4 * at : 4 * at + 4] = (*_lab(colour), share)
    finest = np.log2(planned.finest_mm or _NONE_FINER_MM)
    made[4 * MOST_COLOURS :] = (planned.coverage, planned.white_share, finest, *_lab(entry.ordered.garment_rgb))
    return made


def _lab(colour: Rgb) -> tuple[float, float, float]:
    lightness, a, b = lab_from_bands(np.asarray(bands_from_srgb8(colour), np.float64)[None])[0].tolist()
    return lightness, a, b


def distances(
    one: NDArray[np.float32], others: NDArray[np.float32], same_process: NDArray[np.bool_]
) -> NDArray[np.float64]:
    """How far each of some prints is from one.

    Parameters
    ----------
    one, others
        ``(WIDTH,)`` and ``(N, WIDTH)``, as :func:`features_of` gives them.
    same_process
        ``(N,)``: whether it was printed the same way.
    """
    colours, garment, coverage, finest = _apart(one, others)
    total = colours / _COLOURS_APART + garment / _GARMENTS_APART + coverage / _COVERS_APART + finest / _FINEST_APART
    return np.asarray(total + np.where(same_process, 0.0, _OTHER_PROCESS))


def parts(one: NDArray[np.float32], other: NDArray[np.float32]) -> Parts:
    """How far two prints are apart, part by part."""
    colours, garment, coverage, finest = (float(part[0]) for part in _apart(one, other[None]))
    return Parts(colours, garment, coverage, finest)


def _apart(one: NDArray[np.float32], others: NDArray[np.float32]) -> Sequence[NDArray[np.float64]]:
    cut = 4 * MOST_COLOURS
    mine, theirs = one[:cut].reshape(MOST_COLOURS, 4), others[:, :cut].reshape(-1, MOST_COLOURS, 4)
    own = mine[mine[:, 3] > 0]
    there = theirs[..., 3] > 0
    to_me, to_them = np.zeros(len(others), np.float32), np.zeros(len(others), np.float32)
    if len(own):
        nearest = np.full(theirs.shape[:2], np.inf, np.float32)
        for colour in own:
            gap = np.sqrt(np.square(theirs[..., :3] - colour[:3]).sum(axis=-1))
            np.minimum(nearest, gap, out=nearest)
            to_me += colour[3] * np.where(there, gap, np.inf).min(axis=1)
        to_me /= own[:, 3].sum()
        shares = theirs[..., 3].sum(axis=1)
        to_them = (theirs[..., 3] * nearest).sum(axis=1) / np.maximum(shares, 1e-6)
    both = np.where(there.any(axis=1) == bool(len(own)), (to_me + to_them) / 2, np.float32(_NO_COLOURS))
    rest, own_rest = others[:, cut:].astype(np.float64), one[cut:].astype(np.float64)
    garment = np.sqrt(np.square(rest[:, 3:] - own_rest[3:]).sum(axis=1))
    coverage = (np.abs(rest[:, 0] - own_rest[0]) + np.abs(rest[:, 1] - own_rest[1])) / 2
    return both.astype(np.float64), garment, coverage, np.abs(rest[:, 2] - own_rest[2])
