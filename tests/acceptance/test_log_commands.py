"""Run card, log book and store without a window: on a book of the demo shop, and on a real server."""

import json
from pathlib import Path

import cv2
import numpy as np
import pypdfium2
import pytest
from PIL import Image
from pypdf import PdfReader
from tests.conftest import badge
from tests.postgresql import Server
from tests.store.conftest import run_entry
from typer.testing import CliRunner

from swaddon.cli import app
from swaddon.io.jobfile import SUFFIX
from swaddon.session.card_files import JobCode, code_text, read_code
from swaddon.session.demo import demo_job
from swaddon.session.log_keeper import open_book
from swaddon.session.storage import save_job


def run(*args: object) -> str:
    result = CliRunner().invoke(app, [str(arg) for arg in args])
    assert result.exit_code == 0, f"{result.output} {result.exception}"
    return result.output


def refused(*args: object) -> str:
    result = CliRunner().invoke(app, [str(arg) for arg in args])
    assert result.exit_code != 0
    return str(result.exception or result.output)


@pytest.fixture
def book(monkeypatch):
    """Five runs in the book of this machine."""
    made = open_book()
    made.add(
        [run_entry(0xA000_0000 << 96 | number, f"2026-1{number % 2}-0{number}T10:00:00Z", note="crème" * (number == 3))
         for number in range(1, 6)], {},
    )  # fmt: skip
    yield made
    made.close()


def test_runs_are_found_and_shown(book):
    told = run("log", "find", "lantern", "creme")
    assert "Lantern Regatta" in told
    assert "1 run" in told
    assert "5 runs" in run("log", "find")
    found = json.loads(run("log", "find", "--trouble", "peek", "--since", "2026-11", "--json"))
    assert len(found) == 3
    shown = run("log", "show", found[0]["uid"])
    assert "Run ended: 11 good, 1 spoiled" in shown
    assert "Several runs begin" in refused("log", "show", "a000")
    assert "no run's name" in refused("log", "show", "zz")
    assert "No run begins" in refused("log", "show", "beef")
    assert "not a day" in refused("log", "find", "--since", "soon")


@pytest.mark.parametrize("kind", ["csv", "json", "html"])
def test_lists_are_written(book, tmp_path, kind):
    assert "5 runs" in run("log", "export", "--out", tmp_path / f"log.{kind}")
    assert (tmp_path / f"log.{kind}").read_text(encoding="utf-8-sig").count("Lantern Regatta") >= 5
    assert "no list" in refused("log", "export", "--out", tmp_path / "log.xyz")


def test_the_month_is_told_and_written(book, tmp_path):
    assert "spoiled" in run("log", "month", "2026-11")
    run("log", "month", "2026-11", "--out", tmp_path / "month.pdf", "--paper", "letter")
    page = PdfReader(tmp_path / "month.pdf").pages[0]
    assert (float(page.mediabox.width), float(page.mediabox.height)) == (612, 792)
    assert "November 2026" in page.extract_text()
    assert "no month" in refused("log", "month", "--out", tmp_path / "month.doc")


def test_a_backup_moves_a_book_to_a_server_and_back(book, tmp_path, monkeypatch):
    """In one file, from SQLite to PostgreSQL, taken twice without doubling."""
    server = Server()
    try:
        run("store", "backup", tmp_path / "book.zip")
        monkeypatch.setenv("SWADDON_STORE", server.new_database("shop"))
        assert "it was not there" in run("store", "migrate")
        assert "5 of them new" in run("store", "restore", tmp_path / "book.zip")
        assert "0 of them new" in run("store", "restore", tmp_path / "book.zip")
        assert "5 runs" in run("log", "find", "lantern")
        assert "Sound; 0 entries wait" in run("store", "check")
        run("store", "backup", tmp_path / "again.zip")
    finally:
        server.remove()
    assert "cannot be reached" in refused("log", "find")
    monkeypatch.delenv("SWADDON_STORE")
    assert "0 of them new" in run("store", "restore", tmp_path / "again.zip")
    assert "no backup" in refused("store", "restore", tmp_path / "missing.zip")


# the card


