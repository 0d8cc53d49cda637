"""What is decorated, in words: as the order calls it, else by its shape, else as the process usually has it."""

import re
from dataclasses import dataclass
from typing import Literal

from swaddon.core.press.processes import Process

Kind = Literal["garment", "cloth", "hard"]
"""Worn and of cloth, other things of cloth, and what has a hard surface."""

_CALLED: dict[Kind, str] = {
    "garment": "shirt hoodie jersey sweater sweatshirt jumper polo vest jacket coat blouse dress leggings shorts",
    "cloth": "cap hat beanie scarf sock glove apron bib towel tote bag backpack pouch tag label patch badge cushion "
    "pillow blanket banner flag bandana mask tea-towel tablecloth",
    "hard": "tin mug cup glass bottle jar plate tile car helmet box case candle ornament bowl coaster magnet sign toy "
    "guitar board lighter",
}
_KINDS: dict[str, Kind] = {word: kind for kind, words in _CALLED.items() for word in words.split()}
_AS = {
    "tee": "shirt",
    "t-shirt": "shirt",
    "tshirt": "shirt",
    "top": "shirt",
    "longsleeve": "shirt",
    "pullover": "sweater",
}
"""Other words for the same."""

_BY_SHAPE = {"tote": "tote", "tin": "tin", "tag": "tag"}
_SURFACES: dict[Kind, tuple[str, str]] = {
    "garment": ("cloth", "dyed cloth"), "cloth": ("cloth", "dyed cloth"), "hard": ("surface", "paint or enamel"),
}  # fmt: skip


@dataclass(frozen=True)
class Ware:
    """What is decorated.

    Attributes
    ----------
    piece
        What one of the order is called: shirt, cap, tin.
    item
        What it is called where its cut is no matter: a shirt is a garment, a tin a tin.
    kind
        What it is made like.
    """

    piece: str
    item: str
    kind: Kind

    @property
    def is_cloth(self) -> bool:
        return self.kind != "hard"

    @property
    def surface(self) -> str:
        """What lies bare where nothing is printed."""
        return _SURFACES[self.kind][0]

    @property
    def ground(self) -> str:
        """What gives it its colour."""
        return _SURFACES[self.kind][1]


def ware_of(process: Process, name: str = "", shape: str = "") -> Ware:
    """What a process decorates, by the goods' name in the shop's words and by the shape that they are drawn as.

    The last word of the name that calls a thing counts; goods that the process cannot decorate are none of its own.

    >>> from swaddon.core.press.processes import PROCESSES
    >>> [ware_of(PROCESSES["film"], name).piece for name in ("Black tee", "Navy caps, wool", "Natural canvas")]
    ['shirt', 'cap', 'shirt']
    >>> ware_of(PROCESSES["decal"], "Black tee", "tin").item, ware_of(PROCESSES["direct"], shape="tote").item
    ('tin', 'tote')
    """
    words = [_called(word) for word in reversed(re.findall(r"[a-z-]+", name.lower()))]
    for word in (*words, _BY_SHAPE.get(shape, "")):
        kind = _KINDS.get(word)
        if kind is not None and (kind == "hard") == (process.item != "garment"):
            return Ware(word, "garment" if kind == "garment" else word, kind)
    return Ware(process.piece, process.item, "garment" if process.item == "garment" else "hard")


def _called(word: str) -> str:
    """The word for one of them that is known here."""
    for tried in (word, word.removesuffix("s"), word.removesuffix("es")):
        if tried in _AS or tried in _KINDS:
            return _AS.get(tried, tried)
    return word
