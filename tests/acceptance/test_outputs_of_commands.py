"""No command writes over what it reads, the log book or a file that is not ours; drawn from the declarations."""

import inspect
from pathlib import Path

import numpy as np
import pytest
import typer
from PIL import Image
from tests.conftest import badge

from swaddon.cli import app, main
from swaddon.cli.guard import READS, WRITES
from swaddon.io.outputs import MANIFEST


def commands(of: typer.Typer, before: tuple[str, ...] = ()):
    for info in of.registered_commands:
        yield (*before, info.name or info.callback.__name__), inspect.signature(info.callback).parameters
    for group in of.registered_groups:
        yield from commands(group.typer_instance, (*before, group.name))


DECLARED = dict(commands(app))


def flag(name: str) -> str:
    return "--" + name.replace("_", "-")


def is_argument(parameter: inspect.Parameter) -> bool:
    return "ArgumentInfo" in repr(parameter.annotation)


PAIRS = [
    (command, read, write)
    for command, parameters in DECLARED.items()
    for read in parameters
    if read in READS
    for write in parameters
    if write in WRITES
]


def test_every_path_of_every_command_is_read_or_written():
    unknown = {
        (command, name)
        for command, parameters in DECLARED.items()
        for name, parameter in parameters.items()
        if "pathlib" in str(parameter.annotation) and name not in READS | WRITES
    }
    assert unknown == set()
    assert len(PAIRS) > 25
    writing = {command for command, parameters in DECLARED.items() if WRITES & set(parameters)}
    assert all("replace" in DECLARED[command] for command in writing)


def refused(capsys, arguments: list[str]) -> str:
    with pytest.raises(SystemExit) as ended:
        main(arguments)
    assert ended.value.code == 2, capsys.readouterr()
    told = capsys.readouterr().err.strip()
    assert told.count("\n") == 0
    return told


@pytest.mark.parametrize(
    ("command", "read", "write"), PAIRS, ids=lambda part: "-".join(part) if isinstance(part, tuple) else part
)
def test_an_output_over_an_input_is_refused_at_once(tmp_path, capsys, command, read, write):
    kept = tmp_path / "kept.json"
    kept.write_text("the operator's")
    arguments = list(command)
    for name, parameter in DECLARED[command].items():
        if name in (read, write) or (is_argument(parameter) and parameter.default is inspect.Parameter.empty):
            arguments += [str(kept)] if is_argument(parameter) else [flag(name), str(kept)]
        elif parameter.default is inspect.Parameter.empty:
            arguments += [flag(name), "1"]
    told = refused(capsys, [*arguments, "--replace"])
    assert "what this command reads" in told
    assert kept.read_text() == "the operator's"


@pytest.fixture
def artwork_file(tmp_path) -> Path:
    Image.fromarray(badge(120)).save(tmp_path / "white.png")
    return tmp_path / "white.png"


def test_an_export_into_the_folder_of_the_artwork_takes_nothing(tmp_path, capsys, artwork_file):
    """It replaced the artwork ``white.png`` and deleted ``mask.png`` and ``colour.pdf``."""
    for name in ("mask.png", "colour.pdf"):
        (tmp_path / name).write_text("mine")
    before = artwork_file.read_bytes()
    plain = ["plan", str(artwork_file), "--width", "20mm", "--out", str(tmp_path)]
    for more in ([], ["--replace"]):
        assert "in use" in refused(capsys, [*plain, *more]) or "reads" in refused(capsys, [*plain, *more])
        assert artwork_file.read_bytes() == before
    assert (tmp_path / "mask.png").read_text() == (tmp_path / "colour.pdf").read_text() == "mine"
    assert {path.name for path in tmp_path.iterdir() if path.is_file()} == {"white.png", "mask.png", "colour.pdf"}


def test_another_picture_of_the_same_name_is_told_from_the_first(tmp_path, capsys):
    out = tmp_path / "out"
    for customer, turn in (("one", 0), ("two", 1)):
        (tmp_path / customer).mkdir()
        Image.fromarray(np.rot90(badge(120), turn)[: 100 + turn]).save(tmp_path / customer / "logo.png")
    plan = ["plan", "--width", "20mm", "--out", str(out)]
    for _ in range(2):
        with pytest.raises(SystemExit) as ended:
            main([*plan, str(tmp_path / "one" / "logo.png")])
        assert ended.value.code == 0
    first = (out / "separations.tif").read_bytes()
    told = refused(capsys, [*plan, str(tmp_path / "two" / "logo.png")])
    assert "something else" in told
    assert told.endswith("or --replace.")
    assert told.count("--replace") == 1, "the bench knows no such option: only the command adds it"
    assert (out / "separations.tif").read_bytes() == first
    with pytest.raises(SystemExit) as ended:
        main([*plan, str(tmp_path / "two" / "logo.png"), "--replace"])
    assert ended.value.code == 0
    assert (out / "separations.tif").read_bytes() != first
    assert (out / MANIFEST).exists()


def test_a_backup_over_the_live_book_is_refused(tmp_path, capsys, monkeypatch):
    monkeypatch.setenv("SWADDON_DATA", str(tmp_path))
    monkeypatch.delenv("SWADDON_STORE", raising=False)
    with pytest.raises(SystemExit) as ended:
        main(["store", "backup", str(tmp_path / "first.zip")])
    assert ended.value.code == 0
    book = tmp_path / "log.sqlite"
    before = book.read_bytes()
    assert "log book" in refused(capsys, ["store", "backup", str(book), "--replace"])
    assert book.read_bytes() == before


def test_a_filled_table_of_weights_stays(tmp_path, capsys):
    table = tmp_path / "routine.csv"
    with pytest.raises(SystemExit) as ended:
        main(["weigh", "--routine", str(table)])
    assert ended.value.code == 0
    filled = table.read_text().replace(",,", ",1.23,", 1) + "# filled\n"
    table.write_text(filled)
    assert refused(capsys, ["weigh", "--routine", str(table)]).count("--replace") == 1
    assert table.read_text() == filled
