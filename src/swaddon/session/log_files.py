"""The log book as files: lists of runs as CSV, JSON and HTML, and a backup of everything in one file.

A backup is a ZIP with ``book.json`` (what it is), ``entries.jsonl`` (every entry, a line each, in their order) and
``files/<key>`` (every file, named by its SHA-256). It is taken into a book of either kind; what is there stays.
"""

import base64
import json
import zipfile
from collections.abc import Callable, Iterable, Sequence
from html import escape
from pathlib import Path
from typing import TYPE_CHECKING

from swaddon.core.errors import PlanError
from swaddon.core.log.entry import SCHEMA, Entry
from swaddon.core.schema import document
from swaddon.io.archives import UNREADABLE, TooLarge
from swaddon.io.archives import entry as zip_entry
from swaddon.io.log_entries import entry_text, read_entry
from swaddon.io.names import shown
from swaddon.io.outputs import output_file
from swaddon.io.profiles import reason
from swaddon.io.spreadsheet import write_rows
from swaddon.session.job import key_of
from swaddon.session.log_words import count_text, facts_of, line_text, reasons_text, title_text, verdict_text

if TYPE_CHECKING:
    from swaddon.store.book import Blob, LogBook

HEADS = (
    "uid", "at", "bench", "order", "customer", "line", "garment", "process", "press", "artwork", "width_mm",
    "height_mm", "quantity", "good", "spoiled", "reasons", "troubles", "washes", "taken_s", "cost", "currency",
    "choke_mm", "note",
)  # fmt: skip
BACKUP_SCHEMA = "swaddon-book/1"
_LARGEST_FILE, _LARGEST_LINE = 200_000_000, 20_000_000
_AT_ONCE = 200
Tell = Callable[[str, float], None]


def row_of(entry: Entry) -> tuple[str, ...]:
    """A run as a row of CSV, in the order of ``HEADS``."""
    ordered, planned, happened, verdict = entry.ordered, entry.planned, entry.happened, entry.verdict
    seen = "" if verdict is None else ", ".join(verdict.seen) or ("fine" if verdict.looked else "")
    return (
        entry.head, entry.at, entry.bench,
        *(("",) * 10 if ordered is None else (
            ordered.order, ordered.customer, ordered.line, ordered.garment, ordered.process, ordered.press,
            ordered.artwork, f"{ordered.width_mm:g}", f"{ordered.height_mm:g}", str(ordered.quantity),
        )),
        *(("", "", "") if happened is None else (
            str(happened.good), str(happened.lost), ", ".join(f"{why} {count}" for why, count in happened.spoiled),
        )),
        seen, str(verdict.washes) if verdict is not None else "",
        "" if happened is None else f"{happened.taken_s:g}",
        *(("", "", "") if planned is None else (planned.cost, planned.currency, f"{planned.figure('choke_mm'):g}")),
        entry.note,
    )  # fmt: skip


def write_list(path: Path, entries: Sequence[Entry], thumbnail: Callable[[str], bytes | None]) -> None:
    """Write runs as they stand, by the suffix of the name: ``.csv``, ``.json`` or ``.html``.

    Raises
    ------
    PlanError
        One sentence: another suffix, or the file cannot be written.
    """
    kind = path.suffix.lower()
    if kind == ".csv":
        write_rows(path, [HEADS, *(row_of(entry) for entry in entries)])
        return
    if kind == ".json":
        text = json.dumps(
            {"schema": SCHEMA, "runs": [document(entry) for entry in entries]}, ensure_ascii=False, indent=1
        )
    elif kind in (".html", ".htm"):
        text = _html(entries, thumbnail)
    else:
        raise PlanError(f"“{shown(path)}” is no list: give a name that ends in .csv, .json or .html.")
    try:
        with output_file(path) as file:
            file.write((text + "\n").encode("utf-8"))
    except OSError as error:
        raise PlanError(f"The list could not be written to “{shown(path)}” ({reason(error)}).") from error


_STYLE = """
body { font: 15px/1.45 sans-serif; color: #222; background: #fff; max-width: 1060px; margin: 2em auto; padding: 0 1em; }
article { display: grid; grid-template-columns: 120px 1fr; gap: 1em; border-top: 1px solid #ccc; padding: 1em 0; }
article { break-inside: avoid; } h2 { font-size: 1.05em; margin: 0; } p { margin: .2em 0; overflow-wrap: anywhere; }
img { width: 120px; } .quiet { color: #555; font-size: .92em; }
"""


