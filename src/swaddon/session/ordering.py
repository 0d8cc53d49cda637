"""An order as it is typed: texts read into a plan request."""

from collections.abc import Callable, Mapping
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, field, replace
from pathlib import Path
from typing import TYPE_CHECKING, Any

from swaddon.core import schema
from swaddon.core.artwork.artwork import Artwork
from swaddon.core.artwork.placement import content_box
from swaddon.core.colour.spaces import hex_from_rgb
from swaddon.core.holes.screen import TileArt
from swaddon.core.holes.settings import HoleSettings
from swaddon.core.inks.settings import IccChoice
from swaddon.core.order.handover import check_white_name
from swaddon.core.order.lines import Goods
from swaddon.core.order.request import PlanRequest
from swaddon.core.order.settings import PlanSettings
from swaddon.core.press.lineup import check as check_lineup
from swaddon.core.press.processes import PROCESSES, USUAL
from swaddon.core.press.profile import PressProfile
from swaddon.core.schema import allowed
from swaddon.core.sheet.room import room_for
from swaddon.core.white.settings import WhiteSettings
from swaddon.io.icc import IccFile, read_icc
from swaddon.io.images import KINDS, read_artwork
from swaddon.io.tiles import shipped_tiles
from swaddon.session import parse, shop
from swaddon.session.job import ArtworkFile, Job, first_settings
from swaddon.session.shop import read_lineup

if TYPE_CHECKING:
    from swaddon.session.line_list import WantedLine

LEAST_HARM, NO_PEEK = CHOKES = ("auto", "no-peek")
"""Words that stand for a recommended choke."""

_ANY_PPI = 300.0
_SUCH_CHOKE = "0.25mm, 3px, 3px@300, auto or no-peek"


@dataclass(frozen=True)
class Order:
    """Texts and numbers as given; ``None`` leaves what the job or the profile says."""

    artwork: Path | None = None
    page: int = 1
    process: str | None = None
    profile: str | None = None
    garment: str | None = None
    width: str | None = None
    height: str | None = None
    crop: str | None = None
    turn: int | None = None
    knockout: list[str] | None = None
    keep: list[str] | None = None
    alpha: str | None = None
    holes: str | None = None
    region_file: Path | None = None
    give_back: float | None = None
    white: str | None = None
    choke: str | None = None
    registration: str | None = None
    hits: str | None = None
    white_at: list[str] | None = None
    design_at: list[str] | None = None
    icc: Path | None = None
    outline: Path | None = None
    recipe: list[str] | None = None
    lineup: Path | None = None
    job: Path | None = None
    preset: str | None = None
    line: list[str] | None = None
    lines: Path | None = None
    settings: Mapping[str, object] = field(default_factory=dict)
    """What settings take of themselves, by their paths: texts, and switches as bool."""


def request(
    order: Order, meanwhile: Callable[[], None], tell: Callable[[str], object] = lambda _text: None
) -> PlanRequest:
    """The plan that an order asks for, of its line at hand; see :func:`ordered`."""
    made = ordered(order, meanwhile, tell).request()
    assert made is not None
    return made


def ordered(order: Order, meanwhile: Callable[[], None], tell: Callable[[str], object] = lambda _text: None) -> Job:
    """The job that an order asks for; ``meanwhile`` runs while the artwork is read, ``tell`` gets a job's notices.

    Raises
    ------
    ValueError, PlanError
        One sentence on what is wrong.
    """
    changes, wanted = _changes(order), _wanted(order)
    _check(order)
    with ThreadPoolExecutor(1) as reader:
        reading = None if order.artwork is None else reader.submit(read_artwork, order.artwork, order.page)
        stored = None if order.job is None else _stored(order.job)
        for notice in () if stored is None else stored.notices:
            tell(notice)
        press = _press(order, stored)
        declared = _declared(order, press.plan_ppi)
        stored = None if stored is None else stored.taken_to(press)
        meanwhile()
        artwork = _artwork(None if reading is None else reading.result(), stored)
    settings = _chosen(order, changes, declared, stored, press)
    room = room_for(press, shop.medium_for("", press))
    settings = _placed(order, artwork, settings, stored is None, room.width_mm)
    if order.region_file is not None:
        from swaddon.session import region_file

        rules = region_file.read_rules(order.region_file, artwork, settings)
        settings = replace(settings, holes=replace(settings.holes, rules=(*settings.holes.rules, *rules)))
    _check_tiles(settings.holes, shipped_tiles() if stored is None else stored.all_tiles())
    base = Job() if stored is None else stored
    data = b"" if stored is None or stored.file is None or order.artwork is not None else stored.file.data
    job = replace(base, file=ArtworkFile(artwork, data), settings=settings, profile=press, icc=_icc(order, stored))
    if stored is not None:
        job = job.followed(stored, alone=False)
    if wanted:
        from swaddon.session import order_edits

        fresh = replace(job, goods=Goods(), own=(), above=(), below=())
        job = order_edits.add_lines(wanted, shop.sizes()).made(fresh)
    if order.choke == NO_PEEK:
        job = with_chokes(job, lambda made: made.registration.no_peek_mm)
    return job


