"""A folder that scans come into: which are new, and whole."""

from dataclasses import dataclass
from pathlib import Path

from swaddon.core.errors import PlanError
from swaddon.io.names import shown
from swaddon.io.profiles import reason

_SUFFIXES = (".png", ".tif", ".tiff", ".jpg", ".jpeg")


@dataclass(frozen=True)
class _State:
    """What tells a scan from another that comes under its name, and a whole one from one that still grows."""

    inode: int
    size: int
    mtime_ns: int


class ScanFolder:
    """Remembers what lay in a folder; a file counts when it is new there and no longer grows.

    A name that is used again for another scan is new again; a file that is renamed while it grows is one file, and one
    that is taken away is waited for no more.
    """

    def __init__(self) -> None:
        self._folder: Path | None = None
        self._known: dict[str, _State] = {}
        self._seen: dict[str, _State] = {}

    @property
    def is_growing(self) -> bool:
        """Whether a new file was still being written at the last look."""
        return any(self._known.get(name) != state for name, state in self._seen.items())

    def begin(self, folder: Path) -> None:
        """Watch a folder from now on; raises ``PlanError`` where it cannot be read."""
        try:
            self._known = _scans(folder)
        except OSError as error:
            raise PlanError(f"The folder “{shown(folder)}” cannot be watched ({reason(error)}).") from error
        self._folder, self._seen = folder, dict(self._known)

    def end(self) -> None:
        """Watch no folder."""
        self._folder, self._known, self._seen = None, {}, {}

    def new_scans(self) -> list[Path]:
        """Scans that came since the last look and are whole, oldest first.

        Raises
        ------
        PlanError
            When the folder is gone or can no longer be read; it is watched no more.
        """
        folder = self._folder
        if folder is None:
            return []
        try:
            found = _scans(folder)
        except OSError as error:
            self.end()
            raise PlanError(
                f"The folder “{shown(folder)}” is watched no more ({reason(error)}): choose it again when it is back."
            ) from error
        before, self._seen = self._seen, found
        whole = {name: state for name, state in found.items() if state.size > 0 and before.get(name) == state}
        new = [(state.mtime_ns, name) for name, state in whole.items() if self._known.get(name) != state]
        self._known = {name: state for name, state in self._known.items() if name in found} | whole
        return [folder / name for _, name in sorted(new)]


def _scans(folder: Path) -> dict[str, _State]:
    """The pictures in a folder as they are now; raises ``OSError`` where it cannot be listed."""
    out = {}
    for path in folder.iterdir():
        if path.suffix.lower() in _SUFFIXES and not path.name.startswith("."):
            try:
                found = path.stat()
            except OSError:
                continue  # taken away meanwhile
            out[path.name] = _State(found.st_ino, found.st_size, found.st_mtime_ns)
    return out
