"""Inks: which channel prints when, from which slot, and how they lie on the finished shirt."""

from dataclasses import dataclass

from swaddon.core.plan.report import channels, stack
from swaddon.core.plan.stages import Plan
from swaddon.core.profile import Slot
from swaddon.io import profiles
from swaddon.session.job import Job

LAYER_TITLES = {
    "garment": "Garment",
    "pretreat": "Pretreat",
    "powder": "Powder",
    "W": "White",
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


def inks_state(job: Job, plan: Plan | None) -> InksState:
    profile = job.profile or profiles.shipped("film")
    mirrored = job.settings.is_mirrored(profile)
    needs = "mirrored" if profile.mirrored else "not mirrored"
    effect = f"{profile.process.capitalize()} printing is {needs}"
    if mirrored != profile.mirrored:
        effect = f"{effect}: as set now, the print will read backwards on the shirt"
    counted = {} if plan is None else {entry["slot"]: entry for entry in channels(plan)}
    rows = []
    for order, slot in enumerate(profile.slots_in_print_order(), start=1):
        entry = counted.get(slot.number)
        rows.append(
            ChannelRow(
                order=order,
                ink=slot.ink,
                title=LAYER_TITLES[slot.ink],
                slot=slot.number,
                coverage="" if entry is None else f"{entry['coverage_mean']:.1%}",
                amount="" if entry is None else f"{entry['amount']:.2f} ml",
            )
        )
    return InksState(profile.slots, tuple(rows), tuple(stack(profile)), mirrored, effect)
