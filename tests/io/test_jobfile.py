"""Job files: everything comes back, old files open, bad ones get a sentence."""

import errno
import io
import json
import os
import zipfile
from dataclasses import replace
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from swaddon.core.artwork.placement import Placement
from swaddon.core.errors import PlanError
from swaddon.core.holes.settings import HoleSettings, RegionRule, Screen
from swaddon.core.knockout.settings import AlphaTreatment, Keep, Knockout
from swaddon.core.order.lines import OrderLine
from swaddon.core.order.settings import PlanSettings
from swaddon.core.schema import document as settings_document
from swaddon.core.white.settings import DesignRule, FixedWhite, WhiteSettings
from swaddon.io import profiles
from swaddon.io.jobfile import StoredJob, read_job, write_job
from swaddon.session.job import Job
from swaddon.session.storage import open_job, save_job

RGB = st.tuples(*[st.integers(0, 255)] * 3)
SHARES = st.floats(0, 1)
POINTS = st.lists(st.tuples(st.floats(0, 9999), st.floats(0, 9999)), max_size=3).map(tuple)
SCREENS = st.builds(
    Screen, st.sampled_from(["round", "inverted", "line", "tile"]), st.floats(5, 300), st.floats(-360, 360),
    st.none() | SHARES, SHARES, st.text(max_size=9), st.floats(0.5, 500),
)  # fmt: skip
SETTINGS = st.builds(
    PlanSettings,
    width_mm=st.floats(1, 5000),
    garment=RGB,
    placement=st.builds(Placement, st.none() | st.tuples(*[st.integers(0, 9)] * 4), st.integers(0, 3)),
    drop_mm=st.floats(0, 1000),
    knockouts=st.lists(
        st.builds(
            Knockout, st.none() | RGB, st.floats(0, 100), st.sampled_from(["outside", "everywhere", "clicked"]),
            st.sampled_from(["soft", "hard"]), POINTS, st.booleans(),
        ),
        max_size=3,
    ).map(tuple),
    keeps=st.lists(st.builds(Keep, RGB, st.floats(0, 100), st.none() | st.just((1.5, 2.0))), max_size=2).map(tuple),
    alpha=st.none()
    | st.builds(
        AlphaTreatment, st.sampled_from(["keep", "hard", "screen"]), SHARES,
        st.builds(Screen, st.just("round"), st.floats(5, 300), st.floats(-360, 360)), SHARES,
    ),
    holes=st.builds(
        HoleSettings, st.none() | SCREENS,
        st.lists(st.builds(RegionRule, st.none() | SCREENS, POINTS, st.none() | RGB), max_size=2).map(tuple),
        st.floats(0, 50), st.booleans(), st.floats(1, 3), SHARES,
    ),
    white=st.builds(
        WhiteSettings, st.sampled_from(["none", "highlight", "need", "solid", "limit", "only"]), st.floats(0, 400),
        st.none() | st.booleans(), st.floats(0, 2),
        worst_case=st.booleans(), squeeze_mm=st.none() | st.floats(0, 2), screen_choke_mm=st.floats(0, 1),
        fixed=st.lists(st.builds(FixedWhite, RGB, SHARES, st.floats(0.5, 50)), max_size=2).map(tuple),
        design_rules=st.lists(st.builds(DesignRule, st.just((3.5, 4.0)), st.booleans()), max_size=2).map(tuple),
        hits=st.lists(SHARES, max_size=4).map(tuple), strengthen=st.booleans(), whole_sheet=st.booleans(),
    ),
    mirrored=st.none() | st.booleans(),
    quantity=st.integers(1, 1_000_000),
)  # fmt: skip


def stored(settings: PlanSettings = PlanSettings(), data: bytes | None = b"bytes") -> StoredJob:  # noqa: B008
    name = None if data is None else "a.png"
    return StoredJob(
        "Job “ä”", "Shop", "film", name, data, OrderLine(settings, "tote"), page=3, tiles=(("grit", b"png"),)
    )


@given(SETTINGS)
def test_every_job_comes_back_as_it_was_saved(tmp_path_factory, settings):
    path = tmp_path_factory.mktemp("job") / "a.swaddon"
    job = stored(settings)
    write_job(path, job)
    assert read_job(path) == job


def test_the_container_is_an_open_zip(tmp_path: Path):
    path = tmp_path / "a.swaddon"
    write_job(path, stored())
    with zipfile.ZipFile(path) as archive:
        assert archive.namelist() == ["mimetype", "job.json", "artwork/a.png", "tiles/0.png"]
        assert json.loads(archive.read("job.json"))["schema"] == "swaddon-job/4"


def with_json(change) -> bytes:
    buffer = io.BytesIO()
    document = {"schema": "swaddon-job/4", "name": "x", "profile": "film", "artwork": None}
    document["settings"] = settings_document(PlanSettings())
    change(document)
    with zipfile.ZipFile(buffer, "w") as archive:
        archive.writestr("job.json", json.dumps(document))
    return buffer.getvalue()


