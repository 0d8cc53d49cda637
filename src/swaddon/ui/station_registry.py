"""All stations, in the order of the work. Adding one is a folder, its tests, and a line here."""

from swaddon.ui.station_spec import StationSpec
from swaddon.ui.stations.artwork.station import STATION as ARTWORK
from swaddon.ui.stations.cost.station import STATION as COST
from swaddon.ui.stations.holes.station import STATION as HOLES
from swaddon.ui.stations.inks.station import STATION as INKS
from swaddon.ui.stations.knockout.station import STATION as KNOCKOUT
from swaddon.ui.stations.log.station import STATION as LOG
from swaddon.ui.stations.order.station import STATION as ORDER
from swaddon.ui.stations.run.station import STATION as RUN
from swaddon.ui.stations.sheet.station import STATION as SHEET
from swaddon.ui.stations.testprint.station import STATION as TEST_PRINT
from swaddon.ui.stations.variants.station import STATION as VARIANTS
from swaddon.ui.stations.white.station import STATION as WHITE

STATIONS: tuple[StationSpec, ...] = (
    ORDER,
    ARTWORK,
    KNOCKOUT,
    HOLES,
    WHITE,
    INKS,
    TEST_PRINT,
    VARIANTS,
    SHEET,
    COST,
    RUN,
    LOG,
)
