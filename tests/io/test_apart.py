"""Decoders apart: what asks for too much ends in one sentence, is stopped, or is trusted; and leaves nothing behind."""

import io
import os
import socket
import struct
import subprocess
import sys
import time
import zipfile
import zlib
from pathlib import Path

import imagecodecs
import numpy as np
import pytest
from tests.io import pdf
from tests.io.slow_decoder import broken, slow

from swaddon.core.engine import Superseded
from swaddon.core.errors import PlanError
from swaddon.io import apart
from swaddon.io.images import decode_artwork, read_artwork
from swaddon.io.jobfile import read_job

SMALL = (
    b'<svg xmlns="http://www.w3.org/2000/svg" width="9mm" height="9mm" viewBox="0 0 9 9"><path d="M1 1h7v7z"/></svg>'
)


def svg(body: str) -> bytes:
    text = '<svg xmlns="http://www.w3.org/2000/svg" width="900mm" height="900mm" viewBox="0 0 100 100">'
    return f"{text}{body}</svg>".encode()


def forms() -> bytes:
    """A PDF whose forms each show the next one ten times, eight deep."""

    box = b"/Type/XObject/Subtype/Form/BBox[0 0 2000 2000]"
    first = b"<</Type/Page/Parent 2 0 R/MediaBox[0 0 2000 2000]/Contents 4 0 R/Resources<</XObject<</X0 5 0 R>>>>>>"
    objects = [
        b"<</Type/Catalog/Pages 2 0 R>>",
        b"<</Type/Pages/Kids[3 0 R]/Count 1>>",
        first,
        pdf.stream(b"/X0 Do " * 10),
    ]
    for at in range(8):
        next_one = b"/Resources<</XObject<</X%d %d 0 R>>>>" % (at + 1, 6 + at)
        objects.append(pdf.stream(b"/X%d Do " % (at + 1) * 10, box + next_one))
    objects.append(pdf.stream(b"0 0 1 rg 0 0 1000 1000 re f", box))
    return pdf.file_of(objects)


def layers(count: int) -> bytes:
    """Layers over the largest page that is read."""
    file = io.BytesIO()
    with zipfile.ZipFile(file, "w") as archive:
        archive.writestr("mimetype", "image/openraster")
        each = "".join(f'<layer src="l.png" x="{at}"/>' for at in range(count))
        archive.writestr("stack.xml", f'<image w="15000" h="16000"><stack>{each}</stack></image>')
        archive.writestr("l.png", bytes(imagecodecs.png_encode(np.zeros((9, 9, 4), np.uint8))))
    return file.getvalue()


def spots() -> bytes:
    """A TIFF of 60,000 channels."""
    tags = [(256, 5000), (257, 5000), (258, 8), (259, 8), (262, 1), (273, 0), (277, 60000), (278, 5000), (279, 9)]
    start = 14 + 12 * len(tags)
    body = struct.pack("<H", len(tags))
    for tag, value in tags:
        body += struct.pack("<HHII", tag, 3 if value < 65536 and tag != 273 else 4, 1, start if tag == 273 else value)
    return b"II*\0" + struct.pack("<I", 8) + body + struct.pack("<I", 0) + zlib.compress(bytes(99))


TURBULENCE = '<feTurbulence baseFrequency="0.9" numOctaves="99"/>' * 60
BLUR = '<feGaussianBlur stdDeviation="50"/>' * 300
HEAVY = {
    "filters of much memory.svg": svg(
        f'<filter id="f">{TURBULENCE}</filter><rect width="99" height="99" filter="url(#f)"/>'
    ),
    "filters without end.svg": svg(f'<filter id="f">{BLUR}</filter><rect width="99" height="99" filter="url(#f)"/>'),
    "forms in forms.pdf": forms(),
    "layers.ora": layers(2000),
    "spots.tif": spots(),
}


@pytest.fixture(scope="module", autouse=True)
def helper_with_stand_ins():
    """A helper that finds the decoders of these tests."""
    with pytest.MonkeyPatch.context() as patch:
        patch.setenv("PYTHONPATH", os.pathsep.join([str(Path(__file__).parents[2]), *sys.path]))
        apart.end()
        apart.begin()
        yield
    apart.end()


@pytest.fixture
def quickly(monkeypatch):
    """One second of computing is enough to try it."""
    monkeypatch.setattr(apart, "MOST_CPU_S", 1.0)
    yield
    apart.renew()


