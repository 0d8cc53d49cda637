"""Connected areas of one class: labelling, specks, rims and colour fades."""

from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from swaddon.core import fast
from swaddon.core.artwork.palette import RIM
from swaddon.core.artwork.raster import Plane, Rgba

MOST_AREAS = 4000
_SPECK_PX = 12
_RIM_RINGS = 6
_FADE_STEP, _FADE_EDGE_PX = 4.0, 8
"""Neighbours whose colours differ by no more than this per pixel along their border are one fade (assumed)."""

_MOST_PAIRS = 1 << 25

Labels = NDArray[np.int32]


def connected_plain(classes: Plane) -> Labels:
    """:func:`connected` colour by colour with OpenCV."""
    labels = np.where(classes == RIM, -1, 0).astype(np.int32)
    count = 0
    for colour in np.unique(classes[classes < RIM]):
        found, parts = cv2.connectedComponents((classes == colour).astype(np.uint8), connectivity=4)
        labels = np.where(parts > 0, parts + count, labels)
        count += found - 1
    return np.asarray(labels, np.int32)


@fast.instead_of(connected_plain)
def connected(kernels: Any, classes: Plane) -> Labels:
    """Labels of 4-connected pixels of one palette colour; 0 where there is none, −1 on rims."""
    labels = np.empty(classes.shape, np.int32)
    parents = np.empty(classes.size + 1, np.int32)
    kernels.connect(classes, parents, labels)
    return labels


def without_specks(labels: Labels) -> Labels:
    """Labels with −1 (to be given away) where an area is a speck; a lone area stays.

    A speck has fewer pixels than ``_SPECK_PX``, or, in artwork of more than ``MOST_AREAS`` areas, so few that no more
    than that are left.
    """
    counts = label_counts(labels)
    least = _SPECK_PX
    while int((counts[1:] >= least).sum()) > MOST_AREAS:
        least *= 2
    small = counts < least
    small[0] = False
    if small[1:].all():
        return labels
    turned = np.arange(counts.size, dtype=np.int32)
    turned[small] = -1
    return relabelled(labels, turned)


def label_counts(labels: Labels) -> NDArray[np.int64]:
    """Pixels of each label; ``[0]`` is 0.

    >>> label_counts(np.array([[1, 1, 2, -1]], np.int32)).tolist()
    [0, 2, 1]
    """
    counts = np.zeros(max(int(labels.max()), 0) + 1, np.int64)
    fast.chosen("count_labels", count_labels_plain)(labels, counts)
    return counts


def count_labels_plain(labels: Labels, counts: NDArray[np.int64]) -> None:
    """Add the pixels of each label above 0, in plain NumPy."""
    counts += np.bincount(np.maximum(labels, 0).ravel(), minlength=counts.size)
    counts[0] = 0


def relabelled_plain(labels: Labels, turned: NDArray[np.int32]) -> Labels:
    """:func:`relabelled` in plain NumPy."""
    return np.where(labels < 0, labels, turned[np.maximum(labels, 0)]).astype(np.int32)


@fast.instead_of(relabelled_plain)
def relabelled(kernels: Any, labels: Labels, turned: NDArray[np.int32]) -> Labels:
    """Labels of 0 and more turned into others; −1 stays.

    >>> relabelled(np.array([[1, -1, 2]], np.int32), np.array([0, 7, 8], np.int32)).tolist()
    [[7, -1, 8]]
    """
    out = labels.copy()
    fast.by_rows(out.shape[0], lambda rows: kernels.relabel(out[rows], turned))
    return out


def grow(rgba: Rgba, labels: Labels) -> None:
    """Give pixels of −1 the label of the neighbour nearest in colour, ring by ring; in place.

    What is further than ``_RIM_RINGS`` from any area is texture: each such place becomes an area of its own. Afterwards
    labels also reach two pixels beyond the ink, so that resampled artwork finds one everywhere.
    """
    pending = np.flatnonzero(labels.ravel() == -1)
    pending = _rings(rgba, labels, pending, _RIM_RINGS)
    if pending.size:
        texture = np.zeros(labels.shape, np.uint8)
        texture.ravel()[pending] = 1
        _, parts, stats, _ = cv2.connectedComponentsWithStats(texture, connectivity=8)
        large = stats[:, cv2.CC_STAT_AREA] >= _SPECK_PX
        if not (labels > 0).any():
            large[1:] = True
        large[0] = False
        numbers = np.where(large, np.cumsum(large) + max(int(labels.max()), 0), -1)
        labels.ravel()[pending] = numbers[parts.ravel()[pending]]
        pending = pending[labels.ravel()[pending] == -1]
        _rings(rgba, labels, pending, pending.size)
    labels[labels == -1] = 0
    inked = (labels > 0).view(np.uint8)
    beside = np.flatnonzero(cv2.subtract(cv2.dilate(inked, np.ones((5, 5), np.uint8)), inked))
    for _ in range(2):
        taken = _adopted(rgba, labels, beside, by_colour=False)
        labels.ravel()[beside] = taken
        beside = beside[taken == 0]


def _rings(rgba: Rgba, labels: Labels, pending: NDArray[np.int64], most: int) -> NDArray[np.int64]:
    """Up to ``most`` rings of adoption; the pixels that are left."""
    for _ in range(most):
        if pending.size == 0:
            break
        found = _adopted(rgba, labels, pending, by_colour=True)
        if not found.any():
            break
        taken = found > 0
        labels.ravel()[pending[taken]] = found[taken]
        pending = pending[~taken]
    return pending


