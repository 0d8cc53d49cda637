"""The open job: undo, redo, merging, what changed; the worker; the tally; what a person types."""

import threading
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st
from PIL import Image
from tests import kept
from tests.conftest import badge

from swaddon.core.engine import Run, Superseded
from swaddon.core.errors import PlanError
from swaddon.core.knockout.settings import AlphaTreatment, Knockout
from swaddon.core.plan.stages import make_plan
from swaddon.core.white.settings import WhiteSettings
from swaddon.io import profiles
from swaddon.session import demo, edits, parse, storage
from swaddon.session.job import Job
from swaddon.session.preferences import Preferences, load_preferences, save_preferences
from swaddon.session.session import Changes, Edit, Session
from swaddon.session.tally import tally_lines
from swaddon.session.worker import NewestTold, NewestWins

STEPS = st.lists(
    st.one_of(
        st.floats(10, 400).map(edits.set_width),
        st.tuples(*[st.integers(0, 255)] * 3).map(edits.set_garment),
        st.sampled_from(["none", "solid", "limit"]).map(lambda mode: edits.set_white("White", mode=mode)),
        st.just(edits.add_knockout(Knockout(None))),
    ),
    max_size=12,
)


@given(STEPS)
def test_undo_walks_back_to_the_identical_job_and_redo_forward(steps):
    session = Session()
    first = session.job
    for step in steps:
        session.apply(step)
        session.end_merge()
    last = session.job
    while session.undo_label is not None:
        session.undo()
    assert session.job == first
    while session.redo_label is not None:
        session.redo()
    assert session.job == last


def test_a_slider_drag_is_one_step():
    session = Session()
    for value in (0.1, 0.2, 0.3):
        session.apply(edits.set_white("Change choke", "choke", choke_mm=value))
    session.end_merge()
    session.apply(edits.set_white("Change choke", "choke", choke_mm=0.9))
    session.undo()
    assert session.job.settings.white.choke_mm == 0.3
    session.undo()
    assert session.job.settings.white.choke_mm == 0.25
    assert session.undo_label is None


def test_an_edit_that_fails_leaves_everything_as_it_was():
    session = Session()
    session.apply(edits.set_width(99))
    before = session.job

    def fail(_job: Job) -> Job:
        raise ValueError("no")

    with pytest.raises(ValueError, match="no"):
        session.apply(Edit("Fail", fail))
    assert session.job is before
    assert session.undo_label == "Change print width"


def test_listeners_are_told_what_changed_and_who_asked():
    session = Session()
    heard: list[Changes] = []
    session.changed.connect(lambda _job, changes: heard.append(changes))
    session.apply(edits.set_garment((1, 2, 3)), "order")
    assert not session.apply(edits.set_garment((1, 2, 3)), "order"), "no change, no step"
    assert heard == [Changes(frozenset({"settings", "garment"}), "order")]


def test_saving_clears_the_mark_of_change(tmp_path: Path, badge_file: Path):
    session = Session()
    session.apply(edits.place_artwork(storage.load_artwork(badge_file), profiles.shipped("film")))
    assert session.is_changed
    path = tmp_path / "a.swaddon"
    storage.save_job(path, session.job)
    session.mark_saved(path)
    assert not session.is_changed
    again = storage.open_job(path)
    assert again.settings == session.job.settings
    assert again.name == "badge"
    assert (again.file.artwork.rgba == badge()).all()


def test_first_artwork_is_printed_at_300_ppi_or_as_wide_as_the_device(tmp_path: Path):
    for width, expected in ((3000, 254.0), (9000, 580.0)):
        path = tmp_path / "a.png"
        Image.new("RGBA", (width, 60), (200, 0, 0, 255)).save(path)
        session = Session()
        session.apply(edits.place_artwork(storage.load_artwork(path), profiles.shipped("film")))
        assert session.job.settings.width_mm == expected


def test_the_newest_request_wins():
    started, release = threading.Event(), threading.Event()
    done: list[int] = []
    stopped: list[int] = []

    def work(request: int, is_wanted) -> None:
        started.set()
        release.wait(10)
        if not is_wanted():
            stopped.append(request)
            raise Superseded
        done.append(request)

    worker = NewestWins[int]("test", work, lambda _request, error: pytest.fail(str(error)))
    worker.submit(1)
    assert started.wait(10)
    worker.submit(2)
    worker.submit(3)
    release.set()
    waiting = threading.Event()
    while not worker.is_idle:
        waiting.wait(0.005)
    worker.stop()
    assert (done, stopped) == ([3], [1])


def test_of_news_that_comes_too_quickly_the_newest_is_told():
    """What waits is told once, with the last values; news after it was taken are posted again."""
    waiting, told = [], []
    tell = NewestTold(waiting.append, lambda title, share: told.append((title, share)))
    for share in (0.1, 0.5, 0.9):
        tell("Laying white", share=share)
    assert len(waiting) == 1
    waiting.pop()()
    assert told == [("Laying white", 0.9)]
    tell("", 1.0)
    waiting.pop()()
    assert told[1:] == [("", 1.0)]


