"""The sheet beside the bars: sums, the open part, what would make it surer or cheaper, the rule of thumb."""

from collections.abc import Callable, Sequence
from decimal import Decimal, InvalidOperation

from PySide6.QtWidgets import QVBoxLayout, QWidget

from swaddon.core.shop.rule import USUAL_PER_SQUARE_INCH
from swaddon.session.levers import Lever
from swaddon.ui.fields import TextField
from swaddon.ui.rebuilding import clear
from swaddon.ui.stations.cost.model import CostState, Opened, lever_text
from swaddon.ui.widgets import Field, button, column, label, row

_WHY = (
    "Each amount is counted from the pixels of the plan, multiplied by a constant of the press and a price of the "
    "shop; money is rounded once, at the end, to as many digits as matter, and parts sum to the total. ± is a 95 % "
    "interval by what the constants are unsure: assumed and makers’ figures may be off by half, weighed ones by a few "
    "percent. What is round the print – garment, labour, hours – is taken as you state it."
)
_RULE_WHY = (
    "A price per area answers quickly at the counter, and 0.7 cent per square inch is a common one. It is right where "
    "all prints are alike, and wrong as soon as coverage differs: an open drawing is overcharged, a full dark block "
    "is sold below cost. The rate that would have earned your late prints back is told beside it."
)
_LEVERS_WHY = (
    "Each is tried on this artwork, on fewer pixels: the print is planned with it and counted. Colours get worse by "
    "some of them, as told. Taking one is a single step of undo."
)
_MOST_LEVERS = 3


class MoneyPart(QWidget):
    """What the bars mean, in words and numbers."""

    def __init__(
        self,
        pin: Callable[[], None],
        prices: Callable[[], None],
        weigh: Callable[[], None],
        take: Callable[[Lever], None],
    ) -> None:
        super().__init__()
        self._take = take
        self.rate = USUAL_PER_SQUARE_INCH
        self.rate_changed: Callable[[], None] = lambda: None
        self.head, self.whole = label("", "title", wrap=True), label("", "head", wrap=True)
        self.opened = label("", "head")
        self.arithmetic = label("", "quiet", wrap=True)
        self.surer = label("", "effect", wrap=True)
        self.weigh = button("Weigh this print", "link")
        self.weigh.clicked.connect(weigh)
        self.levers, self._levers = QWidget(), QVBoxLayout()
        self._shown_levers: tuple[object, ...] = ()
        self._levers.setContentsMargins(0, 0, 0, 0)
        self._levers.setSpacing(4)
        self.levers.setLayout(self._levers)
        self.lever_field = Field("Cheaper by", self.levers, _LEVERS_WHY)
        self.rate_field = TextField("Rule of thumb per square inch")
        self.rate_field.setFixedWidth(76)
        self.rate_field.feed(self._typed)
        self.rate_field.show_value(f"{self.rate:f}")
        self.rule_field = Field("Rule of thumb", row(self.rate_field, label("per sq in", "quiet"), 1), _RULE_WHY)
        self.prices = button("Prices …", "", "", "Packs, goods, hours and energy: the shop’s own table")
        self.prices.clicked.connect(prices)
        self.pin = button("Pin as yardstick", "primary", "pin")
        self.pin.clicked.connect(pin)
        self.yardstick = label("", "effect", wrap=True)
        self.changed = label("", "effect", wrap=True)
        self.changed.hide()
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(8)
        self.sum_field = Field("Per shirt", column(self.head, self.whole), _WHY)
        layout.addWidget(self.sum_field)
        layout.addWidget(column(self.opened, self.arithmetic, spacing=2))
        layout.addWidget(column(self.surer, row(self.weigh, 1), spacing=2))
        for part in (self.lever_field, row(self.prices, self.pin), self.changed, self.yardstick, self.rule_field):
            layout.addWidget(part)

    def _typed(self, text: str) -> None:
        try:
            rate = Decimal(text.strip().replace(",", "."))
        except InvalidOperation as error:
            raise ValueError(f"“{text}” is no price per square inch") from error
        if not rate.is_finite() or not 0 < rate <= 1000:
            raise ValueError("A price per square inch is above 0")
        self.rate = rate
        self.rate_changed()

    def show_state(self, state: CostState, opened: Opened | None) -> None:
        """The sums, and the arithmetic of the part that is open."""
        self.sum_field.show_title(f"Per {state.piece}")
        self.head.setText(state.head)
        self.whole.setText(state.whole)
        self.opened.setText("" if opened is None else opened.title)
        self.arithmetic.setText("" if opened is None else "\n".join(opened.lines))
        self.surer.setText(state.surer)
        self.weigh.setVisible(bool(state.surer))
        self.yardstick.setText(state.yardstick)
        self.pin.setEnabled(state.can_pin)
        self.rule_field.show_effect(state.rule)

    def show_levers(self, levers: Sequence[Lever], currency: str, waits: bool, quantity: int = 1) -> None:
        """What would make it cheaper, the largest first."""
        if (levers, currency, waits, quantity) == self._shown_levers:
            return
        self._shown_levers = (levers, currency, waits, quantity)
        clear(self._levers)
        for lever in levers[:_MOST_LEVERS]:
            take = button("Take", "low")
            take.setAccessibleName(f"Take: {lever.title}")
            take.clicked.connect(lambda _=False, lever=lever: self._take(lever))
            made = row(label(lever_text(lever, currency, quantity), "quiet", wrap=True), take)
            made.layout().setStretch(0, 1)  # type: ignore[union-attr]
            self._levers.addWidget(made)
        if not levers:
            told = "Trying what would be cheaper …" if waits else "Nothing that was tried makes it cheaper."
            self._levers.addWidget(label(told, "quiet", wrap=True))

    def show_changed(self, text: str) -> None:
        """What a change of prices made of open orders."""
        self.changed.setText(text)
        self.changed.setVisible(bool(text))
