"""Order: what is printed, on what, how, how often."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Any

from swaddon.core.colour.goods import goods_class
from swaddon.core.colour.spaces import Rgb, hex_from_rgb
from swaddon.core.order.lines import Fit, Place
from swaddon.core.order.settings import PlanSettings
from swaddon.core.press.processes import USUAL
from swaddon.core.press.profile import PressProfile
from swaddon.core.schema import allowed
from swaddon.io import profiles
from swaddon.session import edits, order_edits, parse, shop
from swaddon.session.job import Job
from swaddon.session.lengths import length_text, size_text
from swaddon.session.session import Edit
from swaddon.session.setting_words import title_of

MOST_SWATCHES = 10
"""Garments of the library that are at hand as swatches."""

Items = Sequence[tuple[str, str]]
"""Values and what they are called."""

LineEdit = Callable[[int, Any], Edit]
"""Makes an edit of a line from a chosen value."""

OWN = "own"
"""Stands among the presses for one that is not shipped as it is."""


@dataclass(frozen=True)
class OrderState:
    """What the Order sheet shows."""

    name: str
    garment: Rgb
    garment_text: str
    garment_name: str
    garment_told: str
    cloth: str
    size: str
    sizes: tuple[str, ...]
    place: str
    fit: str
    own: str
    process: str
    press: str
    presses: tuple[tuple[str, str], ...]
    press_note: str
    item: str
    width: str
    width_effect: str
    quantity: str
    notes: tuple[str, ...]


def order_state(job: Job, inches: bool) -> OrderState:
    settings, profile = job.settings, job.profile
    press = profile or profiles.shipped(USUAL)
    shipped = tuple(shop.press(made.name) for made in profiles.presses(press.process))
    presses = tuple((made.name, made.title) for made in shipped)
    if press not in shipped:
        presses += ((OWN, press.title),)
    width_effect = ""
    if job.file is not None:
        artwork = job.file.artwork
        height = length_text(job.height_mm, inches)
        width_effect = f"{height} high · {artwork.ppi_at(settings.width_mm, settings.placement):.0f} ppi"
        if profile is not None and not job.room.takes(settings.width_mm, job.height_mm):
            most = size_text(job.room.width_mm, job.room.height_mm, inches)
            width_effect += f" · larger than the {most} of {job.room.title}"
    return OrderState(
        name=job.name,
        garment=settings.garment,
        garment_text=hex_from_rgb(settings.garment),
        garment_name=job.goods.name,
        garment_told=_garment_told(job),
        size=job.goods.size,
        sizes=_sizes(job),
        place=job.goods.place,
        fit=job.goods.fit,
        own=", ".join(title_of(path) for path in job.own),
        cloth=job.cloth,
        process=press.process,
        press=press.name if press in shipped else OWN,
        presses=presses,
        item=job.ware.item.capitalize(),
        width=length_text(settings.width_mm, inches, digits_mm=1),
        width_effect=width_effect,
        quantity=str(settings.quantity),
        press_note=_press_note(profile),
        notes=() if profile is None else profile.cautions,
    )


def _sizes(job: Job) -> tuple[str, ...]:
    """The sizes of the shop's table, and that of the line where it is none of them."""
    known = shop.sizes().known_sizes
    return known if not job.goods.size or job.goods.size in known else (*known, job.goods.size)


def _garment_told(job: Job) -> str:
    """Class, cloth and heat of the garment."""
    parts = [f"{goods_class(job.settings.garment).capitalize()} goods"]
    found = next((garment for garment in shop.garments() if garment.name == job.goods.name), None)
    if job.goods.cloth:
        parts.append(job.goods.cloth)
    if found is not None and found.weight_g_m2 is not None:
        parts.append(f"{found.weight_g_m2:g} g/m²")
    if found is not None and found.heat_c is not None:
        parts.append(f"bears {found.heat_c:g} °C")
    return " · ".join(parts)


def _press_note(profile: PressProfile | None) -> str:
    """What is to be told of a press profile that is none of the shipped ones as they are now."""
    if profile is None:
        return ""
    if profile.name not in profiles.shipped_names():
        return f"{profile.title}, of your own"
    if profile != shop.press(profile.name):
        return f"{profile.title}, as the job was planned; press it again for the one of now"
    return ""


def width_edit(text: str, inches: bool) -> Edit:
    """Raises ``ValueError`` with one sentence."""
    return edits.set_width(round(parse.print_length_mm(text, "Print width", "in" if inches else "mm"), 2))


def quantity_edit(text: str) -> Edit:
    """Raises ``ValueError`` with one sentence."""
    digits, (least, most) = text.strip(), allowed(PlanSettings, "quantity")
    if not digits.isdigit() or not least <= int(digits) <= most:
        raise ValueError(f"Quantity is a whole number of shirts, {least:g} to {most:.9g}")
    return edits.set_quantity(int(digits))


def garment_edit(text: str) -> Edit:
    """Raises ``ValueError`` with one sentence."""
    return edits.set_garment(parse.colour(text, "Garment colour"))


def goods_edit(at: int, name: str) -> Edit:
    """Take a garment of the library."""
    return order_edits.set_garment(at, next(garment for garment in shop.garments() if garment.name == name))


def size_edit(at: int, size: str) -> Edit:
    return order_edits.set_size(at, size, shop.sizes())


def place_edit(at: int, place: Place) -> Edit:
    return order_edits.set_place(at, place, shop.sizes())


def fit_edit(at: int, fit: Fit) -> Edit:
    return order_edits.set_fit(at, fit, shop.sizes())


def press_edit(key: str) -> Edit:
    return edits.set_profile(shop.press(key))


def name_edit(text: str) -> Edit:
    return edits.rename(text.strip() or Job().name)
