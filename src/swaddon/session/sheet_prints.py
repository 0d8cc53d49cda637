"""Prints of jobs as they are laid on sheets: planned once each, with their outline, picture and what they need."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace

import cv2
import numpy as np
from numpy.typing import NDArray

from swaddon.core.colour.spaces import Rgb
from swaddon.core.engine import Run, key_of
from swaddon.core.errors import PlanError
from swaddon.core.order.lines import OrderLine
from swaddon.core.plan.outcome import small_proof
from swaddon.core.plan.stages import Plan
from swaddon.core.press.profile import PressProfile
from swaddon.core.sheet.gang import Item
from swaddon.core.sheet.layout import MOST_PRINTS
from swaddon.core.sheet.prints import Outline
from swaddon.core.sheet.tags import TagPlace, with_tag
from swaddon.io.handover import HIGHLIGHT, white_name
from swaddon.session.job import Job
from swaddon.session.order_plans import planned

PICTURE_PX = 420
_TAG_LETTER_MM = 1.45
"""Mean width of a letter of a tag."""


@dataclass(frozen=True)
class Wanted:
    """Prints of one job: its name on the sheet, and how many of each; ``None``: the quantity of each line."""

    label: str
    job: Job
    copies: int | None = None
    uid: int = 0

    def each(self) -> Iterator[tuple[int, OrderLine, int]]:
        """Number of each line from 1, the line, and how many."""
        for at, line in enumerate(self.job.lines, start=1):
            yield at, line, self.copies or line.settings.quantity


@dataclass(frozen=True, eq=False)
class SheetPrint:
    """What a plan gives for its sheet.

    Attributes
    ----------
    outline
        Of what lies on the medium: mirrored where the medium is.
    picture
        ``uint8 (H, W, 4)``: the print as it lies there, sRGB on its garment, alpha where something is printed.
    alone_s
        Print time alone.
    hole_angles
        Angles of its screens on the garment, in degrees.
    has_white, wants_white
        Whether white is printed, and whether the garment needs some.
    """

    outline: Outline
    picture: NDArray[np.uint8]
    press: PressProfile
    alone_s: float
    mirrored: bool
    white_names: tuple[str, ...]
    hole_angles: tuple[float, ...]
    has_white: bool
    wants_white: bool

    @property
    def group(self) -> str:
        """What prints of one sheet must share: slots, hits and place of the white are set once for a whole sheet."""
        press = self.press
        slots = "".join(slot.ink for slot in press.slots)
        hits = "+".join(f"{hit:g}" for hit in press.hits)
        return f"{press.name} {slots} {hits} {press.white_position}"


@dataclass(frozen=True, eq=False)
class Laid:
    """A print of a line of a job, as often as it is wanted."""

    wanted: Wanted
    line: int
    order_line: OrderLine
    copies: int
    made: SheetPrint

    @property
    def title(self) -> str:
        """Job and, in an order of several, line."""
        several = len(self.wanted.job.lines) > 1
        return f"“{self.wanted.label}”" + (f", {self.order_line.title}" if several else "")

    @property
    def garment(self) -> Rgb:
        return self.order_line.settings.garment

    @property
    def tag(self) -> str:
        """Order, size, place and garment, in a few words."""
        line = self.order_line
        place = "" if line.goods.place == "front" else line.goods.place
        words = (self.wanted.label.removesuffix(".png"), line.garment_name, line.goods.size, place)
        return " · ".join(" ".join(word.split()) for word in words if word)[:80]

    def item(self, tags: bool, apart: bool) -> tuple[Item, TagPlace | None]:
        """The print as it is laid, and where its tag stands."""
        outline, place = self.made.outline, None
        if tags:
            outline, place = with_tag(outline, tag_width_mm(self.tag))
        group = self.made.group + (f" on {self.order_line.garment_name}" if apart else "")
        return Item(self.title, outline, self.copies, group), place


def tag_width_mm(text: str) -> float:
    """Room that a tag takes, with the number of its sheet before it."""
    return (len(text) + len("12 · ")) * _TAG_LETTER_MM + 1


class PrintMaker:
    """Plans the prints of jobs and remembers what lies on the sheet of each."""

    _MOST = 300

    def __init__(self) -> None:
        self._known: dict[str, SheetPrint] = {}

    def laid(self, wanted: Sequence[Wanted], run: Run) -> tuple[Laid, ...]:
        """The prints of some jobs.

        Raises
        ------
        PlanError
            One sentence naming the job: it cannot be planned, prints nothing, or by another press than the first.
        """
        _check_count(wanted)
        out: list[Laid] = []
        count = sum(len(item.job.lines) for item in wanted)
        for item in wanted:
            _check_press(item, wanted[0])
            for at, line, copies in item.each():
                run.check()
                run.report(f"Planning {item.label}", len(out) / max(1, count))
                out.append(Laid(item, at, line, copies, self._made(item, at, run)))
        return tuple(out)

    def known(self, wanted: Wanted, at: int) -> SheetPrint | None:
        """What is remembered of a line, counted from 1, of a job as it is now."""
        return self._known.get(_key(wanted.job, at))

    def _made(self, wanted: Wanted, at: int, run: Run) -> SheetPrint:
        key = _key(wanted.job, at)
        known = self._known.get(key)
        if known is None:
            known = sheet_print(plan_of(wanted, at, run), wanted.label)
            self._known[key] = known
            while len(self._known) > self._MOST:
                del self._known[next(iter(self._known))]
        return known


def _key(job: Job, at: int) -> str:
    settings = replace(job.lines[at - 1].planned, sheet_share=None)
    content = "" if job.file is None else job.file.artwork.content_id
    return key_of(content, settings, job.profile, tuple(tile.art for tile in job.tiles))


def plan_of(wanted: Wanted, at: int, run: Run) -> Plan:
    """The lean plan of a line, counted from 1; raises ``PlanError`` that names the job."""
    job = wanted.job
    if job.file is None or job.profile is None:
        raise PlanError(f"“{wanted.label}” has no artwork: there is nothing of it to lay on a sheet.")
    try:
        return planned(job, job.lines[at - 1].planned, run.aside(1))
    except PlanError as error:
        text = str(error)
        raise PlanError(text if wanted.label in text else f"“{wanted.label}”: {text}") from error


def _check_count(wanted: Sequence[Wanted]) -> None:
    """Too many prints are refused before any is planned."""
    counts = [(sum(copies for _, _, copies in item.each()), item.label) for item in wanted]
    most, label = max(counts)
    count = sum(own for own, _ in counts)
    if count > MOST_PRINTS:
        raise PlanError(
            f"“{label}” is wanted {most} times, {count} prints in all: at most {MOST_PRINTS} are laid in one run; "
            "lay them in several."
        )


def _check_press(wanted: Wanted, first: Wanted) -> None:
    own, other = wanted.job.profile, first.job.profile
    if own is None or other is None or (own.name, own.plan_ppi) == (other.name, other.plan_ppi):
        return
    if own.name == other.name:
        raise PlanError(
            f"“{wanted.label}” is planned at {own.plan_ppi:g} ppi, “{first.label}” at {other.plan_ppi:g}: they cannot "
            "share a sheet. Choose the press anew in the older job, so that both take it as it is now."
        )
    raise PlanError(
        f"“{wanted.label}” is printed on {own.title}, “{first.label}” on {other.title}: they cannot share a sheet."
    )


def printed_of(plan: Plan) -> NDArray[np.uint8]:
    """Plane that is above 0 where a plan prints anything, as the artwork lies (not mirrored)."""
    planes = [plan.white_plane, *([plan.highlight] if plan.highlight is not None else [])]
    out = np.asarray(cv2.extractChannel(plan.cmyk, 0), np.uint8)
    for ink in (1, 2, 3):
        out = np.asarray(cv2.max(out, cv2.extractChannel(plan.cmyk, ink)), np.uint8)
    for plane in planes:
        out = np.asarray(cv2.max(out, plane), np.uint8)
    return out


def sheet_print(plan: Plan, label: str) -> SheetPrint:
    """What a plan gives for its sheet; raises ``PlanError`` where it prints nothing."""
    request = plan.request
    mirrored = request.settings.is_mirrored(request.profile)
    printed = printed_of(plan)
    outline = Outline.of(np.ascontiguousarray(printed[:, ::-1]) if mirrored else printed, plan.ppi)
    if outline is None:
        raise PlanError(f"“{label}” prints nothing: there is nothing of it to lay on a sheet.")
    screens = (*plan.screens.ruled, *([plan.screens.fade] if plan.screens.fade is not None else []))
    return SheetPrint(
        outline=outline,
        picture=_picture(plan, printed, mirrored),
        press=request.profile,
        alone_s=plan.time.alone_s,
        mirrored=mirrored,
        white_names=white_names(plan),
        hole_angles=tuple(sorted({round(screen.screen.angle, 1) for screen in screens}))
        if plan.cut is not None
        else (),
        has_white=plan.measures.white_px > 0,
        wants_white=plan.advice.needed and request.profile.has_white,
    )


def white_names(plan: Plan) -> tuple[str, ...]:
    """Names of the white channels of a plan."""
    names = [white_name(plan)] if plan.request.profile.has_white else []
    return (*names, *([HIGHLIGHT] if plan.highlight is not None else []))


def _picture(plan: Plan, printed: NDArray[np.uint8], mirrored: bool) -> NDArray[np.uint8]:
    proof = small_proof(plan, PICTURE_PX)
    on = (printed > 0).astype(np.uint8) * np.uint8(255)
    alpha = cv2.resize(on, (proof.shape[1], proof.shape[0]), interpolation=cv2.INTER_AREA)
    picture = np.dstack([proof, np.asarray(alpha, np.uint8)])
    return np.ascontiguousarray(picture[:, ::-1] if mirrored else picture)
