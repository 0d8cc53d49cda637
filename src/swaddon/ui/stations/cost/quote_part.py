"""The sheet of the quote: margin or mark-up, set-up, rounding, tax, deposit, and the customer's page as a file."""

from collections.abc import Callable
from typing import Any

from PySide6.QtWidgets import QGridLayout, QVBoxLayout, QWidget

from swaddon.core.flow.quote import QuoteTerms
from swaddon.core.units import number_of
from swaddon.session.quotes import QuoteSheet
from swaddon.ui.fields import TextField
from swaddon.ui.widgets import Choice, Field, button, label, row

_WHY = (
    "Margin is a share of the price: 40 % on a cost of 6.00 asks 10.00, and 40 % of what comes in stays. Mark-up is a "
    "share of the cost: 40 % on 6.00 asks 8.40, of which 28.6 % stays. Margin tells what is earned of each sale and "
    "is right where rent and wages are planned from turnover; mark-up is easier by hand and right where every job "
    "carries its own."
)
_PRESS_WHY = (
    "Dark goods are quoted first; the light shirt can then be offered for less and still earn more, because it prints "
    "in a third of the time. What counts is not the price but what an hour of the machine that limits the shop earns."
)
_NUMBERS = (
    ("percent", "Percent", "percent"),
    ("setup", "Set-up, once", ""),
    ("tax_percent", "Tax", "percent"),
    ("deposit_percent", "Deposit", "percent"),
    ("valid_days", "Valid, days", ""),
)


class QuotePart(QWidget):
    """Terms, and what comes of them."""

    def __init__(self, change: Callable[[str, Any], None], give: Callable[[str], None]) -> None:
        super().__init__()
        self._change = change
        self.total = label("", "title")
        self.earned = label("", "effect", wrap=True)
        self.way = Choice("Priced by", (("margin", "Margin"), ("markup", "Mark-up")))
        self.way.chosen.connect(lambda way: change("way", way))
        holder = self._numbers()
        steps = ("0.01", "0.05", "0.10", "0.50", "1.00", "x.99")
        self.rounding = Choice("Rounding", tuple((step, step) for step in steps), columns=3)
        self.rounding.chosen.connect(lambda step: change("rounding", step))
        self.note = TextField("Note for the customer", "A line for the customer")
        self.note.entered.connect(lambda text: change("note", text.strip()[:300]))
        self.pdf = button("Quote as PDF …", "primary", "", "One page for the customer, numbered, kept with the order")
        self.pdf.clicked.connect(lambda: give(".pdf"))
        self.copy, self.table = button("Copy as text", "link"), button("CSV …", "link")
        self.copy.clicked.connect(lambda: give(""))
        self.table.clicked.connect(lambda: give(".csv"))
        self.number = label("", "quiet")
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(8)
        for part in (
            self.total,
            Field("What it earns", self.earned, _PRESS_WHY),
            Field("Priced by", self.way, _WHY),
            holder,
            Field("Prices go up to the next", self.rounding),
            self.note,
            self.pdf,
            row(self.copy, self.table, 1, self.number),
        ):
            layout.addWidget(part)

    def _numbers(self) -> QWidget:
        """A field for each number of the terms."""
        self.fields: dict[str, TextField] = {}
        grid = QGridLayout()
        grid.setContentsMargins(0, 0, 0, 0)
        for at, (name, title, _) in enumerate(_NUMBERS):
            field = TextField(title)
            field.setFixedWidth(72)
            field.entered.connect(lambda text, name=name: self._typed(name, text))
            self.fields[name] = field
            grid.addWidget(label(title, "quiet"), at // 2, 2 * (at % 2))
            grid.addWidget(field, at // 2, 2 * (at % 2) + 1)
        holder = QWidget()
        holder.setLayout(grid)
        return holder

    def _typed(self, name: str, text: str) -> None:
        field = self.fields[name]
        try:
            value = float(text.strip().rstrip("%").strip().replace(",", "."))
            if name == "valid_days" and value != round(value):
                raise ValueError(f"“{text}” is no whole number of days")
            self._change(name, int(value) if name == "valid_days" else value)
            field.refuse("")
        except ValueError as error:
            told = str(error)
            field.refuse(f"“{text}” is no number." if told.startswith("could not convert") else f"{told}.")

    def show_terms(self, terms: QuoteTerms, sheet: QuoteSheet | None, is_current: bool, waits: bool) -> None:
        """The terms as they stand, and the sum that was worked out from just these; nothing else is handed out."""
        self.way.show_value(terms.way)
        self.rounding.show_value(terms.rounding)
        for name, field in self.fields.items():
            field.show_value(f"{getattr(terms, name):g}")
        self.note.show_value(terms.note)
        self.number.setText(f"Quote {terms.number}" if terms.number else "Not numbered yet")
        for made in (self.pdf, self.copy, self.table):
            made.setEnabled(sheet is not None and is_current)
        if sheet is None or not is_current:
            self.total.setText("Pricing …" if waits else "")
            self.earned.setText("")
            return
        quote = sheet.quote
        self.total.setText(f"{quote.total:f} {quote.currency}")
        cost = sum((line.cost * line.quantity for line in quote.lines), quote.setup * 0)
        kept = quote.net - cost
        share = kept / quote.net if quote.net else quote.net
        setting_up = sheet.ways[0].setup if sheet.ways else quote.setup * 0
        of_it = f" ({setting_up:.2f} of it for setting up once)" if setting_up else ""
        self.earned.setText(
            f"{number_of(quote.pieces, 'piece')}: {cost:.2f} cost{of_it}, {kept:.2f} stay: {share:.0%} of the price."
        )
