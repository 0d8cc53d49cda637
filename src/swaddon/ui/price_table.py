"""The shop's prices, to edit: from CSV and to CSV as well, with the figures of one press below."""

from collections.abc import Callable
from decimal import Decimal
from pathlib import Path

from PySide6.QtWidgets import QHeaderView, QLineEdit, QWidget

from swaddon.core.press.profile import PressProfile
from swaddon.core.shop.book import Book, Price, own_supplies
from swaddon.io.supplies import ITEMS, book_from, cells_of, read_book, write_book
from swaddon.ui.file_table import CSV_READS, CSV_WRITES, FileTable, TableFile
from swaddon.ui.table_dialog import Cells
from swaddon.ui.widgets import column, label, row

_HEADS = ("Item", "For", "Pack price", "Pack size", "Unit", "Currency", "Date", "Supplier", "Waste %")
_WIDTHS = (116, 130, 84, 76, 66, 70, 96, 110, 70)
_TOLD = (
    "“For” names a press, a process or a garment; empty: all. Ink by ml, l, g or kg, toner by pages of 5 % too; "
    "film by m² or sq in; labour and machine by h, energy by kWh. What has no row is not counted."
)
_FILE = TableFile("Prices", "CSV", "supplies.csv", CSV_READS, CSV_WRITES)

Keep = Callable[[Book, dict[str, float]], None]


def with_own(book: Book, press: PressProfile | None) -> Book:
    """The table with a row for every supply of a press: those missing at the profile's own prices."""
    for item, supply in () if press is None else own_supplies(press):
        assert press is not None
        if book.price(item, press.name, press.process) is None and (not book.prices or book.currency == press.currency):
            unit = "sheet" if item == "sheet" and supply.unit not in ("sheet", "set") else supply.unit
            price = Price(item, supply.unit_price, Decimal(1), unit, press.currency, press.name)
            book = book.with_price(price)
    return book


class PriceTable(FileTable):
    """Prices by item, what they are for, pack and date; below them spoilage and pieces a day of a press."""

    def __init__(self, parent: QWidget, book: Book, press: PressProfile | None, keep: Keep) -> None:
        self._press = press
        self.spoilage, self.pieces = QLineEdit(), QLineEdit()
        under = self._figures(press)
        super().__init__(
            parent, "Prices of the shop", _HEADS, [cells_of(price) for price in with_own(book, press).prices],
            lambda: keep(self.book(), self.figures()),
            ("packaging", "", "0", "1", "piece", book.currency or "EUR", "", "", ""), _FILE,
            choices={0: tuple((item, item.capitalize()) for item in ITEMS)}, under=under,
        )  # fmt: skip
        self.resize(900, 560)
        self.table.horizontalHeader().setSectionResizeMode(0, QHeaderView.ResizeMode.Interactive)
        for place, width in enumerate(_WIDTHS):
            self.table.setColumnWidth(place, width)

    def _figures(self, press: PressProfile | None) -> QWidget:
        told = label(_TOLD, "quiet", wrap=True)
        if press is None:
            return told
        for field, name, value in (
            (self.spoilage, "Spoilage in percent", 100 * press.working.spoilage_share),
            (self.pieces, "Pieces a day", press.working.pieces_per_day),
        ):
            field.setText(f"{value:g}")
            field.setFixedWidth(64)
            field.setAccessibleName(f"{name} of {press.name}")
        words = label(f"On {press.title}: spoilage")
        return column(told, row(words, self.spoilage, label("%"), label("pieces a day"), self.pieces, 1))

    def book(self) -> Book:
        """What the table holds; raises ``ValueError`` that names the row."""
        rows = self.rows()
        if not rows:
            raise ValueError("Keep at least one price")
        return book_from(rows)

    def figures(self) -> dict[str, float]:
        """The press's figures as typed; raises ``ValueError``."""
        if self._press is None:
            return {}
        share = _number(self.spoilage.text(), "Spoilage", 0, 90) / 100
        return {"spoilage_share": share, "pieces_per_day": _number(self.pieces.text(), "Pieces a day", 1, 100_000)}

    def rows_in(self, path: Path) -> list[Cells]:
        return [cells_of(price) for price in read_book(path).prices]

    def write_rows(self, path: Path) -> None:
        write_book(path, self.book())


def _number(text: str, what: str, least: float, most: float) -> float:
    try:
        value = float(text.strip().rstrip("%").replace(",", "."))
    except ValueError as error:
        raise ValueError(f"{what}: “{text}” is no number") from error
    if not least <= value <= most:
        raise ValueError(f"{what}: {text} is outside {least:g} to {most:g}")
    return value
