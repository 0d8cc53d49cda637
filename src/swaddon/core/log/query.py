"""What is looked for in the log book."""

import datetime
from dataclasses import dataclass, replace

from swaddon.core.log.words import tokens

MOST_WORDS = 12


_MONTH_LENGTH = 7


def day_asked(text: str, what: str) -> str:
    """A day as ``YYYY-MM-DD``, or a month; empty for none. Raises ``ValueError`` with one sentence.

    >>> day_asked(" 2026-11-05 ", "Since"), day_asked("2026-11", "Since"), day_asked("", "Since")
    ('2026-11-05', '2026-11', '')
    """
    bare = text.strip()
    try:
        if len(bare) == _MONTH_LENGTH:
            datetime.date.fromisoformat(f"{bare}-01")
            return bare
        return datetime.date.fromisoformat(bare).isoformat() if bare else ""
    except ValueError as error:
        raise ValueError(f"{what} “{bare[:20]}” is not a day: write it like 2026-11-28, or 2026-11") from error


@dataclass(frozen=True)
class Query:
    """What a run must be; what is empty asks for nothing.

    Attributes
    ----------
    words
        All of these must begin some word of the run.
    garment, process, artwork_key, trouble
        Exactly so.
    artwork
        Part of the artwork's file name, beginning with the start of a word.
    since, until
        Days by the shop's clock, ``YYYY-MM-DD``, or months, ``YYYY-MM``; both included.
    """

    words: str = ""
    garment: str = ""
    process: str = ""
    artwork: str = ""
    artwork_key: str = ""
    trouble: str = ""
    since: str = ""
    until: str = ""

    @property
    def asks_nothing(self) -> bool:
        return not tokens(self.words) and replace(self, words="") == Query()

    @property
    def has_words(self) -> bool:
        return bool(tokens(f"{self.words} {self.artwork}"))
