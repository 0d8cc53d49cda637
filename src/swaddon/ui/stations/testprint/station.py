"""The Test print station."""

from swaddon.session.press_state import CODES
from swaddon.ui.station_spec import StationSpec
from swaddon.ui.stations.testprint.page import TestPrintPage

STATION = StationSpec(
    key="testprint",
    title="Test print",
    help="One page that measures the press: which ink sits where, where white lies, opacity, dot gain, nozzles.",
    shortcut="Alt+7",
    view_mode="cloth",
    watches=frozenset({"profile", "lineup", "white", "plan", "tests"}),
    codes=CODES,
    touched=lambda job: job.profile is not None and bool(job.profile.measured),
    page=TestPrintPage,
)
