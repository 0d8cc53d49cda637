"""What the bench's actions do, and the door that stations get."""

from collections.abc import Callable
from typing import TYPE_CHECKING

from swaddon.core.misregistration import Missed
from swaddon.ui.finder import CommandFinder
from swaddon.ui.station_spec import StationContext

if TYPE_CHECKING:
    from swaddon.ui.bench import Bench


def handlers(bench: "Bench") -> dict[str, Callable[[], None]]:
    """One handler per command of ``actions.COMMANDS``."""
    return {
        "new": bench.files.new,
        "open": bench.files.choose_job,
        "place": bench.files.choose_artwork,
        "paste": bench.files.paste,
        "save": bench.files.save,
        "save-as": bench.files.save_as,
        "export": bench.files.choose_export,
        "next-job": bench.files.next_job,
        "close-job": bench.files.close_job,
        "quit": lambda: bench.close() and None,
        "undo": bench.session.undo,
        "redo": bench.session.redo,
        "region-next": lambda: bench.step_region(1),
        "region-previous": lambda: bench.step_region(-1),
        "pin": bench.pin,
        "unpin": lambda: bench.set_yardstick(None),
        "curtain": bench.seeing.draw_curtain,
        "loupe": bench.seeing.loupe_toggled,
        "worst-case": bench.seeing.worst_case_toggled,
        "nudge-left": lambda: bench.seeing.nudge(-1, 0),
        "nudge-right": lambda: bench.seeing.nudge(1, 0),
        "nudge-up": lambda: bench.seeing.nudge(0, -1),
        "nudge-down": lambda: bench.seeing.nudge(0, 1),
        "squeeze-more": lambda: bench.seeing.squeeze(1),
        "squeeze-less": lambda: bench.seeing.squeeze(-1),
        "nudge-back": lambda: bench.seeing.miss(Missed()),
        "fit": bench.table.fit_print,
        "fit-garment": bench.table.fit_garment,
        "true-size": bench.table.zoom_true_size,
        "pixel": bench.zoom_pixel,
        "core-sample": bench.sample_middle,
        "scheme": bench.change_scheme,
        "units": lambda: bench.set_inches(not bench.preferences.inches),
        "find": lambda: CommandFinder(bench.actions_.all(), bench).open(),
        "about": bench.about,
    }


def context(bench: "Bench") -> StationContext:
    """The narrow door through which stations reach the bench."""
    return StationContext(
        apply=bench.apply,
        end_drag=bench.session.end_merge,
        pick=bench.pick,
        choose_artwork=bench.files.choose_artwork,
        load_artwork=bench.files.load_artwork,
        show_page=bench.files.show_page,
        choose_tile=bench.files.choose_tile,
        see=bench.see,
        go_to=bench.table.go_to,
        outline=bench.table.set_outlines,
        want_regions=bench.desk.want_regions,
        regions=lambda: bench.desk.regions,
        finds_regions=lambda: bench.desk.is_finding_regions,
        pin=bench.pin,
        set_inches=bench.set_inches,
        uses_inches=lambda: bench.preferences.inches,
        tell=bench.tell,
        in_background=bench.desk.in_background,
    )
