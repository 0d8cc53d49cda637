"""A setting is declared once: document, check at the door and slider follow from the declaration."""

import math
from dataclasses import dataclass, field
from typing import Annotated, Literal

import numpy as np
import pytest
from annotated_types import Ge, Le
from pydantic import ValidationError
from tests.settings_at_random import settings

from swaddon.core.colour.spaces import Rgb
from swaddon.core.holes.settings import Screen
from swaddon.core.inks.settings import IccChoice
from swaddon.core.order.settings import PlanSettings
from swaddon.core.schema import Named, Option, Share, Slider, changed, declared, document, flat, named, options
from swaddon.core.white.settings import WhiteSettings
from swaddon.io.settings_file import model_of, value_of
from swaddon.session.parse import setting


@dataclass(frozen=True)
class Varnish:
    """Invented settings with a new field of every kind."""

    gloss: Annotated[Share, Slider("Gloss", "%", 0.05, "Change the gloss", times=100)] = 0.5
    tint: Rgb | None = None
    at: tuple[tuple[float, float], ...] = ()
    screen: Screen = field(default_factory=Screen, metadata=flat(lpi="lpi"))
    layers: Annotated[int, Ge(1), Le(3)] = 1


def test_a_new_setting_is_one_declaration():
    text = document(Varnish(0.25, (255, 0, 16), ((1.0, 2.0),), Screen(lpi=40)))
    assert text == {"gloss": 0.25, "tint": "#ff0010", "at": [[1.0, 2.0]], "lpi": 40, "layers": 1}
    assert value_of(Varnish, model_of(Varnish).model_validate(text)) == Varnish(
        0.25, (255, 0, 16), ((1.0, 2.0),), Screen(lpi=40)
    )
    slider = declared(Varnish, "gloss")
    assert (slider.span, slider.slider.title, slider.slider.times) == ((0, 1), "Gloss", 100)
    assert value_of(Varnish, model_of(Varnish).model_validate({})) == Varnish()


@pytest.mark.parametrize(
    ("wrong", "place"),
    [({"gloss": 1.5}, "gloss"), ({"layers": 0}, "layers"), ({"tint": "red"}, "tint"), ({"lpi": 1}, "lpi"),
     ({"at": [[1]]}, "at"), ({"shine": 1}, "shine")],
)  # fmt: skip
def test_what_is_out_of_its_declaration_is_refused_by_name(wrong, place):
    with pytest.raises(ValidationError) as refused:
        model_of(Varnish).model_validate(wrong)
    assert refused.value.errors()[0]["loc"][0] == place


@pytest.mark.parametrize("seed", range(20))
def test_settings_come_back_from_their_document_as_they_were(seed):
    chosen = settings(np.random.default_rng(seed))
    assert value_of(PlanSettings, model_of(PlanSettings).model_validate(document(chosen))) == chosen


def test_numbers_without_a_slider_say_so():
    with pytest.raises(TypeError, match="declares no slider"):
        declared(Varnish, "layers")
    assert declared(WhiteSettings, "choke_mm").span == (0, 1)
    assert declared(WhiteSettings, "registration_mm").most == 2


@dataclass(frozen=True)
class Press:
    """Invented settings that hold others, and that a command line takes."""

    varnish: Varnish = field(default_factory=Varnish)
    sheen: Annotated[
        Literal["matt", "silk"], Named("Sheen", "Change the sheen", (("matt", "Matt"), ("silk", "Silk")))
    ] = "matt"
    rim_mm: Annotated[float, Ge(0), Le(9), Slider("Rim", "mm", 0.1, "Move the rim"), Option("--rim", "The rim.")] = 1.0
    proud: Annotated[bool, Named("Proud", "Change pride"), Option("--proud/--humble", "Pride.")] | None = None


def test_options_words_and_changes_follow_from_the_declaration():
    found = {entry.path: entry for entry in options(Press)}
    assert {path: (entry.kind, entry.unit, entry.least, entry.most) for path, entry in found.items()} == {
        "rim_mm": (float, "mm", 0, 9),
        "proud": (bool, "", -math.inf, math.inf),
    }
    assert setting("3 mm", found["rim_mm"]) == 3
    with pytest.raises(ValueError, match="--rim 10mm is outside 0 to 9 mm"):
        setting("10mm", found["rim_mm"])
    assert named(Press, "varnish.gloss").change == "Change the gloss"
    assert named(Press, "sheen").choices[1] == ("silk", "Silk")
    assert changed(Press(), "varnish.layers", 2).varnish.layers == 2
    with pytest.raises(TypeError, match="declares no name"):
        named(Press, "varnish.layers")


def test_every_option_of_the_settings_moves_its_setting():
    for entry in options(PlanSettings):
        given = {bool: True, int: "2", float: "0.5mm" if entry.unit == "mm" else "0.5", str: (entry.words or ("",))[-1]}
        value = setting(given[entry.kind], entry)
        start = PlanSettings(icc=IccChoice("press.icc", "0"))
        assert changed(start, entry.path, value) != changed(start, entry.path, None), entry.path