def test_a_failure_in_the_background_is_handed_on():
    failed: list[str] = []
    happened = threading.Event()

    def note(_request: int, error: Exception) -> None:
        failed.append(str(error))
        happened.set()

    def work(_request: int, _is_wanted) -> None:
        raise PlanError("choose a smaller print width")

    worker = NewestWins[int]("test", work, note)
    worker.submit(1)
    assert happened.wait(10)
    worker.stop()
    assert failed == ["choose a smaller print width"]


@pytest.mark.parametrize("job", demo.DEMO_JOBS, ids=lambda job: job.key)
def test_demo_artwork_has_300_ppi_at_its_print_size(job):
    opened = job.open()
    assert opened.file.artwork.ppi_at(opened.settings.width_mm, opened.settings.placement) == pytest.approx(
        300, abs=0.5
    )


def test_the_demo_jobs_exercise_the_findings(compiled):
    plans = {job.key: make_plan(job.open().request(), Run(kept.plans())) for job in demo.DEMO_JOBS}
    found = {key: {finding.code for finding in plan.findings} for key, plan in plans.items()}
    assert "jpeg-background" in found["kettle"]
    assert "white-on-white" in found["choir"]
    assert "half-transparent" in found["lantern"]
    assert found["heron"] <= {"ink-on-match"}, "navy in the drawing comes near the hoodie"
    assert found["marble"] <= {"toner-push-through"}


def test_tally_lines_tell_their_sum_and_their_change(make):
    plan = make(badge())
    lean = make(badge(), white=WhiteSettings("limit", 100))
    lines = {line.key: line for line in tally_lines(lean, plan)}
    assert list(lines) == ["white", "colour", "film", "powder", "cost", "time", "rate", "hand"]
    assert lines["white"].sense == "better"
    assert lines["white"].delta.startswith("−")
    assert lines["colour"].delta == "± 0"
    assert lines["film"].arithmetic[1].startswith("+ 25% waste")
    assert lines["cost"].arithmetic[-1] == f"= {lean.cost} EUR per shirt"
    assert all(line.delta == "" for line in tally_lines(plan, None))


def test_preferences_survive_a_broken_file(tmp_path, monkeypatch):
    monkeypatch.setenv("SWADDON_CONFIG", str(tmp_path))
    save_preferences(Preferences("light", True).with_recent(Path("b")).with_recent(Path("a")).with_recent(Path("b")))
    assert load_preferences() == Preferences("light", True, ("b", "a"))
    (tmp_path / "preferences.json").write_text("[broken")
    assert load_preferences() == Preferences("light", True, ("b", "a")), "as they were when they were last good"


@pytest.mark.parametrize(
    ("text", "expected"),
    [("250", 250), ("250mm", 250), ("10 in", 254), ('10"', 254), ("25,4 cm", 254), ("0.5IN", 12.7)],
)
def test_lengths_are_read_with_their_unit(text, expected):
    """1 in = 25.4 mm exactly."""
    assert parse.length_mm(text, "Width", 1, 5000) == pytest.approx(expected)


@pytest.mark.parametrize("text", ["", "ten", "-5mm", "5 px", "nan", "1e3", "6000", "250mm extra"])
def test_wrong_lengths_are_refused(text):
    with pytest.raises(ValueError, match=r"not a length|outside"):
        parse.length_mm(text, "Width", 1, 5000)


@pytest.mark.parametrize(
    ("text", "expected"),
    [("0.25", 0.25), ("3px@300", 0.254), ("3 px", 0.254), ("7 px at 720 ppi", 7 * 25.4 / 720), ("0,01 in", 0.254)],
)
def test_a_choke_is_read_in_pixels_of_a_resolution_too(text, expected):
    """3 px at 300 ppi are 0.254 mm."""
    assert parse.small_length_mm(text, "--choke", 0, 2, ppi=300) == pytest.approx(expected, abs=1e-6)


@pytest.mark.parametrize(
    ("text", "says"), [("3px", "say its ppi"), ("90px@300", "outside"), ("3px@1", "ppi"), ("px", "not a length")]
)
def test_pixels_without_a_size_are_refused(text, says):
    with pytest.raises(ValueError, match=says):
        parse.small_length_mm(text, "--choke", 0, 2)


@pytest.mark.parametrize("text", ["", "outside", "outside:#fff:8", "near:#ffffff:8", "outside:#ffffff:x", "a:b:c:d:e",
                                  "outside:#ffffff:101", "outside:#ffffff:8:round"])  # fmt: skip
def test_wrong_knockouts_are_refused(text):
    with pytest.raises(ValueError, match="--knockout"):
        parse.knockout(text)


def test_knockouts_white_and_alpha_are_read():
    assert parse.knockout("everywhere:garment:6:hard") == Knockout(None, 6, "everywhere", "hard")
    assert parse.white("limit:170") == {"mode": "limit", "limit": 170}
    assert parse.white("need:2.5") == {"mode": "need", "allowed_shift": 2.5}
    assert parse.alpha("hard:0.4") == AlphaTreatment("hard", 0.4)
    assert parse.alpha("keep") == AlphaTreatment("keep")
    for read, wrong in (
        (parse.white, "limit:500"),
        (parse.white, "some"),
        (parse.white, "need:99"),
        (parse.alpha, "hard:0"),
    ):
        with pytest.raises(ValueError, match="is not"):
            read(wrong)
