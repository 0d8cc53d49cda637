"""The ways of printing as data: what a process is called, what it lays on what, and what becomes of fades.

Whatever else differs (order of printing, flip, slots, supplies, times) stands in the press profiles of the process.
"""

from dataclasses import dataclass
from typing import Literal


@dataclass(frozen=True)
class Process:
    """One way of printing (common practice, no source).

    Attributes
    ----------
    key
        Name in press profiles, job files and plan.json.
    title
        Name on the bench.
    described
        What a customer reads of it, in the middle of a sentence.
    medium
        What is printed on first: ``film``, ``platen`` or ``sheet``.
    colourant
        ``ink`` or ``toner``.
    fades
        What becomes of half-transparent pixels where nothing else is chosen.
    thin_ink_fails
        Whether thin ink of a fade has nothing to hold on to.
    """

    key: str
    title: str
    described: str
    medium: Literal["film", "platen", "sheet"]
    colourant: Literal["ink", "toner"]
    fades: Literal["keep", "screen"] = "keep"
    thin_ink_fails: bool = False


PROCESSES = {
    process.key: process
    for process in (
        Process("film", "Film", "film transfer", "film", "ink", "screen", thin_ink_fails=True),
        Process("direct", "Direct", "printing straight on the cloth", "platen", "ink"),
        Process("toner-onepass", "Toner sheet", "toner transfer", "sheet", "toner"),
    )
}
"""All processes by key, in the order in which they are offered; the first is that of a new job."""

USUAL = next(iter(PROCESSES))
"""Process, and shipped press profile, of a new job."""
