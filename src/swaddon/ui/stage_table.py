"""The stages of a process in the shop, to edit: what is done, on which machine, with how many seconds."""

from collections.abc import Callable, Sequence
from dataclasses import replace

from PySide6.QtWidgets import QHeaderView, QWidget

from swaddon.core.flow.shop import HANDS, PLATEN, Shop, Stage
from swaddon.io.shops import checked
from swaddon.ui.table_dialog import Cells, TableDialog

_HEADS = (
    "Stage",
    "Machine",
    "Hands s",
    "Machine s",
    "Hands after s",
    "Stays",
    "Rests s",
    "As a gang",
    "Pretreated only",
    "On a platen",
)
_YES = (("no", "No"), ("yes", "Yes"))
_MOST_S = 86_400.0


class StageTable(TableDialog):
    """Stages in the order of the work; the printer's own time is that of each print."""

    def __init__(self, parent: QWidget, shop: Shop, process: str, keep: Callable[[Shop], None]) -> None:
        self._shop, self._process, self._keep_shop = shop, process, keep
        machines = [
            ("", "by hand"),
            *((name, name.replace("-", " ")) for name in shop.counts if name not in (HANDS, PLATEN)),
        ]
        rows = [_cells(stage) for stage in shop.routes.get(process, ())]
        new = ("New stage", "", "10", "0", "0", "no", "0", "no", "no", "no")
        choices = {1: machines, 5: _YES, 7: _YES, 8: _YES, 9: _YES}
        super().__init__(parent, f"Stages of {process}", _HEADS, rows, self._take, new, choices)
        self.resize(1060, 460)
        header = self.table.horizontalHeader()
        header.setSectionResizeMode(0, QHeaderView.ResizeMode.Interactive)
        for column, width in enumerate((170, 120)):
            self.table.setColumnWidth(column, width)
        for column in range(2, len(_HEADS)):
            self.table.setColumnWidth(column, header.sectionSizeHint(column) + 10)

    def _take(self, rows: Sequence[Cells]) -> None:
        route = tuple(_stage(cells, number) for number, cells in enumerate(rows, start=1))
        if not route:
            raise ValueError("Keep at least the print")
        self._keep_shop(checked(replace(self._shop, routes={**self._shop.routes, self._process: route})))


def _cells(stage: Stage) -> Cells:
    def yes(value: bool) -> str:
        return "yes" if value else "no"

    return (
        stage.name, stage.machine, f"{stage.hands_s:g}", f"{stage.machine_s:g}", f"{stage.after_s:g}",
        yes(stage.attended), f"{stage.rests_s:g}", yes(stage.is_gang), yes(stage.only_pretreated), yes(stage.on_platen),
    )  # fmt: skip


def _stage(cells: Cells, number: int) -> Stage:
    if not cells[0] or len(cells[0]) > 40:
        raise ValueError(f"Row {number} needs a name of up to 40 characters")
    hands, machine, after, rests = (_seconds(cells[at], number, _HEADS[at]) for at in (2, 3, 4, 6))
    return Stage(
        cells[0],
        cells[1],
        hands,
        machine,
        after,
        cells[5] == "yes",
        rests,
        cells[7] == "yes",
        cells[8] == "yes",
        cells[9] == "yes",
    )


def _seconds(text: str, number: int, what: str) -> float:
    try:
        value = float(text.replace(",", ".") or "0")
    except ValueError as error:
        raise ValueError(f"Row {number}: “{text}” in {what} is no number of seconds") from error
    if not 0 <= value <= _MOST_S:
        raise ValueError(f"Row {number}: {text} in {what} is not between 0 and {_MOST_S:g}")
    return value
