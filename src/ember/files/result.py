"""The result of a plan for files and screens. Times in s from the start of the plan, temperatures in °C."""

from __future__ import annotations

from functools import cached_property

import numpy as np
from numpy.typing import NDArray
from pydantic import BaseModel, ConfigDict

FloatArray = NDArray[np.float64]


class _Out(BaseModel):
    model_config = ConfigDict(extra="forbid", frozen=True, defer_build=True)


class FacesOut(_Out):
    """The two faces of a slab at the end of a stage."""

    under: float
    top: float


class StageOut(_Out):
    """One stage as simulated; `core_c` and `surface_c` (the colder face) at its start and end.
    `medium_low_c`: the lowest a bath, fryer, pot or oven falls to under its load; `medium_back_s`: when it is back
    within half a kelvin, from the stage's start (none: not within the stage); `at_once`: how many pieces it bears at
    once, if not all. `preheat_min`: how long before
    it is switched on in a cold kitchen, where the stage before was not in it already.
    """

    kind: str
    start_s: float
    end_s: float
    core_c: tuple[float, float]
    surface_c: tuple[float, float]
    reading_c: float
    faces_c: FacesOut | None = None
    ended_by: str
    coldest_pan_c: float | None = None
    medium_low_c: float | None = None
    medium_back_s: float | None = None
    at_once: int | None = None
    preheat_min: float | None = None


class PullOut(_Out):
    """The end of the stage that decides the core: `reading_c` is what a probe shows there."""

    stage: int
    s: float
    core_c: float
    reading_c: float
    carryover_c: float


class CoreOut(_Out):
    """The centre: its peak, when, and at the end of the plan; and the peak reading of a probe."""

    peak_c: float
    peak_s: float
    peak_reading_c: float
    end_c: float


class DonenessOut(_Out):
    """The word for the peak core; `window_s`: how much later the pull may be with the same word (null: 2 h)."""

    word: str
    low_c: float
    high_c: float
    target: str | None = None
    target_low_c: float | None = None
    target_high_c: float | None = None
    grey_band_mm: float
    window_s: float | None


class LethalityOut(_Out):
    """Log reduction at the coldest point."""

    organism: str
    log10: float
    reference: str


class SafetyOut(_Out):
    """A rule that applies; `margin` in log10, °C or min as `margin_unit` says, negative if not met.

    `state`: met, not-met, advisory or no-verdict; `met` is null for no-verdict. `reason`: what the figures do not show.
    `organism`: the one whose reduction a table counts.
    """

    standard: str
    rule: str
    section: str
    edition: str
    text: str
    kind: str
    state: str
    met: bool | None
    margin: float
    margin_unit: str
    needed: dict[str, float]
    reached: dict[str, float]
    organism: str = ""
    reason: str = ""
    words: str
    needs_probe: bool
    advisory_allowed: bool
    cautions: list[str]


class BatchEndOut(_Out):
    """The thinnest or thickest piece of the batch, cooked for the same times: its own values of the result.

    `curve_c`: its core at the times of `curves.t_s`.
    """

    size_mm: float
    peak_c: float
    word: str
    safety_met: bool | None
    safety_words: str
    pull: PullOut | None
    core: CoreOut
    doneness: DonenessOut
    lethality: list[LethalityOut]
    safety: list[SafetyOut]
    yield_pct: float
    curve_c: list[float] = []


class PartOut(_Out):
    """A part of a whole bird or stuffed piece: its coldest point at the pull, at its peak and at the end.

    `curve_c`: that point at the times of `curves.t_s`.
    """

    part: str
    pull_c: float
    peak_c: float
    peak_s: float
    end_c: float
    curve_c: list[float]
    safety: SafetyOut


class AdviceOut(_Out):
    """What to change so that the peak hits the target: end this stage at this reading, or after this many seconds."""

    stage: int
    reading_c: float | None = None
    minutes: float
    seconds_a_side: float | None = None
    peak_c: float


class TendernessOut(_Out):
    """Melting of a tough cut's collagen: 1 is fork-tender. The words' band reflects the uncertainty."""

    dose: float
    outside: float
    word: str
    word_low: str
    word_high: str


class FirmnessOut(_Out):
    """Firmness of fish, 0 raw to 1 dry and fibrous."""

    core: float
    outside: float


class CutFaceOut(_Out):
    """The flesh when cut: colours "#rrggbb" at the end by depth as in the depth map, and at its times the remaining
    redness, `pigment[time][depth]`, 0 to 1.
    """

    depth_m: list[float]
    colour: list[str]
    pigment: list[list[float]] = []