def _check(order: Order) -> None:
    """What cannot be is told before anything is read; raises ``ValueError``."""
    _declared(order, _ANY_PPI)
    if order.page < 1:
        raise ValueError("--page counts from 1")
    if order.artwork is None and order.job is None:
        raise ValueError(f"Missing the artwork: name a {KINDS} file, or a --job")
    if order.process not in (None, *PROCESSES):
        *others, last = PROCESSES
        raise ValueError(f"--process “{order.process}” is not {', '.join(others)} or {last}")


def _wanted(order: Order) -> tuple["WantedLine", ...]:
    """The lines that are given."""
    if order.line is None and order.lines is None:
        return ()
    if order.line is not None and order.lines is not None:
        raise ValueError("Give --line or --lines, not both")
    given = "--line" if order.line is not None else "--lines"
    for name, text in (("--garment", order.garment), ("--width", order.width), ("--height", order.height)):
        if text is not None:
            raise ValueError(f"{name} is of one line: with {given}, each line says its own")
    from swaddon.session import line_list

    goods = shop.goods()
    if order.lines is not None:
        return line_list.read_lines(order.lines, goods)
    return tuple(line_list.line_of(text, goods) for text in order.line or ())


def with_chokes(job: Job, choke_mm: Callable[[PlanRequest], float]) -> Job:
    """A job with the choke that each of its lines asks for."""
    lines = []
    for at in range(len(job.lines)):
        turned = job.turned_to(at)
        made = turned.request()
        assert made is not None
        white = replace(turned.settings.white, choke_mm=choke_mm(made))
        lines.append(replace(turned.line, settings=replace(turned.settings, white=white)))
    return job.of_lines(tuple(lines), job.at)


def _chosen(
    order: Order, changes: dict[str, Any], declared: dict[str, object], stored: Job | None, press: PressProfile
) -> PlanSettings:
    """The settings of a job or a press, with what an order changes."""
    settings = stored.settings if stored is not None else first_settings(press)
    if order.preset is not None:
        from swaddon.session.presets import preset_named

        settings = preset_named(order.preset).on(settings)
    settings = replace(settings, **changes)
    _check_recipes(settings, press)
    settings = replace(settings, white=_white(order, settings.white, press), holes=_holes(order, settings.holes))
    settings = replace(settings, icc=_icc_choice(order, settings, press))
    if settings.icc is None and any(path.startswith("icc.") for path in declared):
        raise ValueError("--icc-intent and --black-point are of a colour profile: give it with --icc")
    for path, value in declared.items():
        settings = schema.changed(settings, path, value)
    check_white_name(settings.handover.white_name)
    if "white.position" in declared and settings.white.position not in press.white_positions:
        how = f"prints white {press.white_position} only" if press.has_white else "prints no white"
        raise ValueError(f"The press {press.name} {how}: leave --white-position out")
    if order.lineup is not None:
        settings = replace(settings, lineup=read_lineup(order.lineup, press))
    elif stored is not None and settings.lineup is not None:
        check_lineup(settings.lineup, press)
    return settings


def _stored(path: Path) -> Job:
    """A job from its file; reading jobs is loaded only when there is one."""
    from swaddon.session.storage import open_job

    return open_job(path)


def _changes(order: Order) -> dict[str, Any]:
    changes: dict[str, Any] = {}
    if order.garment is not None:
        changes["garment"] = parse.colour(order.garment, "--garment")
    if order.knockout is not None:
        changes["knockouts"] = tuple(parse.knockout(text) for text in order.knockout)
    if order.keep is not None:
        changes["keeps"] = tuple(parse.keep(text) for text in order.keep)
    if order.outline is not None:
        from swaddon.session.outline_file import read_outlines

        changes["outlines"] = read_outlines(order.outline)
    if order.recipe is not None:
        changes["recipes"] = tuple(parse.recipe(text) for text in order.recipe)
    if order.alpha is not None:
        changes["alpha"] = parse.alpha(order.alpha)
    return changes


def _declared(order: Order, ppi: float) -> dict[str, object]:
    """The settings that are given by their own options; pixels alone are of ``ppi``."""
    known = {entry.path: entry for entry in schema.options(PlanSettings)}
    return {path: parse.setting(given, known[path], ppi) for path, given in order.settings.items()}


def _press(order: Order, stored: Job | None) -> PressProfile:
    wanted = order.profile if order.profile is not None else order.process
    kept = None if stored is None else stored.profile
    press = kept if wanted is None and kept is not None else shop.press_of(USUAL if wanted is None else wanted)
    if order.process is not None and press.process != order.process:
        raise ValueError(f"The profile {press.name} is for {press.process}, not for {order.process}")
    return press


