"""What the operator sets once: units, scheme, recent jobs."""

from dataclasses import asdict, dataclass, replace
from pathlib import Path
from typing import Literal

from pydantic import BaseModel, ConfigDict, Field

from swaddon.session.folders import config_folder
from swaddon.session.kept import of_model

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


class _File(BaseModel):
    model_config = ConfigDict(extra="ignore")
    schema_: Literal["swaddon-preferences/1"] = Field("swaddon-preferences/1", alias="schema")
    scheme: Literal["dark", "light"] = "dark"
    inches: bool = False
    recent: tuple[str, ...] = ()
    fahrenheit: bool = False
    bar: bool = False
    sound: bool = True
    paper: Literal["a4", "letter"] = "a4"


_KEPT = of_model(_File, "The preferences", "the usual ones hold")


def _file() -> Path:
    return config_folder() / "preferences.json"


def load_preferences() -> Preferences:
    """What was set, or the usual."""
    return Preferences(**_KEPT.of(_file()).model_dump(exclude={"schema_"}))


def save_preferences(preferences: Preferences) -> None:
    """Keep what is set; where that cannot be, it is told and tried again."""
    _KEPT.change(_file(), lambda _before: _File.model_validate(asdict(preferences)))
