"""Sheets of jobs: laid, moved by hand, used for cost and time, and kept with the job."""

import threading
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
from PIL import Image
from tests.conftest import artwork, badge, coarse

from swaddon.core.engine import Cache, Run, Superseded
from swaddon.core.errors import PlanError
from swaddon.core.order.lines import Goods, OrderLine
from swaddon.core.order.settings import PlanSettings
from swaddon.core.plan.stages import make_plan
from swaddon.core.sheet.by_hand import Hands, is_clear
from swaddon.core.sheet.settings import DraggedPoint, SheetSettings
from swaddon.core.white.settings import WhiteSettings
from swaddon.io import profiles
from swaddon.io.media import medium_named, shipped_media
from swaddon.io.png import png_chunks
from swaddon.session import sheet_edits
from swaddon.session.costs import costed_job
from swaddon.session.job import ArtworkFile, Job
from swaddon.session.memory import BYTES_PER_PX, memory_words
from swaddon.session.sheet_files import write_sheets
from swaddon.session.sheet_parts import job_of, parts_of
from swaddon.session.sheet_prints import PrintMaker, Wanted
from swaddon.session.sheets import by_hand, lay, placed_of, print_times, shares, sheet_report, taken
from swaddon.session.shop import book
from swaddon.session.storage import open_job, save_job

MEDIA = {medium.name: medium for medium in shipped_media()}


def job(width_mm: float = 40.0, quantity: int = 3, press: str = "film", **settings: object) -> Job:
    data = b"".join(png_chunks(badge(), 300))
    values = {"width_mm": width_mm, "quantity": quantity} | settings
    profile = profiles.shipped(press)
    return Job("Badge", ArtworkFile(artwork(badge()), data), PlanSettings(**values), profile)


def run() -> Run:
    return Run(Cache(1))


@pytest.fixture(scope="module")
def maker(compiled) -> PrintMaker:
    return PrintMaker()


def test_every_line_lies_on_the_sheet_as_often_as_it_is_ordered(maker):
    base = job()
    lines = (base.line, OrderLine(replace(base.settings, garment=(230, 230, 230), quantity=2), goods=Goods(size="M")))
    order = base.of_lines(lines, 0)
    plan = lay(
        [Wanted("a", order), Wanted("b", job(25.0), copies=4)], MEDIA["roll-600"], SheetSettings(), run(), maker, 5
    )
    report = sheet_report(plan)
    prints = report["sheets"][0]["prints"]
    counts = {key: sum((item["job"], item["line"]) == key for item in prints) for key in (("a", 1), ("a", 2), ("b", 1))}
    assert counts == {("a", 1): 3, ("a", 2): 2, ("b", 1): 4}
    assert sum(report["film_share"].values()) == pytest.approx(1, abs=1e-6)
    assert sum(report["film_of_job_mm2"].values()) == pytest.approx(report["film_mm2"], rel=1e-6)
    assert report["film_mm2"] == pytest.approx(600 * report["sheets"][0]["used_length_mm"], rel=1e-5)


def test_the_cost_of_a_job_is_that_of_the_sheet_once_it_is_used(maker):
    """Film of all pieces is the sheet's; what is round the print stays; another size is reckoned alone again."""
    order = job(quantity=5)
    plan = lay([Wanted("a", order, uid=4)], MEDIA["roll-600"], SheetSettings(), run(), maker, 5)
    used = taken(4, shares(plan)).made(order)
    before, after = (costed_job(item, book(), run())[0] for item in (order, used))
    film = {part.kind: part for part in after.costing.parts}["film"]
    assert film.amount * 5 == pytest.approx(plan.gang.film_mm2 / 1e6, rel=1e-3)
    assert "Film roll 600" in film.formula[0]
    assert after.costing.cost_of("white") == before.costing.cost_of("white")
    assert after.used.print_s < before.used.print_s
    assert make_plan(used.request()).time.print_s == pytest.approx(after.used.print_s)
    larger = replace(used, settings=replace(used.settings, width_mm=50.0))
    alone = replace(larger, settings=replace(larger.settings, sheet_share=None))
    assert costed_job(larger, book(), run())[0].costing.total == costed_job(alone, book(), run())[0].costing.total


def test_the_time_of_all_pieces_is_that_of_their_sheets(maker):
    """Unevenly filled sheets: the last one holds fewer prints, each of which bears more of it."""
    one, other = job(90.0, 7), job(50.0, 2)
    plan = lay([Wanted("a", one, uid=1), Wanted("b", other, uid=2)], MEDIA["film-a4"], SheetSettings(), run(), maker, 3)
    assert plan.gang.sheets > 1
    found = shares(plan)
    spent = sum(
        found[uid, 0].time_ratio * item.made.alone_s * item.copies for uid, item in zip((1, 2), plan.laid, strict=True)
    )
    assert spent == pytest.approx(sum(print_times(plan)), rel=1e-3)


