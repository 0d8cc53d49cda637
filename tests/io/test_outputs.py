"""Nothing of the operator's is written over: inputs, links to them, files that are not ours; sets never mix."""

import json
import os
import threading
from pathlib import Path

import pytest

from swaddon.core.errors import PlanError
from swaddon.io import outputs
from swaddon.io.outputs import MANIFEST, WouldReplace, output_file, output_group, output_set


@pytest.fixture(autouse=True)
def fresh(tmp_path, monkeypatch):
    monkeypatch.setenv("SWADDON_CACHE", str(tmp_path / "cache"))
    outputs.begin()
    yield
    outputs.begin()


def put(path: Path, text: str) -> None:
    with output_file(path) as file:
        file.write(text.encode())


def put_set(folder: Path, of: str, **files: str) -> None:
    with output_set(folder, of, files) as part:
        for name, text in files.items():
            (part / name).write_text(text)


def test_a_file_of_ours_is_written_again_and_another_is_not(tmp_path):
    path = tmp_path / "list.csv"
    put(path, "one")
    put(path, "two")
    path.write_text("filled in by hand")
    with pytest.raises(WouldReplace, match="was changed since"):
        put(path, "three")
    assert path.read_text() == "filled in by hand"
    outputs.replace_all()
    put(path, "three")
    assert path.read_text() == "three"


def test_what_was_agreed_to_once_holds_once(tmp_path):
    path = tmp_path / "list.csv"
    path.write_text("mine")
    outputs.confirm(path)
    put(path, "one")
    path.write_text("mine again")
    with pytest.raises(WouldReplace):
        put(path, "two")


@pytest.mark.parametrize("link", ["itself", "symlink", "hard link", "dotted"])
def test_what_is_in_use_never_goes_by_whatever_name(tmp_path, link):
    kept = tmp_path / "art.png"
    kept.write_text("artwork")
    outputs.protect(kept, "artwork that is in use")
    path = {"itself": kept, "dotted": tmp_path / "." / "x" / ".." / "art.png"}.get(link, tmp_path / "other.png")
    (tmp_path / "x").mkdir()
    if link == "symlink":
        path.symlink_to(kept)
    if link == "hard link":
        os.link(kept, path)
    outputs.replace_all()
    with pytest.raises(PlanError, match="artwork that is in use"):
        put(path, "gone")
    with pytest.raises(PlanError, match="in use"), output_group(path.parent) as part:
        (part / path.name).write_text("gone")
    with pytest.raises(PlanError, match="in use"):
        put_set(tmp_path, "a", **{path.name: "gone"})
    assert kept.read_text() == "artwork"
    assert not list(tmp_path.glob(".swaddon-*"))
    outputs.release(kept)
    put_set(tmp_path / "elsewhere", "a", **{"art.png": "new"})


def test_a_set_takes_the_place_of_its_own_and_of_no_other(tmp_path):
    folder = tmp_path / "out"
    put_set(folder, "plan a", **{"white.png": "1", "mask.png": "1", "plan.json": "1"})
    put_set(folder, "plan a", **{"white.png": "2", "plan.json": "2"})
    assert sorted(path.name for path in folder.iterdir()) == ["plan.json", MANIFEST, "white.png"], "the old mask went"
    with pytest.raises(WouldReplace, match="something else") as refused:
        put_set(folder, "plan b", **{"white.png": "3", "plan.json": "3"})
    assert {path.name for path in refused.value.files} == {"white.png", "plan.json"}
    assert (folder / "white.png").read_text() == "2"
    (folder / "white.png").write_text("retouched")
    with pytest.raises(WouldReplace, match=r"white\.png"):
        put_set(folder, "plan a", **{"white.png": "4", "plan.json": "4"})
    outputs.confirm(folder)
    put_set(folder, "plan a", **{"white.png": "4", "plan.json": "4"})
    assert (folder / "white.png").read_text() == "4"


