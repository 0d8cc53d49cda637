"""Curves as charts show them."""

import itertools
from dataclasses import dataclass

from swaddon.core.count.consumption import amount_text
from swaddon.core.count.money import money_text
from swaddon.core.plan.stages import Plan
from swaddon.core.white.register import STEP_MM

SHOWN_CHOKE_MM = 0.6

Points = tuple[tuple[float, float], ...]


@dataclass(frozen=True)
class Line:
    """One line: its name, its points by growing x, and how it is drawn (``solid``, ``dash`` or ``dot``)."""

    name: str
    points: Points
    style: str = "solid"


def height_at(points: Points, x: float) -> float:
    """Height of a line at a place, straight between its points and level beyond them; 0 without any."""
    if not points:
        return 0.0
    for (x0, y0), (x1, y1) in itertools.pairwise(points):
        if x0 <= x <= x1:
            return y0 + (y1 - y0) * (x - x0) / max(x1 - x0, 1e-9)
    return points[0][1] if x < points[0][0] else points[-1][1]


def white_amount(plan: Plan) -> float:
    """White on one shirt."""
    return next((material.amount for material in plan.materials if material.kind == "white"), 0.0)


def white_cost(plan: Plan) -> str:
    """White on one shirt and what it costs, in words."""
    material = next((material for material in plan.materials if material.kind == "white"), None)
    if material is None:
        return "no white"
    spent = amount_text(material.amount, material.supply.unit)
    return f"{spent}, {money_text(material.cost)} {plan.request.profile.currency}"


def need_lines(plan: Plan) -> tuple[Line, ...]:
    """White on a shirt against allowed shift, scaled so that today's point is this plan's own amount."""
    curve, white = plan.advice.curve, plan.request.settings.white
    if not curve:
        return ()
    today = height_at(curve, white.allowed_shift)
    factor = white_amount(plan) / today if today > 0 else 0.0
    return (
        Line(
            f"white {plan.request.profile.ink_unit} by ΔE",
            tuple((shift, share * factor) for shift, share in curve),
        ),
    )


def choke_lines(plan: Plan) -> tuple[Line, ...]:
    """Harm in ΔE·mm² against choke in mm: the sum, peeking white, bare rim."""
    curve = plan.choke
    if not curve.total.any():
        return ()
    every = slice(0, 1 + round(SHOWN_CHOKE_MM / STEP_MM), 2)
    axis = curve.at_mm[every].tolist()
    return (
        Line("harm", tuple(zip(axis, curve.total[every].tolist(), strict=True))),
        Line("peeking", tuple(zip(axis, curve.peek[every].tolist(), strict=True)), "dash"),
        Line("bare rim", tuple(zip(axis, curve.rim[every].tolist(), strict=True)), "dot"),
    )