def test_sheets_of_toner_are_shared_by_area(maker):
    order = job(60.0, 6, "toner-onepass")
    plan = lay([Wanted("a", order, uid=1)], MEDIA["a3"], SheetSettings(), run(), maker, 5)
    share = shares(plan)[1, 0]
    assert plan.gang.sheets == 1
    assert share.sheets * 6 == pytest.approx(1, abs=1e-4)


def test_a_print_moved_by_hand_snaps_never_overlaps_and_is_kept(maker, tmp_path: Path):
    order = job(quantity=4)
    wanted = [Wanted("Badge", order)]
    plan = lay(wanted, MEDIA["roll-330"], SheetSettings(), run(), maker, 5)
    spot = plan.gang.spots[-1]
    for x, y in ((0, 0), (900, 40), (3000, 10), (-50, 5000), (spot.x_px + 7, spot.y_px + 3)):
        made = Hands(plan.gang).moved(spot, x, y)
        assert made is not None
        assert is_clear(made[0])
    gang, moved = Hands(plan.gang).moved(spot, 2000, 900)
    kept = sheet_edits.place(placed_of(plan, gang)).made(order)
    save_job(tmp_path / "o.swaddon", kept)
    opened = open_job(tmp_path / "o.swaddon")
    assert opened.sheet == kept.sheet
    again = by_hand(plan.laid, MEDIA["roll-330"], opened.sheet)
    assert moved in again.gang.spots
    assert again.gang.lengths_px == gang.lengths_px


def test_what_was_put_by_hand_is_laid_anew_where_it_cannot_hold(maker):
    order = job(quantity=3)
    wanted = [Wanted("Badge", order)]
    plan = lay(wanted, MEDIA["roll-330"], SheetSettings(), run(), maker, 5)
    placed = placed_of(plan, plan.gang)
    assert by_hand(plan.laid, MEDIA["roll-330"], SheetSettings(placed=placed)) is not None
    for spoilt in (
        placed[:-1],
        (*placed[:-1], replace(placed[-1], x_px=placed[0].x_px, y_px=placed[0].y_px)),
        (*placed[:-1], replace(placed[-1], x_px=90_000)),
        (*placed[:-1], replace(placed[-1], job="Other")),
        (*placed[:-1], replace(placed[-1], turn=45)),
        (*placed[:-1], replace(placed[-1], sheet=1999)),
    ):
        assert by_hand(plan.laid, MEDIA["roll-330"], SheetSettings(placed=spoilt)) is None
    changed = sheet_edits.change_sheet(spacing_mm=9.0).made(replace(order, sheet=SheetSettings(placed=placed)))
    assert not changed.sheet.placed


def test_prints_that_need_other_whites_get_sheets_of_their_own(maker):
    """Hits of white are set once for a whole sheet."""
    two = job(white=WhiteSettings(hits=(1.0, 0.5)))
    plan = lay([Wanted("a", job()), Wanted("b", two)], MEDIA["roll-600"], SheetSettings(), run(), maker, 3)
    assert plan.gang.sheets == 2
    assert len(set(plan.gang.groups)) == 2


def test_a_job_of_another_press_is_refused_by_name(maker):
    with pytest.raises(PlanError, match=r"“tote.png” is printed on .*“a”"):
        lay(
            [Wanted("a", job()), Wanted("tote.png", job(press="direct"))],
            MEDIA["roll-600"],
            SheetSettings(),
            run(),
            maker,
        )


def test_the_same_press_at_another_resolution_is_refused_and_searched_for_no_place(maker):
    """A job of before the shop changed its profile: its print was looked a place for, for ever."""
    older = replace(job(), profile=coarse("film"))
    with pytest.raises(PlanError, match="“old” is planned at 100 ppi, “new” at 300"):
        lay([Wanted("new", job()), Wanted("old", older)], MEDIA["roll-600"], SheetSettings(), run(), maker)


@pytest.mark.parametrize(
    ("settings", "medium", "sheet", "code"),
    [
        ({"mirrored": False}, "roll-600", {}, "sheet-mirrored"),
        ({"white": WhiteSettings(mode="none", design=False)}, "roll-600", {}, "sheet-white"),
        ({}, "roll-600", {"spacing_mm": 2.0}, "sheet-spacing"),
    ],
)
def test_what_is_wrong_with_a_sheet_is_found(maker, settings, medium, sheet, code):
    wanted = [Wanted("a", job(**settings))]
    plan = lay(wanted, MEDIA[medium], SheetSettings(**sheet), run(), maker, 2)
    assert code in [item.code for item in plan.findings]
    fine = lay([Wanted("a", job())], MEDIA["roll-600"], SheetSettings(), run(), maker, 2)
    assert code not in [item.code for item in fine.findings]


def test_more_film_than_is_left_and_prints_over_the_edge_are_found(maker):
    short = replace(MEDIA["roll-330"], left_mm=40.0)
    plan = lay([Wanted("a", job(quantity=9))], short, SheetSettings(), run(), maker, 2)
    found = {item.code: item for item in plan.findings}
    assert found["sheet-film-left"].severity == "stop"
    assert found["sheet-film-left"].size == pytest.approx(sum(plan.gang.used_mm) - 40, abs=0.01)
    spot = plan.gang.spots[0]
    over = replace(plan, gang=plan.gang.moved(spot, replace(spot, x_px=-12)))
    assert "sheet-over-edge" in [item.code for item in over.findings]


