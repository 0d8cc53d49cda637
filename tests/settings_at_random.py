"""Settings drawn at random from all that an operator can choose, for tests that try many plans."""

from dataclasses import replace

import numpy as np

from swaddon.core.artwork.placement import Placement
from swaddon.core.holes.settings import HoleSettings, RegionRule, Screen
from swaddon.core.inks.settings import Recipe
from swaddon.core.knockout.settings import AlphaTreatment, Keep, Knockout, OutlineKnockout
from swaddon.core.order.settings import PlanSettings
from swaddon.core.white.settings import DesignRule, FixedWhite, WhiteSettings

GARMENTS = ((27, 27, 31), (31, 41, 68), (200, 16, 46), (154, 154, 154), (224, 212, 186), (250, 250, 248))
PROCESSES = ("film", "direct", "direct-highlight", "toner-onepass", "toner-twopass", "toner-no-black", "decal")
SCREENS = (None, Screen(), Screen("line", 20, 0, 0.6), Screen("inverted", 30, 45, 0.8), Screen("tile", tile="dots"))


def picture(seed: int = 5, size: int = 96) -> np.ndarray:
    """A soft glow, a bar of the garment's colour, white lettering-like strokes, a dark and a bright block."""
    rng = np.random.default_rng(seed)
    art = np.zeros((size, size, 4), np.uint8)
    y, x = np.mgrid[0:size, 0:size]
    art[..., :3] = (240, 170, 40)
    art[..., 3] = np.clip(255 - 7 * np.hypot(x - size * 0.3, y - size * 0.3), 0, 200)
    for colour in ((27, 27, 31), (200, 30, 40), (255, 255, 255), (31, 41, 68), (30, 140, 220)):
        top, left = rng.integers(4, size - 34, 2)
        art[top : top + 26, left : left + 26] = (*colour, 255)
    art[size // 2 : size // 2 + 3, 6:-6] = (255, 255, 255, 255)
    art[size - 9 : size - 7, 6:-6] = (200, 30, 40, 255)
    return art


def settings(rng: np.random.Generator, size: int = 96) -> PlanSettings:
    """One choice of everything."""

    def one(*items: object) -> object:
        return items[int(rng.integers(len(items)))]

    def point() -> tuple[float, float]:
        return float(rng.integers(size)), float(rng.integers(size))

    colour = one(None, (200, 30, 40), (255, 255, 255), (27, 27, 31))
    knockout = Knockout(
        colour, float(one(3, 8, 15)), one("outside", "everywhere", "clicked"), one("soft", "hard"), (point(),),
        bool(one(False, False, True)),
    )  # fmt: skip
    outline = (
        OutlineKnockout(
            ((8.0, 8.0), (size - 9.0, 12.0), (size - 14.0, size - 8.0), (10.0, size - 20.0)),
            one("inside", "outside"), one("knock", "keep"),
        ),
    )  # fmt: skip
    white = WhiteSettings(
        mode=one("none", "highlight", "need", "need", "solid", "solid", "limit", "only"),
        limit=float(one(120, 280)), design=one(None, True, False), choke_mm=float(one(0, 0.1, 0.25)),
        allowed_shift=float(one(1, 3)), least=float(one(0, 0.2)), guard=bool(one(True, False)),
        registration_mm=one(None, 0.1), worst_case=bool(one(True, False)), squeeze_mm=one(None, 0.02),
        screen_choke_mm=float(one(0, 0.1)), fixed=one((), (FixedWhite((200, 30, 40), 0.4),)),
        design_rules=one((), (DesignRule(point(), bool(one(True, False))),)), hits=one((), (1.0, 0.5)),
        strengthen=bool(one(False, False, False, True)), whole_sheet=bool(one(False, False, False, True)),
        position=one(None, None, "first", "last"), under_fine_black=one(None, True, False),
    )  # fmt: skip
    holes = HoleSettings(
        default=one(*SCREENS), rules=one((), (RegionRule(one(*SCREENS), (point(),)),)), fine_mm=float(one(0, 1)),
        give_back=bool(one(True, False)), deeper_black=float(one(0, 0.2)),
    )  # fmt: skip
    return PlanSettings(
        width_mm=size / 300 * 25.4 * float(one(1, 1, 1.5)), garment=one(*GARMENTS),
        placement=one(Placement(), Placement((4, 4, size - 6, size - 2)), Placement(None, 1)),
        knockouts=one((), (), (knockout,)), outlines=one((), (), outline),
        recipes=one((), (), (Recipe((200, 30, 40), (0.1, 1.0, 0.9, 0.0), float(one(2, 10))),)),
        keeps=one((), (Keep((200, 30, 40), 6.0, one(None, point())),)),
        alpha=one(None, AlphaTreatment("keep"), AlphaTreatment("hard", 0.4), AlphaTreatment("screen", haze_below=0.1)),
        holes=one(HoleSettings(), HoleSettings(), holes), white=white, mirrored=one(None, True),
        quantity=int(one(1, 40)), gamut=one("hue", "hue", "steps"), drop_mm=float(one(40, 76.2)),
    )  # fmt: skip


def variation(rng: np.random.Generator, before: PlanSettings, size: int = 96) -> PlanSettings:
    """Settings that differ from others in a field or two, as on the bench."""
    other = settings(rng, size)
    white_field = str(rng.choice(list(WhiteSettings.__dataclass_fields__)))
    field = str(rng.choice(list(PlanSettings.__dataclass_fields__)))
    after = replace(before, white=replace(before.white, **{white_field: getattr(other.white, white_field)}))
    return replace(after, **{field: getattr(other, field)}) if field != "white" else after
