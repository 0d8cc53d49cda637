"""Files, devices and folders that mean no good: one sentence, quickly, and nothing half written."""

import json
import os
import shutil
import signal
import subprocess
import sys
import time
import zipfile
from pathlib import Path

import numpy as np
import pytest
from PIL import Image
from tests.acceptance.test_command_line import run
from tests.conftest import badge

from swaddon.core.errors import PlanError
from swaddon.io import profiles, whole
from swaddon.io.images import decode_artwork, read_artwork
from swaddon.io.jobfile import read_job
from swaddon.session import storage
from swaddon.session.job import ArtworkFile, Job, first_settings


def job_with(tmp_path: Path, **changes: object) -> Path:
    """A good job whose ``job.json`` is changed."""
    path = tmp_path / "job.swaddon"
    storage.save_job(path, Job(settings=first_settings(profiles.shipped("film")), profile=profiles.shipped("film")))
    with zipfile.ZipFile(path) as archive:
        document = json.loads(archive.read("job.json")) | changes
    with zipfile.ZipFile(path, "w", zipfile.ZIP_DEFLATED) as archive:
        archive.writestr("job.json", json.dumps(document))
    return path


@pytest.mark.parametrize("kind", ["nested", "encrypted", "odd compression", "deflate", "bomb", "nan"])
def test_hostile_job_files_are_refused_in_a_sentence(tmp_path, kind):
    path = tmp_path / "bad.swaddon"
    if kind == "nested":
        with zipfile.ZipFile(path, "w") as archive:
            archive.writestr("job.json", "[" * 200_000)
    elif kind == "nan":
        path = job_with(tmp_path, schema="swaddon-job/2", settings={"width_mm": float("nan")})
    else:
        with zipfile.ZipFile(path, "w", zipfile.ZIP_DEFLATED) as archive:
            archive.writestr("job.json", "0" * (9_000_000 if kind == "bomb" else 2000))
            if kind == "bomb":
                archive.writestr("artwork/a.png", b"\0" * 200_000_000)
        data = bytearray(path.read_bytes())
        at, central = data.index(b"PK\x03\x04"), data.index(b"PK\x01\x02")
        if kind == "encrypted":
            data[at + 6] |= 1
            data[central + 8] |= 1
        elif kind == "odd compression":
            data[at + 8] = data[central + 10] = 97
        elif kind == "deflate":
            data[at + 45 : at + 49] = b"\xff\xff\xff\xff"
        path.write_bytes(bytes(data))
    begun = time.monotonic()
    with pytest.raises(PlanError) as refused:
        read_job(path)
    assert time.monotonic() - begun < 2
    assert "\n" not in str(refused.value)


def test_a_zip_bomb_of_artwork_is_refused_unread(tmp_path):
    path = job_with(tmp_path, artwork="a.png")
    with zipfile.ZipFile(path, "a", zipfile.ZIP_DEFLATED) as archive, archive.open("artwork/a.png", "w") as file:
        for _ in range(300):
            file.write(b"\0" * 1_000_000)
    begun = time.monotonic()
    with pytest.raises(PlanError, match="holds far more than a job does"):
        read_job(path)
    assert time.monotonic() - begun < 2


def test_a_jobs_profile_is_a_name_and_never_a_file_on_the_disk(tmp_path):
    wanted = tmp_path / "mine.toml"
    wanted.write_text("schema = 'swaddon-profile/1'")
    with pytest.raises(PlanError, match="is not known here"):
        storage.open_job(job_with(tmp_path, profile=str(wanted), press=""))
    kept = storage.open_job(job_with(tmp_path, profile=str(wanted))).profile
    assert kept == profiles.shipped("film"), "the one that lies in the job, not the file of that name"


LAUGHS = "".join(f'<g id="a{n}">' + f'<use href="#a{n + 1}"/>' * 10 + "</g>" for n in range(9))
PATTERNS = "".join(
    f'<pattern id="p{n}" width="9" height="9" patternUnits="userSpaceOnUse">'
    + f'<rect width="9" height="9" fill="url(#p{n + 1})"/>' * 12 + "</pattern>"
    for n in range(8)
)  # fmt: skip


ITSELF = '<pattern id="p" width="9" height="9"><rect width="9" height="9" fill="url(#p)"/></pattern>'
FILLED = '<rect width="90" height="90" fill="url(#{0})"/>'


