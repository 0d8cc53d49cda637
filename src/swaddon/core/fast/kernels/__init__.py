"""Numba kernels. Each one works on a slice of rows, holds no lock, and has a plain twin that the tests hold it to.

Twins: ``separation.separate_plain``, ``knockout.distances_plain``, ``knockout.near_plain``, ``knockout.unmix_plain``,
``underbase.pull_in_plain``, ``underbase.lay_plain``, ``optics.seen_plain``, ``raster.halve_plain``,
``measure.count_plain``, ``underbase.soften_plain``.
"""

from swaddon.core.fast.kernels.colour import distances, mark_colours, near, separate
from swaddon.core.fast.kernels.print import count, halve, lay, pull_in, seen, soften, unmix

__all__ = [
    "count",
    "distances",
    "halve",
    "lay",
    "mark_colours",
    "near",
    "pull_in",
    "seen",
    "separate",
    "soften",
    "unmix",
]
