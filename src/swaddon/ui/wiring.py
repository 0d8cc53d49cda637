"""What the bench's actions do, and the door that stations get."""

from collections.abc import Callable, Sequence
from functools import partial
from pathlib import Path
from typing import Any

from PySide6.QtCore import QMimeData, Qt
from PySide6.QtGui import QGuiApplication
from PySide6.QtWidgets import QHBoxLayout, QWidget

from swaddon.core.artwork.placement import Point
from swaddon.core.errors import PlanError, told
from swaddon.core.findings import Finding
from swaddon.core.proof.misregistration import Misregistration
from swaddon.session import order_edits
from swaddon.session.card_files import read_code
from swaddon.session.job import Job
from swaddon.session.log_drafts import which, which_of
from swaddon.session.log_jobs import job_again
from swaddon.session.runs import Run
from swaddon.session.session import Session
from swaddon.ui import helping
from swaddon.ui.actions import Actions
from swaddon.ui.by_code import ask_code, open_code
from swaddon.ui.files import JobFiles
from swaddon.ui.finder import CommandFinder
from swaddon.ui.flow import Flow
from swaddon.ui.outline_pen import Drawn
from swaddon.ui.shell import Shell
from swaddon.ui.station_spec import Progress, StationContext, StationSpec
from swaddon.ui.widgets import button, column, give_room, label, row


def handlers(bench: Shell, files: JobFiles) -> dict[str, Callable[[], object]]:
    """One handler per command of ``actions.COMMANDS``."""
    made = _of_jobs(bench, files) | _of_the_table(bench)
    keeps_typing = {"undo", "redo", "paste", "find"}
    return {key: run if key in keeps_typing else _committed(bench, run) for key, run in made.items()}


def _paste(bench: Shell, files: JobFiles) -> None:
    """Lines of an order, the code of a card, or artwork."""
    text = QGuiApplication.clipboard().text()
    if read_code(text) is not None:
        open_code(bench, files, text)
    elif not bench.deck.paste_lines():
        files.paste()


def _of_jobs(bench: Shell, files: JobFiles) -> dict[str, Callable[[], object]]:
    return {
        "new": files.new,
        "open": files.choose_job,
        "press": files.choose_profile,
        "place": files.choose_artwork,
        "paste": lambda: _paste(bench, files),
        "by-code": lambda: ask_code(bench, files),
        "save": files.save,
        "save-as": files.save_as,
        "export": files.exporting.choose,
        "export-order": files.exporting.choose_order,
        "report": files.exporting.choose_report,
        "recovered": lambda: None if files.recover() else bench.tell("There is no unsaved work of before."),
        "next-job": files.next_job,
        "close-job": files.close_job,
        "quit": lambda: bench.close() and None,
        "undo": lambda: None if bench.revert_typing() else bench.session.undo(),
        "redo": bench.session.redo,
    }


def _at_log(bench: Shell, what: str) -> None:
    """Open the log book, and do something there."""
    bench.go_to_station("log")
    getattr(bench.pages["log"], what)()


def _of_the_table(bench: Shell) -> dict[str, Callable[[], object]]:
    return {
        "line-next": lambda: bench.step_line(1),
        "line-previous": lambda: bench.step_line(-1),
        "line-add": lambda: bench.apply(order_edits.repeat_line()),
        "order-list": bench.show_order_list,
        "region-next": lambda: bench.step_region(1),
        "region-previous": lambda: bench.step_region(-1),
        "pin": bench.pin,
        "unpin": lambda: bench.set_yardstick(None),
        "curtain": bench.view_control.draw_curtain,
        "loupe": bench.view_control.loupe_toggled,
        "worst-case": bench.view_control.worst_case_toggled,
        "nudge-left": lambda: bench.view_control.nudge(-1, 0),
        "nudge-right": lambda: bench.view_control.nudge(1, 0),
        "nudge-up": lambda: bench.view_control.nudge(0, -1),
        "nudge-down": lambda: bench.view_control.nudge(0, 1),
        "squeeze-more": lambda: bench.view_control.squeeze(1),
        "squeeze-less": lambda: bench.view_control.squeeze(-1),
        "nudge-back": lambda: bench.view_control.miss(Misregistration()),
        "fit": bench.table.fit_print,
        "fit-garment": bench.table.fit_garment,
        "true-size": bench.table.zoom_true_size,
        "pixel": lambda: bench.table.zoom_pixel(plan_ppi(bench.session.job)),
        "core-sample": lambda: bench.show_core_sample(*bench.table.middle_mm()),
        "scheme": bench.change_scheme,
        "units": lambda: bench.set_inches(not bench.preferences.inches),
        "find": lambda: CommandFinder(bench.actions_.all(), bench).open(),
        "stations": lambda: helping.show_stations(bench),
        "shortcuts": lambda: helping.show_keys(bench, bench.actions_.all()),
        "words": lambda: helping.show_words(bench),
        "about": lambda: helping.show_about(bench),
    } | _of_the_run(bench)


