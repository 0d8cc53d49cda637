"""What the operator sets once: units, scheme, recent jobs. A file that cannot be read is as good as none."""

import json
import os
from dataclasses import asdict, dataclass, replace
from pathlib import Path

import platformdirs

_RECENT_AT_MOST = 8


@dataclass(frozen=True)
class Preferences:
    """Kept between sessions.

    ``bar`` tells pressure in bar instead of light, medium, heavy; ``sound`` lets timers ring; ``paper`` is what cards
    are printed on, ``a4`` or ``letter``.
    """

    scheme: str = "dark"
    inches: bool = False
    recent: tuple[str, ...] = ()
    fahrenheit: bool = False
    bar: bool = False
    sound: bool = True
    paper: str = "a4"

    def with_recent(self, path: Path) -> "Preferences":
        others = tuple(item for item in self.recent if item != str(path))
        return replace(self, recent=(str(path), *others)[:_RECENT_AT_MOST])


def config_folder() -> Path:
    return Path(os.environ.get("SWADDON_CONFIG") or platformdirs.user_config_path("swaddon"))


def recovery_folder() -> Path:
    """Where running programs keep copies of unsaved jobs, each in a folder of its own."""
    return config_folder() / "recovery"


def load_preferences() -> Preferences:
    try:
        raw = json.loads((config_folder() / "preferences.json").read_text(encoding="utf-8"))
        scheme = raw.get("scheme")
        recent = tuple(str(item) for item in raw.get("recent", ()))
        paper = "letter" if raw.get("paper") == "letter" else "a4"
        scheme = scheme if scheme in ("dark", "light") else "dark"
        fahrenheit, bar, sound = bool(raw.get("fahrenheit")), bool(raw.get("bar")), bool(raw.get("sound", True))
        return Preferences(scheme, bool(raw.get("inches")), recent, fahrenheit, bar, sound, paper)
    except (OSError, ValueError, AttributeError, TypeError):
        return Preferences()


def save_preferences(preferences: Preferences) -> None:
    """Best effort: a full disk must not stop the work."""
    try:
        folder = config_folder()
        folder.mkdir(parents=True, exist_ok=True)
        (folder / "preferences.json").write_text(json.dumps(asdict(preferences), indent=2), encoding="utf-8")
    except OSError:
        return
