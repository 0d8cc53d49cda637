"""Words that an entry is found by, the same whatever database holds them."""

import unicodedata

from swaddon.core.log.entry import Entry
from swaddon.core.log.troubles import KNOWN

MOST_WORDS, _LONGEST = 1200, 40


def tokens(text: str) -> tuple[str, ...]:
    """Words without case and accents; anything but letters and digits parts them.

    >>> tokens("Crème-brûlée, Größe M!")
    ('creme', 'brulee', 'grosse', 'm')
    """
    plain = unicodedata.normalize("NFKD", unicodedata.normalize("NFKD", text).casefold())
    bare = "".join(sign for sign in plain if not unicodedata.combining(sign))
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
