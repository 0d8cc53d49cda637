"""The quote on the bench: priced in the background, shown as the customer's page, given out as a file."""

import datetime
from dataclasses import replace
from pathlib import Path
from typing import Any

import numpy as np
from PySide6.QtGui import QGuiApplication

from swaddon.core.engine import Run
from swaddon.core.errors import PlanError
from swaddon.core.flow.shop import Shop
from swaddon.core.shop.book import Book
from swaddon.session import shop
from swaddon.session.answer import Answer
from swaddon.session.job import Job
from swaddon.session.quote_files import page_of, write_quote_file
from swaddon.session.quotes import QuoteSheet, check_terms, numbered, quote_text, quoted, set_terms, terms_of
from swaddon.session.side_work import Tell
from swaddon.ui.job_work import JobWork
from swaddon.ui.saving import save_name
from swaddon.ui.settling import settling
from swaddon.ui.station_spec import StationContext
from swaddon.ui.stations.cost.quote_part import QuotePart
from swaddon.ui.stations.cost.quote_table import QuoteTable

_SETTLE_MS = 400
_PAGE_SCALE = 1.5


class Quotes(JobWork):
    """The quote of the job at hand."""

    def __init__(self, context: StationContext) -> None:
        super().__init__(context)
        self._answer = Answer[tuple[QuoteSheet, np.ndarray]]()
        self._numbers_of = ("", "")
        self.is_shown = False
        self.table = QuoteTable()
        self.sheet = QuotePart(self.change, self.give)
        self._later = settling(self.table, _SETTLE_MS, self._price)

    def change(self, name: str, value: Any) -> None:
        """Other terms: one step of undo; raises ``ValueError`` with one sentence where they cannot be."""
        terms = replace(terms_of(self._job), **{name: value})
        check_terms(terms)
        if name == "valid_days" and not 1 <= terms.valid_days <= 365:
            raise ValueError("A quote holds for 1 to 365 days")
        shop.keep_quote_terms(terms)
        self._context.apply(set_terms(terms))

    def give(self, suffix: str) -> None:
        """Number the quote, keep it with the order, and give it out as a file or copied as text."""
        if not self._is_priced():
            return
        if not suffix:
            sheet = self.ready()
            if sheet is not None:
                QGuiApplication.clipboard().setText(quote_text(sheet))
                self._context.tell("The quote was copied as text.")
            return
        name, _ = save_name(self.sheet, "Save the quote", f"{self._job.name}{suffix}", f"Quote (*{suffix})")
        if name:
            self.write(Path(name) if Path(name).suffix else Path(name + suffix))

    @property
    def quote(self) -> QuoteSheet | None:
        """The quote of just what stands there; ``None`` while it is being priced."""
        return None if self._answer.current is None else self._answer.current[0]

    def _is_priced(self) -> bool:
        """Whether the price is that of terms, prices and shop as they are at this moment; told where it is not."""
        self.show()
        if self.quote is None and self._job.file is not None:
            self._context.tell("The quote is being priced: it can be handed out in a moment.")
        return self.quote is not None

    def ready(self) -> QuoteSheet | None:
        """The quote with a number and a date; they are kept with the order. No number is spent on an old price."""
        sheet = self.quote
        if sheet is None or not self._is_priced():
            return None
        terms = numbered(terms_of(self._job), datetime.date.today())
        if terms != self._job.quote:
            self._context.apply(set_terms(terms))
        return replace(sheet, quote=replace(sheet.quote, terms=terms))

    def write(self, path: Path) -> None:
        """Write the quote as PDF, text or CSV."""
        sheet = self.ready()
        if sheet is None:
            return
        try:
            write_quote_file(path, sheet)
        except PlanError as error:
            self._context.tell(str(error))
            return
        self._context.tell(f"Quote {sheet.quote.terms.number} was written to {path}.")

    def show(self) -> None:
        """What is priced so far; the rest follows when nothing changes for a moment."""
        before = self._answer.asked
        if self._answer.ask(self._question()):
            same_print = isinstance(before, tuple) and replace(before[0], quote=None) == replace(self._job, quote=None)
            if not same_print:
                self._answer.forget()
            self._context.quotes.cancel()
        terms = terms_of(self._job)
        is_printed = self._numbers_of == (terms.number, terms.date)
        if self.is_shown and not (self._answer.is_current and is_printed):
            self._later.start()
        self._show()

    def _question(self) -> tuple[Job, Book, Shop]:
        """All that a price depends on: not the number of the quote and its day, which only stand on the page."""
        terms = replace(terms_of(self._job), number="", date="")
        return replace(self._job, quote=terms), self._context.book(), self._context.shop()

    def _price(self) -> None:
        job, book, flow_shop = self._job, self._context.book(), self._context.shop()
        question = self._answer.asked
        if job.file is None or job.profile is None or not self.is_shown or not self.sheet.isVisible():
            return

        def work(run: Run, _step: Tell) -> tuple[QuoteSheet, np.ndarray]:
            from swaddon.io.quote_pdf import quote_pdf

            sheet = quoted(job, book, flow_shop, run)
            return sheet, _picture(quote_pdf(page_of(sheet)))

        def done(found: tuple[QuoteSheet, np.ndarray]) -> None:
            if self._answer.take(question, found):
                terms = found[0].quote.terms
                self._numbers_of = (terms.number, terms.date)
                self._show()

        self._context.quotes.start(work, done, self._context.tell)

    def _show(self) -> None:
        sheet, picture = (None, None) if self._answer.last is None else self._answer.last
        self.table.show_page(picture, self._answer.is_current)
        self.table.show_quote(sheet)
        self.sheet.show_terms(terms_of(self._job), sheet, self._answer.is_current, self._job.file is not None)


def _picture(pdf: bytes) -> np.ndarray:
    """A page of PDF as it looks, ``uint8 (H, W, 3)``."""
    import pypdfium2

    with pypdfium2.PdfDocument(pdf) as document:
        bitmap = document[0].render(scale=_PAGE_SCALE)
        return np.array(bitmap.to_pil().convert("RGB"))
