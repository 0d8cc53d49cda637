"""The job file: one ZIP container with ``job.json`` (versioned) and the artwork as it was read.

Layout of version 1: ``mimetype`` (stored first, so that file tools know it), ``job.json``, ``artwork/<file name>``.
"""

import io
import json
import os
import tempfile
import zipfile
from dataclasses import dataclass
from pathlib import Path, PurePosixPath
from typing import Annotated, Literal

from pydantic import BaseModel, ConfigDict, Field, ValidationError

from swaddon.core.colour import hex_from_rgb, rgb_from_hex
from swaddon.core.plan.engine import PlanError
from swaddon.core.plan.settings import Knockout, PlanSettings, WhiteSettings
from swaddon.io.profiles import reason

SUFFIX = ".swaddon"
MEDIA_TYPE = "application/x-swaddon-job+zip"
SCHEMA = "swaddon-job/1"
_LARGEST_ARTWORK = 2_000_000_000
_LARGEST_JSON = 10_000_000

Colour = Annotated[str, Field(pattern="^#[0-9a-fA-F]{6}$")]


class _Model(BaseModel):
    model_config = ConfigDict(extra="forbid")


class _Knockout(_Model):
    colour: Colour | None
    tolerance: Annotated[float, Field(ge=0, le=100)]
    reach: Literal["outside", "everywhere"]
    edge: Literal["soft", "hard"]


class _White(_Model):
    mode: Literal["none", "solid", "limit"]
    limit: Annotated[float, Field(ge=0, le=400)]
    design: bool
    choke_mm: Annotated[float, Field(ge=0, le=2)]


class _Settings(_Model):
    width_mm: Annotated[float, Field(gt=0, le=5000)]
    garment: Colour
    knockouts: list[_Knockout]
    half_transparent: Annotated[float, Field(ge=0, le=1)] | None
    white: _White
    mirrored: bool | None
    quantity: Annotated[int, Field(ge=1, le=1_000_000)]


class _JobFile(_Model):
    schema_: Literal["swaddon-job/1"] = Field(alias="schema")
    name: str
    customer: str = ""
    cloth: str = "shirt"
    profile: str
    artwork: str | None
    settings: _Settings


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


def settings_document(settings: PlanSettings) -> dict[str, object]:
    """Settings as JSON-ready values."""
    return {
        "width_mm": settings.width_mm,
        "garment": hex_from_rgb(settings.garment),
        "knockouts": [
            {
                "colour": None if item.colour is None else hex_from_rgb(item.colour),
                "tolerance": item.tolerance,
                "reach": item.reach,
                "edge": item.edge,
            }
            for item in settings.knockouts
        ],
        "half_transparent": settings.half_transparent,
        "white": {
            "mode": settings.white.mode,
            "limit": settings.white.limit,
            "design": settings.white.design,
            "choke_mm": settings.white.choke_mm,
        },
        "mirrored": settings.mirrored,
        "quantity": settings.quantity,
    }


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
        "settings": settings_document(job.settings),
    }
    temporary: str | None = None
    try:
        with tempfile.NamedTemporaryFile(dir=path.parent, prefix=".swaddon-", delete=False) as file:
            temporary = file.name
            with zipfile.ZipFile(file, "w") as archive:
                archive.writestr("mimetype", MEDIA_TYPE, zipfile.ZIP_STORED)
                text = json.dumps(document, indent=2, ensure_ascii=False)
                archive.writestr("job.json", text, zipfile.ZIP_DEFLATED)
                if job.artwork_name is not None and job.artwork_data is not None:
                    archive.writestr(f"artwork/{job.artwork_name}", job.artwork_data, zipfile.ZIP_STORED)
        os.replace(temporary, path)
    except OSError as error:
        if temporary is not None:
            Path(temporary).unlink(missing_ok=True)
        raise PlanError(
            f"The job could not be saved as “{path.name}” ({reason(error)}): choose another place."
        ) from error


def read_job(path: Path) -> StoredJob:
    """A job from its container.

    Raises
    ------
    PlanError
        One sentence: what is wrong with which file.
    """
    try:
        data = path.read_bytes()
    except OSError as error:
        raise PlanError(f"The job “{path.name}” cannot be opened ({reason(error)}).") from error
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as archive:
            return _stored(archive, path.name)
    except (zipfile.BadZipFile, KeyError, UnicodeDecodeError, json.JSONDecodeError, EOFError) as error:
        raise PlanError(
            f"“{path.name}” is not a Swaddon job or is damaged: open another file or a saved copy."
        ) from error


def _stored(archive: zipfile.ZipFile, file_name: str) -> StoredJob:
    if archive.getinfo("job.json").file_size > _LARGEST_JSON:
        raise PlanError(f"“{file_name}” is not a Swaddon job: its description is too large.")
    text = archive.read("job.json").decode("utf-8")
    raw = json.loads(text)
    schema = raw.get("schema") if isinstance(raw, dict) else None
    if isinstance(schema, str) and schema.startswith("swaddon-job/") and schema != SCHEMA:
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
        entry = archive.getinfo(f"artwork/{artwork_name}")
        if entry.file_size > _LARGEST_ARTWORK:
            raise PlanError(f"The artwork in “{file_name}” is larger than 2 GB and was not opened.")
        artwork_data = archive.read(entry)
    return StoredJob(
        name=document.name,
        customer=document.customer,
        cloth=document.cloth,
        profile=document.profile,
        artwork_name=artwork_name,
        artwork_data=artwork_data,
        settings=_settings(document.settings),
    )


def _settings(part: _Settings) -> PlanSettings:
    return PlanSettings(
        width_mm=part.width_mm,
        garment=rgb_from_hex(part.garment),
        knockouts=tuple(
            Knockout(
                None if item.colour is None else rgb_from_hex(item.colour),
                item.tolerance,
                item.reach,
                item.edge,
            )
            for item in part.knockouts
        ),
        half_transparent=part.half_transparent,
        white=WhiteSettings(part.white.mode, part.white.limit, part.white.design, part.white.choke_mm),
        mirrored=part.mirrored,
        quantity=part.quantity,
    )
