"""Variants: what does not change is not done again, what is done is as a fresh plan gives, which are dominated."""

from dataclasses import replace

import numpy as np
import pytest
from tests.conftest import artwork
from tests.core.plan.test_outcome import outcome
from tests.settings_at_random import picture

from swaddon.core.engine import Cache, Run, Stage, Superseded
from swaddon.core.errors import PlanError
from swaddon.core.knockout.settings import Knockout
from swaddon.core.order.settings import PlanSettings
from swaddon.core.plan import stages, variants
from swaddon.core.plan.variants import AS_IT_IS, Axes, Choice, GarmentChoice, Worked, dominated, variants_of, worked_out
from swaddon.io import profiles
from swaddon.session.job import ArtworkFile, Job
from swaddon.session.session import Session
from swaddon.session.variants import adopt, holes_choice, knockout_choice, request_of, white_choice

GARMENTS = (
    GarmentChoice("Black", (27, 27, 31)),
    GarmentChoice("Navy", (31, 41, 68)),
    GarmentChoice("White", (250, 250, 248)),
)
FILM, DIRECT = profiles.shipped("film"), profiles.shipped("direct")


def job(**settings: object) -> Job:
    values = {"width_mm": 30.0, "knockouts": (Knockout((240, 170, 40), 6.0),)} | settings
    return Job(file=ArtworkFile(artwork(picture()), b""), settings=PlanSettings(**values), profile=FILM)  # type: ignore[arg-type]


def whites(*texts: str) -> tuple[Choice, ...]:
    return tuple(white_choice(text) for text in texts)


def axes(**given: object) -> Axes:
    usual = Axes(GARMENTS[:2], (FILM, DIRECT), whites("solid", "limit:200", "none"))
    return replace(usual, **given)  # type: ignore[arg-type]


def test_every_value_meets_every_other_once():
    made = variants_of(axes(holes=(AS_IT_IS, holes_choice("round:35:52.5:0.8"))))
    assert len(made) == len({(item.title, item.press.name) for item in made}) == 2 * 2 * 3 * 2
    assert made[0].title == "Black, film, solid"


def test_too_many_and_none_are_refused_in_a_sentence():
    with pytest.raises(PlanError, match="at least one garment"):
        variants_of(axes(garments=()))
    many = tuple(Choice(str(number)) for number in range(60))
    with pytest.raises(PlanError, match="more than 200"):
        variants_of(axes(whites=many))


@pytest.mark.usefixtures("compiled")
def test_a_variant_is_bit_for_bit_the_plan_that_is_made_alone(monkeypatch):
    """Warm against fresh: garments, white, knockouts, holes, presses share a cache; each is planned alone besides."""
    plans = []
    real = variants.outcome_of
    monkeypatch.setattr(variants, "outcome_of", lambda plan, longest_px: plans.append(plan) or real(plan, longest_px))
    base = job()
    varied = {
        "knockouts": (AS_IT_IS, knockout_choice("everywhere:garment:8")),
        "holes": (AS_IT_IS, holes_choice("line:30:60:0.7")),
    }
    needing = axes(garments=GARMENTS[::2], presses=(FILM,), whites=whites("none", "need:3"), **varied)
    made = (*variants_of(needing), *variants_of(axes(garments=GARMENTS[1:2], whites=whites("highlight"), **varied)))
    found = list(worked_out(made, lambda variant: request_of(base, variant), Run(Cache())))
    assert len(found) == len(plans) == 24
    for item, warm in list(zip(found, plans, strict=True))[::5]:
        fresh = stages.make_plan(request_of(base, item.variant), Run(Cache(1)), lean=True)
        for name in ("white_plane", "cmyk"):
            assert np.array_equal(getattr(warm, name), getattr(fresh, name)), (item.variant.title, name)
        alone = real(fresh)
        assert item.outcome is not None
        assert np.array_equal(item.outcome.proof, alone.proof)
        assert (item.outcome.cost, item.outcome.shifts, item.outcome.print_s) == (
            alone.cost,
            alone.shifts,
            alone.print_s,
        )
        assert [(one.code, one.text) for one in item.outcome.findings] == [
            (one.code, one.text) for one in alone.findings
        ]


@pytest.mark.usefixtures("compiled")
def test_what_does_not_change_is_not_done_again(monkeypatch):
    ran: list[str] = []
    real = Stage.result
    monkeypatch.setattr(Stage, "result", lambda self, *given: ran.append(self.name) or real(self, *given))
    base = job()
    list(worked_out(variants_of(axes()), lambda variant: request_of(base, variant), Run(Cache())))
    assert ran.count("placed") == 1
    assert ran.count("knocked") == 1, "neither black nor navy is what is knocked out"
    assert ran.count("separated") < 12
    assert ran.count("total_coverage") < 12


@pytest.mark.usefixtures("compiled")
@pytest.mark.parametrize("index", [0, 5, 11])
def test_a_variant_that_is_taken_over_is_its_proof_and_one_step_that_undoes(index):
    session = Session(job())
    before = session.job
    variant = variants_of(axes())[index]
    (worked,) = worked_out((variant,), lambda item: request_of(before, item), Run(Cache()))
    session.apply(adopt(variant))
    request = session.job.request()
    assert request is not None
    assert worked.outcome is not None
    assert np.array_equal(worked.outcome.proof, variants.outcome_of(stages.make_plan(request)).proof)
    session.undo()
    assert session.job == before


def test_a_run_that_nobody_waits_for_ends_between_variants():
    base, wanted = job(), [True]
    made = worked_out(variants_of(axes()), lambda variant: request_of(base, variant), Run(Cache(), lambda: wanted[0]))
    next(made)
    wanted[0] = False
    with pytest.raises(Superseded):
        next(made)


def test_what_cannot_be_planned_is_told_and_the_others_go_on():
    base, made = job(), variants_of(axes())[:2]

    def request(variant):
        if variant is made[0]:
            raise PlanError("No.")
        return request_of(base, variant)

    found = list(worked_out(made, request, Run(Cache())))
    assert [item.problem for item in found] == ["No.", ""]
    assert dominated(found) == (False, False)


def worked(cost: str, garment: int = 0, **changes: object) -> Worked:
    variant = replace(
        variants_of(axes(garments=GARMENTS))[0], garment=GARMENTS[garment], white=Choice(f"{cost}{changes}")
    )
    return Worked(variant, replace(outcome(cost), **changes))  # type: ignore[arg-type]


@pytest.mark.parametrize(
    ("others", "is_dominated"),
    [
        ([worked("0.4")], True),
        ([worked("0.5")], False),
        ([worked("0.4", garment=1)], False),
        ([worked("0.4", print_s=61.0)], False),
        ([worked("0.4", hand_g_m2=81.0)], False),
        ([worked("0.4", shifts=outcome("1", worst=3.4).shifts)], True),
        ([worked("0.4", shifts=outcome("1", worst=3.6).shifts)], False),
        ([worked("0.49999999")], False),
        ([worked("0.4", currency="CHF")], False),
        ([worked("0.6"), worked("0.7")], False),
    ],
)
def test_dominated_is_what_is_dearer_and_better_in_nothing(others, is_dominated):
    found = [worked("0.5"), *others]
    assert dominated(found)[0] == is_dominated
