"""The shop's media, to edit: rolls, cut film, sheets, decal paper, platens and heat-press plates."""

from collections.abc import Callable, Sequence
from pathlib import Path

from PySide6.QtWidgets import QHeaderView, QWidget

from swaddon.core.sheet.media import KINDS, Medium
from swaddon.io.media import HEADS, cells_of, media_from, read_media, write_media
from swaddon.ui.file_table import FileTable, TableFile
from swaddon.ui.table_dialog import Cells
from swaddon.ui.widgets import label

_FILE = TableFile("Media", "TOML", "media.toml", "Media (*.toml)", "Media (*.toml)")
_WIDTHS = (96, 112, 142, 58, 58, 64, 60, 68, 74, 46, 68, 60)
_TOLD = (
    "All in mm. The rims cannot be printed; “Cut” is the least distance that scissors or a cutter part. A roll has no "
    "height; “Film left” is what is still on it: a longer sheet is a stop. “Placing” is how far off a second transfer "
    "is laid by hand under this plate."
)


class MediaTable(FileTable):
    """Media with their sizes, margins and what is left of them."""

    def __init__(self, parent: QWidget, media: Sequence[Medium], keep: Callable[[Sequence[Medium]], None]) -> None:
        super().__init__(
            parent, "Media of the shop", HEADS, [cells_of(medium) for medium in media],
            lambda: keep(self.media()), ("new", "New medium", "cut", "210", "297", "5", "5", "5", "5", "4", "", ""),
            _FILE, choices={2: tuple((kind, words.capitalize()) for kind, words in KINDS.items())},
            under=label(_TOLD, "quiet", wrap=True),
        )  # fmt: skip
        self.resize(960, 520)
        self.table.horizontalHeader().setSectionResizeMode(0, QHeaderView.ResizeMode.Interactive)
        for place, width in enumerate(_WIDTHS):
            self.table.setColumnWidth(place, width)

    def media(self) -> tuple[Medium, ...]:
        """What the table holds; raises ``ValueError`` that names the row."""
        return media_from(self.rows())

    def rows_in(self, path: Path) -> list[Cells]:
        return [cells_of(medium) for medium in read_media(path)]

    def write_rows(self, path: Path) -> None:
        write_media(path, self.media())