@pytest.mark.parametrize("name", HEAVY)
def test_what_asks_for_too_much_ends_in_one_sentence(name, quickly):
    with pytest.raises(apart.TooHeavyError) as told:
        decode_artwork(HEAVY[name], name)
    text = str(told.value)
    assert text.startswith(f"“{name}” takes more than 1 s of computing or 1 GB of memory")
    assert "\n" not in text


def test_the_program_goes_on_reading_afterwards_and_pictures_are_read_only(quickly):
    with pytest.raises(apart.TooHeavyError):
        decode_artwork(HEAVY["filters of much memory.svg"], "a.svg")
    art = decode_artwork(SMALL, "b.svg")
    assert art.rgba.any()
    assert not art.rgba.flags.writeable


def test_a_trusted_file_is_read_without_bounds(quickly):
    with pytest.raises(apart.TooHeavyError) as told:
        apart.run(slow, b"data", "a", 1.6)
    apart.trust(told.value.content)
    value, (array,) = apart.run(slow, b"data", "a", 1.6)
    assert (value, array.tolist()) == ({"name": "a"}, [[4, 4, 4]] * 2)
    with pytest.raises(apart.TooHeavyError):
        apart.run(slow, b"other", "b", 1.6)


@pytest.mark.parametrize("how", ["segmentation", "leaves", "raises"])
def test_a_decoder_that_breaks_down_is_a_damaged_file(how):
    with pytest.raises(ValueError, match=r"no picture|broke down|without a word"):
        apart.run(broken, b"data", "a", how)
    assert apart.run(slow, b"", "a", 0.0)[0] == {"name": "a"}


def test_it_is_told_and_stopped_while_it_works():
    """Whoever does not want it any more raises; the process is gone then, and not after its ten seconds."""
    told = []

    def watch(name: str, took: float) -> None:
        told.append(name)
        if took > 1.3:
            raise Superseded

    apart.run(slow, b"data", "warm", 0.0)
    helper = apart._helper[1].pid
    with apart.watched(watch), pytest.raises(Superseded):
        apart.run(slow, b"data", "long.svg", 8.0)
    assert told[0] == ""
    assert told[-1] == "long.svg"
    until_gone(lambda: at_work_for(helper))


def test_it_ends_when_nobody_listens_before_it_began():
    """Whoever gives up at once, before the helper has answered, leaves nothing behind either."""

    def at_once(_name: str, _took: float) -> None:
        raise Superseded

    apart.run(slow, b"data", "warm", 0.0)
    helper = apart._helper[1].pid
    apart.trust(None)
    with apart.watched(at_once), pytest.raises(Superseded):
        apart.run(slow, b"data", "long.svg", 600.0)
    apart.renew()
    apart.run(slow, b"data", "next", 0.0)
    until_gone(lambda: at_work_for(helper))


def at_work_for(helper: int) -> bool:
    return bool(Path(f"/proc/{helper}/task/{helper}/children").read_text().split())


def until_gone(is_there) -> None:
    deadline = time.monotonic() + 20
    while is_there() and time.monotonic() < deadline:
        time.sleep(0.02)
    assert not is_there()


def test_a_helper_that_was_killed_is_started_again():
    apart.run(slow, b"data", "a", 0.0)
    assert apart._helper is not None
    apart._helper[1].kill()
    apart._helper[1].wait()
    assert apart.run(slow, b"data", "a", 0.0)[0] == {"name": "a"}


def test_the_helper_ends_with_the_program(tmp_path):
    (tmp_path / "a.svg").write_bytes(SMALL)
    code = (
        "import sys; from pathlib import Path; from swaddon.io import apart, images\n"
        f"images.read_artwork(Path({str(tmp_path / 'a.svg')!r})); print(apart._helper[1].pid)"
    )
    made = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True, timeout=60)
    pid, deadline = int(made.stdout), time.monotonic() + 20
    while Path(f"/proc/{pid}").exists() and time.monotonic() < deadline:
        time.sleep(0.02)
    assert not Path(f"/proc/{pid}").exists()


@pytest.mark.parametrize("kind", ["pipe", "device", "socket"])
def test_what_is_no_file_is_refused_at_once(kind, tmp_path):
    path = tmp_path / "odd.png"
    if kind == "pipe":
        os.mkfifo(path)
    elif kind == "device":
        path = Path("/dev/zero")
    else:
        with socket.socket(socket.AF_UNIX) as made:
            made.bind(str(path))
    for read in (read_artwork, read_job):
        with pytest.raises(PlanError, match="is a pipe, a device or a socket, not a file"):
            read(path)
