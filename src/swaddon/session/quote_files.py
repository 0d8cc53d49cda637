"""A quote as a file for the customer: one page of PDF, text, or the list as CSV."""

from pathlib import Path

from swaddon.core.errors import PlanError
from swaddon.io.names import shown
from swaddon.io.outputs import output_file
from swaddon.io.profiles import reason
from swaddon.io.quote_pdf import QuotePage, write_quote
from swaddon.io.spreadsheet import write_rows
from swaddon.session.quotes import QuoteSheet, customer_lines, customer_sums, quote_text


def page_of(sheet: QuoteSheet) -> QuotePage:
    """What stands on the customer's page; none of the shop's own figures."""
    terms, currency = sheet.quote.terms, sheet.quote.currency
    others = [
        f"{item.title}: {item.price:f} {currency}" + ("" if item.title.startswith("Transfer") else f" a {sheet.piece}")
        for item in sheet.alternatives[1:]
    ]
    breaks = ", ".join(f"{count}: {price:f}" for count, price in sheet.breaks)
    foot = [f"One {sheet.piece} by quantity ({currency}): {breaks}"]
    if sheet.valid_until:
        foot.append(f"Valid until {sheet.valid_until}.")
    if terms.note:
        foot.append(terms.note)
    return QuotePage(
        shop=sheet.shop,
        head=f"Quote {terms.number}".strip(),
        date=terms.date,
        title=sheet.title,
        customer=f"For {sheet.customer}" if sheet.customer else "",
        lines=customer_lines(sheet),
        sums=[(title, total.replace(f" {currency}", "")) for title, total in customer_sums(sheet)],
        alternatives=others,
        foot=foot,
        currency=currency,
        proof=sheet.proof,
    )


def write_quote_file(path: Path, sheet: QuoteSheet) -> None:
    """Write the quote by the suffix of its name; raises ``PlanError`` with one sentence."""
    kind = path.suffix.lower()
    if kind == ".pdf":
        write_quote(path, page_of(sheet))
    elif kind == ".csv":
        sums = [(title, "", "", total) for title, total in customer_sums(sheet)]
        write_rows(path, [("title", "pieces", "each", "sum"), *customer_lines(sheet), *sums])
    else:
        try:
            with output_file(path) as file:
                file.write((quote_text(sheet) + "\n").encode("utf-8"))
        except OSError as error:
            raise PlanError(f"The quote could not be written to “{shown(path)}” ({reason(error)}).") from error
