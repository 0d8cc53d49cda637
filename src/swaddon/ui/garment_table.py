"""The garment library, to edit: from CSV and to CSV as well."""

from collections.abc import Callable, Sequence
from pathlib import Path

from PySide6.QtWidgets import QWidget

from swaddon.io.garments import LibraryGarment, garment_from, read_garments, write_garments
from swaddon.ui.file_table import CSV_READS, CSV_WRITES, FileTable, TableFile
from swaddon.ui.table_dialog import Cells

_HEADS = ("Name", "Colour", "Cloth", "g/m²", "Bears °C")
_FILE = TableFile("Garments", "CSV", "garments.csv", CSV_READS, CSV_WRITES)


class GarmentTable(FileTable):
    """Garments by name, colour, cloth, weight and what heat they bear at the press."""

    def __init__(
        self, parent: QWidget, garments: Sequence[LibraryGarment], keep: Callable[[Sequence[LibraryGarment]], None]
    ) -> None:
        super().__init__(
            parent, "Garments of the shop", _HEADS, [garment.cells for garment in garments],
            lambda: keep(self.garments()), ("New garment", "#808080", "cotton", "", ""), _FILE, colour_column=1,
        )  # fmt: skip

    def garments(self) -> tuple[LibraryGarment, ...]:
        """What the table holds; raises ``ValueError`` that names the row."""
        made = tuple(garment_from(cells, number) for number, cells in enumerate(self.rows(), start=1))
        names = [garment.name.lower() for garment in made]
        for number, name in enumerate(names, start=1):
            if name in names[: number - 1]:
                raise ValueError(f"Row {number} has the name “{made[number - 1].name}” again")
        if not made:
            raise ValueError("Keep at least one garment")
        return made

    def rows_in(self, path: Path) -> list[Cells]:
        return [garment.cells for garment in read_garments(path)]

    def write_rows(self, path: Path) -> None:
        write_garments(path, self.garments())