@pytest.mark.parametrize(
    ("data", "says"),
    [
        (b"", "not a Swaddon job"),
        (b"plain text", "not a Swaddon job"),
        (with_json(lambda d: d.update(schema="swaddon-job/9", page="x")), "newer Swaddon"),
        (with_json(lambda d: d["settings"].update(width_mm=-4)), "settings.width_mm"),
        (with_json(lambda d: d.update(artwork="../../etc/passwd")), "damaged"),
        (with_json(lambda d: d.update(surprise=1)), "surprise"),
    ],
)
def test_a_bad_job_file_gets_one_sentence(tmp_path: Path, data, says):
    path = tmp_path / "bad.swaddon"
    path.write_bytes(data)
    with pytest.raises(PlanError, match=says) as text:
        read_job(path)
    assert "bad.swaddon" in str(text.value)


def test_a_job_that_cannot_be_saved_keeps_the_old_file(tmp_path: Path, monkeypatch: pytest.MonkeyPatch):
    path = tmp_path / "a.swaddon"
    write_job(path, stored())
    before = path.read_bytes()

    def full(*_: object) -> None:
        raise OSError(errno.ENOSPC, "No space left on device")

    monkeypatch.setattr(os, "replace", full)
    with pytest.raises(PlanError, match="no space left"):
        write_job(path, replace(stored(), name="new"))
    assert path.read_bytes() == before
    assert list(tmp_path.iterdir()) == [path]


@pytest.mark.parametrize(("level", "alpha"), [(None, AlphaTreatment("keep")), (0.4, AlphaTreatment("hard", 0.4))])
def test_a_job_of_the_first_version_opens(tmp_path: Path, level, alpha):
    """As version 1 wrote it: ``half_transparent`` instead of ``alpha``, no holes, no placement."""
    document = {
        "schema": "swaddon-job/1", "name": "Old", "customer": "", "cloth": "shirt", "profile": "film", "artwork": None,
        "settings": {
            "width_mm": 250.0, "garment": "#1b1b1f", "half_transparent": level, "mirrored": None, "quantity": 4,
            "knockouts": [{"colour": "#ffffff", "tolerance": 8.0, "reach": "outside", "edge": "soft"}],
            "white": {"mode": "solid", "limit": 280.0, "design": True, "choke_mm": 0.25},
        },
    }  # fmt: skip
    path = tmp_path / "old.swaddon"
    with zipfile.ZipFile(path, "w") as archive:
        archive.writestr("job.json", json.dumps(document))
    opened = read_job(path).line.settings
    assert opened == PlanSettings(
        knockouts=(Knockout((255, 255, 255), 8.0),), alpha=alpha, quantity=4, garment=(27, 27, 31),
        white=WhiteSettings(design=True),
    )  # fmt: skip


def test_what_a_newer_version_wrote_is_kept_and_told(tmp_path: Path):
    """Unknown fields at every depth are read over, and stand in the file again when the job is saved."""

    def newer(document) -> None:
        document.update(schema="swaddon-job/7", sheets=[1, 2])
        document["settings"]["gloss"] = {"share": 0.4}
        document["settings"]["white"]["flake"] = 3

    path = tmp_path / "newer.swaddon"
    path.write_bytes(with_json(newer))
    job = open_job(path)
    assert "newer Swaddon" in job.notices[0]
    for name in ("sheets", "settings.gloss", "settings.white.flake"):
        assert name in job.notices[0]
    save_job(path, replace(job, name="Changed"))
    with zipfile.ZipFile(path) as archive:
        document = json.loads(archive.read("job.json"))
    assert (document["schema"], document["name"], document["sheets"]) == ("swaddon-job/7", "Changed", [1, 2])
    assert document["settings"]["gloss"] == {"share": 0.4}
    assert document["settings"]["white"]["flake"] == 3


def test_a_job_keeps_the_press_profile_that_it_was_planned_with(tmp_path: Path):
    """A shop's own profile travels with the job; one that the shop has changed since is told."""
    own = profiles.shipped("film").source.replace('name = "film"', 'name = "attic"').replace("W = 27.0", "W = 21.0")
    path = tmp_path / "own.swaddon"
    save_job(path, Job(profile=profiles.parse(own, "attic.toml")))
    opened = open_job(path)
    assert opened.profile is not None
    assert opened.profile.lay_down_per_m2["W"] == 21.0
    assert not opened.notices
    changed = profiles.shipped("film").source.replace("W = 27.0", "W = 19.0")
    save_job(path, Job(profile=profiles.parse(changed, "film.toml")))
    assert "is another by now" in open_job(path).notices[0]
    save_job(path, Job(profile=profiles.shipped("film")))
    assert not open_job(path).notices


def test_a_job_of_the_second_version_takes_the_profile_of_its_name(tmp_path: Path):
    path = tmp_path / "second.swaddon"
    path.write_bytes(with_json(lambda document: document.update(schema="swaddon-job/2", profile="direct")))
    assert open_job(path).profile == profiles.shipped("direct")


def test_a_press_profile_in_a_job_that_is_wrong_gets_one_sentence(tmp_path: Path):
    path = tmp_path / "wrong.swaddon"
    path.write_bytes(with_json(lambda document: document.update(press="plan_ppi = 3")))
    with pytest.raises(PlanError, match="press profile film has a wrong value"):
        open_job(path)


def test_a_hostile_newer_file_fills_no_screen(tmp_path: Path):
    path = tmp_path / "noisy.swaddon"
    path.write_bytes(
        with_json(lambda d: d.update({f"{n}\n" + "x" * 9000: n for n in range(400)}, schema="swaddon-job/9"))
    )
    (text,) = open_job(path).notices
    assert len(text) < 600
    assert "\n" not in text
    assert "396 more" in text
