"""The Sheet station."""

from swaddon.ui.station_spec import StationSpec
from swaddon.ui.stations.sheet.page import SheetPage

STATION = StationSpec(
    key="sheet",
    title="Sheet",
    help="Prints of this order and of other jobs on shared film or sheets; what is larger than its medium is cut.",
    shortcut="Alt+G",
    view_mode="cloth",
    watches=frozenset(
        {"plan", "sheet", "profile", "name", "file", "quantity", "above", "below", "goods", "units", "garment", "cloth"}
    ),
    codes=frozenset(
        {
            "sheet-over-edge",
            "sheet-mirrored",
            "sheet-white",
            "sheet-film-left",
            "sheet-spacing",
            "sheet-holes-turned",
            "seam-lettering",
            "seam-crosses",
            "seam-unmarked",
            "plate-small",
        }
    ),
    touched=lambda job: job.settings.sheet_share is not None or bool(job.sheet.placed),
    page=SheetPage,
)