@pytest.mark.parametrize(
    "body",
    [
        LAUGHS + '<g id="a9"><rect width="1" height="1"/></g>',
        f"<defs>{PATTERNS}</defs>" + FILLED.format("p0"),
        ITSELF + FILLED.format("p"),
    ],
    ids=["uses", "patterns", "itself"],
)
def test_drawings_that_expand_without_end_are_refused_at_once(body):
    text = f'<svg xmlns="http://www.w3.org/2000/svg" width="90" height="90">{body}</svg>'
    begun = time.monotonic()
    with pytest.raises(PlanError, match="refers to itself over and over"):
        decode_artwork(text.encode(), "laughs.svg")
    assert time.monotonic() - begun < 2


def test_a_clock_before_1980_and_odd_bytes_in_names_do_no_harm(tmp_path, monkeypatch):
    odd = tmp_path / os.fsdecode(b"cr\xe9st.png")
    Image.fromarray(badge(60)).save(tmp_path / "plain.png")
    (tmp_path / "plain.png").rename(odd)
    art = read_artwork(odd)
    art.file_name.encode("utf-8")
    job = Job(file=ArtworkFile(art, odd.read_bytes()), profile=profiles.shipped("film"))
    monkeypatch.setattr(time, "localtime", lambda *_: time.struct_time((1970, 1, 1, 0, 0, 0, 3, 1, 0)))
    path = tmp_path / os.fsdecode(b"j\xf6b.swaddon")
    storage.save_job(path, job)
    assert storage.open_job(path).file.artwork.width_px == 60


def test_an_empty_job_is_saved_and_opened(tmp_path):
    storage.save_job(tmp_path / "empty.swaddon", Job())
    assert storage.open_job(tmp_path / "empty.swaddon").file is None


def test_saved_files_are_on_the_disk_before_they_take_their_place(tmp_path, monkeypatch):
    done: list[str] = []
    sync, move = os.fsync, os.replace
    monkeypatch.setattr(os, "fsync", lambda handle: (done.append("sync"), sync(handle))[1])
    monkeypatch.setattr(os, "replace", lambda *names: (done.append("move"), move(*names))[1])
    with whole.whole_file(tmp_path / "a") as file:
        file.write(b"x")
    assert done[:2] == ["sync", "move"]


def test_a_set_that_fails_midway_leaves_the_old_set(tmp_path, monkeypatch):
    folder = tmp_path / "out"
    with whole.whole_set(folder, ("a", "b", "c")) as part:
        (part / "a").write_text("old a")
        (part / "c").write_text("old c")
    real = os.replace

    def fails(source, target):
        if Path(target).name == "b" and "aside" not in str(target):
            raise OSError(28, "No space left on device")
        real(source, target)

    monkeypatch.setattr(os, "replace", fails)

    def new_set() -> None:
        with whole.whole_set(folder, ("a", "b", "c")) as part:
            (part / "a").write_text("new a")
            (part / "b").write_text("new b")

    with pytest.raises(OSError, match="No space"):
        new_set()
    assert sorted(path.name for path in folder.iterdir()) == ["a", "c"]
    assert (folder / "a").read_text() == "old a"
    monkeypatch.setattr(os, "replace", real)
    with whole.whole_set(folder, ("a", "b", "c")) as part:
        (part / "b").write_text("b alone")
    assert sorted(path.name for path in folder.iterdir()) == ["b"]


SLOW = """
import sys, time
from pathlib import Path
from swaddon.io import whole
with whole.whole_set(Path(sys.argv[1]), ()) as part:
    (part / "a").write_text("half")
    print("begun", flush=True)
    time.sleep(60)
"""


def test_what_a_killed_program_left_is_taken_away_at_the_next_start(tmp_path, monkeypatch):
    monkeypatch.setenv("SWADDON_CACHE", str(tmp_path / "cache"))
    out = tmp_path / "out"
    running = subprocess.Popen([sys.executable, "-c", SLOW, str(out)], stdout=subprocess.PIPE, text=True)
    assert running.stdout.readline() == "begun\n"
    running.send_signal(signal.SIGKILL)
    running.wait()
    running.stdout.close()
    assert list(out.iterdir())
    whole.sweep()
    assert not list(out.iterdir())


