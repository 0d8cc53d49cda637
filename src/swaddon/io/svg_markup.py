"""The markup of an SVG as plain text: any encoding, inner entities written out, nothing that lies outside the file.

Drawing programs name long words by entities (``<!ENTITY ns_svg "http://…">``); these are harmless. Entities that fetch
something, or grow by each other (XML 1.0, 4.4), are refused by name before anything is written out.
"""

import codecs
import gzip
import io
import re
from xml.parsers import expat

from swaddon.core.errors import PlanError

LARGEST_SVG = 50_000_000
_GZIP = b"\x1f\x8b"
_MARKS = (
    (codecs.BOM_UTF8, "utf-8-sig"), (codecs.BOM_UTF32_LE, "utf-32"), (codecs.BOM_UTF32_BE, "utf-32"),
    (codecs.BOM_UTF16_LE, "utf-16"), (codecs.BOM_UTF16_BE, "utf-16"), (b"<\0", "utf-16-le"), (b"\0<", "utf-16-be"),
)  # fmt: skip
_TEXT = ("utf-8", "us-ascii", "ascii", "iso-8859", "iso8859", "latin", "windows-125", "cp125", "koi8", "macintosh")
"""Encodings that are read: Python knows others too, some of which pack data."""

_DECLARED = re.compile(rb"""^\s*<\?xml[^>]{0,200}?encoding\s*=\s*["']([A-Za-z0-9._-]{1,40})["']""")
_HEAD = re.compile(r"^\s*<\?xml.*?\?>", re.DOTALL)
_OUTSIDE = re.compile(r"""(\bhref\s*=\s*)(["'])(?!\s*(?:#|data:))[^"']*\2""", re.IGNORECASE)
_REFERENCE = re.compile(r"&([A-Za-z_:][\w:.-]*);")
_OF_XML = {"amp", "lt", "gt", "quot", "apos"}
_LONGEST_ENTITY, _DEEPEST = 100_000, 8
"""Characters that an entity may stand for, and how many may stand in each other (assumed: more than drawings need)."""


def unzipped(data: bytes) -> bytes | None:
    """SVG bytes, unzipped; ``None`` when they are no SVG."""
    if data[:2] == _GZIP:
        try:
            with gzip.GzipFile(fileobj=io.BytesIO(data)) as file:
                data = file.read(LARGEST_SVG + 1)
        except (OSError, EOFError):
            return None
    begins = _text_of(data[:65536])
    return data if begins is not None and begins.lstrip().startswith("<") and "<svg" in begins else None


def plain_markup(data: bytes, name: str) -> tuple[str, int]:
    """Markup without DOCTYPE and entities, and how many references to what lies outside were cut from it.

    Raises
    ------
    PlanError
        It is too large, of no known encoding, or has entities that fetch or grow.
    ValueError
        It is no XML.
    """
    if len(data) > LARGEST_SVG:
        raise PlanError(f"“{name}” is over 50 MB of markup: export the artwork as PNG at print size.")
    text = _text_of(data)
    if text is None:
        raise ValueError("no text")
    text = _HEAD.sub("", text, count=1)
    if "<!DOCTYPE" in text:
        text = _without_entities(text, name)
    return _OUTSIDE.subn(r'\1""', text)


def _text_of(data: bytes) -> str | None:
    """Bytes as text by their mark, their declaration, else UTF-8; a cut end does no harm. ``None``: it is none."""
    encoding = next((name for mark, name in _MARKS if data.startswith(mark)), None)
    if encoding is None:
        declared = _DECLARED.match(data[:300])
        encoding = "utf-8" if declared is None else declared[1].decode("ascii").lower()
        if encoding.startswith(("utf", "ucs")):
            encoding = "utf-8"  # what begins in single bytes is no UTF-16, whatever it says
        if not encoding.startswith(_TEXT):
            return None
    try:
        return codecs.getincrementaldecoder(encoding)().decode(data)
    except (LookupError, UnicodeError):
        return None


class _Begun(Exception):  # noqa: N818 - the drawing itself begins, no failure
    pass


def _without_entities(text: str, name: str) -> str:
    """The text behind its DOCTYPE, with the entities that this declares written out."""
    entities: dict[str, str] = {}
    parser = expat.ParserCreate("utf-8")
    end = 0

    def declared(entity: str, is_parameter: int, value: str | None, _base: object, *_outside: object) -> None:
        if value is None or is_parameter:
            raise PlanError(f"“{name}” fetches “{entity}” from outside the file: export it as plain SVG.")
        entities.setdefault(entity, value)

    def closed() -> None:
        nonlocal end
        end = parser.CurrentByteIndex

    def begun(*_: object) -> None:
        raise _Begun

    parser.EntityDeclHandler, parser.EndDoctypeDeclHandler, parser.StartElementHandler = declared, closed, begun
    data = text.encode("utf-8", "replace")
    try:
        parser.Parse(data, True)
    except _Begun:
        pass
    except expat.ExpatError as error:
        raise ValueError(str(error)) from error
    rest = data[data.index(b">", end) + 1 :].decode("utf-8") if end else text
    written = {entity: _written_out(entity, entities, name) for entity in entities}
    grown = sum(len(written.get(found[1], "")) for found in _REFERENCE.finditer(rest))
    if grown + len(rest) > LARGEST_SVG:
        raise PlanError(f"“{name}” grows beyond 50 MB by its entities: export it as plain SVG.")
    return _REFERENCE.sub(lambda found: written.get(found[1], found[0]), rest)


def _written_out(entity: str, entities: dict[str, str], name: str, depth: int = 0) -> str:
    """What an entity stands for, others within it written out."""
    if depth > _DEEPEST:
        raise PlanError(f"“{name}” has an entity that grows by others, “{entity}”: export it as plain SVG.")
    parts, length, at = [], 0, 0
    value = entities[entity]
    for found in _REFERENCE.finditer(value):
        inner = found[0]
        if found[1] in entities and found[1] not in _OF_XML:
            inner = _written_out(found[1], entities, name, depth + 1)
        parts += [value[at : found.start()], inner]
        at, length = found.end(), length + len(inner)
        if length > _LONGEST_ENTITY:
            raise PlanError(f"“{name}” has an entity that grows by others, “{entity}”: export it as plain SVG.")
    return "".join([*parts, value[at:]])
