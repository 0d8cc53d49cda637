"""What is decorated is called as the goods are, wherever it is spoken of: findings, card, cost, tally, quote, page."""

import re
from dataclasses import replace

import numpy as np
import pytest
from tests.conftest import artwork, badge

from swaddon.core.engine import Cache, Run
from swaddon.core.order.lines import Goods
from swaddon.core.plan.stages import make_plan
from swaddon.core.press.processes import PROCESSES
from swaddon.core.press.wares import ware_of
from swaddon.io import profiles
from swaddon.io.png import png_chunks
from swaddon.session.costs import costed_plan
from swaddon.session.job import ArtworkFile, Job, first_settings
from swaddon.session.readout import plan_table
from swaddon.session.report_page import report_page
from swaddon.session.run_cards import card_of
from swaddon.session.shop import book
from swaddon.session.tally import tally_lines

GOODS = (
    ("film", "Black cap", "shirt", "cap"), ("film", "Navy hoodies", "shirt", "hoodie"), ("direct", "", "tote", "tote"),
    ("film", "Black tee", "shirt", "shirt"), ("film", "Tea towel, red", "panel", "towel"),
    ("toner-onepass", "", "tag", "tag"), ("decal", "", "tin", "tin"), ("decal", "Pedal cars", "panel", "car"),
    ("decal", "Black tee", "panel", "item"), ("film", "Glass bead lamp", "shirt", "shirt"),
)  # fmt: skip


def job(process: str, name: str, shape: str) -> Job:
    press = profiles.shipped(profiles.presses(process)[0].name)
    press = profiles.parse(press.source.replace("plan_ppi = 300", "plan_ppi = 100"), f"{press.name}.toml")
    art = badge(120)
    settings = replace(first_settings(press), width_mm=60.0, garment=(27, 27, 31), quantity=12)
    file = ArtworkFile(artwork(art), b"".join(png_chunks(art, 100)))
    return Job("Twelve", file, settings, press, cloth=shape, goods=Goods(name))


@pytest.mark.parametrize(("process", "name", "shape", "piece"), GOODS)
def test_goods_are_called_by_their_name_their_shape_or_as_the_process_has_them(process, name, shape, piece):
    found = ware_of(PROCESSES[process], name, shape)
    assert found.piece == piece
    assert found.is_cloth == (process != "decal")
    assert found.item == ("garment" if piece in ("shirt", "hoodie") else piece)


@pytest.mark.parametrize(("process", "name", "shape", "piece"), [GOODS[0], GOODS[2], GOODS[5], GOODS[6], GOODS[7]])
def test_no_word_of_shirts_is_left_where_the_goods_are_something_else(process, name, shape, piece):
    made = job(process, name, shape)
    plan = make_plan(made.request(), Run(Cache()))
    card = card_of(made, plan)
    costing = costed_plan(plan, book(), made.goods.name, 12).costing
    told = [
        *(item.text for item in plan.findings),
        *(step.text for step in card.steps),
        *(line for part in costing.parts for line in (part.title, *part.formula)),
        *(line for item in tally_lines(plan, None, book(), made.goods.name) for line in (item.title, *item.arithmetic)),
        plan_table(plan),
        card.placing.words(),
        re.sub(r'"data:[^"]*"|<style>.*?</style>', "", report_page(plan, Run(Cache())), flags=re.DOTALL),
    ]
    words = "\n".join(told).replace(made.profile.title, "").lower()
    for stranger in ("shirt", "garment", "collar"):
        lines = [line for line in words.splitlines() if stranger in line]
        assert not lines, lines[:3]
    assert piece in words
    assert f"per {piece}" in words


def test_a_finding_of_a_tin_speaks_of_its_surface(make):
    art = np.zeros((200, 200, 4), np.uint8)
    art[20:180, 20:180] = (27, 27, 31, 255)
    art[60:140, 60:140] = (200, 30, 40, 255)
    made = job("decal", "Black tin", "tin")
    made = replace(made, file=ArtworkFile(artwork(art), b""))
    plan = make_plan(made.request(), Run(Cache()))
    texts = " ".join(item.text for item in plan.findings)
    assert "cloth" not in texts
    assert "tin" in texts
