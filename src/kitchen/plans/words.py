"""What the bench says of a plan: costs of small choices, ways to make it fit, effects of its ovens; a line each."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from ember.files.plan import Plan as CorePlan
from ember.files.result import Result
from ember.files.stages import Oven, Stage
from ember.methods.library import methods
from ember.quantities import Units
from ember.solve.fit import Fit
from ember.solve.oven_shape import Effect
from ember.solve.prices import Price
from kitchen.units.number_text import figure, fixed, minutes_text

from .stage_kinds import STAGE_NAMES

LITTLE_MIN, LITTLE_K = 0.5, 0.1
REST_COVERS = {"open": "open", "foil": "under foil", "wrapped": "wrapped"}
OVEN_COVERS = {
    "cloth": "Buttered cloth", "foil": "Foil tent", "wrapped": "Wrapped in foil", "parcel": "Paper parcel",
    "crust": "Crust", "lid": "Lid",
}  # fmt: skip
OVEN_PLACES = {"tray": "On a tray", "pan": "In its hot pan", "water_bath": "In a water bath"}
MEDIA = {"bath": "Bath", "oven": "Oven", "pan": "Pan"}


@dataclass(frozen=True)
class PriceLine:
    """A choice and its effect."""

    what: str
    does: str


def _degrees(kelvin: float, units: Units, digits: int = 1) -> str:
    return f"{fixed(abs(units.temperature_step(kelvin)), digits)} {units.degree}"


def _time(minutes: float) -> str:
    """ "9 min", "1 h 5 min"."""
    text = minutes_text(max(round(abs(minutes)), 1))
    return text if text[-1].isalpha() else f"{text} min"


def _later(minutes: float | None) -> str:
    if minutes is None or abs(minutes) < LITTLE_MIN:
        return "finish as planned"
    return f"finish {_time(minutes)} {'later' if minutes > 0 else 'sooner'}"


def _peak(kelvin: float | None, units: Units) -> str:
    if kelvin is None or abs(kelvin) < LITTLE_K:
        return "same core"
    return f"core {_degrees(kelvin, units)} {'hotter' if kelvin > 0 else 'colder'}"


# Why plans of before say something else, by the model's last change; docs/science.md says it whole.
LEARNED_LAST = "Ovens, grills and rests under foil have a new model: a fan saves time, and a cool oven is quicker."
CHANGED_SHARE, CHANGED_K = 0.03, 0.7  # of the time to the pull, and of the peak: less is not told


def changed_since(kept: Mapping[str, Any], result: Result, units: Units) -> str:
    """What an unchanged plan says today, beside what it said when it was cooked; empty if that is the same."""
    was, now = kept.get("pull") or {}, result.pull
    before_s, before_c = was.get("s"), (kept.get("core") or {}).get("peak_c")
    if now is None or not before_s or before_c is None:
        return ""
    peak_c = result.core.peak_c
    if abs(now.s - before_s) <= CHANGED_SHARE * before_s and abs(peak_c - before_c) <= CHANGED_K:
        return ""
    times = [_time(seconds / 60.0) for seconds in (now.s, before_s)]
    peaks = [figure(units.temperature_value(c), 1) for c in (peak_c, before_c)]
    return (
        f"Estimated again since it was last cooked: out after {times[0]} (was {times[1]}), peak {peaks[0]} "
        f"{units.degree} (was {peaks[1]}). {LEARNED_LAST}"
    )


def price_lines(plan: CorePlan, prices: Sequence[Price], units: Units) -> list[PriceLine]:
    """A line for each price."""
    return [PriceLine(*_line(plan, price, units)) for price in prices]


def _line(plan: CorePlan, price: Price, units: Units) -> tuple[str, str]:
    match price.choice:
        case "temper":
            return f"{_time(price.amount)} out of the fridge", _temper_words(price, units)
        case "start":
            return f"Start {_degrees(price.amount, units, 0)} warmer", _peak(price.kelvin, units)
        case "baste":
            return "Not basted" if price.after else "Basted in its second half", _peak(price.kelvin, units)
        case "hot-pan":
            where = {"pan": "in its hot pan", "rack": "on a rack"}
            return f"Oven {where[price.after]}, not {where[price.before]}", _peak(price.kelvin, units)
        case "plate":
            plate = figure(units.temperature_value(price.amount), 0)
            return f"Rest on a plate of {plate} {units.degree}", _peak(price.kelvin, units)
        case "fold" | "trim" | "shield":
            long = f"{figure(units.length_value(price.amount), 0 if units.length == 'mm' else 1)} {units.length}"
            done = {"fold": "folded under", "trim": "cut off", "shield": "under foil"}[price.choice]
            return f"Thin end, {long} {done}", _peak(price.kelvin, units).replace("core", "thin end")
        case "rest":
            return f"Rest {REST_COVERS[price.after]}, not {REST_COVERS[price.before]}", _peak(price.kelvin, units)
        case "thicker":
            by = f"{figure(units.length_value(price.amount), 1 if units.length == 'mm' else 2)} {units.length}"
            clock = f"; left at these times {_peak(price.kelvin, units)}"
            same = price.minutes is None or abs(price.minutes) < LITTLE_MIN
            return f"{by} thicker", (_peak(price.kelvin, units) if same else _later(price.minutes) + clock)
        case _:
            kind = plan.stages[price.stage or 0].kind
            return f"{MEDIA[kind]} {_degrees(price.amount, units, 0)} too hot", _peak(price.kelvin, units)


def _temper_words(price: Price, units: Units) -> str:
    """What standing out of the fridge does: "core 3.1 °C warmer to begin with, the heat 2 min shorter"."""
    start_k, minutes = price.start_k or 0.0, price.minutes or 0.0
    warmer = "core starts no warmer"
    if start_k >= LITTLE_K:
        warmer = f"core {_degrees(start_k, units)} warmer to begin with"
    heat = "the heat as long"
    if abs(minutes) >= LITTLE_MIN:
        heat = f"the heat {_time(minutes)} {'longer' if minutes > 0 else 'shorter'}"
    by_clock = "" if abs(price.kelvin or 0.0) < LITTLE_K else f", {_peak(price.kelvin, units)} at the peak"
    return f"{warmer}, {heat}{by_clock}"


@dataclass(frozen=True)
class FitLine:
    """One way to fit: the change, its duration, its result, and the form verb that applies it."""

    what: str
    total_s: float
    fits: bool
    word: str
    peak_c: float
    grey_mm: float
    yield_pct: float
    met: bool
    do: str


def fit_lines(plan: CorePlan, ways: Sequence[Fit], ready_s: float, units: Units) -> list[FitLine]:
    """A line for each way, the plan as it stands first."""
    return [
        FitLine(
            what=_what(plan, way, units), total_s=way.total_s, fits=way.total_s <= ready_s * 1.01,
            word=way.result.doneness.word, peak_c=way.result.core.peak_c, grey_mm=way.result.doneness.grey_band_mm,
            yield_pct=way.result.yield_pct, met=bool(way.result.safety[0].met), do=_do(plan, way, units),
        )
        for way in ways
    ]  # fmt: skip


def _what(plan: CorePlan, way: Fit, units: Units) -> str:
    before, after = way.before or 0.0, way.after or 0.0
    match way.what:
        case "as-it-is":
            return "As planned"
        case "medium":
            name = STAGE_NAMES[plan.stages[way.stage or 0].kind]
            shown = [figure(units.temperature_value(c), 1) for c in (before, after)]
            return f"{name} at {shown[1]} {units.degree}, not {shown[0]}"
        case "temper":
            return "Straight from the fridge"
        case "rest":
            return f"Rest {_time(after)}, not {_time(before)}"
        case "thickness":
            shown = [figure(units.length_value(mm), 0 if units.length == "mm" else 2) for mm in (before, after)]
            return f"Cut it {shown[1]} {units.length} thick, not {shown[0]}"
        case _:
            return methods()[way.method].name


def _do(plan: CorePlan, way: Fit, units: Units) -> str:
    after = way.after or 0.0
    match way.what:
        case "medium":
            key = "water_c" if plan.stages[way.stage or 0].kind == "bath" else "air_c"
            return f"take:{way.stage}:{key}:{units.temperature_value(after):.1f}"
        case "temper":
            return "remove:0"
        case "rest":
            return f"take:{way.stage}:minutes:{after:g}"
        case "thickness":
            return f"size:{figure(units.length_value(after), 1 if units.length == 'mm' else 3)}"
        case "method":
            return f"method:{way.method}"
        case _:
            return ""


def oven_lines(stages: Sequence[Stage], effects: Sequence[Effect], units: Units) -> list[str]:
    """One line for each effect: "Foil: 31 min longer than open"."""
    lines = []
    for effect in effects:
        stage = stages[effect.stage]
        if isinstance(stage, Oven):
            what, plain = _choice_and_plain(stage, effect.choice, units)
            lines.append(f"{what}: {_did(effect, units)} than {plain}.")
    return lines


def _did(effect: Effect, units: Units) -> str:
    if effect.minutes is not None:
        return f"{_rounded(abs(effect.minutes))} {'longer' if effect.minutes > 0 else 'quicker'}"
    kelvin = effect.kelvin or 0.0
    size = fixed(abs(units.temperature_step(kelvin)), 1)
    return f"the core comes out {size} {units.degree} {'hotter' if kelvin > 0 else 'colder'}"


def _rounded(minutes: float) -> str:
    text = minutes_text(max(round(minutes), 1))
    return text if "h" in text else f"{text} min"


def _choice_and_plain(stage: Oven, choice: str, units: Units) -> tuple[str, str]:
    """The choice, and what it is compared with."""
    match choice:
        case "humidity":
            return f"Humidity {figure(100 * (stage.humid_share or 0.0), 0)} %", "with the oven's own vapour"
        case "water_tray":
            return "Water tray", "without"
        case "cover":
            return OVEN_COVERS[stage.cover], "open"
        case "door":
            doing = "Basted" if stage.baste_every_min is not None else "Door opened"
            return f"{doing} every {figure(stage.door_every_min or 0.0, 0)} min", "with the door kept shut"
        case "in":
            return OVEN_PLACES[stage.where], "on a rack"
        case "offset":
            runs = "hot" if stage.offset_k > 0 else "cool"
            by = figure(abs(units.temperature_step(stage.offset_k)), 0)
            return f"Oven runs {by} {units.degree} {runs}", "one that is true"
        case _:
            return {"fan": "Fan", "combi": "Combi air", "smoker": "Smoker"}[choice], "still air"