def _html(entries: Iterable[Entry], thumbnail: Callable[[str], bytes | None]) -> str:
    parts = []
    for entry in entries:
        key = "" if entry.ordered is None else entry.ordered.thumbnail
        data = thumbnail(key) if key else None
        picture = "" if data is None else f"<img alt='' src='data:image/png;base64,{base64.b64encode(data).decode()}'>"
        facts = " · ".join(f"{title} {value}" for title, value in facts_of(entry))
        told = [count_text(entry.happened), reasons_text(entry.happened), verdict_text(entry.verdict)]
        parts.append(
            f"<article><div>{picture}</div><div><h2>{escape(title_text(entry))}</h2><p>{escape(line_text(entry))}</p>"
            f"<p>{escape(' · '.join(filter(None, told)))}</p><p>{escape(entry.note)}</p>"
            f"<p class='quiet'>{escape(facts)}</p></div></article>"
        )
    return (
        "<!doctype html><html lang='en'><head><meta charset='utf-8'><title>Log book</title>"
        f"<style>{_STYLE}</style></head><body><h1>Log book</h1>{''.join(parts)}</body></html>"
    )


# backup


def write_backup(path: Path, book: "LogBook", tell: Tell = lambda _title, _share: None) -> int:
    """Write everything into one file, whole or not at all; gives how many entries.

    Raises
    ------
    PlanError
        One sentence: the file cannot be written, or the book cannot be read.
    """
    count = 0
    try:
        with output_file(path) as file, zipfile.ZipFile(file, "w", zipfile.ZIP_STORED) as archive:
            archive.writestr("book.json", json.dumps({"schema": BACKUP_SCHEMA, "entries": SCHEMA}))
            with archive.open("entries.jsonl", "w", force_zip64=True) as out:
                for _, entry in book.everything():
                    out.write(entry_text(entry).encode("utf-8") + b"\n")
                    count += 1
            keys = book.blob_keys()
            for at, key in enumerate(keys):
                tell("Saving files", at / max(1, len(keys)))
                blob = book.blob(key)
                if blob is not None:
                    archive.writestr(f"files/{key}", blob.media.encode() + b"\n" + blob.data)
    except OSError as error:
        raise PlanError(f"The backup could not be written to “{shown(path)}” ({reason(error)}).") from error
    return count


def read_backup(path: Path, book: "LogBook", tell: Tell = lambda _title, _share: None) -> tuple[int, int]:
    """Take a backup into a book; what is there already stays. Gives how many entries it holds, and how many were new.

    Raises
    ------
    PlanError
        One sentence: it is no backup or is damaged (then entries before the damage may have come in), or the book
        cannot be written.
    """
    from swaddon.store.book import Blob

    held = new = 0
    try:
        with zipfile.ZipFile(path) as archive:
            told = json.loads(zip_entry(archive, "book.json", 100_000))
            if not isinstance(told, dict) or told.get("schema") != BACKUP_SCHEMA:
                raise PlanError(f"“{shown(path)}” is no backup of a log book, or one of a newer Swaddon.")
            names = [info.filename for info in archive.infolist() if info.filename.startswith("files/")]
            known = book.knows(name[6:] for name in names)
            for at, name in enumerate(names):
                tell("Taking files", at / max(1, len(names)))
                if name[6:] not in known:
                    media, _, data = zip_entry(archive, name, _LARGEST_FILE).partition(b"\n")
                    if key_of(data) != name[6:]:
                        raise PlanError(f"“{shown(path)}” is damaged: the file {name[6:18]}… is not what it was.")
                    book.add([], {name[6:]: Blob(media.decode("ascii", "replace"), data)})
            with archive.open("entries.jsonl") as lines:
                part: list[Entry] = []
                while line := lines.readline(_LARGEST_LINE):
                    part.append(read_entry(line))
                    held += 1
                    if len(part) == _AT_ONCE:
                        new += book.add(part, {})
                        part = []
                new += book.add(part, {})
    except FileNotFoundError as error:
        raise PlanError(f"There is no backup “{shown(path)}”.") from error
    except (*UNREADABLE, TooLarge) as error:
        raise PlanError(
            f"“{shown(path)}” is no backup of a log book, or is damaged ({type(error).__name__})."
        ) from error
    return held, new


def blobs_of(book: "LogBook") -> "Callable[[str], bytes | None]":
    """Bytes of a book's files by their keys."""

    def fetch(key: str) -> bytes | None:
        found: Blob | None = book.blob(key)
        return None if found is None else found.data

    return fetch
