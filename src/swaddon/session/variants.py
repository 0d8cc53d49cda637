"""Variants of a job: what may be varied, the request of each, and taking one over."""

from collections.abc import Sequence
from dataclasses import replace

from swaddon.core.errors import PlanError
from swaddon.core.order.request import PlanRequest
from swaddon.core.plan.variants import AS_IT_IS, Axes, Choice, GarmentChoice, Variant
from swaddon.core.press.processes import PROCESSES
from swaddon.core.press.profile import PressProfile
from swaddon.session import edits, parse, shop
from swaddon.session.job import Job
from swaddon.session.line_list import ShopGoods
from swaddon.session.session import Edit
from swaddon.session.setting_words import knockout_text, screen_text


def adopt(variant: Variant) -> Edit:
    """Take a variant over in one step: its press, its garment, and its settings for all lines that follow the order.

    The garment's own line comes to hand where the order has one, else the line at hand gets the garment.
    """

    def changed(job: Job) -> Job:
        garments = [line.settings.garment for line in job.lines]
        rgb = variant.garment.rgb
        at = job.at if garments[job.at] == rgb or rgb not in garments else garments.index(rgb)
        turned = job.turned_to(at)
        taken = turned
        if taken.profile != variant.press:
            taken = edits.set_profile(variant.press).change(taken)
        goods = taken.goods
        if taken.settings.garment != rgb:
            goods = replace(goods, name=variant.garment.title, cloth="")
        taken = replace(taken, goods=goods, settings=variant.on(taken.settings))
        return taken.followed(turned, alone=False)

    return Edit(f"Take the variant {variant.title}", changed)


def request_of(job: Job, variant: Variant) -> PlanRequest:
    """What a variant is planned from: just what the job asks for when the variant is taken over.

    Raises
    ------
    PlanError
        When the job has no artwork.
    """
    made = adopt(variant).made(job).request()
    if made is None:
        raise PlanError("There is no artwork yet: place it first, then compare variants.")
    return made


def white_choice(text: str) -> Choice:
    """A white plan from ``none``, ``solid``, ``need:3``, ``limit:280`` and the like; raises ``ValueError``."""
    values = parse.white(text)
    return Choice(text.strip(), tuple((f"white.{name}", value) for name, value in values.items()))


def knockout_choice(text: str) -> Choice:
    """Knockouts from ``none``, or some with ``+`` between them; raises ``ValueError``."""
    if text.strip() == "none":
        return Choice("nothing taken out", (("knockouts", ()),))
    found = tuple(parse.knockout(part.strip()) for part in text.split("+"))
    return Choice(", ".join(knockout_text(item) for item in found), (("knockouts", found),))


def holes_choice(text: str) -> Choice:
    """Holes from ``solid`` or a screen; raises ``ValueError``."""
    screen = parse.screen(text.strip(), "--holes")
    return Choice("no holes" if screen is None else screen_text(screen), (("holes.default", screen),))


def garment_choice(text: str, goods: ShopGoods) -> GarmentChoice:
    """A garment by its name in the library, a plain colour or ``#rrggbb``; raises ``ValueError``."""
    found = goods.garment_named(text)
    return GarmentChoice(found.name or text.strip(), found.rgb)


def presses_of(processes: Sequence[str], names: Sequence[str], usual: PressProfile) -> tuple[PressProfile, ...]:
    """The presses to compare: those named (shipped names or TOML files), and the usual one of each process.

    Raises
    ------
    ValueError, PlanError
        One sentence on the name that is not known.
    """
    out: list[PressProfile] = []
    for key in processes:
        if key not in PROCESSES:
            *others, last = PROCESSES
            raise ValueError(f"--process “{key}” is not {', '.join(others)} or {last}")
        out.append(usual if usual.process == key and not names else shop.press(key))
    for name in names:
        out.append(shop.press_of(name))
    return tuple({press.name: press for press in out or [usual]}.values())


def axes_from(
    job: Job,
    goods: ShopGoods,
    garments: Sequence[str],
    whites: Sequence[str],
    processes: Sequence[str],
    presses: Sequence[str],
    knockouts: Sequence[str],
    holes: Sequence[str],
) -> Axes:
    """The axes as they are typed; an axis without a value stays as the job has it; raises ``ValueError``."""
    usual = job.profile or shop.press(next(iter(PROCESSES)))
    own = GarmentChoice(job.line.garment_name, job.settings.garment)
    return Axes(
        tuple(garment_choice(text, goods) for text in garments) or (own,),
        presses_of(processes, presses, usual),
        tuple(white_choice(text) for text in whites) or (AS_IT_IS,),
        tuple(knockout_choice(text) for text in knockouts) or (AS_IT_IS,),
        tuple(holes_choice(text) for text in holes) or (AS_IT_IS,),
    )


def listed(texts: Sequence[str]) -> tuple[str, ...]:
    """Values of an axis: options given several times, each a list with commas.

    >>> listed(["solid, need:3", "none"])
    ('solid', 'need:3', 'none')
    """
    return tuple(part.strip() for text in texts for part in text.split(",") if part.strip())
