"""Commands plan on the shop's own press, as the bench does; a job on the one that it keeps."""

import json
from dataclasses import replace
from decimal import Decimal

import pytest
from PIL import Image
from tests.acceptance.test_command_line import run
from tests.conftest import badge

from swaddon.core.errors import PlanError
from swaddon.io import profiles
from swaddon.session import shop


@pytest.fixture
def dearer():
    """A shop whose white ink costs ten times as much as the shipped price."""

    def raise_price() -> None:
        book = shop.book()
        dear = [replace(row, pack_price=row.pack_price * (10 if row.item == "white ink" else 1)) for row in book.prices]
        assert tuple(dear) != book.prices
        shop.keep_book(replace(book, prices=tuple(dear)))

    return raise_price


def cost(capsys, *arguments: str) -> Decimal:
    code, out, err = run(*arguments, capsys=capsys)
    assert code == 0, err
    return Decimal(json.loads(out)["cost"]["materials"])


def test_the_shops_prices_count_at_the_command_line_and_a_job_keeps_its_own(tmp_path, capsys, dearer):
    Image.fromarray(badge(120)).save(tmp_path / "a.png")
    plain = ("plan", str(tmp_path / "a.png"), "--width", "20mm", "--json")
    job = str(tmp_path / "j.swaddon")
    before = cost(capsys, *plain, "--save-job", job)
    dearer()
    after = cost(capsys, *plain)
    assert after > 2 * before
    assert cost(capsys, *plain, "--process", "film") == cost(capsys, *plain, "--profile", "film") == after
    code, out, _ = run("variants", str(tmp_path / "a.png"), "--width", "20mm", "--json", capsys=capsys)
    assert code == 0
    (only,) = json.loads(out)
    assert Decimal(only["cost"]) == pytest.approx(after, abs=Decimal("1e-4"))
    assert cost(capsys, "plan", "--job", job, "--json") == before
    assert cost(capsys, "plan", "--job", job, "--profile", "film", "--json") == after


def test_a_document_names_a_press_and_never_a_file():
    with pytest.raises(PlanError, match="is not known here"):
        shop.named("/etc/passwd")
    assert shop.named("film") == profiles.shipped("film") == shop.press_of("film")
