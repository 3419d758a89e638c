"""The answers to egg requests; one model for each family of methods."""

from __future__ import annotations

from typing import Literal

from .base import FileModel, StepOut
from .result import SafetyOut

GoesOut = Literal["met", "advisory", "pasteurised", "no"]


class _Answer(FileModel):
    method: str
    rules: list[SafetyOut]
    goes_out: GoesOut
    cautions: list[str]
    steps: list[StepOut]
    warnings: list[str] = []


class EndPeak(FileModel):
    """Temperature at the end of heating, its peak afterwards, and when, s from the start."""

    end: float
    peak: float
    peak_s: float


class SizedEgg(FileModel):
    """The egg with the sizes used."""

    kind: str
    mass_g: float
    breadth_mm: float
    length_mm: float
    yolk_g: float
    white_g: float
    yolk_share: float


class EggCurves(FileModel):
    """Temperatures over time: middle and edge of the yolk, mean of the white, and the water, °C."""

    t_s: list[float]
    yolk_centre_c: list[float]
    yolk_edge_c: list[float]
    white_c: list[float]
    water_c: list[float]


class EggFace(FileModel):
    """The cut egg from its middle outwards: depth as a share of the half-breadth, hottest °C, and set fraction."""

    depth: list[float]
    hottest_c: list[float]
    set_fraction: list[float]
    edge: float


class SpreadOut(FileModel):
    """The effect of a small difference: the yolk then, its set fraction, and the minutes for the same result."""

    what: str
    yolk: str
    yolk_set: float
    minutes: float | None


class WaterDip(FileModel):
    """How far the eggs cool the water, and when it has recovered, s."""

    litres: float
    lowest_c: float
    back_s: float


class ShellAnswer(_Answer):
    """A whole egg in water or steam. `minutes` of heating; for a cold start from the boil, `boils_s` after the start.

    `yolk_edge_c` and `white_c` are at the end of heating. `green` is 1 if a green edge shows.
    """

    minutes: float
    minutes_range: tuple[float, float] | None
    boils_s: float
    total_s: float
    egg: SizedEgg
    yolk_edge_c: float
    yolk_edge_peak_c: float
    yolk_centre_c: EndPeak
    white_c: float
    yolk: str
    white: str
    white_inside: str
    yolk_set: float
    white_set: float
    white_inside_set: float
    green: float
    salmonella_log10: float
    water: WaterDip | None
    face: EggFace
    curves: EggCurves
    spread: list[SpreadOut]
    back_c: float | None = None


class ScrambleAnswer(_Answer):
    """Scrambled eggs: seconds until they come off, hottest temperature, size of the curd, and what stops them."""

    minutes: float
    off_c: float
    peak_c: float
    plate_c: float
    word: str
    curd_mm: float
    curd: str
    film_mm: float
    egg_g: float
    stop: str
    stop_g: float
    stop_drop_k: float
    pan_at_off_c: float
    butter: str
    t_s: list[float]
    egg_c: list[float]
    pan_c: list[float]


class OmeletteAnswer(_Answer):
    """An omelette or an egg left whole: seconds stirred, left and at the turn; its coldest point and its face."""

    minutes: float
    stirred_s: float
    left_s: float
    turn_s: float | None
    film_mm: float
    top_c: float
    coldest_peak_c: float
    mean_peak_c: float
    face_c: float
    browning: str
    butter: str
    word: str
    yolk: str | None
    t_s: list[float]
    coldest_c: list[float]


class EmulsionAnswer(_Answer):
    """A warm sauce: its state, whether its butter holds, its window and limits."""

    state: Literal["thin", "thick", "curdled"]
    ratio_ok: bool
    fat_share: float
    butter_best_g: float | None
    butter_most_g: float | None
    thin_with_g: float
    thickens_c: float
    works_to_c: float
    curdles_c: float
    thick_after_min: float
    curdles_after_min: float
    whisk_min: float
    sauce_g: float
    hold: str
    rescue: str


class CustardAnswer(_Answer):
    """A custard in its bath: when to pull, its middle then and at its peak."""

    minutes: float
    pull_c: float
    peak_c: float
    peak_min: float
    edge_c: float
    bath_c: float
    want_c: float
    low_c: float
    high_c: float
    curdles_c: float
    wobble: str
    runs_share: float
    t_s: list[float]
    middle_c: list[float]


class PourOut(FileModel):
    """A pour of hot cream: grams, and the mix after it, °C."""

    grams: float
    mixed_c: float


class StirredAnswer(_Answer):
    """Tempered yolks, and the resulting stirred custard."""

    pours: list[PourOut]
    most_first_g: float | None
    state: str
    low_c: float
    high_c: float
    curdles_c: float


class PastaAnswer(_Answer):
    """Egg-bound pasta: the mixing temperature, its result, and the right temperature of the pasta."""

    mixed_c: float
    state: Literal["thin", "thick", "curdled"]
    thickens_c: float
    curdles_c: float
    pasta_best_c: float


EggAnswer = ShellAnswer | ScrambleAnswer | OmeletteAnswer | EmulsionAnswer | CustardAnswer | StirredAnswer | PastaAnswer