@pytest.fixture
def card_job(tmp_path) -> Path:
    path = tmp_path / f"Marble League{SUFFIX}"
    save_job(path, demo_job("marble"))
    return path


def code_on(path: Path) -> JobCode | None:
    """What the square in the upper right corner says."""
    for scale in (3, 4, 5, 6, 8):  # this reader misses some codes at some sizes
        page = np.asarray(pypdfium2.PdfDocument(path)[0].render(scale=scale).to_pil().convert("RGB"))
        corner = np.ascontiguousarray(page[: page.shape[0] // 4, page.shape[1] // 2 :])
        for reader in (cv2.QRCodeDetector(), cv2.QRCodeDetectorAruco()):
            code = read_code(reader.detectAndDecode(corner)[0])
            if code is not None:
                return code
    return None


@pytest.mark.parametrize(("paper", "size"), [("a4", (595.2756, 841.8898)), ("letter", (612, 792))])
def test_the_card_is_a_page_with_a_code_that_leads_back(card_job, tmp_path, compiled, paper, size):
    """ISO 216: A4 is 210 × 297 mm; the code is read by OpenCV, which knows nothing of who wrote it."""
    out = tmp_path / "card.pdf"
    run("card", card_job, "--out", out, "--paper", paper)
    reader = PdfReader(out)
    box = reader.pages[0].mediabox
    assert (float(box.width), float(box.height)) == pytest.approx(size, abs=0.01)
    text = "".join(page.extract_text() for page in reader.pages)
    for words in ("Low Orbit Marble League", "Printed mirrored", "White last", "160 °C", "cover sheet"):
        assert words in text
    assert text.count("Hot plate") == 1, "a caution stands where it comes first"
    code = code_on(out)
    assert code is not None
    assert Path(code.path) == card_job
    assert code.order == demo_job("marble").name
    assert code.line == 1


def test_the_card_speaks_the_units_that_are_asked_for(card_job, tmp_path, compiled):
    run("card", card_job, "--out", tmp_path / "card.pdf", "--fahrenheit", "--inches", "--bar")
    text = PdfReader(tmp_path / "card.pdf").pages[0].extract_text()
    assert "320 °F" in text
    assert "bar" in text
    assert " in below" in text or " in ×" in text


def test_a_card_of_artwork_alone(tmp_path, compiled):
    Image.fromarray(badge()).save(tmp_path / "badge.png")
    run(
        "card",
        tmp_path / "badge.png",
        "--process",
        "direct",
        "--width",
        "80mm",
        "--garment",
        "#1b1b1f",
        "--out",
        tmp_path / "c.pdf",
    )
    text = PdfReader(tmp_path / "c.pdf").pages[0].extract_text()
    assert "Pretreat the garment evenly" in text
    assert "Not mirrored" in text
    code = code_on(tmp_path / "c.pdf")
    assert code is not None
    assert code.path == ""


def test_what_is_wrong_with_a_card_is_one_sentence(card_job, tmp_path, compiled):
    assert "no card" in refused("card", card_job, "--out", tmp_path / "card.png")
    assert "has 1 line" in refused("card", card_job, "--out", tmp_path / "card.pdf", "--line", 4)
    assert "neither a4 nor letter" in refused("card", card_job, "--out", tmp_path / "card.pdf", "--paper", "a0")
    assert "could not be written" in refused("card", card_job, "--out", tmp_path / "none" / "card.pdf")


@pytest.mark.parametrize(
    "text",
    [
        "",
        "http://example.org",
        "swaddon:job?",
        "swaddon:other?line=1",
        "swaddon:job?line=x&file=/etc/passwd",
        "x" * 9000,
    ],
)  # fmt: skip
def test_a_code_of_someone_else_opens_nothing(text):
    code = read_code(text)
    assert code is None or (code.path == "" and code.line == 1)


def test_a_long_path_leaves_the_code_readable(compiled):
    job = demo_job("marble")
    code = read_code(code_text(job, Path("/" + "long/" * 300 + f"job{SUFFIX}")))
    assert code.path == ""
    assert code.order == job.name
    assert read_code(code_text(job, Path(f"/shop/Ärger & Co {SUFFIX}"))).path == f"/shop/Ärger & Co {SUFFIX}"
