"""What a plan comes to, in the few numbers and the small picture by which plans are compared."""

import math
import zlib
from collections.abc import Sequence
from dataclasses import dataclass, field
from decimal import Decimal

import cv2
import numpy as np
from numpy.typing import NDArray

from swaddon.core.artwork.raster import Mask, Plane, alpha_of, half
from swaddon.core.colour.spaces import Rgb, bands_from_srgb8, delta_e_2000, lab_from_bands
from swaddon.core.count.consumption import Material, amount_text, total_cost
from swaddon.core.findings import Finding
from swaddon.core.inks.inverse import target_lab
from swaddon.core.plan.stages import Plan, PlannedPrint
from swaddon.core.proof.optics import FULL_WHITE, Appearance, both_whites, printed_share, seen, seen_bands
from swaddon.core.white.verdict import WhiteAdvice

PROOF_PX = 260
"""Longest side of a small proof."""

_SAMPLES = 120_000
NO_WHITE, NONE_UNDER = "no white", "none under colour"
"""What a press without white prints, and what a plan does whose white lies under no colour."""

_OPAQUE, _NEAR = 250, 12
"""Alpha from which a pixel stands for its colour, and how far its values may be from it."""

_HARDLY_DE = 0.3
"""ΔE00 that nobody sees (assumed)."""

_VISIBLE_SHARE = 0.01
"""Share of the print below which a colour does not count (assumed)."""


@dataclass(frozen=True)
class Shift:
    """A main colour of the print: its share, and ΔE00 between how it will look and how it was drawn.

    ``solid`` is what it would be with full white under it, on the garment of the plan.
    """

    colour: Rgb
    share: float
    delta_e: float
    solid: float = field(default=0.0, compare=False)


@dataclass(frozen=True, eq=False)
class Outcome:
    """What one piece comes to.

    Attributes
    ----------
    proof
        ``uint8 (H, W, 3)``, sRGB, on plain cloth of the garment.
    materials, cost, currency
        All that one piece uses, and its exact cost.
    print_s, hand_g_m2, open_share
        Print time in s, mass of ink and powder per m² of the artwork, share of the figure that holes leave open.
    allowed_shift
        ΔE00 that white by need may lose; ``None``: white is not laid by need.
    none_under_colour
        Whether no white lies under colours: what there is of it is white of the design.
    shifts
        Main colours that are printed, the worst first.
    print_id
        Equal for prints that are the same pixel for pixel, whatever they go on; empty where nobody asked.
    """

    proof: NDArray[np.uint8]
    materials: tuple[Material, ...]
    cost: Decimal
    currency: str
    print_s: float
    hand_g_m2: float
    open_share: float
    none_under_colour: bool
    allowed_shift: float | None
    shifts: tuple[Shift, ...]
    findings: tuple[Finding, ...]
    print_id: str = ""

    def amount_of(self, kind: str) -> float:
        """Amount of a material on the piece; 0 where it uses none."""
        return sum(material.amount for material in self.materials if material.kind == kind)

    @property
    def white_amount(self) -> float:
        """White on the piece, in the ink's unit."""
        return self.amount_of("white")

    @property
    def white_words(self) -> str:
        """White of the piece in a few words: what lies under colours, and what the design itself has.

        The design's own white prints although none lies under colours.
        """
        white = next((item for item in self.materials if item.kind == "white"), None)
        if white is None:
            return NO_WHITE
        amount = amount_text(white.amount, white.supply.unit)
        if not self.none_under_colour:
            return f"white {amount}"
        return f"{NONE_UNDER}, {amount} of the design" if white.amount else NONE_UNDER

    @property
    def worst_de(self) -> float:
        """ΔE00 of the colour that comes out worst; 0 when nothing is printed."""
        return worst_de(self.shifts)

    @property
    def worst_words(self) -> str:
        """The worst colour in words; beside a shift that was allowed, how far solid white would reach with it.

        By need white loses no more than is allowed of what white can give: inks and garment may leave more.
        """
        text = f"worst ΔE {self.worst_de:.1f}"
        if self.allowed_shift is None or not self.shifts or self.worst_de <= self.allowed_shift + _HARDLY_DE:
            return text
        solid = self.shifts[0].solid
        return f"{text} ({'solid no better' if solid >= self.worst_de - _HARDLY_DE else f'solid {solid:.1f}'})"

    @property
    def troubles(self) -> int:
        """Findings that stop the print or want a look."""
        return sum(finding.severity != "note" for finding in self.findings)

    @property
    def stops(self) -> int:
        """Findings that stop the print."""
        return sum(finding.severity == "stop" for finding in self.findings)


def worst_de(shifts: Sequence[Shift]) -> float:
    """ΔE00 of the worst of the shifts of a print, which come worst first; 0 when nothing is printed."""
    return shifts[0].delta_e if shifts else 0.0


def outcome_of(plan: Plan, longest_px: int = PROOF_PX, identifies: bool = False) -> Outcome:
    """What a plan comes to; a lean plan is enough. ``identifies`` tells same prints from others, in some 40 ms."""
    return Outcome(
        proof=small_proof(plan, longest_px),
        materials=plan.materials,
        cost=total_cost(plan.materials),
        currency=plan.request.profile.currency,
        print_s=plan.time.print_s,
        hand_g_m2=plan.hand.g_per_m2,
        open_share=plan.hand.open_share,
        none_under_colour=plan.request.settings.white.mode == "none",
        allowed_shift=plan.request.settings.white.allowed_shift if plan.request.settings.white.mode == "need" else None,
        shifts=colour_shifts(plan, plan.advice),
        findings=plan.findings,
        print_id=_print_id(plan) if identifies else "",
    )


