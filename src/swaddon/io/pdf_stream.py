"""A PDF written object by object (ISO 32000-1, section 7.5): what is written is not kept.

The library that other PDFs are made with holds all of a file's streams in memory; those of a sheet are hundreds of
megabytes.
"""

from typing import BinaryIO


class PdfStream:
    """Numbered objects, then the table that says where each begins."""

    def __init__(self, file: BinaryIO) -> None:
        self._file = file
        self._places: dict[int, int] = {}
        self._next = 1
        self._at = 0
        self._write(b"%PDF-1.7\n%\xe2\xe3\xcf\xd3\n")

    def number(self) -> int:
        """A number for an object that is written later."""
        self._next += 1
        return self._next - 1

    def add(self, body: str, number: int | None = None) -> int:
        """Write an object; gives its number."""
        return self._object(body.encode("latin-1"), number)

    def stream(self, entries: str, data: bytes, number: int | None = None) -> int:
        """Write a stream with the entries of its dictionary; gives its number."""
        head = f"<< {entries} /Length {len(data)} >>\nstream\n".encode("latin-1")
        return self._object(head + data + b"\nendstream", number)

    def end(self, root: int, info: int) -> None:
        """Write the table and the trailer."""
        start = self._at
        rows = [b"0000000000 65535 f \n"]
        for number in range(1, self._next):
            rows.append(b"%010d 00000 n \n" % self._places[number])
        self._write(b"xref\n0 %d\n" % self._next + b"".join(rows))
        self._write(
            b"trailer\n<< /Size %d /Root %d 0 R /Info %d 0 R >>\nstartxref\n%d\n%%%%EOF\n"
            % (self._next, root, info, start)
        )

    def _object(self, body: bytes, number: int | None) -> int:
        own = self.number() if number is None else number
        self._places[own] = self._at
        self._write(b"%d 0 obj\n" % own + body + b"\nendobj\n")
        return own

    def _write(self, data: bytes) -> None:
        self._file.write(data)
        self._at += len(data)


def name_of(text: str) -> str:
    """A name object; bytes that are no regular characters as #xx (section 7.3.5).

    >>> name_of("Spot 1"), name_of("Weiß")
    ('/Spot#201', '/Wei#C3#9F')
    """
    regular = frozenset(b"!\"$&'*+,-.0123456789:;=?@ABCDEFGHIJKLMNOPQRSTUVWXYZ\\^_`abcdefghijklmnopqrstuvwxyz|~")
    return "/" + "".join(chr(byte) if byte in regular else f"#{byte:02X}" for byte in text.encode("utf-8"))


def string_of(text: str) -> str:
    """A text string as UTF-16 in hexadecimal (section 7.9.2)."""
    return f"<FEFF{text.encode('utf-16-be').hex().upper()}>"


def shown_text(text: str) -> str:
    """A string for a font of Latin letters (section 7.3.4)."""
    plain = text.encode("latin-1", "replace").replace(b"\\", b"\\\\").replace(b"(", b"\\(").replace(b")", b"\\)")
    return f"({plain.decode('latin-1')})"
