"""What the operator chooses. Plain frozen values: they are compared, hashed, stored and undone."""

from dataclasses import dataclass, field, replace
from typing import Annotated

from annotated_types import Ge, Le, MaxLen

from swaddon.core.artwork.placement import Placement, Point
from swaddon.core.colour.goods import is_white
from swaddon.core.colour.spaces import Rgb
from swaddon.core.count.measure import Measures
from swaddon.core.count.shared import SheetShare
from swaddon.core.holes.held import ruled_anew, usual_screen
from swaddon.core.holes.settings import HoleSettings
from swaddon.core.inks.recipes import MOST
from swaddon.core.inks.settings import IccChoice, Recipe
from swaddon.core.knockout.settings import AlphaTreatment, Keep, Knockout, OutlineKnockout
from swaddon.core.order.at_press import AtPress
from swaddon.core.order.handover import HandOver
from swaddon.core.press.lineup import LineUp, with_lineup
from swaddon.core.press.profile import Gamut, PressProfile
from swaddon.core.press.registration import Registration
from swaddon.core.press.steps import PRESSES
from swaddon.core.schema import Named, Option, Slider, flat
from swaddon.core.shop.used import Used, used_by
from swaddon.core.white.settings import WhiteSettings


@dataclass(frozen=True)
class PlanSettings:
    """Everything that decides a plan besides artwork and profile.

    ``alpha`` is ``None`` for what the process needs, ``mirrored`` likewise. ``drop_mm`` is the distance from the
    collar to the print; it places the print on the garment and changes no pixel. ``gamut`` says what becomes of colours
    beyond the inks (``profile.Separation``); ``handover`` and ``at_press`` change no pixel either. ``lineup``
    is ``None`` for that of the press profile. ``sheet_share`` is what a piece takes of the sheet that the line was laid
    on last.
    """

    width_mm: Annotated[float, Ge(1), Le(5000), Named("Print width", "Change print width")] = 250.0
    garment: Annotated[Rgb, Named("Garment colour", "Change garment colour")] = (27, 27, 31)
    placement: Placement = field(
        default_factory=Placement, metadata=flat(crop="crop_px", quarter_turns="quarter_turns")
    )
    drop_mm: Annotated[
        float, Ge(0), Le(1000), Slider("Below collar", "mm", 1, "Move the print on the garment", most=250)
    ] = 76.2
    knockouts: tuple[Knockout, ...] = ()
    keeps: tuple[Keep, ...] = ()
    outlines: Annotated[tuple[OutlineKnockout, ...], MaxLen(50), Named("Outlines", "Change an outline")] = ()
    alpha: Annotated[AlphaTreatment, Named("Half-transparent pixels", "Treat half-transparent pixels")] | None = None
    holes: HoleSettings = field(default_factory=HoleSettings)
    white: WhiteSettings = field(default_factory=WhiteSettings)
    mirrored: (
        Annotated[
            bool,
            Named("Print mirrored", "Change mirroring"),
            Option(
                "--mirrored/--not-mirrored", "Whether the medium is printed mirrored. Default: as the process needs."
            ),
        ]
        | None
    ) = None
    quantity: Annotated[
        int,
        Ge(1),
        Le(1_000_000),
        Named("Quantity", "Change quantity"),
        Option("--quantity", "Number of shirts. Default: 1."),
    ] = 1
    gamut: Annotated[
        Gamut,
        Named(
            "Colours beyond the inks", "Treat colours beyond the inks", (("hue", "Nearest"), ("steps", "Keep steps"))
        ),
        Option(
            "--gamut",
            "Colours beyond the inks: hue (each to the nearest there is) or steps (drawn inwards together, so that "
            "shades stay apart). Default: hue.",
        ),
    ] = "hue"
    recipes: Annotated[tuple[Recipe, ...], MaxLen(MOST), Named("Exact colours", "Change a recipe")] = ()
    icc: Annotated[IccChoice, Named("Separation", "Change the separation")] | None = None
    handover: HandOver = field(default_factory=HandOver)
    lineup: Annotated[LineUp, Named("Slots", "Change the line-up")] | None = None
    sheet_share: Annotated[SheetShare, Named("Share of the sheet", "Lay on a sheet")] | None = None
    at_press: AtPress = field(default_factory=AtPress)

    def scaled(self, factor: float) -> "PlanSettings":
        """The same settings for artwork of ``factor`` times the pixels on a side: every artwork point moves along."""

        def moved(points: tuple[Point, ...]) -> tuple[Point, ...]:
            return tuple((x * factor, y * factor) for x, y in points)

        rules = tuple(replace(rule, points=moved(rule.points)) for rule in self.holes.rules)
        white = tuple(replace(rule, point=moved((rule.point,))[0]) for rule in self.white.design_rules)
        return replace(
            self,
            placement=self.placement.scaled(factor, factor),
            knockouts=tuple(replace(item, points=moved(item.points), kept=moved(item.kept)) for item in self.knockouts),
            keeps=tuple(
                item if item.point is None else replace(item, point=moved((item.point,))[0]) for item in self.keeps
            ),
            outlines=tuple(replace(item, points=moved(item.points)) for item in self.outlines),
            holes=replace(self.holes, rules=rules),
            white=replace(self.white, design_rules=white),
        )

    def share(self, press: PressProfile) -> SheetShare | None:
        """What a piece takes of the sheet that it was laid on; ``None`` since it has another size, or none yet."""
        own = None if self.sheet_share is None else self.sheet_share.of(self.quantity)
        return own if own is not None and own.holds(self.width_mm, press.name) else None

    def used_by(self, measures: Measures, press: PressProfile) -> Used:
        """What a plan's counts use on a press as these settings lay, press and split it."""
        return used_by(measures, press, self.share(press), pressed_twice=self.pressed_twice(press))

    def pressed_twice(self, press: PressProfile) -> bool:
        """Whether a transfer is pressed again after it was peeled."""
        return self.at_press.way(PRESSES, press).key == "twice"

    @property
    def prints_design_white(self) -> bool:
        """Whether white of the design is ink: as chosen, else on all but white garments, whose cloth shows as well."""
        return not is_white(self.garment) if self.white.design is None else self.white.design

    def whitens_fine_black(self, profile: PressProfile) -> bool:
        """Whether white lies under fine black: as chosen, else where the press has a black of its own."""
        chosen = self.white.under_fine_black
        return profile.has_black if chosen is None else chosen

    @property
    def strengthens(self) -> bool:
        """Whether inks are solved for the garment's tint.

        Only where no white lies under the colours, and no ICC profile separates.
        """
        return self.icc is None and self.white.strengthen and self.white.mode in ("none", "highlight")

    def on(self, press: PressProfile) -> "PlanSettings":
        """These settings as a press can print them: without any white where it has none."""
        if press.has_white:
            return self
        bare = replace(self.white, mode="none", design=False, design_rules=(), fixed=(), whole_sheet=False)
        return replace(self, white=bare)

    def taken_to(self, former: PressProfile | None, press: PressProfile) -> "PlanSettings":
        """These settings on another press: what stands as the former one starts with follows the new one.

        What was chosen otherwise stays; the finding ``choke-kept`` tells it. Of all settings with a start of the
        press only the choke and the ruling of holes are copied into the settings; the others stand as "the press's
        own" until they are chosen.
        """
        if former is None:
            return self
        taken = self if not self.holes.cuts else replace(self, holes=ruled_anew(self.holes, former, press))
        if abs(self.white.choke_mm - former.white.default_choke_mm) > _SAME_MM:
            return taken
        return replace(taken, white=replace(self.white, choke_mm=press.white.default_choke_mm))

    def used(self, press: PressProfile, height_mm: float) -> PressProfile:
        """A press profile as these settings use it, on a print of their width and a height.

        That is: the line-up of its slots, hits and place of white, colours beyond the inks, and how well a second pass
        meets the first.
        """
        lined_up = with_lineup(press, self.lineup)
        chosen = lined_up.with_hits(self.white.hits).with_gamut(self.gamut).with_white(self.white.position)
        return chosen.of_size(self.width_mm, height_mm)

    def registration(self, profile: PressProfile) -> Registration:
        """Registration as measured and entered, else the press profile's."""
        own, white = profile.registration, self.white
        entered = white.registration_mm is not None or white.worst_case
        return Registration(
            own.sigma_mm if white.registration_mm is None else white.registration_mm,
            own.squeeze_mm if white.squeeze_mm is None else white.squeeze_mm,
            white.worst_case,
            spread=None if entered else own.spread,
        )

    def is_mirrored(self, profile: PressProfile) -> bool:
        """Whether the medium is printed mirrored."""
        return profile.mirrored if self.mirrored is None else self.mirrored

    def alpha_treatment(self, profile: PressProfile) -> AlphaTreatment:
        """What becomes of half-transparent pixels: chosen, or the process's own.

        Film has nothing to hold thin ink with, so fades are screened; direct printing keeps them.
        """
        if self.alpha is not None:
            return self.alpha
        return default_alpha(profile)


_SAME_MM = 1e-6


def default_alpha(profile: PressProfile) -> AlphaTreatment:
    """The process's own treatment of half-transparent pixels (common practice, no source)."""
    process = profile.printing
    return AlphaTreatment(process.fades, screen=usual_screen(profile))
