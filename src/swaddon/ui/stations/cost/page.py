"""The Cost sheet: where the money goes, and the weigh-in that makes it sure; both lie on the table."""

from collections.abc import Callable

from PySide6.QtWidgets import QStackedWidget, QVBoxLayout, QWidget

from swaddon.core.engine import Run
from swaddon.core.errors import PlanError
from swaddon.core.plan.stages import Plan
from swaddon.core.shop.book import Book
from swaddon.session import shop
from swaddon.session.answer import Answer
from swaddon.session.costs import Costed, costed_plan
from swaddon.session.job import Job
from swaddon.session.levers import Compared, Lever, compared
from swaddon.session.price_change import price_effects
from swaddon.ui.price_table import PriceTable
from swaddon.ui.settling import settling
from swaddon.ui.station_spec import Progress, StationContext
from swaddon.ui.stations.cost import model
from swaddon.ui.stations.cost.bars import MoneyTable
from swaddon.ui.stations.cost.flowing import Flows
from swaddon.ui.stations.cost.money_part import MoneyPart
from swaddon.ui.stations.cost.quoting import Quotes
from swaddon.ui.stations.cost.weighing import WeighIns
from swaddon.ui.widgets import Choice, label

_PARTS = (("money", "Money"), ("weigh", "Weigh-in"), ("flow", "Flow"), ("quote", "Quote"), ("shirt", "Shirt"))
_SETTLE_MS = 400
"""How long a plan must stand before others are tried beside it."""


