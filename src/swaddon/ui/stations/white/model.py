"""White: how much lies under the colour, whether it is needed at all, and how far it is pulled in."""

from dataclasses import dataclass, replace

from swaddon.core.artwork.placement import Point
from swaddon.core.colour.spaces import Rgb, hex_from_rgb
from swaddon.core.count.consumption import amount_text
from swaddon.core.order.settings import PlanSettings
from swaddon.core.plan.stages import Plan
from swaddon.core.press.profile import INKS, PressProfile
from swaddon.core.press.registration import Registration
from swaddon.core.units import px_from_mm
from swaddon.core.white.settings import DesignRule, FixedWhite, WhiteSettings
from swaddon.core.white.verdict import ColourVerdict
from swaddon.session import edits
from swaddon.session.constant_words import standing
from swaddon.session.curves import Line, choke_lines, need_lines, white_amount, white_cost
from swaddon.session.job import Job
from swaddon.session.parse import number, small_length_mm
from swaddon.session.selection import artwork_point
from swaddon.session.session import Edit

MOST_HITS = 4
OTHER_PPI = 720.0
_RECIPE_STEP = 0.02


@dataclass(frozen=True)
class Area:
    """One area of white of the design: its size in words, a place in it, and whether it is ink."""

    text: str
    point: Point
    place_mm: tuple[float, float]
    ink: bool


@dataclass(frozen=True)
class ColourRow:
    """One main colour: ΔE without white, strengthened, with highlights, by need and solid; and its recipe's change."""

    rgb: Rgb
    share: str
    values: tuple[str, ...]
    recipe: tuple[str, ...]


@dataclass(frozen=True)
class WhiteState:
    """What the White sheet shows."""

    settings: WhiteSettings
    mode_effect: str
    need_curve: tuple[Line, ...]
    need_note: str
    verdict: str
    colours: tuple[ColourRow, ...]
    strengthen_effect: str
    design: bool
    design_effect: str
    whitens_fine_black: bool
    asks_fine_black: bool
    areas_text: str
    areas: tuple[Area, ...]
    hits: tuple[float, ...]
    hits_text: str
    opacity_text: str
    ppi: float
    choke_effect: str
    guard_effect: str
    choke_enabled: bool
    sigma_mm: float
    squeeze_mm: float
    registration_text: str
    registration_from: str
    has_screen: bool
    choke_lines: tuple[Line, ...]
    recommended_mm: float | None
    no_peek_mm: float | None
    harms: str


def white_state(job: Job, plan: Plan | None, other_ppi: float = OTHER_PPI) -> WhiteState:
    """What the sheet shows; the choke is told in pixels of another machine's ``other_ppi`` as well."""
    profile = job.press
    settings = job.settings if profile is None else job.settings.on(profile)
    white = settings.white
    registration = None if profile is None else settings.registration(profile)
    sigma, squeeze = (0.0, 0.0) if registration is None else (registration.sigma_mm, registration.squeeze_mm)
    hits = () if profile is None else profile.hits
    choked = white.mode not in ("none", "only")
    return WhiteState(
        settings=white,
        mode_effect="" if plan is None else _mode_effect(plan),
        need_curve=() if plan is None else need_lines(plan),
        need_note="" if plan is None else white_cost(plan),
        verdict="" if plan is None or not plan.request.profile.white_under_colour else plan.advice.reason,
        colours=() if plan is None else tuple(_row(item) for item in plan.advice.colours),
        strengthen_effect=_strengthen_effect(settings, plan),
        design=settings.prints_design_white,
        design_effect=_design_effect(settings),
        whitens_fine_black=profile is None or settings.whitens_fine_black(profile),
        asks_fine_black=choked
        and (white.under_fine_black is not None or (profile is not None and not profile.has_black)),
        areas_text=_areas_text(plan),
        areas=() if plan is None else _areas(job, plan),
        hits=hits,
        hits_text=_hits_text(hits),
        opacity_text="" if profile is None or not profile.has_white else _opacity_text(profile),
        ppi=300.0 if profile is None else profile.plan_ppi,
        choke_effect=_choke_effect(job, plan, other_ppi),
        guard_effect=_guard_effect(plan),
        choke_enabled=choked,
        sigma_mm=sigma,
        squeeze_mm=squeeze,
        registration_text=_registration_text(profile, white, registration),
        registration_from=_registration_from(profile, white),
        has_screen=settings.holes.cuts,
        choke_lines=() if plan is None else choke_lines(plan),
        recommended_mm=plan.choke.recommended_mm if plan is not None and choked and plan.choke.total.any() else None,
        no_peek_mm=None if registration is None or not choked else registration.no_peek_mm,
        harms="" if plan is None or registration is None or not choked else harms_text(plan, registration),
    )


