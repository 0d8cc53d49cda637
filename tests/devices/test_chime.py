"""The sound of a timer: two tones as a WAV file, played by whatever player there is, or by none."""

import io
import time
import wave
from pathlib import Path

import numpy as np
import pytest

from swaddon.devices.chime import Speaker, tones


def test_the_tones_are_those_that_are_told():
    """The loudest frequency of each part by FFT; E6 and A6 at A4 = 440 Hz (ISO 16) are 1318.5 and 1760 Hz."""
    with wave.open(io.BytesIO(tones())) as file:
        rate = file.getframerate()
        assert (file.getnchannels(), file.getsampwidth()) == (1, 2)
        samples = np.frombuffer(file.readframes(file.getnframes()), "<i2").astype(float)
    first = int(0.16 * rate)
    for part, hertz in ((samples[:first], 440 * 2 ** (19 / 12)), (samples[first:], 440 * 2**2)):
        spectrum = np.abs(np.fft.rfft(part, 2**17))
        assert spectrum.argmax() * rate / 2**17 == pytest.approx(hertz, abs=2)
    assert abs(samples).max() <= 32767 / 2 + 1
    assert abs(samples[0]) < 10
    assert abs(samples[-1]) < 400


def test_it_is_played_once_and_its_file_goes(tmp_path, monkeypatch):
    heard = tmp_path / "heard"
    player = tmp_path / "player"
    player.write_text(f'#!/bin/sh\necho "$1" >> {heard}\nsleep 0.3\n')
    player.chmod(0o755)
    speaker = Speaker(((str(player),),))
    assert speaker.ring()
    assert speaker.ring(), "what is still heard is not doubled"
    until = time.monotonic() + 10
    while not heard.exists() and time.monotonic() < until:
        time.sleep(0.01)
    (played,) = heard.read_text().split()
    assert Path(played).read_bytes() == tones()
    speaker.close()
    assert not Path(played).exists()


def test_a_player_that_does_not_end_is_ended(tmp_path):
    """A loaded machine let the player live on after the bench was closed, with its file gone."""
    player = tmp_path / "player"
    player.write_text("#!/bin/sh\nexec sleep 600\n")
    player.chmod(0o755)
    speaker = Speaker(((str(player),),))
    assert speaker.ring()
    speaker.close()
    assert speaker._playing.returncode == -9


def test_without_a_player_nothing_is_heard_and_nothing_breaks():
    speaker = Speaker((("no-such-player",),))
    assert not speaker.ring()
    speaker.close()
