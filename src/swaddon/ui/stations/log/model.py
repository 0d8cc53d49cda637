"""Log: what is asked of the book, and what is said of a run."""

from dataclasses import dataclass, replace

from swaddon.core.log.entry import Entry, Happened, Verdict
from swaddon.core.log.query import Query
from swaddon.core.log.troubles import TROUBLES, Trouble
from swaddon.session import parse

NOT_LOOKED, SEEN, FINE = "not looked", "seen", "fine"
_NEXT = {NOT_LOOKED: SEEN, SEEN: FINE, FINE: NOT_LOOKED}


@dataclass(frozen=True)
class Looked:
    """What a verdict says so far: the state of each trouble, by its key."""

    states: tuple[tuple[str, str], ...] = tuple((trouble.key, NOT_LOOKED) for trouble in TROUBLES)

    @classmethod
    def of(cls, verdict: Verdict | None) -> "Looked":
        """What is known of a piece."""
        known = {} if verdict is None else dict(verdict.looked)
        return cls(
            tuple((t.key, NOT_LOOKED if t.key not in known else SEEN if known[t.key] else FINE) for t in TROUBLES)
        )

    def state(self, key: str) -> str:
        return dict(self.states)[key]

    def turned(self, key: str) -> "Looked":
        """The next state of one trouble: seen, then fine, then not looked at."""
        return Looked(tuple((own, _NEXT[state] if own == key else state) for own, state in self.states))

    def changes(self, before: "Looked") -> dict[str, str]:
        """What is said here and was not said before."""
        return {own: state for own, state in self.states if before.state(own) != state}

    def with_changes(self, changes: dict[str, str]) -> "Looked":
        """The same with some states other."""
        return Looked(tuple((own, changes.get(own, state)) for own, state in self.states))

    def rest_fine(self) -> "Looked":
        """All that was not looked at yet is fine."""
        return Looked(tuple((own, FINE if state == NOT_LOOKED else state) for own, state in self.states))

    @property
    def looked(self) -> tuple[tuple[str, bool], ...]:
        """Troubles that were looked for, and whether each is there."""
        return tuple((own, state == SEEN) for own, state in self.states if state != NOT_LOOKED)


def by_letter(letter: str) -> Trouble | None:
    """The trouble that a key stands for."""
    return next((trouble for trouble in TROUBLES if letter and trouble.letter == letter.upper()), None)


def asked(query: Query, **changes: str) -> Query:
    """The same question with something else in it."""
    return replace(query, **changes)


def put_right(entry: Entry, good: str, why: str, spoiled: str, weights: dict[str, str]) -> Happened:
    """What happened, put right by what was typed; empty fields leave it. Raises ``ValueError`` with one sentence."""
    held = entry.happened or Happened()
    made = held
    if good.strip():
        made = replace(made, good=round(parse.number(good, "Good pieces", 0, 1_000_000)))
    if spoiled.strip():
        count = round(parse.number(spoiled, "Spoiled pieces", 0, 1_000_000))
        reasons = dict(made.spoiled) | {why: count}
        made = replace(made, spoiled=tuple((key, number) for key, number in reasons.items() if number))
    weighed = dict(made.weights)
    for key, text in weights.items():
        if text.strip():
            weighed[key] = parse.number(text, f"The weight in g of {WEIGHTS[key].lower()}", 0, 100_000)
    made = replace(made, weights=tuple(weighed.items()))
    if made == held:
        raise ValueError("Nothing is put right: type a count or a weight that is other than it stands")
    return made


WEIGHTS = {"medium": "Medium, bare", "printed": "Printed", "powdered": "Powdered", "finished": "Garment, finished"}
"""What is weighed of one piece, g."""


def month_before(month: str, by: int) -> str:
    """Another month, ``YYYY-MM``.

    >>> month_before("2026-01", 1), month_before("2026-11", -2)
    ('2025-12', '2027-01')
    """
    year, number = (int(part) for part in month.split("-"))
    at = year * 12 + number - 1 - by
    return f"{at // 12:04d}-{at % 12 + 1:02d}"
