"""The edits that stations make, each a labelled step."""

from collections.abc import Callable
from dataclasses import replace

from swaddon.core.colour import Rgb
from swaddon.core.plan.settings import Knockout, PlanSettings
from swaddon.core.profile import PressProfile
from swaddon.session.job import ArtworkFile, Job
from swaddon.session.session import Edit


def _settings(label: str, change: Callable[[PlanSettings], PlanSettings], merge_key: str | None = None) -> Edit:
    return Edit(label, lambda job: replace(job, settings=change(job.settings)), merge_key)


def rename(name: str) -> Edit:
    return Edit("Name the job", lambda job: replace(job, name=name), "name")


def set_settings(label: str, settings: PlanSettings) -> Edit:
    """A finding's fix: whole settings at once."""
    return _settings(label, lambda _: settings)


def place_artwork(file: ArtworkFile, profile: PressProfile) -> Edit:
    """New artwork; the print keeps its width, a first artwork is printed at 300 ppi or as wide as the device."""

    def change(job: Job) -> Job:
        settings = job.settings
        if job.file is None:
            natural = file.artwork.width_px / 300 * 25.4
            settings = replace(settings, width_mm=round(min(max(natural, 20.0), profile.largest_print_mm[0]), 1))
        named = job.name if job.name != Job().name else file.artwork.file_name.rsplit(".", 1)[0]
        return replace(job, file=file, settings=settings, profile=job.profile or profile, name=named)

    return Edit(f"Place {file.artwork.file_name}", change)


def set_profile(profile: PressProfile) -> Edit:
    return Edit(f"Print by {profile.process}", lambda job: replace(job, profile=profile))


def set_cloth(cloth: str) -> Edit:
    return Edit("Change the garment's shape", lambda job: replace(job, cloth=cloth))


def set_garment(colour: Rgb) -> Edit:
    return _settings("Change garment colour", lambda s: replace(s, garment=colour))


def set_width(width_mm: float) -> Edit:
    return _settings("Change print width", lambda s: replace(s, width_mm=width_mm), "width")


def set_quantity(quantity: int) -> Edit:
    return _settings("Change quantity", lambda s: replace(s, quantity=quantity), "quantity")


def set_half_transparent(level: float | None) -> Edit:
    label = "Keep half-transparent pixels" if level is None else f"Cut half-transparent pixels at {level:.0%}"
    return _settings(label, lambda s: replace(s, half_transparent=level), "half-transparent")


def set_mirrored(mirrored: bool | None) -> Edit:
    return _settings("Change mirroring", lambda s: replace(s, mirrored=mirrored))


def set_white(label: str, merge_key: str | None = None, **changes: object) -> Edit:
    return _settings(
        label,
        lambda s: replace(s, white=replace(s.white, **changes)),  # type: ignore[arg-type]
        merge_key,
    )


def add_knockout(item: Knockout) -> Edit:
    return _settings("Add a knockout", lambda s: replace(s, knockouts=(*s.knockouts, item)))


def change_knockout(index: int, merge_key: str | None = None, **changes: object) -> Edit:
    def change(settings: PlanSettings) -> PlanSettings:
        items = list(settings.knockouts)
        items[index] = replace(items[index], **changes)  # type: ignore[arg-type]
        return replace(settings, knockouts=tuple(items))

    return _settings("Change a knockout", change, merge_key)


def remove_knockout(index: int) -> Edit:
    return _settings(
        "Remove a knockout",
        lambda s: replace(s, knockouts=s.knockouts[:index] + s.knockouts[index + 1 :]),
    )
