"""Take the current pictures of every main view at 1280 × 800 from demo data into ``docs/screenshots``."""

import os
import sys
import tempfile
import time
from collections.abc import Callable
from dataclasses import replace
from pathlib import Path

os.environ["QT_QPA_PLATFORM"] = "offscreen"
os.environ["SWADDON_CONFIG"] = tempfile.mkdtemp()
os.environ["SWADDON_DATA"] = tempfile.mkdtemp()
os.environ["SWADDON_BENCH"] = "Boathouse"

from PySide6.QtCore import QEvent, QEventLoop, QPointF, Qt
from PySide6.QtGui import QMouseEvent, QPainter
from PySide6.QtWidgets import QApplication, QWidget

import demo_log
from swaddon.app import prepare
from swaddon.session import edits
from swaddon.session.demo import demo_job
from swaddon.session.preferences import Preferences
from swaddon.session.scales import ScaleChoice
from swaddon.session.session import Session
from swaddon.session.sheet_edits import change_sheet
from swaddon.ui import theme
from swaddon.ui.bench import Bench

OUT = Path(__file__).resolve().parents[1] / "docs" / "screenshots"
_QUIET_TURNS = 30


class Studio:
    """A bench that waits until everything on it has settled before the picture is taken."""

    def __init__(self) -> None:
        self.app = QApplication(sys.argv[:1])
        theme.load_fonts()
        theme.apply("dark")
        prepare()
        self.bench = Bench(Session(), Preferences())
        self.bench.files.ask_unsaved = lambda: "discard"
        self.bench.resize(1280, 800)
        self._held: QWidget | None = None
        self.bench.show()

    def settle(self) -> None:
        quiet = 0
        while quiet < _QUIET_TURNS:
            self.bench.desk.wait_for_files()
            self.app.processEvents(QEventLoop.ProcessEventsFlag.AllEvents, 20)
            time.sleep(0.005)
            has_artwork = self.bench.session.job.file is not None
            deck, desk = self.bench.deck, self.bench.desk
            still = desk.is_idle and (desk.is_current or not has_artwork)
            still = still and deck.counter.is_idle and deck.variants.is_idle and deck.costs.is_idle
            still = still and deck.flows.is_idle and deck.quotes.is_idle and deck.sheets.is_idle
            still = still and self.bench.log.is_idle
            quiet = quiet + 1 if still else 0

    def wait(self, until: Callable[[], bool]) -> None:
        """Until something that takes a while is there."""
        while not until():
            self.app.processEvents(QEventLoop.ProcessEventsFlag.AllEvents, 20)
            time.sleep(0.005)

    def open(self, key: str, station: str) -> Bench:
        self.bench.files.open_demo(key)
        self.settle()
        self.bench.go_to_station(station)
        self.settle()
        return self.bench

    def take(self, name: str) -> None:
        """The bench with whatever is open over it."""
        if self._popups():
            self.settle()
        else:
            self.bench.setFocus()
            self.settle()
        picture = self.bench.grab()
        painter = QPainter(picture)
        for popup in self._popups():
            painter.drawPixmap(self.bench.mapFromGlobal(popup.pos()), popup.grab())
        painter.end()
        for popup in self._popups():
            popup.close()
        picture.save(str(OUT / f"{name}.png"))
        print(name)

    def press(self, widget: QWidget, kind: QEvent.Type, place: QPointF) -> None:
        """A hand on the left button, somewhere on a widget."""
        left = Qt.MouseButton.LeftButton
        where = widget.mapToGlobal(place)
        self.app.sendEvent(widget, QMouseEvent(kind, place, where, left, left, Qt.KeyboardModifier.NoModifier))
        self._held = widget

    def release(self) -> None:
        """Let go where nothing happens."""
        if self._held is not None:
            self.press(self._held, QEvent.Type.MouseButtonRelease, QPointF(-400, -400))
            self._held = None

    def _popups(self) -> list[QWidget]:
        return [w for w in self.app.topLevelWidgets() if w.isVisible() and w.windowType() == Qt.WindowType.Popup]