def _of_the_run(bench: Shell) -> dict[str, Callable[[], object]]:
    """What is done at the press and with the log book, from any station."""
    return {
        **{key: partial(_at_press, bench, key) for key in ("good", "spoiled", "count-back", "rest", "end-run", "card")},
        "log-find": lambda: _at_log(bench, "find_words"),
        "log-verdict": lambda: _at_log(bench, "say_verdict"),
    }


def _at_press(bench: Shell, what: str) -> None:
    """Do something at the press with the job at hand."""
    page: Any = bench.pages["run"]
    page.render_job(bench.session.job, bench.desk.plan, None)
    page.do(what)


def _committed(bench: Shell, run: Callable[[], object]) -> Callable[[], None]:
    """What was typed in a field counts before the command does."""

    def go() -> None:
        bench.commit_typing()
        run()

    return go


def open_start(bench: Shell, files: JobFiles, text: str) -> None:
    """What the program was started with: a file, or the code of a card."""
    if read_code(text) is not None:
        open_code(bench, files, text)
    else:
        files.drop(Path(text))


def dropped(bench: Shell, files: JobFiles, data: QMimeData) -> None:
    """Take files that are dropped on the bench: tables as lines of the order, others as artwork; links are refused."""
    paths = [Path(url.toLocalFile()) for url in data.urls() if url.isLocalFile()]
    tables = [path for path in paths if path.suffix.lower() in (".csv", ".tsv")]
    for table in tables:
        bench.deck.read_lines(table)
    paths = [path for path in paths if path not in tables]
    links = [url.toString() for url in data.urls() if not url.isLocalFile()]
    if paths:
        files.drop_all(paths)
    elif links:
        bench.tell(f"{links[0]} is a link, and Swaddon fetches nothing: save the picture on disk, then drop the file.")


def own_table(page: QWidget | None) -> QWidget | None:
    """What a station lays on the table in the place of the shirt; ``None``: nothing."""
    if page is None or not getattr(page, "shows_own_table", False):
        return None
    table: QWidget = page.own_table  # type: ignore[attr-defined]
    return table


def show_history(actions: Actions, session: Session) -> None:
    """Name what can be undone and done again."""
    for key, word, what in (("undo", "Undo", session.undo_label), ("redo", "Redo", session.redo_label)):
        action = actions.by_key[key]
        action.setEnabled(what is not None)
        action.setText(word if what is None else f"{word}: {what}")


def station_states(stations: Sequence[StationSpec], job: Job, found: Sequence[Finding]) -> dict[str, str]:
    """Each station's state: untouched, fine, look or stop."""
    states = {}
    for spec in stations:
        worst = {finding.severity for finding in found if finding.code in spec.codes}
        state = "fine" if spec.touched(job) else "untouched"
        states[spec.key] = "stop" if "stop" in worst else "look" if "look" in worst else state
    return states


def plan_ppi(job: Job) -> float:
    """Resolution that a job is planned at."""
    return 300.0 if job.profile is None else job.profile.plan_ppi


def laid_out(above: QWidget, beside: tuple[QWidget, QWidget, QWidget], below: QWidget) -> QWidget:
    """The bench: something across its top, rail, middle and sheet side by side, something across its foot."""
    rail, middle, right = beside
    right.setObjectName("panel")
    right.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
    work = QWidget()
    across = QHBoxLayout(work)
    across.setContentsMargins(0, 0, 0, 0)
    across.setSpacing(0)
    across.addWidget(rail)
    across.addWidget(middle, 1)
    across.addWidget(right)
    whole = column(above, work, below, spacing=0)
    give_room(whole, 1)
    whole.setObjectName("ground")
    return whole


def see_bar(view_modes: QWidget, actions: Actions) -> QWidget:
    """Ways of seeing and zooms; it goes on in a second line where the window is narrow."""
    zooms = []
    for text, key in (("Print", "fit"), ("Garment", "fit-garment"), ("1:1", "true-size"), ("1 px", "pixel")):
        action = actions.by_key[key]
        title = action.text().replace("&", "")
        made = button(text, "view", tip=title)
        made.setAccessibleName(title)
        made.clicked.connect(action.trigger)
        zooms.append(made)
    last = row(label("Zoom", "quiet"), *zooms, spacing=2)
    last.setContentsMargins(8, 0, 0, 0)
    bar, flow = QWidget(), Flow(spacing=2)
    flow.setContentsMargins(8, 2, 8, 2)
    flow.addWidget(view_modes)
    flow.addWidget(last)
    bar.setLayout(flow)
    return bar


def _draw(bench: Shell, drawn: Drawn, points: Sequence[Point]) -> None:
    """Draw on the artwork, where what goes and what stays can be seen."""
    bench.see("artwork")
    bench.picking.draw(drawn, points)


