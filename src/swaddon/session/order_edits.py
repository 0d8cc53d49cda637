"""Edits of an order's lines, each a labelled step."""

from collections.abc import Callable, Sequence
from dataclasses import replace

from swaddon.core.order.lines import MOST_LINES, PLACES, Fit, OrderLine, Place, put_back, untouched
from swaddon.io.garments import LibraryGarment
from swaddon.io.print_areas import SizeTable
from swaddon.session.job import Job
from swaddon.session.line_list import WantedLine, fitted, made
from swaddon.session.session import Edit


def add_lines(wanted: Sequence[WantedLine], table: SizeTable) -> Edit:
    """Add lines with the order's settings; the first take the place of a single line that was never itemised.

    Raises ``ValueError`` on the edit when there would be too many.
    """

    def changed(job: Job) -> Job:
        artwork = None if job.file is None else job.file.artwork
        new = tuple(made(item, job.line, artwork, table) for item in wanted)
        stands = len(job.lines) == 1 and untouched(job.line)
        lines = new if stands else (*job.lines, *new)
        if len(lines) > MOST_LINES:
            raise ValueError(f"That makes {len(lines)} lines, more than {MOST_LINES}: split the order")
        return job.of_lines(lines, 0 if stands else len(job.lines))

    label = "Add a line" if len(wanted) == 1 else f"Add {len(wanted)} lines"
    return Edit(label, changed)


def repeat_line() -> Edit:
    """One more line like the one at hand, below it."""

    def changed(job: Job) -> Job:
        if len(job.lines) >= MOST_LINES:
            return job
        lines = (*job.lines[: job.at + 1], job.line, *job.lines[job.at + 1 :])
        return job.of_lines(lines, job.at + 1)

    return Edit("Add a line", changed)


def remove_line(at: int) -> Edit:
    """Take a line out; the last one stays."""

    def changed(job: Job) -> Job:
        if len(job.lines) == 1 or not 0 <= at < len(job.lines):
            return job
        lines = job.lines[:at] + job.lines[at + 1 :]
        return job.of_lines(lines, min(job.at - (at < job.at), len(lines) - 1))

    return Edit("Remove a line", changed)


def _of_line(label: str, at: int, make: Callable[[OrderLine, Job], OrderLine]) -> Edit:
    """Change what one line is."""

    def changed(job: Job) -> Job:
        if not 0 <= at < len(job.lines):
            return job
        lines = list(job.lines)
        lines[at] = make(lines[at], job)
        return job.of_lines(tuple(lines), job.at)

    return Edit(label, changed)


def _fitted(line: OrderLine, job: Job, table: SizeTable) -> OrderLine:
    return fitted(line, None if job.file is None else job.file.artwork, table)


def set_garment(at: int, garment: LibraryGarment) -> Edit:
    """Take a garment of the library for a line."""

    def make(line: OrderLine, _job: Job) -> OrderLine:
        goods = replace(line.goods, name=garment.name, cloth=garment.cloth)
        return replace(line, goods=goods, settings=replace(line.settings, garment=garment.rgb))

    return _of_line("Change garment", at, make)


def set_size(at: int, size: str, table: SizeTable) -> Edit:
    """Change a line's garment size; a print size of the table follows it."""

    def make(line: OrderLine, job: Job) -> OrderLine:
        fit: Fit = line.goods.fit if line.goods.fit == "own" else table.fit_of(size)
        changed = replace(line, goods=replace(line.goods, size=size, fit=fit))
        return changed if fit == line.goods.fit else _fitted(changed, job, table)

    return _of_line("Change size", at, make)


def set_place(at: int, place: Place, table: SizeTable) -> Edit:
    """Change where a line's print sits: its shape, its distance from the collar, and its print size follow."""

    def make(line: OrderLine, job: Job) -> OrderLine:
        where = PLACES[place]
        changed = replace(
            line,
            shape=where.shape or line.shape,
            goods=replace(line.goods, place=place),
            settings=replace(line.settings, drop_mm=where.drop_mm),
        )
        return _fitted(changed, job, table)

    return _of_line("Change place", at, make)


def set_fit(at: int, fit: Fit, table: SizeTable) -> Edit:
    """Take another print size of the table for a line, or a width of its own."""

    def make(line: OrderLine, job: Job) -> OrderLine:
        return _fitted(replace(line, goods=replace(line.goods, fit=fit)), job, table)

    return _of_line("Change print size", at, make)


def set_width(at: int, width_mm: float) -> Edit:
    """Give a line's print a width of its own."""

    def make(line: OrderLine, _job: Job) -> OrderLine:
        goods = line.goods if untouched(line) else replace(line.goods, fit="own")
        return replace(line, goods=goods, settings=replace(line.settings, width_mm=width_mm))

    return _of_line("Change print width", at, make)


def set_quantity(at: int, quantity: int) -> Edit:
    def make(line: OrderLine, _job: Job) -> OrderLine:
        return replace(line, settings=replace(line.settings, quantity=quantity))

    return _of_line("Change quantity", at, make)


def put_back_setting(path: str) -> Edit:
    """Let a setting of the line at hand follow the order again."""

    def changed(job: Job) -> Job:
        line = put_back(job.line, path, (*job.above, *job.below))
        return replace(job, settings=line.settings, own=line.own)

    return Edit("Follow the order again", changed, alone=False)


def put_back_all() -> Edit:
    """Let all settings of the line at hand follow the order again."""

    def changed(job: Job) -> Job:
        line = job.line
        for path in line.own:
            line = put_back(line, path, (*job.above, *job.below))
        return replace(job, settings=line.settings, own=line.own)

    return Edit("Follow the order again", changed, alone=False)