def order(studio: Studio) -> None:
    studio.open("lantern", "order").table.fit_garment()


def artwork(studio: Studio) -> None:
    studio.open("lantern", "artwork")


def knockout(studio: Studio) -> None:
    bench = studio.open("kettle", "knockout")
    finding = next(row for row in bench.findings.rows if row.finding.fix is not None)
    finding.fix_button.click()


def holes(studio: Studio) -> None:
    bench = studio.open("heron", "holes")
    page = bench.pages["holes"]
    page.kind.button_for("round").click()
    studio.settle()
    page.step(1)
    page.kind.button_for("line").click()
    page.lpi.moved.emit(22.0)
    page.lpi.settled.emit()
    studio.settle()
    bench.table.zoom_by(2.6)
    bench.table.go_to(84, 98)


def need(studio: Studio) -> None:
    bench = studio.open("heron", "white")
    bench.pages["white"].amount.mode.button_for("need").click()
    studio.settle()
    bench.findings.rows[0].fix_button.click()
    studio.settle()
    bench.see("white")


def trouble(studio: Studio) -> None:
    bench = studio.open("heron", "white")
    bench.apply(edits.set_white("Change choke", choke_mm=0.4, guard=False, registration_mm=0.2))
    studio.settle()
    bench.see("trouble")
    studio.settle()
    bench.table.zoom_by(3.0)
    bench.table.go_to(96, 196)


def sample(studio: Studio) -> None:
    bench = studio.open("heron", "white")
    bench.apply(edits.set_white("Change white", mode="need"))
    studio.settle()
    bench.table.zoom_by(3.0)
    bench.table.go_to(84, 86)
    studio.settle()
    bench.actions_.by_key["core-sample"].trigger()


def inks(studio: Studio) -> None:
    if studio.bench.view_control.loupe.isVisible():
        studio.bench.actions_.by_key["loupe"].trigger()
        studio.bench.pages["white"].choke.registration.head.click()
    bench = studio.open("heron", "inks")
    bench.see("footprint")
    studio.settle()
    rack = bench.pages["inks"].lineup.rack
    for kind, place in (
        (QEvent.Type.MouseButtonPress, rack.middle(0)),
        (QEvent.Type.MouseMove, rack.middle(0) + QPointF(40, 0)),
        (QEvent.Type.MouseMove, rack.middle(3) - QPointF(14, -4)),
    ):
        studio.press(rack, kind, place)


def variants(studio: Studio) -> None:
    studio.bench.pages["order"].show_part("")
    bench = studio.open("heron", "variants")
    page = bench.pages["variants"]
    page.go.click()
    studio.settle()
    page.own_table.cards[2].pin.click()


def testprint(studio: Studio) -> None:
    page = studio.open("heron", "testprint").pages["testprint"]
    page.print_on_simulated(2)
    studio.settle()


def gang(studio: Studio) -> None:
    bench = studio.open("heron", "sheet")
    bench.apply(edits.set_quantity(6))
    beside = []
    for key, width_mm, quantity in (("lantern", 210.0, 6), ("heron", 90.0, 14), ("lantern", 110.0, 8)):
        made = edits.set_width(width_mm).made(edits.set_quantity(quantity).made(demo_job(key)))
        beside.append(replace(made, name=f"{made.name}, {width_mm:.0f} mm"))
    bench.files.add_jobs(beside)
    page = bench.pages["sheet"]
    page.gang.show()
    for box in page.gang.sheet.boxes.values():
        box.click()
    studio.wait(lambda: page.gang.plan is not None and len(page.gang.plan.gang.spots) == 34)
    studio.settle()
    page.gang.table.film.select(page.gang.plan.gang.spots[7])


def split(studio: Studio) -> None:
    bench = studio.open("lantern", "sheet")
    bench.apply(change_sheet(medium="film-a4"))
    page = bench.pages["sheet"]
    page.show_part("split")
    studio.wait(lambda: page.split.made is not None)


