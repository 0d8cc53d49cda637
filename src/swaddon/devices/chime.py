"""The sound of a timer that has run down: two tones, made here, played by whatever player the machine has."""

import io
import shutil
import subprocess
import tempfile
import wave
from contextlib import suppress
from pathlib import Path
from typing import Protocol

import numpy as np

_RATE = 44_100
_TONES = ((1318.5, 0.16), (1760.0, 0.34))
"""Hz and s: E6 and A6, which carry over fans (chosen by us)."""

_PLAYERS = (("pw-play",), ("paplay",), ("aplay", "-q"))


class Chime(Protocol):
    """Whatever can be heard."""

    def ring(self) -> bool:
        """Ring once without waiting; whether anything can be heard."""


class Speaker:
    """Plays the tones through the desktop's sound server, or none."""

    def __init__(self, players: tuple[tuple[str, ...], ...] = _PLAYERS) -> None:
        self._player = next((player for player in players if shutil.which(player[0])), None)
        self._file: Path | None = None
        self._playing: subprocess.Popen[bytes] | None = None

    def ring(self) -> bool:
        """Ring once; a ring that is still heard is not doubled."""
        if self._player is None:
            return False
        if self._playing is not None and self._playing.poll() is None:
            return True
        with suppress(OSError):
            if self._file is None or not self._file.exists():
                with tempfile.NamedTemporaryFile(prefix="swaddon-", suffix=".wav", delete=False) as file:
                    file.write(tones())
                self._file = Path(file.name)
            self._playing = subprocess.Popen(
                [*self._player, str(self._file)], stdin=subprocess.DEVNULL, stdout=subprocess.DEVNULL,
                stderr=subprocess.DEVNULL,
            )  # fmt: skip
            return True
        return False

    def close(self) -> None:
        """Take away what was made to ring."""
        if self._playing is not None:
            try:
                self._playing.wait(timeout=1)
            except subprocess.TimeoutExpired:
                self._playing.kill()
                self._playing.wait()
        if self._file is not None:
            self._file.unlink(missing_ok=True)


def tones() -> bytes:
    """The two tones as a WAV file: 16 bits, one channel."""
    parts = []
    for hertz, seconds in _TONES:
        at = np.arange(int(_RATE * seconds)) / _RATE
        fade = np.minimum(1, np.minimum(at / 0.01, (seconds - at) / 0.06))
        parts.append(0.5 * np.sin(2 * np.pi * hertz * at) * fade)
    held = io.BytesIO()
    with wave.open(held, "wb") as out:
        out.setnchannels(1)
        out.setsampwidth(2)
        out.setframerate(_RATE)
        out.writeframes((np.concatenate(parts) * 32767).astype("<i2").tobytes())
    return held.getvalue()
