"""The stages of all rooms in the order of the work, and the plan that they make."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from swaddon.core.artwork.raster import Mask, Plane, Rgba
from swaddon.core.artwork.regions import RegionMap
from swaddon.core.artwork.stages import STAGES as ARTWORK
from swaddon.core.count.consumption import Material, materials_of, total_cost
from swaddon.core.count.coverage import TotalCoverage
from swaddon.core.count.hand import Hand
from swaddon.core.count.measure import Measures
from swaddon.core.count.money import money_text, places
from swaddon.core.count.stages import STAGES as COUNT
from swaddon.core.count.stages import Hands
from swaddon.core.count.timing import PrintTime, print_time
from swaddon.core.engine import Cache, Results, Run, Stage, run_stages
from swaddon.core.findings import Finding
from swaddon.core.findings.inspection import Inspection
from swaddon.core.findings.stages import EARLY_STAGES as INSPECTED
from swaddon.core.findings.stages import STAGES as FOUND
from swaddon.core.holes.holes import GiveBack, Zones
from swaddon.core.holes.screen import Cut
from swaddon.core.holes.stages import STAGES as HOLES
from swaddon.core.inks.stages import STAGES as INKS
from swaddon.core.knockout.fades import Treated
from swaddon.core.knockout.islands import Island
from swaddon.core.knockout.stages import STAGES as KNOCKOUT
from swaddon.core.knockout.stages import Knocked
from swaddon.core.order.request import PlanRequest
from swaddon.core.white.check_stages import STAGES as CHECKED
from swaddon.core.white.check_stages import WhiteCheck
from swaddon.core.white.design_white import DesignArea
from swaddon.core.white.edges import EdgeTrouble
from swaddon.core.white.register import ChokeCurve
from swaddon.core.white.stages import STAGES as WHITE
from swaddon.core.white.verdict import WhiteAdvice


def chained(*rooms: tuple[Stage, ...]) -> tuple[Stage, ...]:
    """Stages in the order given, but none before what it needs."""
    waiting = {item.name: item for room in rooms for item in room}
    out: list[Stage] = []
    while waiting:
        ready = next(item for item in waiting.values() if not any(name in waiting for name in item.needs))
        out.append(waiting.pop(ready.name))
    return tuple(out)


STAGES = chained(ARTWORK, KNOCKOUT, INSPECTED, HOLES, INKS, WHITE, COUNT, CHECKED, FOUND)

_COUNTED = ("took", "thinned", "islands", "inspection", "inks", "design_exceptions", "white", "hands", "total_coverage")
"""Stages that all amounts, costs and times hang on."""

_WORKING = frozenset(
    {
        "print_alpha", "white_alpha", "ink_alpha", "choked", "classes", "ground", "figure", "whole_highlight",
        "whole_white", "kept_by_holes",
    }
)  # fmt: skip
"""What no finished plan keeps: a pinned one would hold these planes as long as it is pinned."""

_SPARE = _WORKING | {"placed", "knocked", "separated"}
"""What a plan that is only exported can do without."""


@dataclass(frozen=True, eq=False)
class Checks:
    """What a plan is held against: choke by registration, need of white, what the choke did, findings worst first.

    ``is_current`` is False while they are those of the plan before.
    """

    choke: ChokeCurve
    advice: WhiteAdvice
    white: WhiteCheck
    design_areas: tuple[DesignArea, ...]
    edges: EdgeTrouble
    findings: tuple[Finding, ...]
    is_current: bool = True


@dataclass(frozen=True, eq=False)
class PlannedPrint:
    """What prints, what it takes, costs and how long it takes: a plan without what it is held against.

    Attributes
    ----------
    grid, art
        ``uint8 (H, W, 4)``: artwork at print size, before and after knockout and half-transparency. A lean plan has
        no ``grid``, ``knocked`` and ``separated``.
    separated, cmyk
        ``uint8 (H, W, 4)``, ink coverage, 255 = full, before and after the holes.
    design
        Mask of white of the design that is treated otherwise than the rest of it; ``None``: none is.
    white_plane, highlight
        ``uint8 (H, W)``, coverage of one hit, 255 = full; highlight white is ``None`` on a press without.
    whole_measures, whole_hand
        Counts and hand as they would be without holes.
    took, thinned
        Pixels that each knockout took, and of which its soft edge left less than was there.
    results
        What the stages gave and the plan keeps, with the content keys of all; equal keys are equal results.
    """

    request: PlanRequest
    grid: Rgba | None
    knocked: Knocked | None
    islands: tuple[Island, ...]
    treated: Treated
    regions: RegionMap | None
    zones: Zones | None
    cut: Mask | None
    screens: Cut
    given: tuple[GiveBack, ...]
    separated: NDArray[np.uint8] | None
    cmyk: NDArray[np.uint8]
    design: Mask | None
    white_plane: Plane
    highlight: Plane | None
    measures: Measures
    whole_measures: Measures
    coverage: TotalCoverage
    hand: Hand
    whole_hand: Hand
    took: tuple[int, ...]
    thinned: tuple[int, ...]
    inspection: Inspection
    materials: tuple[Material, ...]
    time: PrintTime
    results: Results

    @property
    def keys(self) -> Mapping[str, str]:
        return self.results.keys

    @property
    def art(self) -> Rgba:
        return self.treated.art

    @property
    def ppi(self) -> float:
        return self.request.ppi

    @property
    def cost(self) -> str:
        """Cost of one shirt, a decimal string, to the digits that matter."""
        return money_text(total_cost(self.materials), self.cost_places)

    @property
    def cost_places(self) -> int:
        """Decimals that tell the cost of one shirt and each of its parts."""
        return places(total_cost(self.materials), (material.cost for material in self.materials))


@dataclass(frozen=True, eq=False)
class Plan(PlannedPrint):
    """A finished plan: the print, and its checks."""

    checks: Checks

    @property
    def choke(self) -> ChokeCurve:
        return self.checks.choke

    @property
    def advice(self) -> WhiteAdvice:
        return self.checks.advice

    @property
    def findings(self) -> tuple[Finding, ...]:
        return self.checks.findings


def make_plan(
    request: PlanRequest,
    run: Run | None = None,
    lean: bool = False,
    before: Checks | None = None,
    counted: Callable[[Plan], None] = lambda _plan: None,
    known: Results | None = None,
) -> Plan:
    """Run all stages; a ``lean`` plan lets go of what only a bench needs. ``known`` results are taken where they hold.

    With the checks of the plan ``before`` it, a plan is handed to ``counted`` as soon as its planes and amounts are
    there; its checks are those of before until it is returned whole.

    Raises
    ------
    PlanError
        When the request cannot be planned; the text says what to do.
    Superseded
        When the run is no longer wanted.
    """
    run = run or Run(Cache())
    if before is not None:
        amounts = run_stages(STAGES, request, run, until=_COUNTED)
        counted(_plan(request, amounts, replace(before, is_current=False)))
    results = run_stages(STAGES, request, run, spare=_SPARE if lean else frozenset(), known=known)
    names = ("choke_curve", "advice", "white_check", "design_areas", "edges", "findings")
    checks = Checks(*(results.values[name] for name in names))
    return _plan(request, results, checks)


def plan_print(request: PlanRequest, run: Run) -> PlannedPrint:
    """The print and its amounts alone, in a third of the time of :func:`make_plan`; raises as that does."""
    return _print(request, run_stages(STAGES, request, run, until=_COUNTED, spare=_SPARE))


def advice_of(made: PlannedPrint, run: Run) -> WhiteAdvice:
    """Which white the colours of a print need."""
    advice: WhiteAdvice = run_stages(STAGES, made.request, run, until=("advice",), known=made.results).values["advice"]
    return advice


def with_recommended_choke(request: PlanRequest, run: Run) -> PlanRequest:
    """The same request with the choke that its edges, garment and registration recommend."""
    curve: ChokeCurve = run_stages(STAGES, request, run, until=("choke_curve",)).values["choke_curve"]
    white = replace(request.settings.white, choke_mm=curve.recommended_mm)
    return replace(request, settings=replace(request.settings, white=white))


def _plan(request: PlanRequest, results: Results, checks: Checks) -> Plan:
    return Plan(**vars(_print(request, results)), checks=checks)


def _print(request: PlanRequest, results: Results) -> PlannedPrint:
    values = results.values
    measures: Measures = values["measures"]
    hands: Hands = values["hands"]
    return PlannedPrint(
        request=request,
        grid=values.get("placed"),
        knocked=values.get("knocked"),
        islands=values["islands"],
        treated=values["treated"],
        regions=values["region_map"],
        zones=values["zones"],
        cut=values.get("cut"),
        screens=values["screens"],
        given=values["given_back"],
        separated=values.get("separated"),
        cmyk=values["inks"],
        design=values["design_exceptions"],
        white_plane=values["white"],
        highlight=values["highlight"],
        measures=measures,
        whole_measures=values["whole_measures"],
        coverage=values["total_coverage"],
        hand=hands.own,
        whole_hand=hands.whole,
        took=values["took"],
        thinned=values["thinned"],
        inspection=values["inspection"],
        materials=materials_of(measures, request.profile, request.settings.share(request.profile)),
        time=print_time(
            measures, request.profile.carriage, request.profile.white_rounds, request.settings.share(request.profile)
        ),
        results=Results({name: value for name, value in values.items() if name not in _WORKING}, results.keys),
    )
