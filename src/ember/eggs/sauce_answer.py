"""Warm sauces, custards and egg-bound pasta: the answers."""

from __future__ import annotations

import math

import numpy as np

from ..files.actions import Action
from ..files.base import StepOut
from ..files.egg import CustardRequest, EmulsionRequest, PastaRequest, StirredRequest
from ..files.egg_result import CustardAnswer, EmulsionAnswer, PastaAnswer, PourOut, StirredAnswer
from ..heat.grid import FloatArray
from ..steps import Span, Steps
from .custard import bake, bath_in_oven_c, make_dish, row_of
from .emulsion import (
    bowl_mm,
    fat_share,
    minutes_to_thick,
    most_butter_g,
    state_of,
    water_to_thin_g,
    window_of,
)
from .mixing import most_first_pour_g, pasta_c, pasta_for, pasta_state, pours_c, stirred_state
from .rules import cautions_of, cooked, goes_out, held
from .sauce_data import sauce_data
from .steps import CHECKS

BASE_START_C = 25.0
CREAM_G_L = 1010.0
TORCH_S = 40.0
PASTA_S = 60.0
COOLS_K_MIN = 8.0  # drained pasta, tossed; common practice


def _ramp(start_c: float, minutes: float, to_c: float, there_min: float) -> tuple[FloatArray, FloatArray]:
    """A linear ramp to a temperature, held for a time, then off."""
    t = 60.0 * np.array([0.0, minutes, minutes + there_min, minutes + there_min + 0.2])
    return t, np.array([start_c, to_c, to_c, to_c - 3.0])


def answer_emulsion(request: EmulsionRequest) -> EmulsionAnswer:
    """State, butter, window and rules of a warm sauce."""
    yolk, school = sauce_data().yolk, sauce_data().schools[request.school]
    liquid, fat = request.liquid_g, (request.butter_g, request.clarified)
    state = state_of(request.yolks_g, liquid, request.acid, request.sugar_g, request.yolk_c, request.minutes)
    window = window_of(request.yolks_g, liquid, request.acid, request.sugar_g, request.yolk_c)
    phi = fat_share(request.yolks_g, liquid, *fat)
    base_g = request.yolks_g + liquid + request.sugar_g
    whisk = minutes_to_thick(base_g, BASE_START_C, request.yolk_c, request.school, bowl_mm(base_g))
    rules = [cooked(request, True, *_ramp(BASE_START_C, whisk, request.yolk_c, request.minutes))]
    hold_c = request.hold_c if request.hold_c is not None else 0.0
    for phase in ("hold-hot", "time-control"):
        holding = held(request, phase, hold_c, request.hold_minutes) if request.hold_c is not None else None
        if holding is not None:
            rules.append(holding)
    best, most = (most_butter_g(request.yolks_g, liquid, request.clarified, p) for p in (yolk.phi_best, yolk.phi_most))
    return EmulsionAnswer(
        method="emulsion", rules=rules, goes_out=goes_out(request, rules),
        cautions=cautions_of(request, rules, "pooled"), steps=_sauce_steps(request, school.steps, whisk),
        warnings=_sauce_warnings(request, state, phi, hold_c), state=state, ratio_ok=phi <= yolk.phi_most,
        fat_share=round(phi, 3), butter_best_g=_finite(best), butter_most_g=_finite(most),
        thin_with_g=round(water_to_thin_g(request.yolks_g, liquid, *fat), 0), thickens_c=window.thickens_c,
        works_to_c=round(window.works_to_c, 1), curdles_c=round(window.curdles_c, 1),
        thick_after_min=round(min(window.thick_after_min, 999.0), 2),
        curdles_after_min=round(min(window.curdles_after_min, 999.0), 1), whisk_min=round(whisk, 1),
        sauce_g=round(base_g + request.butter_g, 0), hold=_hold_words(request, hold_c),
        rescue=_rescue(state, phi),
    )  # fmt: skip


def _finite(grams: float) -> float | None:
    return round(grams, 0) if math.isfinite(grams) else None


def _rescue(state: str, phi: float) -> str:
    texts, yolk = sauce_data().rescue, sauce_data().yolk
    if state == "curdled":
        return texts["curdled"]
    if phi > yolk.phi_best:
        return texts["thick"]
    return texts["thin"] if state == "thin" else texts["broken_cold"]


def _hold_words(request: EmulsionRequest, hold_c: float) -> str:
    yolk = sauce_data().yolk
    if request.hold_c is None:
        return f"Serve at once, or hold at {yolk.hold_c[0]:.0f} to {yolk.hold_c[1]:.0f} °C for its look."
    if hold_c < yolk.breaks_cold_c:
        return f"Under {yolk.breaks_cold_c:.0f} °C the butter sets and it breaks."
    window = window_of(request.yolks_g, request.liquid_g, request.acid, request.sugar_g, hold_c)
    if window.curdles_after_min < request.hold_minutes:
        return f"It grains after {window.curdles_after_min:.0f} min at {hold_c:g} °C."
    thickens = " It thickens as it stands: a spoon of warm water." if hold_c >= yolk.thickens_c else ""
    return f"It holds its look for {request.hold_minutes:.0f} min at {hold_c:g} °C.{thickens}"