def test_files_of_the_operator_beside_a_set_stay(tmp_path):
    """``mask.png`` and ``colour.pdf`` of the operator's were deleted, since an export might have had such names."""
    folder = tmp_path / "artwork"
    folder.mkdir()
    for name in ("mask.png", "colour.pdf", "notes.txt"):
        (folder / name).write_text("mine")
    for _ in range(2):
        put_set(folder, "plan a", **{"white.png": "1"})
        assert {name: (folder / name).read_text() for name in ("mask.png", "colour.pdf", "notes.txt")} == dict.fromkeys(
            ("mask.png", "colour.pdf", "notes.txt"), "mine"
        )
    (folder / "proof.png").write_text("mine")
    with pytest.raises(WouldReplace, match=r"proof\.png"):
        put_set(folder, "plan a", **{"white.png": "2", "proof.png": "2"})
    assert (folder / "proof.png").read_text() == "mine"
    assert (folder / "white.png").read_text() == "1"


@pytest.mark.parametrize(
    "text", ["", "[]", "{}", '{"schema": 1}', '{"schema": "swaddon-files/1", "of": "a", "files": 3}', "[" * 100_000]
)
def test_a_manifest_that_proves_nothing_protects(tmp_path, text):
    (tmp_path / "out").mkdir()
    (tmp_path / "out" / MANIFEST).write_text(text)
    (tmp_path / "out" / "white.png").write_text("mine")
    with pytest.raises(WouldReplace):
        put_set(tmp_path / "out", "a", **{"white.png": "1"})
    assert (tmp_path / "out" / "white.png").read_text() == "mine"


def test_two_sets_to_one_folder_never_mix(tmp_path):
    """150 races of two sets of six files: one of both stands whole, the other was refused or wrote before it."""
    names = [f"{ink}.png" for ink in "CMYKWH"]
    for turn in range(150):
        folder, told = tmp_path / f"out{turn}", []

        def write(of: str, folder=folder, told=told) -> None:
            try:
                put_set(folder, of, **dict.fromkeys(names, of))
            except WouldReplace as refused:
                told.append(str(refused))

        both = [threading.Thread(target=write, args=(of,)) for of in ("a", "b")]
        for thread in both:
            thread.start()
        for thread in both:
            thread.join()
        held = {(folder / name).read_text() for name in names}
        assert len(held) == 1
        assert len(told) == 1, "the later one was told"
        assert json.loads((folder / MANIFEST).read_text())["of"] in held


def test_a_lock_that_another_holds_ends_in_a_sentence(tmp_path, monkeypatch):
    monkeypatch.setattr(outputs, "_WAIT_S", 0.1)
    with outputs._alone(tmp_path / "x.csv"):
        done = []

        def write() -> None:
            try:
                put(tmp_path / "x.csv", "1")
            except PlanError as error:
                done.append(str(error))

        thread = threading.Thread(target=write)
        thread.start()
        thread.join()
    assert "being written by another output" in done[0]


def test_without_a_cache_nothing_is_held_up(tmp_path, monkeypatch):
    (tmp_path / "no").write_text("a file where the cache should be")
    monkeypatch.setenv("SWADDON_CACHE", str(tmp_path / "no"))
    put(tmp_path / "a.csv", "1")
    assert (tmp_path / "a.csv").read_text() == "1"
    with pytest.raises(WouldReplace):
        put(tmp_path / "a.csv", "2")


def test_the_shops_own_documents_may_be_changed_by_hand_and_saved_again(tmp_path, monkeypatch):
    monkeypatch.setenv("SWADDON_CONFIG", str(tmp_path / "config"))
    (tmp_path / "config" / "presets").mkdir(parents=True)
    path = tmp_path / "config" / "presets" / "dark.json"
    path.write_text("by hand")
    put(path, "saved")
    assert path.read_text() == "saved"


def test_the_windows_own_thread_never_waits_for_another_output(tmp_path):
    """Another program writes the same file: work beside the window waits for it, the window says so at once."""
    path, begun, goes_on = tmp_path / "job.swaddon", threading.Event(), threading.Event()

    def other() -> None:
        with output_file(path) as file:
            begun.set()
            assert goes_on.wait(20)
            file.write(b"other")

    outputs.begin(has_window=True)
    thread = threading.Thread(target=other)
    thread.start()
    try:
        assert begun.wait(20)
        with pytest.raises(PlanError, match="being written by another output"):
            put(path, "ours")
        assert thread.is_alive(), "it did not wait until the other was done"
    finally:
        goes_on.set()
        thread.join()
    assert path.read_bytes() == b"other"
    put(path, "ours")
