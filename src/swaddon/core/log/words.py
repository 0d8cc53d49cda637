"""Words that an entry is found by, the same whatever database holds them."""

import unicodedata

from swaddon.core.log.entry import Entry
from swaddon.core.log.troubles import KNOWN

MOST_WORDS, _LONGEST = 1200, 40


_STROKED = str.maketrans({
    "ł": "l", "ø": "o", "đ": "d", "ħ": "h", "ŧ": "t", "ı": "i", "ȷ": "j", "ŋ": "n", "ð": "d", "þ": "th", "æ": "ae",
    "œ": "oe", "ƀ": "b", "ɓ": "b", "ɖ": "d", "ɗ": "d", "ɛ": "e", "ɔ": "o", "ɨ": "i", "ʉ": "u", "ĸ": "k",
    "ſ": "s", "ς": "σ",
})  # fmt: skip
"""Letters whose stroke, hook or ligature Unicode does not take apart, as people type them without."""


def plain(text: str) -> str:
    """Text without case and accents, of any script.

    >>> [plain(text) for text in ("ÉTOILE", "Łódź", "Rødgrød", "STRASSE", "İstanbul", "ISPARTA", "ısparta", "ΟΔΟΣ")]
    ['etoile', 'lodz', 'rodgrod', 'strasse', 'istanbul', 'isparta', 'isparta', 'οδοσ']
    """
    apart = unicodedata.normalize("NFKD", unicodedata.normalize("NFKD", text).casefold())
    return "".join(sign for sign in apart if not unicodedata.combining(sign)).translate(_STROKED)


def tokens(text: str) -> tuple[str, ...]:
    """Words without case and accents; anything but letters and digits parts them.

    >>> tokens("Crème-brûlée, Größe M!")
    ('creme', 'brulee', 'grosse', 'm')
    """
    bare = plain(text)
    return tuple(word[:_LONGEST] for word in "".join(s if s.isalnum() else " " for s in bare).split())


def words_of(entry: Entry) -> str:
    """All words of an entry as it stands, each once, parted by spaces."""
    parts = [entry.note, entry.bench]
    ordered, planned = entry.ordered, entry.planned
    if ordered is not None:
        parts += [
            ordered.order, ordered.customer, ordered.line, ordered.garment, ordered.cloth, ordered.size, ordered.place,
            ordered.process, ordered.press, ordered.press_title, ordered.artwork,
        ]  # fmt: skip
    if planned is not None:
        parts += [f"{told.code} {told.text}" for told in planned.findings]
    troubles = list(() if entry.verdict is None else entry.verdict.seen)
    troubles += [why for why, _ in (() if entry.happened is None else entry.happened.spoiled)]
    parts += [f"{key} {KNOWN[key].title}" if key in KNOWN else key for key in troubles]
    return " ".join(dict.fromkeys(tokens(" ".join(parts))[:MOST_WORDS]))