def test_a_stopped_export_leaves_nothing_and_an_old_one_whole(maker, tmp_path: Path):
    plan = lay([Wanted("a", job())], MEDIA["film-a4"], SheetSettings(), run(), maker, 2)
    out = tmp_path / "out"
    write_sheets(plan, out, run(), ("png",))
    before = {path.name: path.read_bytes() for path in out.iterdir()}
    asked = threading.Event()

    def wanted() -> bool:
        return not asked.is_set()

    def progress(title: str, _share: float) -> None:
        if "PDF" in title:
            asked.set()

    with pytest.raises(Superseded):
        write_sheets(plan, out, Run(Cache(1), wanted, progress))
    assert {path.name: path.read_bytes() for path in out.iterdir()} == before


def test_seams_that_were_dragged_go_where_the_medium_changes():
    dragged = sheet_edits.drag_seam(DraggedPoint(0, 10.0, 20.0)).made(job())
    assert dragged.sheet.through() == (((10.0, 20.0),),)
    again = sheet_edits.drag_seam(DraggedPoint(0, 30.0, 20.0)).made(dragged)
    assert len(again.sheet.dragged) == 1
    assert not sheet_edits.change_sheet(medium="a3").made(again).sheet.dragged
    assert sheet_edits.change_sheet(spacing_mm=3.0).made(again).sheet.dragged


def test_prints_found_on_a_sheet_become_jobs_of_their_size():
    whole = np.zeros((700, 1000, 4), np.uint8)
    for x in (10, 350, 690):
        whole[20:320, x : x + 300] = badge()
    whole[400:600, 100:500] = (30, 90, 40, 255)
    parts = parts_of(artwork(whole), 100.0, 3.0)
    jobs = [job_of(parts, part, job()) for part in parts.kinds]
    assert [made.settings.quantity for made in jobs] == [3, 1]
    disc = np.flatnonzero(badge()[..., 3].any(axis=0))
    width_px = disc[-1] - disc[0] + 1
    assert jobs[0].settings.width_mm == pytest.approx(width_px / 10, abs=0.01)
    assert jobs[1].file.artwork.rgba.shape == (200, 400, 4)
    assert make_plan(jobs[1].request()).measures.printed_px > 0


def test_a_large_plan_tells_its_memory_and_is_refused_where_there_is_too_little():
    small, large = job(40.0).request(), job(1100.0).request()
    assert memory_words(small, 1) == ""
    need = large.grid_size[0] * large.grid_size[1] * BYTES_PER_PX
    assert "of memory that are free" in memory_words(large, need + 1)
    with pytest.raises(PlanError, match="close other programs, print it smaller, or take its prints apart"):
        memory_words(large, need - 1)


def test_media_are_named_or_typed():
    assert medium_named("A4", shipped_media()).name == "a4"
    assert sheet_edits.medium_of(job(), shipped_media()).name == "roll-600"
    assert sheet_edits.medium_of(job(press="decal"), shipped_media()).name == "decal-a4"
    assert sheet_edits.plate_of(job(), shipped_media()).name == "plate-16x20"


@pytest.mark.parametrize(("press", "medium"), [("film", "roll-600"), ("film", "roll-330"), ("toner-twopass", "a4")])
def test_used_length_and_margins_are_those_of_the_files_to_the_pixel(maker, tmp_path, press, medium):
    """640.2 pixels were told where the file had 642."""
    plan = lay(
        [Wanted("a", job(40.3, 5, press)), Wanted("b", job(33.7, 3, press))],
        MEDIA[medium],
        SheetSettings(),
        run(),
        maker,
        5,
    )
    report = write_sheets(plan, tmp_path / "out", run(), ("png",))
    (sheet,) = report["sheets"]
    planes = [np.asarray(Image.open(tmp_path / "out" / name)) for name in sheet["files"]]
    inked = np.max(planes, axis=0) > 0
    rows, columns, px = np.flatnonzero(inked.any(axis=1)), np.flatnonzero(inked.any(axis=0)), report["ppi"] / 25.4
    if MEDIA[medium].is_roll:
        assert sheet["length_mm"] * px == pytest.approx(inked.shape[0], abs=0.02)
    left, top, right, bottom = (side * px for side in report["medium"]["margin_mm"])
    assert rows[0] == pytest.approx(top, abs=1)
    assert sheet["used_length_mm"] * px - bottom >= rows[-1] + 1 - 1.5
    assert columns[0] >= left - 0.5
    assert inked.shape[1] - 1 - columns[-1] >= right - 0.5 - 0.5
    spots = sheet["prints"]
    assert report["seen_from"] == "printed side"
    first = min(spots, key=lambda item: (item["y_mm"], item["x_mm"]))
    assert first["x_mm"] * px <= columns[0] + 1.5
