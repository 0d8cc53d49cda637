"""Names of inks where one of them sits in more than one slot."""

from collections.abc import Sequence


def numbered(inks: Sequence[str]) -> list[str]:
    """Inks by slot, each with a name of its own.

    >>> numbered(["C", "W", "W"])
    ['C', 'W', 'W2']
    """
    seen: dict[str, int] = {}
    out = []
    for ink in inks:
        seen[ink] = seen.get(ink, 0) + 1
        out.append(ink if seen[ink] == 1 else f"{ink}{seen[ink]}")
    return out


WORDS = {"C": "cyan", "M": "magenta", "Y": "yellow", "K": "black", "W": "white", "H": "highlight white"}
"""What an ink is called in the middle of a sentence."""
