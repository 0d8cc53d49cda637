"""Shared set-up: offscreen Qt before it is imported, a throw-away configuration, artwork drawn for tests."""

import os

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")  # as swaddon sets it, here before NumPy is imported

from collections.abc import Callable, Iterator
from pathlib import Path

import cv2
import numpy as np
import pytest
from hypothesis import HealthCheck, settings
from PIL import Image
from tests import kept

from swaddon.core import fast
from swaddon.core.artwork.artwork import Artwork
from swaddon.core.engine import Run
from swaddon.core.order.settings import PlanSettings
from swaddon.core.plan.stages import Plan, make_plan
from swaddon.core.press.profile import PressProfile
from swaddon.io import profiles
from swaddon.io.tables import cache_folder
from swaddon.session import demo
from swaddon.session import kept as documents
from swaddon.session.job import request_for

settings.register_profile("swaddon", deadline=None, max_examples=25, suppress_health_check=list(HealthCheck))
settings.load_profile("swaddon")

MakePlan = Callable[..., Plan]

_SLOW = (
    "ui/", "acceptance/", "session/", "core/plan/test_stages", "core/plan/test_trouble", "core/plan/test_ladder",
    "core/white/test_register", "core/white/test_white_", "core/findings/test_white_", "core/findings/test_match",
    "core/holes/test_holes", "io/test_hostile", "core/white/test_need", "core/shop/test_weigh_in",
    "core/holes/test_screen", "core/plan/test_variants", "core/plan/test_outcome", "core/sheet/test_gang",
    "core/inks/test_separation", "core/inks/test_fitting", "core/test_examples", "io/test_handover", "io/test_icc",
)  # fmt: skip


_LONGEST_FIRST = (
    "ui/test_bench", "ui/test_art_stations", "ui/test_rough_hands", "ui/test_right_job", "ui/test_order_lines",
    "ui/test_cost_station", "acceptance/test_bad_scans", "acceptance/test_sheet_commands", "core/plan/test_stages",
    "acceptance/test_print_seeds", "ui/test_every_press", "ui/test_watches", "core/inks/test_fitting",
    "io/test_hostile", "core/white/test_need", "core/holes/test_holes", "acceptance/test_unusual_presses",
)  # fmt: skip
"""A file goes to one worker whole: these begin before the others, so that none is left alone at the end."""


@pytest.hookimpl(tryfirst=True)
def pytest_collection_modifyitems(items: list[pytest.Item]) -> None:
    """Tests that take long by their nature begin first, and are left out of the fast form."""

    def place(item: pytest.Item) -> str:
        return item.path.relative_to(Path(__file__).parent).as_posix()

    ranks = {f"{name}.py": rank for rank, name in enumerate(_LONGEST_FIRST)}
    items.sort(key=lambda item: ranks.get(place(item), len(ranks) + (not place(item).startswith(_SLOW))))
    for item in items:
        if place(item).startswith(_SLOW):
            item.add_marker("slow")


@pytest.fixture(autouse=True)
def _own_configuration(tmp_path_factory: pytest.TempPathFactory, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setenv("SWADDON_CONFIG", str(tmp_path_factory.mktemp("config")))
    monkeypatch.setenv("SWADDON_DATA", str(tmp_path_factory.mktemp("data")))
    monkeypatch.delenv("SWADDON_STORE", raising=False)
    monkeypatch.setattr(demo, "decode_artwork", kept.decoded)
    documents.forget()


@pytest.fixture(scope="session")
def compiled() -> None:
    """The kernels, compiled once per machine by set-up."""
    if not fast.enable(cache_folder()):
        fast.compile_all(cache_folder())


@pytest.fixture(params=["kernels", "plain"])
def either_way(request: pytest.FixtureRequest, compiled: None) -> Iterator[str]:
    """Run a test with the kernels and without."""
    if request.param == "plain":
        fast.disable()
    else:
        fast.enable(cache_folder())
    yield request.param
    fast.enable(cache_folder())


PLATES = frozenset(
    ("white.png", "C.png", "M.png", "Y.png", "K.png", "separations.tif", "proof.png", "plan.json", "highlight.png")
)
"""Files of an export with every ink and both whites."""


def coarse(name: str, ppi: int = 100) -> PressProfile:
    """A shipped press with few pixels, where it is not the pixels that are tried."""
    return profiles.parse(profiles.shipped(name).source.replace("plan_ppi = 300", f"plan_ppi = {ppi}"), f"{name}.toml")


def badge(size: int = 300) -> np.ndarray:
    """A red disc with a white ring and a blue bar on nothing, antialiased; ``uint8 (size, size, 4)``."""
    big = np.zeros((size * 4, size * 4, 4), np.uint8)
    centre = (size * 2, size * 2)
    cv2.circle(big, centre, int(size * 1.7), (255, 255, 255, 255), -1)
    cv2.circle(big, centre, int(size * 1.4), (200, 30, 40, 255), -1)
    cv2.rectangle(big, (size, int(size * 1.8)), (size * 3, int(size * 2.2)), (30, 60, 180, 255), -1)
    weighted = big.astype(np.float32)
    weighted[..., :3] *= weighted[..., 3:] / 255
    small = cv2.resize(weighted, (size, size), interpolation=cv2.INTER_AREA)
    small[..., :3] /= np.maximum(small[..., 3:], 1e-3) / 255
    return np.rint(np.clip(small, 0, 255)).astype(np.uint8)


def artwork(rgba: np.ndarray, file_format: str = "PNG", content_id: str = "") -> Artwork:
    """Artwork of an array, known by its pixels where nothing else is said."""
    key = content_id or kept.key_of_pixels(rgba)
    return Artwork(np.ascontiguousarray(rgba), key, "test.png", file_format, bool((rgba[..., 3] < 255).any()))


@pytest.fixture
def make(compiled: None) -> MakePlan:
    """A plan of an array with the shipped profiles; width defaults to 300 ppi. Made once in each worker."""

    def build(
        rgba: np.ndarray, process: str | PressProfile = "film", file_format: str = "PNG", **settings: object
    ) -> Plan:
        values = {"width_mm": rgba.shape[1] / 300 * 25.4} | settings
        art = artwork(rgba, file_format)
        press = profiles.shipped(process) if isinstance(process, str) else process
        wanted = request_for(art, PlanSettings(**values), press)  # type: ignore[arg-type]
        return make_plan(wanted, Run(kept.plans()))

    return build


@pytest.fixture
def badge_file(tmp_path: Path) -> Path:
    path = tmp_path / "badge.png"
    Image.fromarray(badge()).save(path)
    return path
