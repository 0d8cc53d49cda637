"""The quote on the bench: priced in the background, shown as the customer's page, given out as a file."""

import datetime
from dataclasses import replace
from pathlib import Path
from typing import Any

import numpy as np
from PySide6.QtGui import QGuiApplication

from swaddon.core.engine import Run
from swaddon.core.errors import PlanError
from swaddon.session import shop
from swaddon.session.job import Job
from swaddon.session.quote_files import page_of, write_quote_file
from swaddon.session.quotes import QuoteSheet, check_terms, numbered, quote_text, quoted, set_terms, terms_of
from swaddon.session.side_work import Tell
from swaddon.ui.saving import save_name
from swaddon.ui.settling import settling
from swaddon.ui.station_spec import StationContext
from swaddon.ui.stations.cost.quote_part import QuotePart
from swaddon.ui.stations.cost.quote_table import QuoteTable

_SETTLE_MS = 400
_PAGE_SCALE = 1.5


class Quotes:
    """The quote of the job at hand."""

    def __init__(self, context: StationContext) -> None:
        self._context = context
        self._job = Job()
        self.sheet_: QuoteSheet | None = None
        self._of: tuple[object, ...] = ()
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
        if self.sheet_ is None:
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

    def ready(self) -> QuoteSheet | None:
        """The quote with a number and a date; they are kept with the order."""
        if self.sheet_ is None:
            return None
        terms = numbered(self.sheet_.quote.terms, datetime.date.today())
        if terms != self._job.quote:
            self._context.apply(set_terms(terms))
        self.sheet_ = replace(self.sheet_, quote=replace(self.sheet_.quote, terms=terms))
        return self.sheet_

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

    def show_job(self, job: Job) -> None:
        """Another job, or one that has changed."""
        self._job = job
        self.show()

    def show(self) -> None:
        """What is priced so far; the rest follows when nothing changes for a moment."""
        of = (self._job, self._context.book(), self._context.shop())
        if of != self._of:
            same_print = bool(self._of) and replace(self._job, quote=None) == replace(self._of[0], quote=None)  # type: ignore[type-var]
            self._of = of
            if not same_print:
                self.sheet_ = None
            self._context.quotes.cancel()
            if self.is_shown:
                self._later.start()
        elif self.is_shown and self.sheet_ is None:
            self._later.start()
        self._show()

    def _price(self) -> None:
        job, book, flow_shop = self._job, self._context.book(), self._context.shop()
        if job.file is None or job.profile is None or not self.is_shown or not self.sheet.isVisible():
            return

        def work(run: Run, _step: Tell) -> tuple[QuoteSheet, np.ndarray]:
            from swaddon.io.quote_pdf import quote_pdf

            sheet = quoted(job, book, flow_shop, run)
            return sheet, _picture(quote_pdf(page_of(sheet)))

        def done(found: tuple[QuoteSheet, np.ndarray]) -> None:
            if job is self._job:
                self.sheet_ = found[0]
                self.table.show_page(found[1])
                self._show()

        self._context.quotes.start(work, done, self._context.tell)

    def _show(self) -> None:
        if self.sheet_ is None:
            self.table.show_page(None)
        self.table.show_quote(self.sheet_)
        self.sheet.show_terms(terms_of(self._job), self.sheet_, self._job.file is not None)


def _picture(pdf: bytes) -> np.ndarray:
    """A page of PDF as it looks, ``uint8 (H, W, 3)``."""
    import pypdfium2

    with pypdfium2.PdfDocument(pdf) as document:
        bitmap = document[0].render(scale=_PAGE_SCALE)
        return np.array(bitmap.to_pil().convert("RGB"))
