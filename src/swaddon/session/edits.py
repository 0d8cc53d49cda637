"""The edits that stations make, each a labelled step."""

from collections.abc import Callable, Sequence
from dataclasses import replace

from swaddon.core.artwork.artwork import Artwork
from swaddon.core.artwork.placement import Placement
from swaddon.core.colour.spaces import Rgb
from swaddon.core.findings import Finding
from swaddon.core.holes.settings import RegionRule, Screen
from swaddon.core.inks.settings import IccChoice
from swaddon.core.knockout.islands import Island, with_islands
from swaddon.core.knockout.settings import AlphaTreatment, Keep, Knockout, OutlineKnockout
from swaddon.core.order.settings import PlanSettings
from swaddon.core.press.profile import PressProfile
from swaddon.core.schema import changed, named
from swaddon.core.sheet.room import Room
from swaddon.io.icc import IccFile
from swaddon.session import shop
from swaddon.session.job import ArtworkFile, Job, TileFile
from swaddon.session.line_list import fitted
from swaddon.session.session import Edit

_LEAST_FIRST_MM = 20.0


def _settings(label: str, make: Callable[[PlanSettings], PlanSettings], merge_key: str | None = None) -> Edit:
    return Edit(label, lambda job: replace(job, settings=make(job.settings)), merge_key)


def change(path: str, value: object, merge_key: str | None = None, label: str | None = None) -> Edit:
    """Change one setting by its path, such as ``white.choke_mm``; the step is called as the setting declares."""
    text = named(PlanSettings, path).change if label is None else label
    return _settings(text, lambda settings: changed(settings, path, value), merge_key)


def rename(name: str) -> Edit:
    return Edit("Name the job", lambda job: replace(job, name=name))


def mend(finding: Finding) -> Edit:
    """A finding's fix, made to the settings as they are by now."""
    return _settings(finding.fix_label, finding.mend)


def first_width_mm(artwork: Artwork, room: Room) -> float:
    """Width of a first print: as the file says, else at 300 ppi; as wide as one print may be at most."""
    return round(min(max(artwork.natural_mm, _LEAST_FIRST_MM), room.width_mm), 1)


def set_stated_width() -> Edit:
    """Print it as wide as its file says."""

    def changed_job(job: Job) -> Job:
        stated = None if job.file is None else job.file.artwork.stated_mm(job.settings.placement)
        return job if stated is None else set_width(round(stated, 2)).made(job)

    return Edit("Print as wide as the file says", changed_job)


def place_artwork(file: ArtworkFile, profile: PressProfile) -> Edit:
    """New artwork; the print keeps its width, a first artwork is printed as its file says, else at 300 ppi.

    Lines whose print size is one of the shop's table are fitted to it anew. Outlines stay where it has as many pixels
    as the one before: a new state of the same picture.
    """

    def changed_job(job: Job) -> Job:
        settings = replace(job.settings, placement=Placement())
        if job.file is not None and job.file.artwork.rgba.shape != file.artwork.rgba.shape:
            settings = replace(settings, outlines=())
        if job.file is None:
            room = replace(job, profile=job.profile or profile).room
            if len(job.lines) == 1:
                settings = replace(settings, width_mm=first_width_mm(file.artwork, room))
            if not settings.handover.white_name:
                kept = shop.memory((job.profile or profile).name).white_name
                settings = replace(settings, handover=replace(settings.handover, white_name=kept))
        named = job.name if job.name != Job().name else file.artwork.file_name.rsplit(".", 1)[0]
        placed = replace(job, file=file, settings=settings, profile=job.profile or profile, name=named)
        placed, table = placed.followed(job, alone=False), shop.sizes()
        return placed.of_lines(tuple(fitted(line, file.artwork, table) for line in placed.lines), placed.at)

    return Edit(f"Place {file.artwork.file_name}", changed_job)


def set_profile(profile: PressProfile) -> Edit:
    """Take another press and what it starts with; a line-up is of one, and white is called as the shop does there."""

    def changed_job(job: Job) -> Job:
        job = job.taken_to(profile)
        settings, named = job.settings, shop.memory(profile.name).white_name
        same = job.profile is not None and job.profile.name == profile.name
        handover = settings.handover if same else replace(settings.handover, white_name=named)
        icc = settings.icc if profile.has_black else None
        return replace(job, profile=profile, settings=replace(settings, lineup=None, handover=handover, icc=icc))

    return Edit(f"Print by {profile.process}", changed_job)


def set_icc(file: IccFile | None) -> Edit:
    """Separate by a colour profile, or with ``None`` by the built-in separation."""

    def changed_job(job: Job) -> Job:
        before = job.settings.icc
        choice = None if file is None else IccChoice(file.name, file.digest)
        if choice is not None and before is not None:
            choice = replace(choice, intent=before.intent, black_point=before.black_point)
        return replace(job, icc=file, settings=replace(job.settings, icc=choice))

    return Edit("Change the separation", changed_job)


def set_cloth(cloth: str) -> Edit:
    return Edit("Change the garment's shape", lambda job: replace(job, cloth=cloth))


def set_garment(colour: Rgb) -> Edit:
    """A garment by its colour alone: none of the library."""

    def changed_job(job: Job) -> Job:
        same = job.settings.garment == colour
        goods = job.goods if same else replace(job.goods, name="", cloth="")
        return replace(job, goods=goods, settings=replace(job.settings, garment=colour))

    return Edit("Change garment colour", changed_job)


def set_width(width_mm: float) -> Edit:
    """A print width of its own."""

    def changed_job(job: Job) -> Job:
        goods = replace(job.goods, fit="own")
        return replace(job, goods=goods, settings=replace(job.settings, width_mm=width_mm))

    return Edit("Change print width", changed_job)