def _registration_text(profile: PressProfile | None, white: WhiteSettings, registration: Registration | None) -> str:
    """Registration in words, and where it is from."""
    found = Registration(0.0, 0.0) if registration is None else registration
    grows = "" if found.spread is None else f" to {found.worst_sigma_mm:.2f}"
    text = f"{'worst' if white.worst_case else 'σ'} {found.sigma_mm:.2f}{grows}, squeeze {found.squeeze_mm:.2f} mm"
    if profile is None:
        return text
    if found.spread is not None:
        return text
    return f"{text}, {_registration_from(profile, white).split()[0].lower()}"


def _registration_from(profile: PressProfile | None, white: WhiteSettings) -> str:
    """Where registration is from, and where it grows from the middle of the print."""
    if profile is None or white.registration_mm is not None:
        return "Entered for this job"
    grows = "" if profile.registration.spread is None else "; σ is the mean, the second one that of the corners"
    return f"{standing(profile, 'registration.shift_mm').capitalize()}{grows}"


def _opacity_text(profile: PressProfile) -> str:
    """Opacity of one hit, and where it is from."""
    return f"One hit: contrast ratio {profile.white.contrast_ratio:.2f}, {standing(profile, 'white.contrast_ratio')}"


def _mode_effect(plan: Plan) -> str:
    mode = plan.request.settings.white.mode
    amount = amount_text(white_amount(plan), plan.request.profile.ink_unit)
    amount_text_above = f"{amount} white "
    if mode == "none":
        amount_text_above = f"none under colour · {amount} white of the design " if plan.measures.white_px else ""
        if not amount_text_above:
            return "none under colour, and no white of the design prints"
    text = f"{amount_text_above}over {plan.measures.white_mm2 / 100:.0f} cm²"
    if mode == "need":  # the curve above tells the amount
        return f"{1 - plan.checks.white.of_solid:.0%} less than solid{_worst_by_need(plan)}"
    if mode in ("highlight", "limit"):
        text += f" · {1 - plan.checks.white.of_solid:.0%} less than solid"
    return text


def _worst_by_need(plan: Plan) -> str:
    """The worst main colour beside the shift that is allowed, where it is more than that: solid reaches no better."""
    allowed = plan.request.settings.white.allowed_shift
    worst = max(plan.advice.colours, key=lambda item: item.by_need, default=None)
    if worst is None or worst.by_need <= allowed + 0.3:
        return ""
    return f" · worst ΔE {worst.by_need:.1f}, solid {worst.solid:.1f}"


def _hits_text(hits: tuple[float, ...]) -> str:
    """Number and amount of each hit; of unequal ones the amount of all."""
    if len(set(hits)) == 1:
        return f"{len(hits)} × {hits[0]:.0%}"
    return f"{len(hits)}, {sum(hits):.0%}" if hits else ""


def by_hand(white: WhiteSettings) -> str:
    """In short what is set by hand where white goes by colour; what can be, while nothing is."""
    limited = white.mode == "need" and (white.least, white.most) != (0, 1)
    text = [f"{white.least * 100:.0f}–{white.most:.0%}"] if limited else []
    text += [f"{len(white.fixed)} colour{'' if len(white.fixed) == 1 else 's'}"] if white.fixed else []
    return ", ".join(text) or ("limits, colours" if white.mode == "need" else "colours")


def _row(item: ColourVerdict) -> ColourRow:
    values = (item.bare, item.strengthened, item.highlights, item.by_need, item.solid)
    return ColourRow(item.colour, f"{item.share:.0%}", tuple(f"{value:.0f}" for value in values), _recipe_change(item))


def _recipe_change(item: ColourVerdict) -> tuple[str, ...]:
    """What strengthening does to each ink of a colour's recipe, in percent; empty where it hardly helps."""
    helps = item.bare - item.strengthened >= 0.5
    return tuple(
        f"{was * 100:.0f} → {now:.0%}" if helps and abs(now - was) >= _RECIPE_STEP else ""
        for was, now in zip(item.recipe, item.strong_recipe, strict=True)
    )


def _strengthen_effect(settings: PlanSettings, plan: Plan | None) -> str:
    if plan is None or not settings.strengthens or not plan.advice.colours:
        return ""
    most = max(plan.advice.colours, key=lambda item: item.bare - item.strengthened)
    if most.bare - most.strengthened < 0.5:
        return "No colour gains by it on this garment"
    change = ", ".join(f"{ink} {text}" for ink, text in zip(INKS, _recipe_change(most), strict=True) if text)
    return f"{hex_from_rgb(most.colour)}: {change}; ΔE {most.bare:.0f} → {most.strengthened:.0f}"


def _design_effect(settings: PlanSettings) -> str:
    left_bare = settings.white.design is None and not settings.prints_design_white
    return "White garment: left bare by itself" if left_bare else ""


def _areas_text(plan: Plan | None) -> str:
    """Areas of white of the design, counted; empty while they are looked for."""
    if plan is None or not plan.checks.is_current or not plan.checks.design_areas:
        return ""
    areas = plan.checks.design_areas
    return f"{len(areas)} area{'' if len(areas) == 1 else 's'}, {sum(area.area_mm2 for area in areas) / 100:.1f} cm²"


