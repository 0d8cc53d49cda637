"""The job file: one ZIP container with ``job.json`` (versioned) and the artwork as it was read.

Layout: ``mimetype`` (stored first, so that file tools know it), ``job.json``, ``artwork/<file name>``,
``tiles/<n>.png``, and ``profiles/output.icc`` where an ICC profile separates.
"""

import copy
import io
import json
import time
import zipfile
from dataclasses import dataclass, field
from pathlib import Path, PurePosixPath
from typing import Annotated, Any, BinaryIO, Literal

from pydantic import Field, ValidationError

from swaddon.core.errors import PlanError
from swaddon.core.flow.quote import QuoteTerms
from swaddon.core.order.lines import MOST_LINES, Goods, OrderLine, is_setting
from swaddon.core.order.settings import PlanSettings
from swaddon.core.schema import document as document_of
from swaddon.core.sheet.settings import SheetSettings
from swaddon.io.archives import UNREADABLE, TooLarge, entry, json_entry
from swaddon.io.migrations import MIGRATIONS as _MIGRATIONS
from swaddon.io.migrations import migrated
from swaddon.io.names import clean, refuse_odd, shown
from swaddon.io.outputs import output_file
from swaddon.io.profiles import reason
from swaddon.io.settings_file import Strict, model_of, value_of

SUFFIX = ".swaddon"
MEDIA_TYPE = "application/x-swaddon-job+zip"
SCHEMA = "swaddon-job/4"
_KIND = "swaddon-job/"
_FIRST_YEAR = 1980
_LARGEST_JOB = 2_000_000_000
_LARGEST_JSON = 10_000_000
_LARGEST_TILE = 20_000_000
_LARGEST_ICC = 50_000_000
_ICC_ENTRY = "profiles/output.icc"
_LARGEST_PRESS = 1_000_000
_MOST_UNKNOWN = 1000
_MOST_NAMED, _LONGEST_NAME = 4, 60


class _TileEntry(Strict):
    name: Annotated[str, Field(min_length=1, max_length=200)]
    file: str


_Own = Annotated[list[str], Field(max_length=200)]


class _LineEntry(Strict):
    cloth: str = "shirt"
    goods: model_of(Goods)  # type: ignore[valid-type]
    own: _Own = Field(default_factory=list)
    settings: model_of(PlanSettings)  # type: ignore[valid-type]


_Lines = Annotated[list[_LineEntry], Field(max_length=MOST_LINES)]


class _JobFile(Strict):
    schema_: Literal["swaddon-job/4"] = Field(alias="schema")
    name: str
    customer: str = ""
    cloth: str = "shirt"
    profile: str
    press: Annotated[str, Field(max_length=_LARGEST_PRESS)] = ""
    artwork: str | None
    page: Annotated[int, Field(ge=1, le=100_000)] = 1
    tiles: list[_TileEntry] = Field(default_factory=list)
    settings: model_of(PlanSettings)  # type: ignore[valid-type]
    goods: model_of(Goods) = Field(default_factory=model_of(Goods))  # type: ignore[valid-type]
    own: _Own = Field(default_factory=list)
    above: _Lines = Field(default_factory=list)
    below: _Lines = Field(default_factory=list)
    quote: model_of(QuoteTerms) | None = None  # type: ignore[valid-type]
    sheet: model_of(SheetSettings) = Field(default_factory=model_of(SheetSettings))  # type: ignore[valid-type]


@dataclass(frozen=True)
class Unknown:
    """What a newer Swaddon wrote and this one does not know: its schema, and each field's place and JSON text."""

    schema: str
    fields: tuple[tuple[tuple[str | int, ...], str], ...]

    @property
    def names(self) -> str:
        """The places in words, the first few of them."""
        text = [clean(".".join(map(str, place)))[:_LONGEST_NAME] for place, _ in self.fields[:_MOST_NAMED]]
        more = len(self.fields) - len(text)
        return ", ".join(" ".join(name.split()) for name in text) + (f" and {more} more" if more else "")


