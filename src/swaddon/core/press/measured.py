"""Constants of a press that were measured, with what they were before."""

from collections.abc import Iterable
from dataclasses import dataclass

Value = float | tuple[float, ...]


@dataclass(frozen=True)
class Measured:
    """One constant that was written into a press profile.

    Attributes
    ----------
    constant
        Its place in the profile's file, such as ``white.contrast_ratio``.
    value, old
        The new value and the one before; a number or numbers.
    pm
        95 % interval, in the constant's unit; 0 where none is known.
    date
        Day of the measurement, ISO 8601.
    source
        Where it is from, in a few words.
    """

    constant: str
    value: Value
    old: Value
    pm: float
    date: str
    source: str


def latest(measured: Iterable[Measured], constant: str) -> Measured | None:
    """The last measurement of a constant."""
    return next((entry for entry in reversed(tuple(measured)) if entry.constant == constant), None)
