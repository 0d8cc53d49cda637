"""The page about a plan, read as a browser would: whole in one file, with the plan's own numbers in it."""

import base64
import re
from dataclasses import replace
from html.parser import HTMLParser

import cv2
import numpy as np
import pytest
from tests.conftest import artwork, badge

from swaddon.core.engine import Cache, Run
from swaddon.core.errors import PlanError
from swaddon.core.order.settings import PlanSettings
from swaddon.core.plan.stages import make_plan
from swaddon.core.white.settings import WhiteSettings
from swaddon.io import profiles
from swaddon.session.job import request_for
from swaddon.session.report_page import report_page, write_report_page

NAVY = (31, 41, 68)


class Page(HTMLParser):
    """Texts, pictures and every address that a browser would fetch."""

    def __init__(self, page: str) -> None:
        super().__init__()
        self.text, self.pictures, self.fetched, self.lines = "", {}, [], 0
        self.feed(page)

    def handle_data(self, data: str) -> None:
        self.text += data + " "

    def handle_starttag(self, tag: str, attrs: list[tuple[str, str | None]]) -> None:
        values = dict(attrs)
        source = values.get("src") or values.get("href") or ""
        if tag == "img" and source.startswith("data:image/png;base64,"):
            data = np.frombuffer(base64.b64decode(source.partition(",")[2]), np.uint8)
            self.pictures[values["alt"]] = cv2.imdecode(data, cv2.IMREAD_COLOR)
        elif source:
            self.fetched.append(source)
        self.lines += tag == "polyline"


def planned(name: str = "badge.png", **white):
    settings = PlanSettings(width_mm=25.4, garment=NAVY, white=WhiteSettings(**white))
    picture = badge(300)
    picture[picture[..., 1] > 200, :3] = (250, 200, 40)  # the ring: gold, so that its white lies under colour
    art = replace(artwork(picture), file_name=name)
    return make_plan(request_for(art, settings, profiles.shipped("film")), Run(Cache()))


@pytest.fixture(scope="module")
def by_need(compiled):
    return planned(mode="need", allowed_shift=3.0, choke_mm=0.2)


def test_the_page_holds_pictures_curves_and_numbers_and_fetches_nothing(by_need):
    page = Page(report_page(by_need, Run(Cache())))
    assert set(page.pictures) == {"The print on the garment", "The white", "Trouble"}
    assert not page.fetched
    assert page.lines == 4  # harm, peeking, bare rim; white by shift
    assert f"a choke of {by_need.choke.recommended_mm:.2f} mm does the least harm" in page.text
    assert f"{1 - by_need.checks.white.of_solid:.0%} less than everywhere" in page.text
    assert by_need.advice.reason in page.text
    for item in by_need.advice.colours:
        errors = (item.bare, item.strengthened, item.highlights, item.by_need, item.solid)
        assert f"{item.share:.0%}" + "".join(f"{error:.1f}" for error in errors) in page.text.replace(" ", "")
    for finding in by_need.findings:
        assert finding.text in page.text


def test_the_first_picture_is_the_print_on_its_garment(by_need):
    picture = Page(report_page(by_need, Run(Cache()))).pictures["The print on the garment"]
    corner = picture[:20, :20].reshape(-1, 3).mean(axis=0)[::-1]
    np.testing.assert_allclose(corner, NAVY, atol=14)
    assert max(picture.shape) == 1000


@pytest.mark.parametrize(
    ("mode", "lines", "says"),
    [
        ("none", 0, "nothing to choke"), ("solid", 3, "all colours (solid)"), ("only", 0, "printed in white alone"),
        ("limit", 3, "up to 280 % ink in all"), ("highlight", 0, "under the lightest colours only"),
    ],
)  # fmt: skip
def test_each_way_of_white_says_what_there_is(compiled, mode, lines, says):
    page = Page(report_page(planned(mode=mode), Run(Cache())))
    assert page.lines == lines
    assert says in page.text


def test_a_hostile_name_stays_text(compiled):
    page = report_page(planned("<script>alert(1)</script>.png"), Run(Cache()))
    assert "<script" not in page
    assert "&lt;script&gt;" in page


def test_a_page_is_written_whole_or_not_at_all(by_need, tmp_path):
    target = tmp_path / "new" / "page.html"
    write_report_page(by_need, target, Run(Cache()))
    assert re.search("</html>\\s*$", target.read_text(encoding="utf-8"))
    assert [path.name for path in target.parent.iterdir()] == ["page.html"]
    (tmp_path / "file").write_text("x")
    with pytest.raises(PlanError, match="could not be written"):
        write_report_page(by_need, tmp_path / "file" / "page.html", Run(Cache()))