def _areas(job: Job, plan: Plan) -> tuple[Area, ...]:
    if job.file is None or not plan.checks.is_current:
        return ()
    artwork, out = job.file.artwork, []
    for area in plan.checks.design_areas:
        size = (artwork.width_px, artwork.height_px)
        point = artwork_point(area.x_mm, area.y_mm, job.settings, size, job.height_mm)
        if point is None:
            continue
        column, row = (int(px_from_mm(mm, plan.ppi)) for mm in (area.x_mm, area.y_mm))
        turned = plan.design is not None and bool(plan.design[row, column] > 0)
        text = f"{area.area_mm2 / 100:.1f} cm²" if area.area_mm2 >= 50 else f"{area.area_mm2:.0f} mm²"
        out.append(Area(text, point, (area.x_mm, area.y_mm), plan.request.settings.prints_design_white != turned))
    return tuple(out)


def length_mm(text: str, ppi: float) -> float:
    """A choke or an error as typed, in mm, in or pixels of ``ppi`` or of another resolution."""
    return small_length_mm(text, "The length", 0, 100, ppi, "0.25 mm, 3 px or 7 px at 720")


def ppi_from(text: str) -> float:
    """Resolution of another machine; raises ``ValueError`` with one sentence."""
    return number(text.lower().replace("ppi", "").replace("dpi", ""), "The other machine’s ppi", 50, 5000)


def area_edit(white: WhiteSettings, area: Area, ink: bool) -> Edit:
    """Make one area of white of the design ink, or bare cloth."""
    others = tuple(rule for rule in white.design_rules if rule.point != area.point)
    label = "Print an area of white" if ink else "Leave an area as bare cloth"
    return edits.set_white(label, design_rules=(*others, DesignRule(area.point, ink)))


def fix_edit(white: WhiteSettings, rgb: Rgb) -> Edit:
    """Set the white of a picked colour by hand, from the middle of the range."""
    others = tuple(item for item in white.fixed if item.colour != rgb)
    return edits.set_white("Fix the white of a colour", fixed=(*others, FixedWhite(rgb, 0.5)))


def fixed_edit(white: WhiteSettings, index: int, amount: float | None) -> Edit:
    """Change the white of a fixed colour; ``None`` lets it go by need again."""
    items = list(white.fixed)
    if amount is None:
        del items[index]
        return edits.set_white("Let a colour go by need again", fixed=tuple(items))
    items[index] = replace(items[index], amount=round(amount, 2))
    return edits.set_white("Change the white of a colour", f"fixed{index}", fixed=tuple(items))


def hits_edit(hits: tuple[float, ...], index: int, amount: float) -> Edit:
    """Change the amount of one hit."""
    changed = tuple(round(amount, 2) if number == index else value for number, value in enumerate(hits))
    return edits.set_white("Change a hit of white", f"hit{index}", hits=changed)


def hit_count_edit(hits: tuple[float, ...], count: int) -> Edit:
    """More or fewer hits; a new one is full."""
    return edits.set_white("Change the hits of white", hits=(*hits, *(1.0,) * MOST_HITS)[:count])


def _choke_effect(job: Job, plan: Plan | None, other_ppi: float) -> str:
    white = job.settings.white
    if white.mode == "only":
        return "White alone is not pulled in: no colour lies over it"
    ppi = 300.0 if job.profile is None else job.profile.plan_ppi
    px, other = white.choke_px(ppi), white.choke_px(other_ppi)
    text = f"{px:.1f} px at {ppi:g} ppi, {other:.0f} at {other_ppi:g}"
    if plan is None or white.mode == "none":
        return text
    return f"{text} · −{plan.checks.white.taken_share:.1%} white"


def harms_text(plan: Plan, registration: Registration) -> str:
    """Both harms of both schools and of the choke in force side by side, as areas that are to be expected.

    Where the error grows from the middle, the areas are those of all places, and what the corners come to is told.
    """
    if not plan.choke.total.any():
        return ""
    in_force = plan.request.settings.white.choke_mm
    chokes = (("least harm", plan.choke.recommended_mm), ("no peek", registration.no_peek_mm), ("now", in_force))
    told = []
    for name, choke_mm in chokes:
        peek_mm2, rim_mm2 = plan.choke.areas_at(choke_mm)
        told.append(f"{name} {peek_mm2:.0f} + {rim_mm2:.0f}")
    corners, past_mm = "", registration.reach_mm - in_force
    if registration.spread is not None and past_mm > 0:
        corners = f"; at corners white may pass by {past_mm:.2f} mm"
    return f"Peeking + bare, mm²: {' · '.join(told)}{corners}"


def _guard_effect(plan: Plan | None) -> str:
    """Lengths of thin strokes that the guard keeps, and of those that have no white."""
    if plan is None or plan.request.settings.white.mode in ("none", "only"):
        return ""
    strokes = plan.checks.white.strokes
    lengths = ((strokes.saved_mm, "kept"), (strokes.bare_mm, "bare"))
    return "".join(f" · {length:.0f} mm {what}" for length, what in lengths if length >= 1)
