"""Jobs to and from files."""

from dataclasses import replace
from pathlib import Path

from swaddon.core.order.lines import OrderLine
from swaddon.core.order.settings import PlanSettings
from swaddon.core.press.lineup import fits
from swaddon.core.press.processes import USUAL
from swaddon.core.press.profile import PressProfile
from swaddon.io import outputs, profiles
from swaddon.io.icc import IccFile, checked
from swaddon.io.images import decode_artwork, read_artwork
from swaddon.io.jobfile import SUFFIX, StoredJob, read_job, write_job
from swaddon.io.names import shown
from swaddon.io.tiles import decode_tile, read_tile
from swaddon.session import edits, shop
from swaddon.session.job import ArtworkFile, Job, TileFile
from swaddon.session.session import Stamp


def open_job(path: Path) -> Job:
    """A job from its file, artwork decoded; raises ``PlanError`` with one sentence."""
    return job_of(read_job(path), shown(path))


def job_of(stored: StoredJob, name: str) -> Job:
    """A job from what a file holds; raises ``PlanError`` with one sentence."""
    file = None
    if stored.artwork_name is not None and stored.artwork_data is not None:
        artwork = decode_artwork(stored.artwork_data, stored.artwork_name, stored.page)
        file = ArtworkFile(artwork, stored.artwork_data)
    profile, notices = _press(stored)
    lineup, icc = stored.line.settings.lineup, None
    if lineup is not None and not fits(lineup, profile):
        notices.append(f"The line-up “{lineup.name}” of “{name}” is none of {profile.name}: not used.")
    choice = stored.line.settings.icc
    if choice is not None and stored.icc is not None:
        icc = checked(IccFile(choice.name, stored.icc))

    line, above, below = (
        tuple(_usable(item, profile, icc) for item in items) for items in ((stored.line,), stored.above, stored.below)
    )
    tiles = tuple(TileFile(decode_tile(data, name), data) for name, data in stored.tiles)
    if stored.unknown is not None:
        notices.append(
            f"“{name}” was saved by a newer Swaddon; what is not known here ({stored.unknown.names}) is kept as "
            "it is and counts for nothing."
        )
    return Job(
        stored.name,
        file,
        profile=profile,
        customer=stored.customer,
        tiles=tiles,
        icc=icc,
        quote=stored.quote,
        sheet=stored.sheet,
        unknown=stored.unknown,
        notices=tuple(notices),
    ).of_lines((*above, *line, *below), len(above))


def _usable(line: OrderLine, profile: PressProfile, icc: IccFile | None) -> OrderLine:
    """A line without a line-up that is none of the press, and with the profile that lies in the file."""
    settings = line.settings
    if settings.lineup is not None and not fits(settings.lineup, profile):
        settings = replace(settings, lineup=None)
    if settings.icc is not None and icc is not None:
        settings = replace(settings, icc=replace(settings.icc, digest=icc.digest))
    return replace(line, settings=settings)


def _press(stored: StoredJob) -> tuple[PressProfile, list[str]]:
    """The press profile that a job was planned with, and what is to be told of it."""
    if not stored.press:
        return shop.named(stored.profile), []
    profile = profiles.parse(stored.press, stored.profile)
    if stored.profile in profiles.shipped_names() and shop.press(stored.profile) != profile:
        return profile, [
            f"The press profile “{profile.title}” is another by now; this job keeps the one that it was planned with. "
            "Choose the process again to take the new one."
        ]
    return profile, []


def stamp_of(path: Path) -> Stamp | None:
    """What tells this state of a file from later ones; ``None`` when there is none."""
    try:
        found = path.stat()
    except OSError:
        return None
    return found.st_mtime_ns, found.st_size


def save_job(path: Path, job: Job) -> None:
    """Write a job to its file; raises ``PlanError`` with one sentence."""
    write_job(path, stored_of(job))


def stored_of(job: Job) -> StoredJob:
    """What a file holds of a job."""
    return StoredJob(
        name=job.name,
        customer=job.customer,
        profile=USUAL if job.profile is None else job.profile.name,
        artwork_name=None if job.file is None else job.file.artwork.file_name,
        artwork_data=None if job.file is None else job.file.data,
        line=job.line,
        above=job.above,
        below=job.below,
        page=1 if job.file is None else job.file.artwork.page,
        tiles=tuple((tile.art.name, tile.data) for tile in job.tiles),
        icc=None if job.icc is None or job.settings.icc is None else job.icc.data,
        press="" if job.profile is None else job.profile.source,
        quote=job.quote,
        sheet=job.sheet,
        unknown=job.unknown,
    )


def load_artwork(path: Path, page: int = 1) -> ArtworkFile:
    """Artwork from a file; raises ``PlanError`` with one sentence."""
    artwork = read_artwork(path, page)
    outputs.protect(path, "artwork that is in use")
    return ArtworkFile(artwork, path.read_bytes())


def other_page(file: ArtworkFile, page: int) -> ArtworkFile:
    """The same file at another page; raises ``PlanError`` with one sentence."""
    return ArtworkFile(decode_artwork(file.data, file.artwork.file_name, page), file.data)


def load_tile(path: Path) -> TileFile:
    """A pattern tile from a file; raises ``PlanError`` with one sentence."""
    return TileFile(*read_tile(path))


def opened_like(path: Path, like: Job) -> tuple[Job, Path | None]:
    """A job from its file, or new artwork ordered like another job; raises ``PlanError``."""
    if path.suffix.lower() == SUFFIX:
        return open_job(path), path
    profile = like.profile or shop.press(USUAL)
    blank = Job(
        settings=PlanSettings(
            garment=like.settings.garment, quantity=like.settings.quantity, white=like.settings.white
        ),
        profile=profile,
        cloth=like.cloth,
        customer=like.customer,
    )
    return edits.place_artwork(load_artwork(path), profile).change(blank), None