@dataclass(frozen=True)
class StoredJob:
    """A job as a file holds it: values and the artwork's bytes, nothing decoded.

    ``line`` is the line at hand, ``above`` and ``below`` are the others of the order.
    ``press`` is the TOML text of the press profile that it was planned with; empty in older files.
    """

    name: str
    customer: str
    profile: str
    artwork_name: str | None
    artwork_data: bytes | None
    line: OrderLine
    above: tuple[OrderLine, ...] = ()
    below: tuple[OrderLine, ...] = ()
    page: int = 1
    tiles: tuple[tuple[str, bytes], ...] = ()
    icc: bytes | None = None
    press: str = ""
    quote: QuoteTerms | None = None
    sheet: SheetSettings = field(default_factory=SheetSettings)
    unknown: Unknown | None = None


def write_job(path: Path, job: StoredJob) -> None:
    """Write the job beside its target first, then put it in place, so that an old file survives a full disk.

    Raises
    ------
    PlanError
        When the file cannot be written.
    """
    try:
        with output_file(path, owned=True) as file:
            pack_job(file, job)
    except OSError as error:
        raise PlanError(
            f"The job could not be saved as “{shown(path)}” ({reason(error)}): choose another place."
        ) from error


def pack_job(file: BinaryIO, job: StoredJob) -> None:
    """Write the job's container into an open file; raises ``OSError`` where that fails."""
    document = {
        "schema": SCHEMA if job.unknown is None else job.unknown.schema,
        "name": job.name,
        "customer": job.customer,
        "cloth": job.line.shape,
        "profile": job.profile,
        "press": job.press,
        "artwork": job.artwork_name,
        "page": job.page,
        "tiles": [{"name": name, "file": f"{index}.png"} for index, (name, _) in enumerate(job.tiles)],
        "settings": document_of(job.line.settings),
        "goods": document_of(job.line.goods),
        "own": list(job.line.own),
        "above": [_line_entry(line) for line in job.above],
        "below": [_line_entry(line) for line in job.below],
        "quote": None if job.quote is None else document_of(job.quote),
        "sheet": document_of(job.sheet),
    }
    for place, text in () if job.unknown is None else job.unknown.fields:
        _put(document, place, json.loads(text))
    with zipfile.ZipFile(file, "w") as archive:
        archive.writestr(_entry("mimetype"), MEDIA_TYPE)
        text = json.dumps(document, indent=2, ensure_ascii=False)
        archive.writestr(_entry("job.json"), text, zipfile.ZIP_DEFLATED)
        if job.artwork_name is not None and job.artwork_data is not None:
            archive.writestr(_entry(f"artwork/{job.artwork_name}"), job.artwork_data)
        if job.icc is not None:
            archive.writestr(_entry(_ICC_ENTRY), job.icc)
        for index, (_, data) in enumerate(job.tiles):
            archive.writestr(_entry(f"tiles/{index}.png"), data)


def _line_entry(line: OrderLine) -> dict[str, Any]:
    return {
        "cloth": line.shape,
        "goods": document_of(line.goods),
        "own": list(line.own),
        "settings": document_of(line.settings),
    }


def _line(entry: Any) -> OrderLine:
    settings, goods = value_of(PlanSettings, entry.settings), value_of(Goods, entry.goods)
    return OrderLine(settings, entry.cloth, goods, tuple(filter(is_setting, entry.own)))


def _entry(name: str) -> zipfile.ZipInfo:
    """An entry with the time of day; a clock before 1980 has none that a ZIP can tell."""
    when = time.localtime()[:6]
    return zipfile.ZipInfo(name, when if when[0] >= _FIRST_YEAR else (_FIRST_YEAR, 1, 1, 0, 0, 0))


