"""The job file: one ZIP container with ``job.json`` (versioned) and the artwork as it was read.

Layout: ``mimetype`` (stored first, so that file tools know it), ``job.json``, ``artwork/<file name>``,
``tiles/<n>.png``.
"""

import io
import json
import time
import zipfile
from dataclasses import dataclass
from pathlib import Path, PurePosixPath
from typing import Annotated, Literal

from pydantic import Field, ValidationError

from swaddon.core.errors import PlanError
from swaddon.core.order.settings import PlanSettings
from swaddon.core.schema import document as document_of
from swaddon.io.archives import UNREADABLE, TooLarge, entry, json_entry
from swaddon.io.names import shown
from swaddon.io.profiles import reason
from swaddon.io.settings_file import Strict, model_of, second_version, value_of
from swaddon.io.whole import whole_file

SUFFIX = ".swaddon"
MEDIA_TYPE = "application/x-swaddon-job+zip"
SCHEMA = "swaddon-job/2"
OLDER = "swaddon-job/1"
_FIRST_YEAR = 1980
_LARGEST_JOB = 2_000_000_000
_LARGEST_JSON = 10_000_000
_LARGEST_TILE = 20_000_000


class _TileEntry(Strict):
    name: Annotated[str, Field(min_length=1, max_length=200)]
    file: str


class _JobFile(Strict):
    schema_: Literal["swaddon-job/2"] = Field(alias="schema")
    name: str
    customer: str = ""
    cloth: str = "shirt"
    profile: str
    artwork: str | None
    page: Annotated[int, Field(ge=1, le=100_000)] = 1
    tiles: list[_TileEntry] = Field(default_factory=list)
    settings: model_of(PlanSettings)  # type: ignore[valid-type]


@dataclass(frozen=True)
class StoredJob:
    """A job as a file holds it: values and the artwork's bytes, nothing decoded."""

    name: str
    customer: str
    cloth: str
    profile: str
    artwork_name: str | None
    artwork_data: bytes | None
    settings: PlanSettings
    page: int = 1
    tiles: tuple[tuple[str, bytes], ...] = ()


def write_job(path: Path, job: StoredJob) -> None:
    """Write the job beside its target first, then put it in place, so that an old file survives a full disk.

    Raises
    ------
    PlanError
        When the file cannot be written.
    """
    document = {
        "schema": SCHEMA,
        "name": job.name,
        "customer": job.customer,
        "cloth": job.cloth,
        "profile": job.profile,
        "artwork": job.artwork_name,
        "page": job.page,
        "tiles": [{"name": name, "file": f"{index}.png"} for index, (name, _) in enumerate(job.tiles)],
        "settings": document_of(job.settings),
    }
    try:
        with whole_file(path) as file, zipfile.ZipFile(file, "w") as archive:
            archive.writestr(_entry("mimetype"), MEDIA_TYPE)
            text = json.dumps(document, indent=2, ensure_ascii=False)
            archive.writestr(_entry("job.json"), text, zipfile.ZIP_DEFLATED)
            if job.artwork_name is not None and job.artwork_data is not None:
                archive.writestr(_entry(f"artwork/{job.artwork_name}"), job.artwork_data)
            for index, (_, data) in enumerate(job.tiles):
                archive.writestr(_entry(f"tiles/{index}.png"), data)
    except OSError as error:
        raise PlanError(
            f"The job could not be saved as “{shown(path)}” ({reason(error)}): choose another place."
        ) from error


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
    try:
        if path.stat().st_size > _LARGEST_JOB:
            raise PlanError(f"The job “{shown(path)}” is larger than 2 GB and was not opened.")
        data = path.read_bytes()
    except OSError as error:
        raise PlanError(f"The job “{shown(path)}” cannot be opened ({reason(error)}).") from error
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as archive:
            return _stored(archive, shown(path))
    except TooLarge as error:
        raise PlanError(
            f"“{shown(path)}” holds far more than a job does ({error}) and was not opened: open a saved copy."
        ) from error
    except UNREADABLE as error:
        raise PlanError(
            f"“{shown(path)}” is not a Swaddon job or is damaged: open another file or a saved copy."
        ) from error


def _stored(archive: zipfile.ZipFile, file_name: str) -> StoredJob:
    raw = json_entry(archive, "job.json", _LARGEST_JSON)
    schema = raw.get("schema") if isinstance(raw, dict) else None
    if schema == OLDER and isinstance(raw.get("settings"), dict):
        raw = raw | {"schema": SCHEMA, "settings": second_version(raw["settings"])}
    elif isinstance(schema, str) and schema.startswith("swaddon-job/") and schema != SCHEMA:
        raise PlanError(f"“{file_name}” was saved by a newer Swaddon ({schema}): update Swaddon to open it.")
    try:
        document = _JobFile.model_validate(raw)
    except ValidationError as error:
        first = error.errors()[0]
        place = ".".join(str(part) for part in first["loc"]) or "its start"
        raise PlanError(f"The job “{file_name}” has a wrong value at {place}: {first['msg']}.") from error
    artwork_name, artwork_data = document.artwork, None
    if artwork_name is not None:
        artwork_name = PurePosixPath(artwork_name).name
        artwork_data = entry(archive, f"artwork/{artwork_name}", _LARGEST_JOB)
    return StoredJob(
        name=document.name,
        customer=document.customer,
        cloth=document.cloth,
        profile=document.profile,
        artwork_name=artwork_name,
        artwork_data=artwork_data,
        settings=value_of(PlanSettings, document.settings),
        page=document.page,
        tiles=tuple(
            (tile.name, entry(archive, f"tiles/{PurePosixPath(tile.file).name}", _LARGEST_TILE))
            for tile in document.tiles
        ),
    )
