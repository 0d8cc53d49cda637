"""The Run station."""

from swaddon.session.run_cards import CODES
from swaddon.ui.station_spec import StationSpec
from swaddon.ui.stations.run.page import RunPage

STATION = StationSpec(
    key="run",
    title="Run",
    help="The work at the press, step by step: figures, timers, what to beware of, good and spoiled pieces; and what "
    "the next program gets.",
    shortcut="Alt+9",
    view_mode="cloth",
    watches=frozenset(
        {
            "profile",
            "white",
            "mirrored",
            "quantity",
            "handover",
            "plan",
            "goods",
            "at_press",
            "width_mm",
            "drop_mm",
            "garment",
            "cloth",
            "units",
            "lineup",
            "holes",
            "placement",
            "name",
        }
    ),
    codes=CODES,
    touched=lambda job: job.file is not None,
    page=RunPage,
)