class CostPage(QWidget):
    def __init__(self, context: StationContext) -> None:
        super().__init__()
        self._context, self._job = context, Job()
        self._plan: Plan | None = None
        self._yardstick: Plan | None = None
        self.costed: Costed | None = None
        self._compared = Answer[Compared]()
        self.open_kind = ""
        self.shown = "money"
        self.money = MoneyTable()
        self.money.opened.connect(self.open_part)
        self.weigh_in = WeighIns(context)
        self.own_table = QStackedWidget()
        self.own_table.addWidget(self.money)
        self.own_table.addWidget(self.weigh_in.table)
        self.flows = Flows(context)
        self.own_table.addWidget(self.flows.table)
        self.quotes = Quotes(context)
        self.own_table.addWidget(self.quotes.table)
        self._later = settling(self, _SETTLE_MS, self._compare)
        self.part = Choice("Show", _PARTS, columns=3)
        self.part.chosen.connect(self.show_part)
        self.sheet = MoneyPart(context.pin, self.edit_prices, lambda: self.show_part("weigh"), self.take_lever)
        self.sheet.rate_changed = self._render
        self.prices_told = label("", "caution", wrap=True)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 10, 0)
        layout.setSpacing(8)
        for widget in (
            self.part,
            self.prices_told,
            self.sheet,
            self.weigh_in.sheet,
            self.flows.sheet,
            self.quotes.sheet,
        ):
            layout.addWidget(widget)
        layout.addStretch(1)
        self.show_part("money")

    @property
    def shows_own_table(self) -> bool:
        """Whether money or weights lie on the table, in the place of the shirt."""
        return self._job.file is not None and self.shown != "shirt"

    def show_part(self, key: str) -> None:
        """The money, the weigh-in, the flow of the day, or the shirt with its curtain."""
        self.shown = key
        self.part.show_value(key)
        sheets = {"weigh": self.weigh_in.sheet, "flow": self.flows.sheet, "quote": self.quotes.sheet}
        for name, sheet in (("", self.sheet), *sheets.items()):
            sheet.setVisible(name == key or (not name and key not in sheets))
        tables = {"weigh": self.weigh_in.table, "flow": self.flows.table, "quote": self.quotes.table}
        self.flows.is_shown, self.quotes.is_shown = key == "flow", key == "quote"
        self.flows.show()
        self.quotes.show()
        self.own_table.setCurrentWidget(tables.get(key, self.money))
        self._render()
        self._context.show_table()

    @property
    def compared(self) -> Compared | None:
        """Light against dark, and levers; of the plan or the prices of before while others are tried."""
        return self._compared.last

    def open_part(self, kind: str) -> None:
        """Open the arithmetic of a part."""
        self.open_kind = kind
        self._render()

    def take_lever(self, lever: Lever) -> None:
        self._context.apply(lever.edit)

    # prices

    def edit_prices(self) -> None:
        """Open the shop's table of prices."""
        shown = self._context.book()
        PriceTable(self, shown, self._job.profile, lambda book, figures: self.take_prices(book, figures, shown)).open()

    def take_prices(self, book: Book, figures: dict[str, float], shown: Book | None = None) -> None:
        """Keep other prices, let open jobs reckon with them, and tell what they change.

        Raises
        ------
        PlanError
            When they cannot price the press of an open job, or are no longer those that were ``shown`` to be changed;
            then nothing is kept.
        """
        before, jobs = self._context.book(), self._context.open_jobs()
        if shown is not None and shown != before:
            raise PlanError("The prices were changed by another program meanwhile: open the table again.")
        name = "" if self._job.profile is None else self._job.profile.name
        changes = self._context.take_prices(book, name, figures)
        if not changes and book == before:
            return

        now = self._context.open_jobs()

        def work(progress: Progress) -> tuple[str, ...]:
            from swaddon.core.engine import Cache

            run = Run(Cache(1), progress=progress)
            return tuple(item.text for item in price_effects((before, jobs), (book, now), run))

        self.sheet.show_changed("Counting what the new prices change …")
        self._context.work(work, lambda lines: self.sheet.show_changed("\n".join(("With the new prices:", *lines))))

    # light against dark, and levers

    def _compare(self) -> None:
        plan, job = self._plan, self._job
        if plan is None or self.shown != "money" or not self.isVisible():
            return
        book, question = self._context.book(), self._compared.asked

        def done(found: Compared) -> None:
            if self._compared.take(question, found):
                self._render()

        def work(run: Run, step: Callable[[Compared], None]) -> Compared:
            return compared(job, plan, book, run, step)

        self._context.costs.start(work, done, self._context.tell, step=done)

    # rendering

    def render_job(self, job: Job, plan: Plan | None, yardstick: Plan | None) -> None:
        self.part.button_for("shirt").setText(job.ware.piece.capitalize())
        self._job, self._yardstick = job, yardstick
        if plan is not self._plan:
            self._plan = plan
            if plan is None:
                self._compared.forget()
        book = self._context.book()
        problem = shop.book_problem()
        self.prices_told.setText(f"▲ {problem}" if problem else "")
        self.prices_told.setVisible(bool(problem))
        if self._compared.ask((plan, book)):
            self._later.start()
        self.costed = None if plan is None else costed_plan(plan, book, job.goods.name, job.settings.quantity)
        self.weigh_in.show_job(job, self.costed)
        self.flows.show_plan(plan)
        self.quotes.show()
        self._render()

    def _render(self) -> None:
        now = self.costed
        if now is not None and not self.open_kind:
            self.open_kind = next((part.kind for part in now.costing.parts if part.cost), "")
        before, old = self._yardstick, None
        garment = self._job.settings.garment
        if before is not None and (now is None or before.request.profile.currency == now.costing.currency):
            old = costed_plan(before, self._context.book(), self._job.goods.name)
        state = model.money_state(
            now, garment, old, garment if before is None else before.request.settings.garment, self.compared
        )
        self.money.show_money(state, self.open_kind)
        mix = () if now is None else shop.mix_of(now.press.name)
        waiting = "" if self._job.file is None else "Counting …"
        self.sheet.show_state(
            model.cost_state(now, self._yardstick, self.sheet.rate, mix, waiting), model.opened(now, self.open_kind)
        )
        found = self._compared.current
        currency = "" if now is None else now.costing.currency
        waits = found is None or not found.is_whole
        self.sheet.show_levers(() if found is None else found.levers, currency, waits, self._job.settings.quantity)