def read_job(path: Path) -> StoredJob:
    """A job from its container.

    Raises
    ------
    PlanError
        One sentence: what is wrong with which file.
    """
    refuse_odd(path)
    try:
        if path.stat().st_size > _LARGEST_JOB:
            raise PlanError(f"The job “{shown(path)}” is larger than 2 GB and was not opened.")
        data = path.read_bytes()
    except OSError as error:
        raise PlanError(f"The job “{shown(path)}” cannot be opened ({reason(error)}).") from error
    return unpack_job(data, shown(path))


def unpack_job(data: bytes, name: str) -> StoredJob:
    """A job from the bytes of its container; raises ``PlanError`` with one sentence that names it."""
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as archive:
            return _stored(archive, name)
    except TooLarge as error:
        raise PlanError(
            f"“{name}” holds far more than a job does ({error}) and was not opened: open a saved copy."
        ) from error
    except UNREADABLE as error:
        raise PlanError(f"“{name}” is not a Swaddon job or is damaged: open another file or a saved copy.") from error


def _stored(archive: zipfile.ZipFile, file_name: str) -> StoredJob:
    raw = json_entry(archive, "job.json", _LARGEST_JSON)
    unknown = None
    try:
        raw = migrated(raw)
        if _is_newer(raw):
            raw, unknown = _known_part(raw)
        document = _JobFile.model_validate(raw)
    except ValidationError as error:
        first = error.errors()[0]
        place = ".".join(str(part) for part in first["loc"]) or "its start"
        newer = f" It was saved by a newer Swaddon ({raw['schema']}): update to open it." if _is_newer(raw) else ""
        raise PlanError(f"The job “{file_name}” has a wrong value at {place}: {first['msg']}.{newer}") from error
    artwork_name, artwork_data = document.artwork, None
    if artwork_name is not None:
        artwork_name = PurePosixPath(artwork_name).name
        artwork_data = entry(archive, f"artwork/{artwork_name}", _LARGEST_JOB)
    return StoredJob(
        name=document.name,
        customer=document.customer,
        profile=document.profile,
        artwork_name=artwork_name,
        artwork_data=artwork_data,
        line=_line(document),
        above=tuple(_line(item) for item in document.above),
        below=tuple(_line(item) for item in document.below),
        page=document.page,
        tiles=tuple(
            (tile.name, entry(archive, f"tiles/{PurePosixPath(tile.file).name}", _LARGEST_TILE))
            for tile in document.tiles
        ),
        icc=None if document.settings.icc is None else entry(archive, _ICC_ENTRY, _LARGEST_ICC),
        press=document.press,
        quote=None if document.quote is None else value_of(QuoteTerms, document.quote),
        sheet=value_of(SheetSettings, document.sheet),
        unknown=unknown,
    )


def _is_newer(raw: Any) -> bool:
    schema = raw.get("schema") if isinstance(raw, dict) else None
    return isinstance(schema, str) and schema.startswith(_KIND) and schema != SCHEMA and schema not in _MIGRATIONS


def _known_part(raw: dict[str, Any]) -> tuple[dict[str, Any], Unknown]:
    """A newer document without the fields that are not known here, and these; raises what else is wrong with it."""
    known, found = copy.deepcopy(raw) | {"schema": SCHEMA}, []
    for _ in range(_MOST_UNKNOWN):
        try:
            _JobFile.model_validate(known)
        except ValidationError as error:
            extra = [item["loc"] for item in error.errors() if item["type"] == "extra_forbidden"]
            if not extra:
                raise
            for place in extra:
                found.append((place, json.dumps(_take(known, place))))
        else:
            break
    return known, Unknown(raw["schema"], tuple(found))


def _take(document: Any, place: tuple[str | int, ...]) -> Any:
    for part in place[:-1]:
        document = document[part]
    return document.pop(place[-1])


def _put(document: Any, place: tuple[str | int, ...], value: Any) -> None:
    """Put a field back where it was, as long as what it belonged to is still there."""
    for part in place[:-1]:
        try:
            document = document[part]
        except (KeyError, IndexError, TypeError):
            return
    if isinstance(document, dict):
        document.setdefault(str(place[-1]), value)
