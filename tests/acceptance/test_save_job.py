"""A plan from the command line is written as a job, and card, quote and plan follow it."""

import json

import pytest
from tests.acceptance.test_command_line import run

from swaddon.session.storage import open_job


@pytest.fixture
def saved(badge_file, tmp_path, capsys):
    path = tmp_path / "badge.swaddon"
    words = ("plan", str(badge_file), "--width", "20mm", "--garment", "#1b1b1f", "--white", "need:4", "--choke", "auto")
    code, text, err = run(*words, "--save-job", str(path), "--json", capsys=capsys)
    assert (code, err) == (0, "")
    return path, json.loads(text), badge_file


def test_the_job_plans_to_the_same_figures(saved, capsys):
    path, told, _ = saved
    code, again, _ = run("plan", "--job", str(path), "--json", capsys=capsys)
    assert code == 0
    again = json.loads(again)
    for key in ("print", "materials", "cost", "white", "choke", "settings", "findings"):
        assert again[key] == told[key], key
    job = open_job(path)
    assert job.name == "badge"
    assert job.settings.white.choke_mm == told["white"]["choke_mm"]


def test_card_and_export_follow_it(saved, tmp_path, capsys):
    path, _, _ = saved
    assert run("card", str(path), "--out", str(tmp_path / "card.pdf"), capsys=capsys)[0] == 0
    assert (tmp_path / "card.pdf").read_bytes().startswith(b"%PDF")
    assert run("gang", f"{path}:2", "--medium", "100x100mm", "--json", capsys=capsys)[0] == 0


def test_nothing_is_overwritten_unasked_and_names_are_checked(saved, tmp_path, capsys):
    path, _, art = saved
    before = path.read_bytes()
    for name, said in ((path, "is there already"), (tmp_path / "job.txt", "is no job file")):
        code, _, err = run("plan", str(art), "--width", "30mm", "--save-job", str(name), capsys=capsys)
        assert code == 2
        assert said in err
    assert path.read_bytes() == before
    assert run("plan", str(art), "--width", "30mm", "--save-job", str(path), "--overwrite", capsys=capsys)[0] == 0
    assert open_job(path).settings.width_mm == 30
