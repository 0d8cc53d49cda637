"""A folder that scans come into: which are new, and whole."""

from pathlib import Path

from swaddon.core.errors import PlanError
from swaddon.io.names import shown
from swaddon.io.profiles import reason

_SUFFIXES = (".png", ".tif", ".tiff", ".jpg", ".jpeg")


class ScanFolder:
    """Remembers what lay in a folder; a file counts when it is new and no longer grows."""

    def __init__(self) -> None:
        self._folder: Path | None = None
        self._known: set[str] = set()
        self._sizes: dict[str, int] = {}

    @property
    def is_growing(self) -> bool:
        """Whether a new file was still being written at the last look."""
        return bool(self._sizes)

    def begin(self, folder: Path) -> None:
        """Watch a folder from now on; raises ``PlanError`` where it cannot be read."""
        self._folder, self._sizes = folder, {}
        try:
            self._known = {path.name for path in folder.iterdir()}
        except OSError as error:
            raise PlanError(f"The folder “{shown(folder)}” cannot be watched ({reason(error)}).") from error

    def new_scans(self) -> list[Path]:
        """Scans that came since the last look and are whole, oldest first."""
        if self._folder is None:
            return []
        out = []
        try:
            found = [path for path in self._folder.iterdir() if path.suffix.lower() in _SUFFIXES]
            for path in found:
                if path.name in self._known or path.name.startswith("."):
                    continue
                size = path.stat().st_size
                if size > 0 and self._sizes.get(path.name) == size:
                    self._known.add(path.name)
                    del self._sizes[path.name]
                    out.append((path.stat().st_mtime_ns, path))
                else:
                    self._sizes[path.name] = size
        except OSError:
            return []
        return [path for _, path in sorted(out)]
