"""What a press profile's TOML file holds: names, types and ranges."""

from decimal import Decimal
from typing import Annotated, Literal

from pydantic import AfterValidator, BaseModel, ConfigDict, Field

from swaddon.core.press.processes import PROCESSES
from swaddon.core.press.profile import Position, Role
from swaddon.core.press.steps import Pressure

Share = Annotated[float, Field(ge=0, le=1)]
Positive = Annotated[float, Field(gt=0)]
NotNegative = Annotated[float, Field(ge=0)]
Off = Annotated[float, Field(ge=-20, le=20)]
InkName = Literal["C", "M", "Y", "K", "W", "H"]


class ModelBase(BaseModel):
    model_config = ConfigDict(extra="forbid", frozen=True)


class SlotEntry(ModelBase):
    ink: InkName | Literal[""]
    swaps: InkName | None = None


class SeparationEntry(ModelBase):
    tone_curves: dict[InkName, Annotated[tuple[Share, ...], Field(min_length=3, max_length=101)]] = {}
    yule_nielsen_n: Annotated[float, Field(ge=1, le=10)]
    black_start: Share
    black_strength: Share
    total_area_limit_percent: Annotated[float, Field(ge=100, le=400)]
    primaries: dict[str, tuple[float, float, float]]


class WhiteEntry(ModelBase):
    contrast_ratio: Annotated[float, Field(gt=0, lt=1)]
    design_from: Share
    design_full: Share
    default_choke_mm: NotNegative
    least_stroke_mm: NotNegative = 0.1
    hits: Annotated[tuple[Share, ...], Field(max_length=4)] = ()
    bleed_share: Share = 0.0
    highlight_from: Share = 0.7


class HoldsEntry(ModelBase):
    line_mm: Positive = 0.25
    gap_mm: Positive = 0.2
    dot_mm: Positive = 0.2
    hole_mm: Positive = 0.15


class RegistrationEntry(ModelBase):
    sigma_mm: NotNegative = 0.08
    squeeze_mm: NotNegative = 0.03
    shift_mm: tuple[Off, Off] = (0.0, 0.0)
    rotation_deg: Annotated[float, Field(ge=-5, le=5)] = 0.0


class RefeedEntry(ModelBase):
    shift_mm: NotNegative
    skew_deg: Annotated[float, Field(ge=0, le=5)]
    stretch_percent: Annotated[float, Field(ge=0, le=5)]


class SupplyEntry(ModelBase):
    name: str = ""
    unit: str
    unit_price: Decimal = Field(ge=0, allow_inf_nan=False)
    waste_share: NotNegative
    margin_mm: NotNegative = 0
    per_area: Positive = 1.0
    only_under_white: bool = True
    per_area_g_m2: NotNegative = 0
    per_ink_g_ml: NotNegative = 0
    density_g_ml: Annotated[float, Field(ge=0.3, le=5)] = 1.0
    note: Annotated[str, Field(max_length=200)] = ""


class SuppliesEntry(ModelBase):
    white_ink: SupplyEntry
    colour_ink: SupplyEntry
    film: SupplyEntry | None = None
    powder: SupplyEntry | None = None
    pretreat: SupplyEntry | None = None
    sheet: SupplyEntry | None = None


class PhaseEntry(ModelBase):
    name: str
    roles: tuple[Role, ...]
    passes: Annotated[int, Field(ge=1, le=64)]


class TimeEntry(ModelBase):
    fixed_s: NotNegative
    head_height_mm: Positive
    carriage_speed_mm_s: Positive
    turn_round_s: NotNegative
    one_way: bool = False
    refeed_s: NotNegative = 0.0
    phases: tuple[PhaseEntry, ...]


def _known_process(key: str) -> str:
    if key not in PROCESSES:
        raise ValueError(f"not one of {', '.join(PROCESSES)}")
    return key


class MeasuredEntry(ModelBase):
    constant: Annotated[str, Field(max_length=80)]
    value: float | Annotated[tuple[float, ...], Field(max_length=101)]
    old: float | Annotated[tuple[float, ...], Field(max_length=101)]
    pm: NotNegative = 0.0
    date: Annotated[str, Field(pattern=r"^\d{4}-\d\d-\d\d$")]
    source: Annotated[str, Field(max_length=200)] = ""


