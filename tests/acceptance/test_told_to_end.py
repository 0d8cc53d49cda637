"""Commands end when they are told to or cannot be heard, and never begin on what has no end."""

import errno
import os
import signal
import subprocess
import sys
import time

import pytest
from PIL import Image
from tests.acceptance.test_outputs_of_commands import DECLARED, flag, is_argument

from swaddon.cli import main
from swaddon.cli.guard import READS

ENDLESS = '<feGaussianBlur stdDeviation="50"/>' * 300
HEAVY = (
    '<svg xmlns="http://www.w3.org/2000/svg" width="900mm" height="900mm" viewBox="0 0 9 9">'
    f'<filter id="f">{ENDLESS}</filter><rect width="9" height="9" filter="url(#f)"/></svg>'
)
READING = [(command, name) for command, parameters in DECLARED.items() for name in parameters if name in READS]


@pytest.mark.parametrize(
    ("command", "name"), READING, ids=lambda value: value if isinstance(value, str) else "-".join(value)
)
def test_a_pipe_is_refused_by_every_option_that_reads(command, name, tmp_path, capsys):
    """Nobody writes into it: a command that opened it would wait for ever."""
    pipe, parameters = tmp_path / "pipe.png", DECLARED[command]
    os.mkfifo(pipe)
    own = [str(pipe)] if is_argument(parameters[name]) else [flag(name), str(pipe)]
    for other, parameter in parameters.items():
        if other != name and is_argument(parameter) and parameter.default is parameter.empty:
            own.append(str(tmp_path / "other"))
        elif other != name and not is_argument(parameter) and parameter.default is parameter.empty:
            own += [flag(other), "9"]
    with pytest.raises(SystemExit) as ended:
        main([*command, *own])
    assert ended.value.code == 2
    assert "is a pipe, a device or a socket, not a file" in capsys.readouterr().err


@pytest.mark.parametrize("number", [signal.SIGINT, signal.SIGTERM])
@pytest.mark.parametrize("begun_s", [0.0, 2.0])
def test_a_command_that_draws_without_end_is_ended(number, begun_s, tmp_path):
    """While it starts, and while the drawing is drawn apart: with the code that shells know, and in no more words."""
    (tmp_path / "heavy.svg").write_text(HEAVY)
    command = [sys.executable, "-m", "swaddon", "plan", str(tmp_path / "heavy.svg")]
    asked = subprocess.Popen(command, stdout=subprocess.PIPE, stderr=subprocess.PIPE, text=True, start_new_session=True)
    time.sleep(0.3 + begun_s)
    asked.send_signal(number)
    _, told = asked.communicate(timeout=60)
    assert asked.returncode in (128 + number, -number)
    assert "Traceback" not in told
    assert "takes more than" not in told, "it ended by itself"


def test_a_trusted_drawing_is_offered_and_read(tmp_path, capsys, monkeypatch):
    from swaddon.io import apart

    monkeypatch.setattr(apart, "MOST_CPU_S", 1.0)
    few = HEAVY.replace(ENDLESS, '<feGaussianBlur stdDeviation="50"/>' * 6).replace("900mm", "80mm")
    (tmp_path / "heavy.svg").write_text(few)
    with pytest.raises(SystemExit) as ended:
        main(["plan", str(tmp_path / "heavy.svg"), "--width", "30mm"])
    assert ended.value.code == 2
    assert "or --trust-artwork where you trust it" in capsys.readouterr().err
    with pytest.raises(SystemExit) as ended:
        main(["plan", str(tmp_path / "heavy.svg"), "--width", "30mm", "--trust-artwork"])
    assert ended.value.code == 0
    apart.renew()


class Gone:
    """Standard output on a full disk, or whose reader has left; what is written is kept back until it is flushed."""

    encoding, errors = "utf-8", "strict"

    def __init__(self, error: type[OSError], number: int, at_once: bool) -> None:
        self.error, self.at_once = error(number, os.strerror(number)), at_once

    def write(self, text: str) -> int:
        if self.at_once and text:
            raise self.error
        return len(text)

    def flush(self) -> None:
        raise self.error


@pytest.mark.parametrize(
    "command", [("version",), ("profiles",), ("media",), ("supplies",), ("store", "check"), *DECLARED]
)
@pytest.mark.parametrize("at_once", [True, False])
def test_no_command_breaks_on_an_output_that_takes_nothing(command, at_once, monkeypatch, capsys):
    """Fourteen of sixteen commands ended in a traceback on a full disk; drawn from the declarations, by their help."""
    arguments = [*command] if command in {("version",), ("profiles",), ("media",)} else [*command, "--help"]
    for gone in (Gone(OSError, errno.ENOSPC, at_once), Gone(BrokenPipeError, errno.EPIPE, at_once)):
        monkeypatch.setattr(sys, "stdout", gone)
        with pytest.raises(SystemExit) as ended:
            main(arguments)
        assert ended.value.code == 2
        told = capsys.readouterr().err
        assert told.startswith("The result could not be printed (")
        assert told.count("\n") == 1


def test_a_closed_output_holds_nothing_up(tmp_path):
    """``swaddon plan … >&-``: there is no standard output at all."""
    command = ["sh", "-c", 'exec "$@" >&-', "sh", sys.executable, "-m", "swaddon", "profiles"]
    made = subprocess.run(command, stderr=subprocess.PIPE, text=True, timeout=60, check=False)
    assert (made.returncode, made.stderr) == (0, "")


@pytest.mark.parametrize("name", ["region_file", "outline", "preset", "lineup", "job"])
def test_files_nested_without_end_are_refused(name, tmp_path, capsys):
    (tmp_path / "deep.json").write_text("[" * 45_000 + "]" * 45_000)
    Image.new("RGB", (9, 9)).save(tmp_path / "a.png")
    with pytest.raises(SystemExit) as ended:
        main(["plan", str(tmp_path / "a.png"), flag(name), str(tmp_path / "deep.json")])
    assert ended.value.code == 2
    assert "deep.json" in capsys.readouterr().err
