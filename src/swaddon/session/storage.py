"""Jobs to and from files."""

from pathlib import Path

from swaddon.core.plan.settings import PlanSettings, WhiteSettings
from swaddon.core.profile import PressProfile
from swaddon.io import profiles
from swaddon.io.images import decode_artwork, read_artwork
from swaddon.io.jobfile import StoredJob, read_job, write_job
from swaddon.session.job import ArtworkFile, Job


def open_job(path: Path) -> Job:
    """A job from its file, artwork decoded; raises ``PlanError`` with one sentence."""
    stored = read_job(path)
    file = None
    if stored.artwork_name is not None and stored.artwork_data is not None:
        file = ArtworkFile(decode_artwork(stored.artwork_data, stored.artwork_name), stored.artwork_data)
    profile = profiles.load(stored.profile)
    return Job(stored.name, file, stored.settings, profile, stored.cloth, stored.customer)


def save_job(path: Path, job: Job) -> None:
    """Write a job to its file; raises ``PlanError`` with one sentence."""
    assert job.profile is not None
    write_job(
        path,
        StoredJob(
            name=job.name,
            customer=job.customer,
            cloth=job.cloth,
            profile=job.profile.name,
            artwork_name=None if job.file is None else job.file.artwork.file_name,
            artwork_data=None if job.file is None else job.file.data,
            settings=job.settings,
        ),
    )


def load_artwork(path: Path) -> ArtworkFile:
    """Artwork from a file; raises ``PlanError`` with one sentence."""
    artwork = read_artwork(path)
    return ArtworkFile(artwork, path.read_bytes())


def first_settings(profile: PressProfile) -> PlanSettings:
    """Settings that a new job starts with."""
    return PlanSettings(white=WhiteSettings(choke_mm=profile.white.default_choke_mm))