def _artwork(read: Artwork | None, stored: Job | None) -> Artwork:
    if read is not None:
        return read
    if stored is not None and stored.file is not None:
        return stored.file.artwork
    raise ValueError("The job holds no artwork: name an artwork file")


def _white(order: Order, white: WhiteSettings, press: PressProfile) -> WhiteSettings:
    changes: dict[str, Any] = {}
    if order.white is not None:
        changes |= parse.white(order.white)
    if order.registration is not None:
        changes |= parse.registration(order.registration, press.plan_ppi)
    if order.hits is not None:
        changes["hits"] = parse.hits(order.hits)
    if order.white_at is not None:
        changes["fixed"] = tuple(parse.fixed_white(text) for text in order.white_at)
    if order.design_at is not None:
        changes["design_rules"] = tuple(parse.design_rule(text) for text in order.design_at)
    if order.choke is not None and order.choke not in CHOKES:
        changes["choke_mm"] = parse.small_length_mm(
            order.choke, "--choke", *allowed(WhiteSettings, "choke_mm"), press.plan_ppi, such_as=_SUCH_CHOKE
        )
    return replace(white, **changes)


def _holes(order: Order, holes: HoleSettings) -> HoleSettings:
    changes: dict[str, Any] = {}
    if order.holes is not None:
        changes["default"] = parse.screen(order.holes, "--holes")
    if order.give_back is not None:
        least, most = allowed(HoleSettings, "give_back_limit")
        if not least <= order.give_back <= most:
            raise ValueError(f"--give-back is between {least:g} and {most:g} times the ink")
        changes |= {"give_back": order.give_back > 1, "give_back_limit": order.give_back}
    return replace(holes, **changes)


def _placed(order: Order, artwork: Artwork, settings: PlanSettings, is_first: bool, most_mm: float) -> PlanSettings:
    """Crop, turn and print size; a first print is as wide as its file says, where it says it sensibly."""
    placement = settings.placement
    if order.turn is not None:
        if order.turn not in (0, 90, 180, 270):
            raise ValueError("--turn is 0, 90, 180 or 270 degrees")
        placement = replace(placement, quarter_turns=order.turn // 90)
    if order.crop == "content":
        placement = replace(placement, crop=content_crop(artwork))
    elif order.crop is not None:
        placement = replace(placement, crop=parse.crop(order.crop))
    settings = replace(settings, placement=placement)
    if order.width is not None and order.height is not None:
        raise ValueError("Give --width or --height, not both: the artwork keeps its shape")
    if order.width is not None:
        return replace(settings, width_mm=parse.print_length_mm(order.width, "--width"))
    if order.height is not None:
        height_mm = parse.print_length_mm(order.height, "--height")
        width_px, height_px = artwork.placed_px(placement)
        return replace(settings, width_mm=height_mm * width_px / height_px)
    stated = artwork.stated_mm(placement)
    if is_first and stated is not None and artwork.says_its_size:
        return replace(settings, width_mm=round(min(max(stated, 20.0), most_mm), 1))
    return settings


def content_crop(artwork: Artwork) -> tuple[int, int, int, int] | None:
    """The part of an artwork that holds something besides nothing and one colour all round; ``None``: all of it."""
    box = content_box(artwork.rgba, artwork.background)
    if box is None or (box.width, box.height) == (artwork.width_px, artwork.height_px):
        return None
    return box.left, box.top, box.right, box.bottom


def _icc(order: Order, stored: Job | None) -> IccFile | None:
    """The colour profile that separates: the one that is given, else the job's."""
    if order.icc is not None:
        return read_icc(order.icc)
    return None if stored is None else stored.icc


def _icc_choice(order: Order, settings: PlanSettings, press: PressProfile) -> IccChoice | None:
    if order.icc is None:
        return settings.icc
    if not press.has_black:
        raise ValueError(f"{press.name} has no black: a CMYK profile cannot separate for it")
    file = read_icc(order.icc)
    return IccChoice(file.name, file.digest)


def _check_recipes(settings: PlanSettings, press: PressProfile) -> None:
    for recipe in settings.recipes:
        if recipe.inks[3] and not press.has_black:
            raise ValueError(f"--recipe {hex_from_rgb(recipe.colour)}={recipe.text}: {press.name} has no black")


def _check_tiles(holes: HoleSettings, tiles: Mapping[str, TileArt]) -> None:
    for screen in (holes.default, *(rule.screen for rule in holes.rules)):
        if screen is not None and screen.pattern == "tile" and screen.tile not in tiles:
            raise ValueError(f"There is no tile “{screen.tile}”: choose one of {', '.join(sorted(tiles))}")