def _sauce_warnings(request: EmulsionRequest, state: str, phi: float, hold_c: float) -> list[str]:
    yolk = sauce_data().yolk
    warnings = []
    if state == "curdled":
        warnings.append("It curdles at this temperature.")
    if phi > yolk.phi_most:
        warnings.append("That is more butter than these yolks can hold: it will break.")
    elif phi > yolk.phi_best + 5e-3:
        warnings.append("Close to the butter limit: thin with warm water as you go.")
    if 0.0 < hold_c < yolk.breaks_cold_c and request.butter_g > 0:
        warnings.append("Too cold to hold: the butter sets.")
    if request.school == "cold-cubes" and request.clarified:
        warnings.append("Cold cubes are whole butter: their water is counted once you say so.")
    return warnings


def _sauce_steps(request: EmulsionRequest, texts: tuple[str, ...], whisk_min: float) -> list[StepOut]:
    steps = Steps()
    seconds = [0.0, 30.0, 60.0 * whisk_min, 60.0 * max(request.minutes, 0.5), 0.6 * request.butter_g, 30.0]
    before: int | None = None
    spans: list[Span] = ["", "begin", "", "end", "", ""]  # from the whisk on the heat to the yolks thick
    for text, after, span in zip(texts, seconds, spans, strict=False):
        verb, _, rest = text.partition(" ")
        looked = CHECKS["sauce"] if "thick" in text or "off" in text else ()
        before = steps.add(Action.METHOD, rest, "", before, after if before is not None else 0.0, checks=looked,
                           span=span, verb=verb.capitalize())  # fmt: skip
    return steps.in_order()


def answer_custard(request: CustardRequest) -> CustardAnswer:
    """When to pull a custard so that its middle sets. Raises NeverReached and BadInput."""
    custard = row_of(request.custard, request.yolk_pct, request.sugar_pct)
    want = request.target_c if request.target_c is not None else custard.set_c
    bath = request.bath_c if request.bath_c is not None else bath_in_oven_c(request.oven_c, request.cover)
    h = sauce_data().bath.water_h
    diameter, depth = request.ramekin_mm
    dish = make_dish(diameter, depth, request.water_level, h)
    made = bake(dish, request.start_c, bath, h, want, request.after)
    rules = [cooked(request, True, made.t_s, made.middle_c)]
    steps = Steps()
    water = f"water at {min(bath, 80.0):.0f} °C to {100 * request.water_level:.0f} % of the dishes' height"
    load = steps.add(Action.LOAD, "the tray", f"{water}, poured in at the oven", span="begin")
    pull = steps.add(Action.PULL, "the tray", "edge set, middle trembles", load, 60.0 * made.minutes,
                     checks=CHECKS["custard"], span="end")  # fmt: skip
    where = {"lifted": "out of the water", "in-bath": "leave them in their water", "ice": "into ice water",
             "fridge": "out of the water, into the fridge"}[request.after]  # fmt: skip
    lifted = Action.LIFT_INTO_ICE if request.after == "ice" else Action.LIFT
    lift = steps.add(lifted, "the dishes", where, pull, 30.0)
    if request.custard == "cream":
        steps.add(
            Action.CARAMELISE,
            "a thin even layer of sugar",
            f"torch {TORCH_S:.0f} s, cold dishes only",
            lift,
            4 * 3600.0,
        )
    return CustardAnswer(
        method="custard", rules=rules, goes_out=goes_out(request, rules),
        cautions=cautions_of(request, rules, "bath_tray", *(["torch"] if request.custard == "cream" else [])),
        steps=steps.in_order(), warnings=_custard_warnings(made.edge_c, custard.curdles_c, bath),
        minutes=round(made.minutes, 2),
        pull_c=round(made.pull_c, 2), peak_c=round(made.peak_c, 2), peak_min=round(made.peak_min, 1),
        edge_c=round(made.edge_c, 1), bath_c=round(bath, 1), want_c=round(want, 1), low_c=round(custard.low_c, 1),
        high_c=round(custard.high_c, 1), curdles_c=round(custard.curdles_c, 1),
        wobble=_wobble(made.runs_share, diameter),
        runs_share=round(made.runs_share, 3), t_s=[round(float(v), 1) for v in made.t_s],
        middle_c=[round(float(v), 2) for v in made.middle_c],
    )  # fmt: skip


def _wobble(share: float, diameter_mm: float) -> str:
    if share <= 0.05:
        return "set to the middle, trembles as one"
    return f"a middle of {10 * round(share * diameter_mm / 10):.0f} mm still runs: it sets on the way down"


def _custard_warnings(edge_c: float, curdles_c: float, bath_c: float) -> list[str]:
    warnings = []
    if edge_c > curdles_c:
        warnings.append(
            f"Its edge comes to {edge_c:.0f} °C: it weeps there. Use a cooler bath, or put a cloth under the dishes."
        )
    if bath_c > 90.0:
        warnings.append("A bath above 90 °C leaves a narrow window: pull on the minute.")
    return warnings