def _work(bench: Shell, work: Callable[[Progress], Any], done: Callable[[Any], None]) -> None:
    """Something long in the background: its progress is shown, and it can be stopped."""
    desk = bench.desk

    def progress(title: str, share: float) -> None:
        desk.check_files()
        desk.tell_progress_later(title, share)

    def finished(result: Any) -> None:
        desk.progressed.emit("", 1.0)
        done(result)

    bench.tell("")
    bench.progress.begin()
    desk.in_background(lambda: work(progress), finished, lambda: desk.progressed.emit("", 1.0))


def context(bench: Shell, files: JobFiles) -> StationContext:
    """The narrow door through which stations reach the bench."""
    return StationContext(
        apply=bench.apply,
        end_drag=bench.session.end_merge,
        pick=bench.pick,
        draw=partial(_draw, bench),
        choose_artwork=files.choose_artwork,
        load_artwork=files.load_artwork,
        show_page=files.show_page,
        choose_tile=files.choose_tile,
        see=bench.see,
        on_seen=bench.view_control.seen.connect,
        go_to=bench.table.go_to,
        outline=bench.table.set_outlines,
        want_regions=bench.desk.want_regions,
        regions=lambda: bench.desk.printed_regions,
        finds_regions=lambda: bench.desk.is_finding_regions,
        pin=bench.pin,
        is_planned=lambda: bench.desk.is_planned,
        job=lambda: bench.session.job,
        set_inches=bench.set_inches,
        uses_inches=lambda: bench.preferences.inches,
        tell=bench.tell,
        export=bench.actions_.by_key["export"].trigger,
        in_background=bench.desk.in_background,
        work=partial(_work, bench),
        shop_changed=bench.shop_changed,
        show_table=bench.show_table,
        order=bench.deck.counter,
        variants=bench.deck.variants,
        turn_to=bench.deck.turn_to,
        **_to_the_shop(bench),
        **_to_other_jobs(bench, files),
        **_to_the_log(bench, files),
    )


def _to_the_log(bench: Shell, files: JobFiles) -> dict[str, Any]:
    """How stations reach runs and the log book."""
    log = bench.log
    log.sound = lambda: bench.preferences.sound
    log.told.connect(lambda before, now: _tell_of_log(bench, before, now))
    return {
        "log": log, "preferences": lambda: bench.preferences, "prefer": bench.prefer,
        "path": lambda: bench.session.path,
        "open_entry": partial(_open_entry, bench), "open_made": partial(_open_made, bench, files),
        "take_up_run": partial(_take_up_run, bench, files),
    }  # fmt: skip


def _tell_of_log(bench: Shell, before: str, now: str) -> None:
    """Say what is wrong with the log book; when it is not any more, nothing else that is told goes with it."""
    if now or bench.problem.text() == before:
        bench.tell(now)


def _open_entry(bench: Shell, uid: str) -> None:
    bench.go_to_station("log")
    bench.pages["log"].await_entry(uid)  # type: ignore[attr-defined]


def _open_made(bench: Shell, files: JobFiles, job: Job) -> None:
    """Bring a new job to the bench, and show its artwork."""
    files.add_jobs([job])
    files.tray.switch(len(files.tray) - 1)
    bench.go_to_station("order")


def _take_up_run(bench: Shell, files: JobFiles, run: Run) -> None:
    """Bring the job of a run to the bench: the open one, else as it was when the run began."""
    wanted = which_of(run.entry)
    for index in range(len(files.tray)):
        job = files.tray.snapshot(index).job
        for at in range(len(job.lines)):
            if which(job.turned_to(at)) == wanted:
                files.tray.switch(index)
                bench.session.turn_to(at)
                return
    try:
        held = bench.log.keeper.journal.files(run.uid)
        job = job_again(run.entry, lambda key: held[key][1] if key in held else None)
    except (PlanError, OSError) as error:
        bench.tell(told(error))
        return
    _open_made(bench, files, job)


def _found_on_sheet(bench: Shell, found: tuple[Finding, ...]) -> None:
    bench.deck.keep_sheet_findings(found)
    bench.show_states()


def _to_the_shop(bench: Shell) -> dict[str, Any]:
    """What stations ask of the shop: its prices, its day, its media."""
    deck = bench.deck
    return {
        "costs": deck.costs, "book": deck.prices.book, "flows": deck.flows, "quotes": deck.quotes,
        "shop": deck.prices.shop, "take_shop": deck.prices.take_shop, "sheets": deck.sheets,
        "found_on_sheet": partial(_found_on_sheet, bench),
    }  # fmt: skip


def _to_other_jobs(bench: Shell, files: JobFiles) -> dict[str, Any]:
    """How stations reach jobs that are not at hand."""
    return {
        "open_jobs": files.tray.jobs, "take_prices": partial(bench.deck.prices.take, files.tray),
        "uid": lambda: bench.session.uid, "jobs_by_uid": files.tray.by_uid, "apply_to": files.tray.apply,
        "add_jobs": files.add_jobs,
    }  # fmt: skip