class PlaceOut(_Out):
    """One place of a piece in sections, "core", "thin_end", "thick_end", "edge" or beside the "bone": its peak on the
    middle line and the word for it. `judged`: whether verdicts count it; `words`: what a cook should know of it, or
    nothing.
    """

    place: str
    at_mm: float
    peak_c: float
    word: str
    judged: bool
    words: str


class SectionOut(_Out):
    """The face of a piece in sections. Positions `x_mm[section][node]`, `y_mm`; at the times `t_s` the hottest each has
    been and its remaining redness, `hottest_c[time][section and node in turn]`, `pigment` likewise. `bone`: by section;
    `is_half`: the other half is its mirror image. Of a piece round about its row the nodes run from its axis out.
    """

    x_mm: list[list[float]]
    y_mm: list[list[float]]
    t_s: list[float]
    hottest_c: list[list[float]]
    pigment: list[list[float]]
    bone: list[bool]
    is_half: bool


class ServesOut(_Out):
    """What the batch serves: portions, mass of one, and what to buy, all in g."""

    portions: int
    portion_g: float
    bought_g: float
    bone_pct: float


class RubOut(_Out):
    """A rub or seasoning and both ways to use it: before stage `before` or at the other time, and what burns."""

    step: int
    before: int
    burns: list[str]
    blooms: list[str]
    other_before: int
    other_burns: list[str]
    other_blooms: list[str]


class CautionOut(_Out):
    """What can hurt the cook or spoil the piece; `stage` is null if it is about the piece."""

    stage: int | None
    text: str


class WarningOut(_Out):
    """Something a cook should know before starting."""

    code: str
    text: str


class CurvesOut(_Out):
    """The curves, at most 600 points each."""

    t_s: list[float]
    core_c: list[float]
    surface_c: list[float]
    mean_c: list[float]
    reading_c: list[float]


class DepthMapOut(_Out):
    """`temperature_c[time][depth]`; depth 0 is the underside, or the centre of a round body."""

    t_s: list[float]
    depth_m: list[float]
    temperature_c: list[list[float]]

    @cached_property
    def arrays(self) -> tuple[FloatArray, FloatArray, FloatArray]:
        """The same three as arrays."""
        return np.array(self.t_s), np.array(self.depth_m), np.array(self.temperature_c)


class FaceBrowning(_Out):
    """Browning of a face: an index (1 is golden brown) and its word."""

    face: str
    index: float
    word: str


class HoldPoint(_Out):
    """A hot hold at a time: minutes in it, core, doneness by the hottest core, yield of the raw mass."""

    minutes: float
    core_c: float
    word: str
    yield_pct: float


class HoldOut(_Out):
    """A hot hold. `stays_min`: until its doneness changes (None: it does not). `lost_pct` of the raw mass during the
    hold. `clock_min`: the time allowed if it is set below the rule's temperature.
    """

    stage: int
    setting_c: float
    minutes: float
    word: str
    word_after: str
    stays_min: float | None
    lost_pct: float
    clock_min: float | None
    points: list[HoldPoint]


class BrineOut(_Out):
    """A brine stage with its recipe. `meat_g`: the mass it is weighed for, `goes_in_g`: the mass the plan puts in."""

    stage: int
    salt_pct_meat: float
    centre_salt_pct: float | None
    nitrite_ppm: float | None
    limit_ppm: float | None
    allowed: bool
    why: str
    meat_g: float
    goes_in_g: float
    fits: bool


class Result(_Out):
    """Everything that follows from a plan."""

    format: str = "open-ember/result"
    version: int = 1
    stages: list[StageOut]
    pull: PullOut | None
    core: CoreOut
    curves: CurvesOut
    depth_map: DepthMapOut | None = None
    cut_face: CutFaceOut | None = None
    section: SectionOut | None = None
    places: list[PlaceOut] = []
    evenness_pct: float | None = None
    doneness: DonenessOut
    advice: AdviceOut | None = None
    parts: list[PartOut] = []
    thin: BatchEndOut | None = None
    thick: BatchEndOut | None = None
    tenderness: TendernessOut | None = None
    firmness: FirmnessOut | None = None
    lethality: list[LethalityOut]
    safety: list[SafetyOut]
    yield_pct: float
    mass_after_g: float
    mass_g: float
    serves: ServesOut | None = None
    rubs: list[RubOut] = []
    holds: list[HoldOut] = []
    brines: list[BrineOut] = []
    browning: list[FaceBrowning]
    hands_on_min: float
    warnings: list[WarningOut]
    cautions: list[CautionOut] = []