def answer_stirred(request: StirredRequest) -> StirredAnswer:
    """What each pour of hot cream does to the yolks, and the resulting custard."""
    stirred = sauce_data().stirred
    pours = pours_c(
        request.yolks_g, request.sugar_g, request.yolk_start_c, request.cream_g, request.cream_c, request.pours
    )
    state = stirred_state(request.to_c, request.minutes_there, request.starch_g, request.cream_g / CREAM_G_L)
    rules = [cooked(request, True, *_ramp(pours[-1][1], 4.0, request.to_c, request.minutes_there))]
    most = most_first_pour_g(request.yolks_g, request.sugar_g, request.yolk_start_c, request.cream_c)
    steps = Steps()
    before: int | None = None
    for i, (grams, celsius) in enumerate(pours):
        before = steps.add(Action.POUR, f"{grams:.0f} g of cream", f"whisk; the mix comes to {celsius:.0f} °C", before,
                           0.0 if i == 0 else 15.0)  # fmt: skip
    heat = steps.add(Action.STIR, "on low heat", f"to {request.to_c:g} °C", before, 20.0, span="begin")
    steps.add(
        Action.STRAIN, "through a strainer, onto ice", "stir till under 60", heat, 240.0, checks=CHECKS["stirred"],
        span="end",
    )  # fmt: skip
    warnings = ["It curdles: with 15 g of starch a litre it may boil."] if state == "curdled" else []
    if pours[0][1] > stirred.shock_c:
        warnings.append("The first pour takes the yolks past where they set: pour less at once.")
    return StirredAnswer(
        method="stirred", rules=rules, goes_out=goes_out(request, rules),
        cautions=cautions_of(request, rules, "pooled", "hot_cream"), steps=steps.in_order(), warnings=warnings,
        pours=[PourOut(grams=round(grams, 0), mixed_c=round(celsius, 1)) for grams, celsius in pours],
        most_first_g=_finite(most), state=state, low_c=stirred.nappe_c[0], high_c=stirred.nappe_c[1],
        curdles_c=stirred.curdles_c,
    )  # fmt: skip


def answer_pasta(request: PastaRequest) -> PastaAnswer:
    """The mixing temperature of egg-bound pasta, and its result."""
    pasta = sauce_data().pasta
    yolks = request.egg_g * request.yolk_share
    parts = {
        "pasta": (request.pasta_g, request.pasta_c), "fat": (request.fat_g, request.fat_c),
        "egg": (request.egg_g - yolks, request.egg_c), "yolk": (yolks, request.egg_c),
        "cheese": (request.cheese_g, request.egg_c), "water": (request.water_g, request.water_c),
    }  # fmt: skip
    mixed = pasta_c(parts, request.bowl_j_k, request.bowl_c)
    curdles = pasta.curdles_c + (pasta.starch_lifts_k if request.starch_water else 0.0)
    best = pasta_for(parts, 0.5 * (pasta.thickens_c + pasta.curdles_c), request.bowl_j_k, request.bowl_c)
    course = np.array([0.0, 1.0, PASTA_S]), np.array([request.egg_c, mixed, mixed - 4.0])
    rules = [cooked(request, True, *course, "stuffed" if request.bound == "stuffing" else "")]
    steps = _pasta_steps(request, best)
    state = pasta_state(mixed, request.starch_water)
    warnings = {"thin": [f"It stays thin at {mixed:.0f} °C. Use hotter pasta, or hold it a moment over the steam."],
                "curdled": [f"It scrambles at {mixed:.0f} °C: let the pasta fall to {best:.0f} °C first."]}  # fmt: skip
    return PastaAnswer(
        method="pasta", rules=rules, goes_out=goes_out(request, rules), cautions=cautions_of(request, rules, "pooled"),
        steps=steps, warnings=warnings.get(state, []), mixed_c=round(mixed, 1), state=state,
        thickens_c=pasta.thickens_c, curdles_c=curdles, pasta_best_c=round(best, 1),
    )  # fmt: skip


def _pasta_steps(request: PastaRequest, best_c: float) -> list[StepOut]:
    steps = Steps()
    cooling = 60.0 * max(request.pasta_c - best_c, 0.0) / COOLS_K_MIN
    if request.bound == "stuffing":
        wait = steps.add(Action.LET_COOL, "the stuffing", f"to {best_c:.0f} °C")
        stir = steps.add(Action.STIR_IN, "the egg", "fast, off the heat", wait, cooling, checks=["coats, no grain"])
        steps.add(Action.COOK, "what it fills", "to the rule for stuffed food", stir, 60.0)
        return steps.in_order()
    drain = steps.add(Action.DRAIN, "the pasta", "keep a ladle of its water")
    wait = steps.add(Action.WAIT, f"until the pasta is at {best_c:.0f} °C", "off the heat", drain, cooling)
    steps.add(
        Action.STIR_IN, "egg, cheese and fat", "fast, off the heat; water by the spoon", wait, 5.0,
        checks=["coats, no grain"],
    )  # fmt: skip
    return steps.in_order()
