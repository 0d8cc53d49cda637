"""What is looked for in the log book."""

from dataclasses import dataclass, replace

from swaddon.core.log.words import tokens

MOST_WORDS = 12


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
        Days, ``YYYY-MM-DD``, both included.
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
