"""Files written whole or not at all."""

import os
import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import BinaryIO, cast

_MODE = 0o644


@contextmanager
def whole_file(path: Path) -> Iterator[BinaryIO]:
    """Open a file that takes the place of ``path`` when the block ends well; else ``path`` stays as it was.

    The new file keeps the permissions of the old one; a first one is readable by all. Folders must exist.

    Raises
    ------
    OSError
        When the folder cannot be written or the disk is full.
    """
    mode = path.stat().st_mode & 0o777 if path.exists() else _MODE
    with tempfile.NamedTemporaryFile(dir=path.parent, prefix=".swaddon-", delete=False) as file:
        part = Path(file.name)
        try:
            yield cast(BinaryIO, file)
            file.close()
            part.chmod(mode)
            os.replace(part, path)
        except BaseException:
            part.unlink(missing_ok=True)
            raise
