"""Numba kernels. Each one works on a slice of rows, holds no lock, and has a plain twin that the tests hold it to.

A kernel called ``x`` has its twin ``x_plain`` in the room that uses it; those named otherwise: ``areas.connect`` has
``connected_plain``, ``print.seen`` and the rest the same name. A file of kernels is loaded when one of it is first
asked for, because loading takes time; :func:`load_all` loads (or compiles) every one.
"""

from importlib import import_module
from typing import Any

_FILES = {
    "areas": ("adopt", "borders", "classify", "connect", "count_labels", "describe", "inner", "relabel"),
    "colour": ("count_colours", "distances", "mark_colours", "near", "separate"),
    "edges": ("bare", "to_line"),
    "inks": ("fit_inks", "white_errors"),
    "light": ("lit",),
    "print": ("count", "halve", "inked", "lay", "pull_in", "seen", "soften", "unmix"),
    "screens": ("cut", "punch", "thin_out"),
    "sheets": ("nest", "seam"),
    "strokes": ("kept",),
}
_HOME = {name: file for file, names in _FILES.items() for name in names}


def __getattr__(name: str) -> Any:
    if name not in _HOME:
        raise AttributeError(name)
    return getattr(import_module(f"{__name__}.{_HOME[name]}"), name)


def load_usual() -> None:
    """Load the kernels that every plan uses."""
    for file in ("colour", "edges", "inks", "print"):
        import_module(f"{__name__}.{file}")


def load_all() -> None:
    """Load every kernel, compiling what is not compiled yet."""
    for file in _FILES:
        import_module(f"{__name__}.{file}")