def run(studio: Studio) -> None:
    """Nineteen minutes into the run: the oven, a press and a cooling print are timed."""
    now = [time.time() - 1140.0]
    studio.bench.log.keeper.clock = lambda: now[0]
    bench = studio.open("lantern", "run")
    page = bench.pages["run"]
    page.begin()
    uid, steps = page.run().uid, {step.key: at for at, step in enumerate(page._state.made.steps)}
    bench.log.runs.good(uid, 14)
    bench.log.runs.spoiled(uid, "crooked")
    now[0] += 1100
    for key, later in (("cool-warm", 11), ("oven", 6), ("press", 3)):
        page.start_timer(steps[key])
        now[0] += later
    studio.settle()
    page._show_run()


def log(studio: Studio) -> None:
    """A book of some weeks, the newest run with its verdict."""
    for open_run in studio.bench.log.runs.all():
        studio.bench.log.runs.end(open_run.uid)
    studio.wait(lambda: studio.bench.log.keeper.waiting() == 0)
    demo_log.fill(studio.bench.log.keeper.book())
    bench = studio.open("lantern", "log")
    page = bench.pages["log"]
    page.refresh()
    studio.settle()
    looked = next(at for at, (_, entry, _) in enumerate(page.list.runs.rows) if entry.verdict and entry.verdict.seen)
    page.list.setCurrentIndex(page.list.runs.index(looked))
    studio.settle()


def compared(studio: Studio) -> None:
    """The same artwork with two chokes: one peeked, one has a halo."""
    bench, page = studio.bench, studio.bench.pages["log"]
    bench.go_to_station("log")
    page.finding.words.setText("heron")
    page.finding._change(words="heron")
    studio.wait(lambda: not page._typed.isActive())
    studio.settle()
    page.list.setCurrentIndex(page.list.runs.index(0))
    studio.settle()
    page._act("compare")
    page.list.setCurrentIndex(page.list.runs.index(1))
    studio.settle()


def cost(studio: Studio) -> None:
    bench = studio.open("heron", "cost")
    bench.pin()
    bench.apply(edits.set_white("Change white", mode="limit", limit=170.0))
    studio.settle()
    bench.pages["cost"].open_part("white")


def weighin(studio: Studio) -> None:
    bench = studio.open("heron", "cost")
    page = bench.pages["cost"]
    page.show_part("weigh")
    weigh_in = page.weigh_in
    weigh_in.use_scale(ScaleChoice("simulated", 3, "tare"))
    for name in ("Heron, first", "Heron, second", "Heron, third"):
        weigh_in.sheet.name.setText(name)
        for step in ("blank_g", "printed_g", "powdered_g"):
            weigh_in.weigh(step)
            studio.settle()
        weigh_in.add()
        studio.settle()


def flow(studio: Studio) -> None:
    bench = studio.open("club", "cost")
    page = bench.pages["cost"]
    page.show_part("flow")
    flows = page.flows
    studio.wait(lambda: flows.flow is not None and len(flows.flow.orders) == 6)
    flows.sheet.due.setText("09:05")
    flows.sheet.due.entered.emit("09:05")
    studio.wait(lambda: flows.flow is not None and flows.flow.orders[0].due_s is not None)
    flows.run_days()
    studio.wait(lambda: flows.flow is not None and flows.flow.risk is not None)
    flows.table.slider.setValue(800)


def quote(studio: Studio) -> None:
    bench = studio.open("choir", "cost")
    page = bench.pages["cost"]
    page.show_part("quote")
    studio.wait(lambda: page.quotes.quote is not None)


SHOTS: tuple[Callable[[Studio], None], ...] = (
    order,
    artwork,
    knockout,
    holes,
    need,
    trouble,
    sample,
    inks,
    variants,
    gang,
    split,
    run,
    log,
    compared,
    cost,
    weighin,
    flow,
    quote,
    testprint,  # last: what is read is kept, and is a finding on other pictures
)


def main() -> None:
    OUT.mkdir(parents=True, exist_ok=True)
    studio = Studio()
    wanted = set(sys.argv[1:])
    for shot in SHOTS:
        if not wanted or shot.__name__ in wanted:
            shot(studio)
            studio.take(shot.__name__)
    os._exit(0)


if __name__ == "__main__":
    main()