def _adopted(rgba: Rgba, labels: Labels, pending: NDArray[np.int64], by_colour: bool) -> Labels:
    """The label each pending pixel takes from its neighbours, 0 when none has one."""
    out = np.zeros(pending.size, np.int32)
    kernel = fast.chosen("adopt", adopt_plain)
    fast.by_rows(pending.size, lambda part: kernel(rgba, labels, pending[part], by_colour, out[part]))
    return out


def adopt_plain(rgba: Rgba, labels: Labels, pending: NDArray[np.int64], by_colour: bool, out: Labels) -> None:
    """Labels for pending pixels in plain NumPy: nearest in colour, edge neighbours before corner neighbours."""
    height, width = labels.shape
    ys, xs = np.divmod(pending, width)
    least = np.full(pending.size, 1 << 30, np.int64)
    own = rgba[ys, xs, :3].astype(np.int64)
    out.fill(0)
    for turn, (dy, dx) in enumerate(((0, -1), (0, 1), (-1, 0), (1, 0), (-1, -1), (-1, 1), (1, -1), (1, 1))):
        v, u = ys + dy, xs + dx
        inside = (v >= 0) & (u >= 0) & (v < height) & (u < width)
        v, u = np.clip(v, 0, height - 1), np.clip(u, 0, width - 1)
        label = np.where(inside, labels[v, u], 0)
        away = np.full(pending.size, 0 if turn < 4 else 1, np.int64)
        if by_colour:
            away += np.abs(rgba[v, u, :3].astype(np.int64) - own).sum(axis=1) * 4
        closer = (label > 0) & (away < least)
        out[closer], least[closer] = label[closer], away[closer]


def merged(rgba: Rgba, labels: Labels) -> Labels:
    """Labels with neighbours joined where one colour runs into the other without an edge (a colour fade)."""
    count = max(int(labels.max()), 0) + 1
    touching, steps = _borders(rgba, labels, count)
    if count * count <= _MOST_PAIRS:
        size = np.bincount(touching, minlength=count * count)
        pairs = np.flatnonzero(size)
        size, total = size[pairs], np.bincount(touching, steps, count * count)[pairs]
    else:
        pairs, place = np.unique(touching, return_inverse=True)
        size, total = np.bincount(place, minlength=pairs.size), np.bincount(place, steps, pairs.size)
    step = total / np.maximum(size, 1)
    gradual = pairs[(step <= _FADE_STEP) & (size >= _FADE_EDGE_PX)]
    parents = np.arange(count, dtype=np.int32)
    for low, high in zip((gradual // count).tolist(), (gradual % count).tolist(), strict=True):
        first_root, second_root = _root(parents, low), _root(parents, high)
        parents[max(first_root, second_root)] = min(first_root, second_root)
    for number in range(count):
        parents[number] = parents[parents[number]]
    return relabelled(labels, parents)


def borders_plain(rgba: Rgba, labels: Labels, count: int) -> tuple[NDArray[np.int64], NDArray[np.uint8]]:
    """:func:`_borders` in plain NumPy, in another order."""
    pairs, steps = [], []
    for one, other in (
        ((slice(None), slice(None, -1)), (slice(None), slice(1, None))),
        ((slice(None, -1), slice(None)), (slice(1, None), slice(None))),
    ):
        ys, xs = np.nonzero((labels[one] != labels[other]) & (labels[one] > 0) & (labels[other] > 0))
        first, second = labels[one][ys, xs].astype(np.int64), labels[other][ys, xs].astype(np.int64)
        pairs.append(np.minimum(first, second) * count + np.maximum(first, second))
        apart = np.abs(rgba[one][ys, xs].astype(np.int16) - rgba[other][ys, xs]).max(axis=1)
        steps.append(apart.astype(np.uint8))
    return np.concatenate(pairs), np.concatenate(steps)


@fast.instead_of(borders_plain)
def _borders(kernels: Any, rgba: Rgba, labels: Labels, count: int) -> tuple[NDArray[np.int64], NDArray[np.uint8]]:
    """Pairs of labels that touch (low × count + high), pixel by pixel, and the step of colour between the pixels."""
    pairs, steps = np.empty(1 << 20, np.int64), np.empty(1 << 20, np.uint8)
    found = kernels.borders(rgba, labels, count, pairs, steps)
    if found > pairs.size:
        pairs, steps = np.empty(found, np.int64), np.empty(found, np.uint8)
        kernels.borders(rgba, labels, count, pairs, steps)
    return pairs[:found], steps[:found]


def _root(parents: Labels, number: int) -> int:
    while parents[number] != number:
        number = int(parents[number])
    return number


def renumbered(labels: Labels) -> Labels:
    """Labels 1, 2, 3 … without gaps, in the order in which they come row by row, however they were found."""
    flat = labels.ravel()
    first = np.full(max(int(labels.max()), 0) + 1, flat.size, np.int64)
    chosen = np.flatnonzero(flat > 0)[::-1]
    first[flat[chosen]] = chosen
    used = np.flatnonzero(first < flat.size)
    turned = np.zeros(first.size, np.int32)
    turned[used[np.argsort(first[used])]] = np.arange(1, used.size + 1)
    return relabelled(labels, turned)