class WorkingEntry(ModelBase):
    hands_s: dict[Annotated[str, Field(max_length=60)], NotNegative] = {}
    energy_wh: dict[Annotated[str, Field(max_length=60)], NotNegative] = {}
    cover_presses: NotNegative = 0.0
    covered: dict[Annotated[str, Field(max_length=60)], NotNegative] = {}
    purge_white_per_day: NotNegative = 0.0
    purge_colour_per_day: NotNegative = 0.0
    pieces_per_day: Annotated[float, Field(ge=1, le=100_000)] = 40.0
    spoilage_share: Annotated[float, Field(ge=0, le=0.9)] = 0.0
    setup_min: Annotated[float, Field(ge=0, le=10_000)] = 0.0


class StatedEntry(ModelBase):
    constant: Annotated[str, Field(max_length=80)]
    source: Annotated[str, Field(max_length=200)]
    percent: Annotated[float, Field(ge=0, le=300)] = 0.0


class WeighedEntry(ModelBase):
    date: Annotated[str, Field(pattern=r"^\d{4}-\d\d-\d\d$")]
    source: Annotated[str, Field(max_length=200)] = ""
    constants: Annotated[tuple[Annotated[str, Field(max_length=80)], ...], Field(min_length=1, max_length=20)]
    log_covariance: tuple[tuple[float, ...], ...]


Celsius = Annotated[float, Field(ge=20, le=300)]
StepSeconds = Annotated[float, Field(ge=0, le=86_400)]
Word = Annotated[str, Field(max_length=40)]


class StepEntry(ModelBase):
    temperature_c: Celsius | None = None
    time_s: StepSeconds | None = None
    pressure: Pressure | None = None
    pressure_bar: Annotated[float, Field(gt=0, le=20)] | None = None
    gentler: Annotated[tuple[tuple[Celsius, StepSeconds], ...], Field(max_length=10)] = ()
    source: Annotated[str, Field(max_length=200)] = ""


class ProfileFile(ModelBase):
    schema_: Literal["swaddon-profile/1"] = Field(alias="schema")
    name: str
    title: str
    process: Annotated[str, AfterValidator(_known_process)]
    notes: str = ""
    plan_ppi: Annotated[float, Field(ge=72, le=1200)]
    label: str = ""  # of older files; no longer told
    currency: Annotated[str, Field(pattern="^[A-Z]{3}$")]
    mirrored: bool
    print_order: Annotated[tuple[Role, ...], Field(min_length=1, max_length=3)]
    white_name: Annotated[str, Field(min_length=1, max_length=60, pattern=r"^[^\x00-\x1f\x7f]*$")] = "White"
    white_can_go: Annotated[tuple[Position, ...], Field(max_length=2)] = ()
    largest_print_mm: tuple[Positive, Positive]
    usual_medium: Annotated[str, Field(max_length=40)] = ""
    cures_per_m2: Positive | None = None
    cautions: tuple[str, ...] = ()
    holds: HoldsEntry = HoldsEntry()
    registration: RegistrationEntry = RegistrationEntry()
    refeed: RefeedEntry | None = None
    slots: Annotated[tuple[SlotEntry, ...], Field(max_length=13)]
    separation: SeparationEntry
    white: WhiteEntry
    lay_down_ml_m2: dict[InkName, NotNegative] = {}
    lay_down_g_m2: dict[InkName, NotNegative] = {}
    supplies: SuppliesEntry
    time: TimeEntry
    measured: Annotated[tuple[MeasuredEntry, ...], Field(max_length=2000)] = ()
    working: WorkingEntry = WorkingEntry()
    steps: Annotated[dict[Word, StepEntry], Field(max_length=60)] = {}
    ways: Annotated[dict[Word, Word], Field(max_length=10)] = {}
    stated: Annotated[tuple[StatedEntry, ...], Field(max_length=100)] = ()
    weighed: Annotated[tuple[WeighedEntry, ...], Field(max_length=200)] = ()
