"""Order: what is printed, on what, how, how often."""

from dataclasses import dataclass

from swaddon.core.colour.spaces import Rgb, hex_from_rgb
from swaddon.core.order.settings import PlanSettings
from swaddon.core.press.processes import USUAL
from swaddon.core.press.profile import PressProfile
from swaddon.core.schema import allowed
from swaddon.io import profiles
from swaddon.session import edits, parse, shop
from swaddon.session.job import Job
from swaddon.session.lengths import length_text
from swaddon.session.session import Edit

GARMENT_COLOURS: tuple[tuple[str, Rgb], ...] = (
    ("Black", (27, 27, 31)),
    ("Navy", (31, 41, 68)),
    ("Charcoal", (68, 70, 74)),
    ("Red", (163, 32, 40)),
    ("Bottle green", (24, 66, 48)),
    ("Sky", (150, 190, 220)),
    ("Natural canvas", (224, 212, 186)),
    ("Ash", (214, 214, 210)),
    ("White", (250, 250, 248)),
)


OWN = "own"
"""Stands among the presses for one that is not shipped as it is."""


@dataclass(frozen=True)
class OrderState:
    """What the Order sheet shows."""

    name: str
    garment: Rgb
    garment_text: str
    cloth: str
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
        if profile is not None and settings.width_mm > profile.largest_print_mm[0]:
            width_effect += f" · wider than the {length_text(profile.largest_print_mm[0], inches)} it prints"
    return OrderState(
        name=job.name,
        garment=settings.garment,
        garment_text=hex_from_rgb(settings.garment),
        cloth=job.cloth,
        process=press.process,
        press=press.name if press in shipped else OWN,
        presses=presses,
        item=press.printing.item.capitalize(),
        width=length_text(settings.width_mm, inches, digits_mm=1),
        width_effect=width_effect,
        quantity=str(settings.quantity),
        press_note=_press_note(profile),
        notes=() if profile is None else profile.cautions,
    )


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


def press_edit(key: str) -> Edit:
    return edits.set_profile(shop.press(key))


def name_edit(text: str) -> Edit:
    return edits.rename(text.strip() or Job().name)