def _print_id(plan: Plan) -> str:
    planes = [plane for plane in (plan.cmyk, plan.white_plane, plan.highlight) if plane is not None]
    sums = [zlib.crc32(np.ascontiguousarray(plane).data) for plane in planes]
    return repr((plan.cmyk.shape, plan.measures.coverage, sums))


def small_proof(
    plan: Plan, longest_px: int = PROOF_PX, white: Plane | None = None, garment: Rgb | None = None
) -> NDArray[np.uint8]:
    """The print on plain cloth, ``uint8 (H, W, 3)``; with another white than the plan's, or on another garment."""
    request = plan.request
    own = plan.white_plane if white is None else white
    cmyk, fine = plan.cmyk, both_whites(own, plan.highlight, request.profile)
    share = printed_share(plan.cmyk, own)
    while max(fine.shape) > 2 * longest_px:
        cmyk, fine, share = half(cmyk), half(fine), half(share)
    scale = min(1.0, longest_px / max(fine.shape))
    size = (max(1, round(fine.shape[1] * scale)), max(1, round(fine.shape[0] * scale)))
    small = [np.ascontiguousarray(cv2.resize(p, size, interpolation=cv2.INTER_AREA)) for p in (cmyk, fine, share)]
    look = Appearance.of(garment or request.settings.garment, request.profile)
    return seen(
        np.asarray(small[0], np.uint8), np.asarray(small[1], np.uint16), look, share=np.asarray(small[2], np.uint8)
    )


def colour_shifts(plan: PlannedPrint, advice: WhiteAdvice, garment: Rgb | None = None) -> tuple[Shift, ...]:
    """ΔE00 of the print's main colours to how they were drawn, the worst first; on another garment, if given.

    Inks and white are the medians of what is laid where the colour stands, so that rims do not count; holes let as much
    of the cloth through as they leave open. Fades do not count, nor do colours of less than a hundredth of the print.
    """
    found = _main_prints(plan, advice)
    if not found:
        return ()
    profile = plan.request.profile
    look = Appearance.of(garment or plan.request.settings.garment, profile)
    ground = np.asarray(bands_from_srgb8(look.garment), np.float64)
    inks, white = np.array([item.inks for item in found]), np.array([item.white for item in found])
    left = np.array([item.left for item in found])[:, None]
    light = left * seen_bands(inks, white, ground, look) + (1 - left) * ground
    aims = target_lab(np.array([item.colour for item in found], np.float64), profile.separation)
    apart = delta_e_2000(lab_from_bands(light), aims).tolist()
    reach = [item.solid for item in found]
    shifts = [Shift(item.colour, item.share, float(off), at) for item, off, at in zip(found, apart, reach, strict=True)]
    counted = [shift for shift in shifts if shift.share >= _VISIBLE_SHARE] or shifts
    return tuple(sorted(counted, key=lambda shift: -shift.delta_e))


@dataclass(frozen=True)
class _MainPrint:
    """How a main colour is printed: its share, inks and white (0..1), and the share that holes leave of it.

    ``solid``: its ΔE00 with full white under it.
    """

    colour: Rgb
    share: float
    inks: tuple[float, ...]
    white: float
    left: float
    solid: float


def _core(plan: PlannedPrint) -> Mask:
    """Where the figure is further from its edge than white is pulled in: dots and rims beside it tell no colour."""
    inside = np.asarray(cv2.inRange(alpha_of(plan.art), _OPAQUE, 255), np.uint8)
    if plan.treated.tone is not None:
        inside = np.asarray(cv2.bitwise_and(inside, cv2.inRange(plan.treated.tone, 0, 0)), np.uint8)
    around = 2 * math.ceil(plan.request.settings.white.choke_px(plan.ppi)) + 1
    ring = cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (around, around))
    core = cv2.erode(inside, ring, borderType=cv2.BORDER_CONSTANT, borderValue=255)
    return np.asarray(core if cv2.countNonZero(core) else inside, np.uint8)


def _main_prints(plan: PlannedPrint, advice: WhiteAdvice) -> list[_MainPrint]:
    step = max(1, round((plan.art.shape[0] * plan.art.shape[1] / _SAMPLES) ** 0.5))
    part = np.s_[::step, ::step]
    art, cmyk = plan.art[part], plan.cmyk[part]
    highlight = None if plan.highlight is None else np.ascontiguousarray(plan.highlight[part])
    fine = both_whites(np.ascontiguousarray(plan.white_plane[part]), highlight, plan.request.profile)
    cut = None if plan.cut is None else plan.cut[part]
    stands = (art[..., 3] >= _OPAQUE) & (_core(plan)[part] > 0)
    if plan.treated.tone is not None:
        stands &= plan.treated.tone[part] == 0
    rgb = art[..., :3].astype(np.int16)
    out: list[_MainPrint] = []
    for item in advice.colours:
        here = stands & (np.abs(rgb - np.array(item.colour, np.int16)).max(axis=-1) <= _NEAR)
        printed = here if cut is None else here & (cut > 127)
        if not printed.any():
            continue
        inks = np.median(cmyk[printed], axis=0) / 255
        left = 1.0 if cut is None else float(np.mean(cut[here])) / 255
        white = float(np.median(fine[printed])) / FULL_WHITE
        out.append(_MainPrint(item.colour, item.share, tuple(inks.tolist()), white, left, float(item.solid)))
    return out