def set_quantity(quantity: int) -> Edit:
    return change("quantity", quantity)


def set_alpha(alpha: AlphaTreatment | None, key: str = "") -> Edit:
    return change("alpha", alpha, key or None)


def crop(box: tuple[int, int, int, int] | None) -> Edit:
    """Print a part of the artwork (all with ``None``) at the scale it has now."""

    def changed_job(job: Job) -> Job:
        return _placed(job, replace(job.settings.placement, crop=box))

    return Edit("Print all of the artwork" if box is None else "Crop the artwork", changed_job)


def turn() -> Edit:
    """A quarter turn clockwise at the scale that the print has now."""
    return Edit("Turn the artwork", lambda job: _placed(job, job.settings.placement.turned()))


def _placed(job: Job, placement: Placement) -> Job:
    if job.file is None:
        return job
    artwork, settings = job.file.artwork, job.settings
    scale = settings.width_mm / artwork.placed_px(settings.placement)[0]
    width_mm = round(artwork.placed_px(placement)[0] * scale, 2)
    return replace(job, settings=replace(settings, placement=placement, width_mm=width_mm))


def set_drop(drop_mm: float) -> Edit:
    return change("drop_mm", drop_mm, "drop_mm")


def set_screen(screen: Screen | None, merge_key: str | None = None) -> Edit:
    """Treat every region that has no rule of its own."""
    return change("holes.default", screen, merge_key)


def set_rule(rule: RegionRule, merge_key: str | None = None) -> Edit:
    """Treat some regions by a rule: it replaces the rule for just these, else is added after the others."""

    def changed_job(settings: PlanSettings) -> PlanSettings:
        rules = list(settings.holes.rules)
        for index, old in enumerate(rules):
            if (old.points, old.colour) == (rule.points, rule.colour):
                rules[index] = rule
                break
        else:
            rules.append(rule)
        return replace(settings, holes=replace(settings.holes, rules=tuple(rules)))

    return _settings("Treat regions", changed_job, merge_key)


def drop_rule(index: int) -> Edit:
    def changed_job(settings: PlanSettings) -> PlanSettings:
        rules = settings.holes.rules[:index] + settings.holes.rules[index + 1 :]
        return replace(settings, holes=replace(settings.holes, rules=rules))

    return _settings("Drop a treatment", changed_job)


def add_tile(tile: TileFile) -> Edit:
    def changed_job(job: Job) -> Job:
        others = tuple(old for old in job.tiles if old.art.name != tile.art.name)
        return replace(job, tiles=(*others, tile))

    return Edit(f"Add the tile {tile.art.name}", changed_job)


def show_page(file: ArtworkFile) -> Edit:
    return Edit(f"Take page {file.artwork.page}", lambda job: replace(job, file=file))


def add_keep(item: Keep) -> Edit:
    return _settings("Keep a colour", lambda s: replace(s, keeps=(*s.keeps, item)))


def remove_keep(index: int) -> Edit:
    return _settings("Drop a kept colour", lambda s: replace(s, keeps=s.keeps[:index] + s.keeps[index + 1 :]))


def set_white(label: str, merge_key: str | None = None, **changes: object) -> Edit:
    return _settings(
        label,
        lambda s: replace(s, white=replace(s.white, **changes)),  # type: ignore[arg-type]
        merge_key,
    )


def add_knockout(item: Knockout) -> Edit:
    return _settings("Add a knockout", lambda s: replace(s, knockouts=(*s.knockouts, item)))


def take_islands(islands: Sequence[Island]) -> Edit:
    """Enclosed areas go with the knockout of their colour."""
    what = "Take out an enclosed area" if len(islands) == 1 else "Take out enclosed areas"
    return _settings(what, lambda s: replace(s, knockouts=with_islands(s.knockouts, islands)))


def keep_islands(islands: Sequence[Island]) -> Edit:
    """Enclosed areas stay, whatever their knockout's reach."""
    what = "Keep an enclosed area" if len(islands) == 1 else "Keep enclosed areas"
    return _settings(what, lambda s: replace(s, knockouts=with_islands(s.knockouts, islands, "kept")))


def ask_islands_again() -> Edit:
    """Enclosed areas that were kept are asked about again."""

    def made(settings: PlanSettings) -> PlanSettings:
        return replace(settings, knockouts=tuple(replace(item, kept=()) for item in settings.knockouts))

    return _settings("Ask about kept areas again", made)


def change_knockout(index: int, merge_key: str | None = None, **changes: object) -> Edit:
    def changed_job(settings: PlanSettings) -> PlanSettings:
        items = list(settings.knockouts)
        items[index] = replace(items[index], **changes)  # type: ignore[arg-type]
        return replace(settings, knockouts=tuple(items))

    label = named(Knockout, next(iter(changes))).change
    return _settings(label, changed_job, merge_key)


def add_outline(item: OutlineKnockout) -> Edit:
    return _settings("Draw an outline", lambda s: replace(s, outlines=(*s.outlines, item)))


def change_outline(index: int, **changes: object) -> Edit:
    """Change one outline, as long as it is there."""

    def changed_settings(settings: PlanSettings) -> PlanSettings:
        items = list(settings.outlines)
        if index < len(items):
            items[index] = replace(items[index], **changes)  # type: ignore[arg-type]
        return replace(settings, outlines=tuple(items))

    return _settings("Change an outline", changed_settings)


def remove_outline(index: int) -> Edit:
    return _settings("Remove an outline", lambda s: replace(s, outlines=s.outlines[:index] + s.outlines[index + 1 :]))


def remove_knockout(index: int) -> Edit:
    return _settings(
        "Remove a knockout",
        lambda s: replace(s, knockouts=s.knockouts[:index] + s.knockouts[index + 1 :]),
    )
