"""Inks: which channel prints when, from which slot, and how they lie on the finished shirt."""

from dataclasses import dataclass

from swaddon.core.count.consumption import amount_text
from swaddon.core.plan.report import channels, stack
from swaddon.core.plan.stages import Plan
from swaddon.core.press.processes import USUAL
from swaddon.core.press.profile import Gamut, Position, Slot
from swaddon.io import profiles
from swaddon.session.job import Job

LAYER_TITLES = {
    "garment": "Garment",
    "pretreat": "Pretreat",
    "powder": "Powder",
    "W": "White",
    "H": "Highlight",
    "C": "Cyan",
    "M": "Magenta",
    "Y": "Yellow",
    "K": "Black",
}


@dataclass(frozen=True)
class ChannelRow:
    """One channel in print order."""

    order: int
    ink: str
    title: str
    slot: int
    coverage: str
    amount: str


@dataclass(frozen=True)
class InksState:
    """What the Inks sheet shows; ``stack`` from the garment outward."""

    slots: tuple[Slot, ...]
    rows: tuple[ChannelRow, ...]
    stack: tuple[str, ...]
    mirrored: bool
    mirror_effect: str
    position: Position
    moves_white: bool
    gamut: Gamut


def inks_state(job: Job, plan: Plan | None) -> InksState:
    profile = job.press or profiles.shipped(USUAL)
    mirrored = job.settings.is_mirrored(profile)
    needs = "mirrored" if profile.mirrored else "not mirrored"
    effect = f"{profile.process.capitalize()} printing is {needs}"
    if mirrored != profile.mirrored:
        effect = f"{effect}: as set now, the print will read backwards on the {profile.printing.piece}"
    if plan is None:
        rows = [
            ChannelRow(order, slot.ink, LAYER_TITLES[slot.ink], slot.number, "", "")
            for order, slot in enumerate(profile.slots_in_print_order(), start=1)
        ]
    else:
        rows = [
            ChannelRow(
                order=order,
                ink=entry["ink"],
                title=LAYER_TITLES[entry["ink"]],
                slot=entry["slot"],
                coverage=f"{entry['coverage_mean'] * entry['hit_amount']:.1%}",
                amount=amount_text(entry["amount"], entry["unit"]),
            )
            for order, entry in enumerate(channels(plan), start=1)
        ]
    return InksState(
        profile.slots, tuple(rows), tuple(stack(profile)), mirrored, effect,
        profile.white_position, len(profile.white_positions) > 1, job.settings.gamut,
    )  # fmt: skip