def swaddon(*arguments: str, **options: object) -> subprocess.CompletedProcess:
    return subprocess.run(
        [sys.executable, "-m", "swaddon", *arguments],
        check=False,
        capture_output=True,
        text=True,
        timeout=120,
        **options,
    )  # type: ignore[call-overload]


@pytest.mark.parametrize(
    ("arguments", "says"),
    [
        (["--page", "0"], "counts from 1"),
        (["--quantity", "9" * 30], "outside 1 to 1000000"),
        (["--quantity", "2.5"], "whole number"),
        (["--gamut", "wide"], "hue or steps"),
        (["--fine", "60mm"], "outside 0 to 50 mm"),
        (["--profile", ""], "No press profile"),
        (["--profile", "x" * 5000], "is no name that a disk can hold"),
        (["--knockout", "clicked:#ffffff:8@inf,nan"], "place"),
        (["--keep", "#ffffff:8@nan,1"], "place"),
    ],
)
def test_calls_out_of_all_reason_get_one_sentence(badge_file, arguments, says, capsys):
    code, _, err = run("plan", str(badge_file), "--width", "20mm", *arguments, capsys=capsys)
    assert code == 2
    assert says in err
    assert err.count("\n") == 1


def test_a_full_device_is_told_in_a_sentence(badge_file):
    with open("/dev/full", "w") as full:  # noqa: PTH123 - a device
        done = subprocess.run(
            [sys.executable, "-m", "swaddon", "plan", str(badge_file), "--width", "20mm", "--json"],
            check=False, stdout=full, stderr=subprocess.PIPE, text=True, timeout=120,
        )  # fmt: skip
    assert done.returncode == 2
    assert "could not be printed" in done.stderr
    assert "Traceback" not in done.stderr


def test_another_artworks_export_is_not_overwritten_unasked(badge_file, tmp_path, capsys):
    def planned(width: str, *more: str) -> tuple[int, str]:
        given = "plan", str(badge_file), "--width", width, "--out", str(tmp_path / "out"), *more
        code, _, err = run(*given, capsys=capsys)
        return code, err

    assert planned("20mm")[0] == 0
    assert planned("22mm")[0] == 0, "its own export may be written again"
    code, err = planned("20mm", "--garment", "#ffffff")
    assert code == 2
    assert "--replace" in err
    assert planned("20mm", "--garment", "#ffffff", "--overwrite")[0] == 0


def test_no_writable_cache_and_a_garbage_kernel_cache_still_plan(badge_file, tmp_path, compiled):
    block = tmp_path / "file"
    block.write_text("no folder")
    environment = dict(os.environ) | {
        "SWADDON_CACHE": str(block / "cache"),
        "HOME": str(block),
        "SWADDON_CONFIG": str(block),
    }
    done = swaddon("plan", str(badge_file), "--width", "20mm", env=environment)
    assert done.returncode == 0, done.stderr
    assert "Traceback" not in done.stderr
    from swaddon.core import fast
    from swaddon.io.tables import cache_folder

    cache = tmp_path / "cache"
    damaged = cache / fast._home(cache_folder()).name
    shutil.copytree(fast._home(cache_folder()), damaged)
    for kernel in damaged.rglob("*.nb?"):
        kernel.write_bytes(b"garbage")
    done = swaddon("plan", str(badge_file), "--width", "20mm", env=dict(os.environ) | {"SWADDON_CACHE": str(cache)})
    assert done.returncode == 0, done.stderr
    assert not list(damaged.rglob("*.nb?")), "what cannot be loaded is thrown away"


def test_the_document_of_a_plan_is_alike_with_and_without_kernels(make):
    from swaddon.core import fast
    from swaddon.core.engine import Cache, Run
    from swaddon.core.holes.settings import HoleSettings, RegionRule, Screen
    from swaddon.core.plan.report import plan_report
    from swaddon.core.plan.stages import make_plan
    from swaddon.core.white.settings import WhiteSettings
    from swaddon.io.tables import cache_folder

    holes = HoleSettings(Screen(), (RegionRule(Screen("line", 25, 0, 0.7), colour=(200, 30, 40)),), give_back=True)
    art = np.concatenate([badge(200), badge(200)[::-1]], axis=1)
    plan = make(art, holes=holes, white=WhiteSettings("need"))
    fast.disable()
    plain = make_plan(plan.request, Run(Cache()))
    fast.enable(cache_folder())
    assert json.dumps(plan_report(plan)) == json.dumps(plan_report(plain))
