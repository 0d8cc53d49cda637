"""The sheet of the flow: when it is due, what the shop has, the rules, and what one more would bring."""

from collections.abc import Callable
from functools import partial

from PySide6.QtWidgets import QCheckBox, QGridLayout, QLayout, QVBoxLayout, QWidget

from swaddon.core.flow.shop import HANDS, Shop
from swaddon.ui.fields import TextField
from swaddon.ui.rebuilding import clear
from swaddon.ui.stations.cost.flow_model import counts_of, word_for
from swaddon.ui.widgets import Field, button, give_room, label, row

_WHY = (
    "How many an hour is not the printer’s time alone: pretreatment, drying and curing want the press, people load, "
    "powder, peel and fold, machines stand still, shirts are spoiled. The quick answer is what the most loaded "
    "resource allows, a little less; then whole days are run, piece by piece, 400 times with chance, and the share of "
    "days on which the order is late is told. A shop promises what holds on nine days of ten."
)
_SHOP_WHY = (
    "What your shop has, and how long hands and machines take in each stage. Two schools: stay at the press (one "
    "person does nothing else meanwhile; nothing burns), or load it and fold while it runs (twice the shirts, with a "
    "timer). Platens: with none, shirts are loaded on the printer itself; with more than printers, one is loaded while "
    "another is printed. Cautions hold all the same: hot plates, fumes, powder."
)


def _held(layout: QLayout) -> QWidget:
    """A widget of what a layout holds, without margins."""
    layout.setContentsMargins(0, 0, 0, 0)
    out = QWidget()
    out.setLayout(layout)
    return out


class FlowPart(QWidget):
    """Questions and answers about the day."""

    def __init__(
        self,
        due: Callable[[str], None],
        count: Callable[[str, int], None],
        others: Callable[[bool], None],
        run: Callable[[], None],
        edit: Callable[[], None],
        take_in: Callable[[], None],
        give_out: Callable[[], None],
        rule: Callable[[str], None],
    ) -> None:
        super().__init__()
        self._count, self._rule = count, rule
        self.due = TextField("Due at", "16:00")
        self.due.setFixedWidth(72)
        self.due.feed(due)
        self.run = button("Run 400 days", "primary", "", "With chance: scatter, stops, spoilage")
        self.run.clicked.connect(run)
        self.instant = label("", "effect", wrap=True)
        self.others = QCheckBox("Other open jobs, too")
        self.others.toggled.connect(others)
        self.counts: dict[str, TextField] = {}
        self._counts, self._rules = QGridLayout(), QVBoxLayout()
        self._rules.setSpacing(2)
        counts, self.rules = _held(self._counts), _held(self._rules)
        self.edit = button("Stages …", "link", tip="Seconds of hands and machines in each stage of this process")
        self.edit.clicked.connect(edit)
        self.take_in, self.give_out = button("From TOML …", "link"), button("To TOML …", "link")
        for made, run_it in ((self.take_in, take_in), (self.give_out, give_out)):
            made.setToolTip("The whole shop: hours, breaks, rack, stops, gangs, stages (docs/flow.md)")
            made.clicked.connect(run_it)
        self.what_if = label("", "quiet", wrap=True)
        self._shown_rules: tuple[object, ...] = ()
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(8)
        layout.addWidget(Field("Is it done in time?", row(label("Due at"), self.due, 1, self.run), _WHY))
        for part in (
            self.instant,
            self.others,
            Field("The shop", counts, _SHOP_WHY),
            row(self.edit, self.take_in, self.give_out, 1),
        ):
            layout.addWidget(part)
        layout.addWidget(Field("One more would bring", self.what_if))
        layout.addWidget(Field("Which first", self.rules))

    def show_shop(self, shop: Shop) -> None:
        """How many of each resource there are."""
        found = counts_of(shop)
        if list(self.counts) != [name for name, _ in found]:
            clear(self._counts)
            self.counts = {}
            for at, (name, _) in enumerate(found):
                field = TextField(word_for(name))
                field.setFixedWidth(44)
                field.feed(partial(self._typed, name))
                self.counts[name] = field
                self._counts.addWidget(field, at // 2, 2 * (at % 2))
                self._counts.addWidget(label(word_for(name), "quiet"), at // 2, 2 * (at % 2) + 1)
        for name, count in found:
            self.counts[name].show_value(str(count))

    def _typed(self, name: str, text: str) -> None:
        if not text.strip().isdigit() or int(text) > 50 or (name == HANDS and int(text) < 1):
            raise ValueError("Give a number up to 50" + (", at least one pair" if name == HANDS else ""))
        self._count(name, int(text))

    def show_rules(self, rules: tuple[tuple[str, str], ...], chosen: str) -> None:
        """Every rule with its gain; the one in use is marked."""
        if (rules, chosen) == self._shown_rules:
            return
        self._shown_rules = (rules, chosen)
        clear(self._rules)
        for key, text in rules:
            made = button("In use" if key == chosen else "Use", "low")
            made.setAccessibleName(f"Use: {text}")
            made.setEnabled(key != chosen)
            made.clicked.connect(lambda _=False, key=key: self._rule(key))
            line = row(label(text, "quiet", wrap=True), made)
            give_room(line, 0)
            self._rules.addWidget(line)
