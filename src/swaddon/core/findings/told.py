"""What is told of a plan's findings: a cause once, by its worst finding, and small ones in one line."""

from collections.abc import Sequence
from dataclasses import replace

from swaddon.core.findings.scene import Finding

_ONE_CAUSE = (
    ("enclosed-background", "white-under-black", "ink-on-match"),
    ("lost-lines", "choke-large", "choke-guarded"),
)
"""Codes that may speak of the same places: ink of the goods' own colour; strokes that the choke is too wide for."""

_SAME_AREA = 0.85
"""Share of the larger area that the smaller is of, from which both are the same one (assumed)."""


def causes(found: Sequence[Finding]) -> tuple[Finding, ...]:
    """Findings, worst first, each with the one that tells its cause already, and that one with the fixes of both.

    Two of them have one cause where one step mends both, or where they measure the same area of one thing.
    """
    out: list[Finding] = []
    for finding in found:
        at = next((at for at, other in enumerate(out) if not other.cause and _is_same(other, finding)), None)
        if at is None:
            out.append(finding)
            continue
        out.append(replace(finding, cause=out[at].code))
        out[at] = _with_ways(out[at], finding)
    return tuple(out)


def told(found: Sequence[Finding]) -> tuple[tuple[Finding, ...], tuple[Finding, ...]]:
    """The findings to tell one by one, and the small ones that fold into one line."""
    once = [finding for finding in found if not finding.cause]
    return tuple(item for item in once if not item.is_small), tuple(item for item in once if item.is_small)


def small_words(small: Sequence[Finding]) -> str:
    """One line for small findings.

    >>> small_words((Finding("ink-on-match", "note", "…", 0, 0, 40, "mm²"),))
    '1 more, under 1 cm² or one cent'
    """
    return f"{len(small)} more, under 1 cm² or one cent"


def _is_same(one: Finding, other: Finding) -> bool:
    if one.fix is not None and one.fix == other.fix:
        return True
    if not any(one.code in codes and other.code in codes for codes in _ONE_CAUSE) or one.code == other.code:
        return False
    if one.unit != "mm²" or other.unit != "mm²":
        return True
    return min(one.size, other.size) >= _SAME_AREA * max(one.size, other.size)


def _with_ways(one: Finding, other: Finding) -> Finding:
    """A finding with the ways of another one that are none of its own."""
    known = {way.fix_label for way in one.ways}
    more = tuple((way.fix_label, way.fix) for way in other.ways if way.fix is not None and way.fix_label not in known)
    if one.fix is None and more:
        return replace(one, fix_label=more[0][0], fix=more[0][1], others=more[1:])
    return replace(one, others=(*one.others, *more))
