"""Numba kernels. Each one works on a slice of rows, holds no lock, and has a plain twin that the tests hold it to.

Twins: ``separation.separate_plain``, ``knockout.distances_plain``, ``knockout.near_plain``, ``knockout.unmix_plain``,
``knockout.colour_counts_plain``, ``underbase.pull_in_plain``, ``underbase.lay_plain``, ``underbase.soften_plain``,
``optics.seen_plain``, ``raster.halve_plain``, ``measure.count_plain``, ``screen.cut_plain``, ``holes.punch_plain``,
``palette.classify_plain``, ``areas.adopt_plain``, ``areas.connected_plain``, ``regions.describe_plain``.
"""

from swaddon.core.fast.kernels.areas import adopt, classify, connect, count_labels, describe, inner, relabel
from swaddon.core.fast.kernels.colour import count_colours, distances, mark_colours, near, separate
from swaddon.core.fast.kernels.print import count, halve, lay, pull_in, seen, soften, unmix
from swaddon.core.fast.kernels.screens import cut, punch

__all__ = [
    "adopt",
    "classify",
    "connect",
    "count",
    "count_colours",
    "count_labels",
    "cut",
    "describe",
    "distances",
    "halve",
    "inner",
    "lay",
    "mark_colours",
    "near",
    "pull_in",
    "punch",
    "relabel",
    "seen",
    "separate",
    "soften",
    "unmix",
]
