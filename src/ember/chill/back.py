"""Reheating chilled food: out of the medium early enough that carryover stays below the first core."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from ..errors import BadInput
from ..files.actions import Action
from ..files.base import StepOut
from ..files.chill import BackIn, BackOut, ChillRequest
from ..files.plan import Plan
from ..files.result import SafetyOut
from ..files.stages import Reheat, Rest, Stage, Until
from ..heat.media import hottest_c
from ..heat.simulate import simulate
from ..heat.trajectory import Trajectory
from ..judge.phases import judge_phase
from ..judge.record import TemperatureRecord
from ..judge.standards import Standard
from ..report.outcome import safety_out
from ..steps import Steps
from .cold import SAMPLES, plan_for, words

WARM_UP_S = 600.0  # a bath or an oven comes to its heat; common practice
REST_S = 300.0
PLACES = {"bath": "the bath", "oven": "the oven", "sauce": "the sauce", "steam": "the steamer"}


def back_steps(back: BackIn, setting_c: float, minutes: float, reading_c: float, needs: str) -> list[StepOut]:
    """Steps: set, read the label, lay in, lift, rest or read. `needs`: requirement of the reheating rule, if one
    applies.
    """
    steps = Steps()
    place = PLACES[back.where]
    ready = steps.add(Action.SET, f"{place} to {setting_c:.0f} °C", "read it with a probe")
    lay = steps.add(
        Action.LAY_IN,
        "from the cold",
        "",
        ready,
        WARM_UP_S,
        checks=["its last day", "bag whole, no smell"],
        span="begin",
    )
    lift = steps.add(
        Action.LIFT, f"at {reading_c:.1f} °C", "read the thickest, middle", lay, 60.0 * minutes, checks=["probe"],
        span="end",
    )  # fmt: skip
    if back.then == "held":
        steps.add(Action.HOLD, "hot", needs, lift, 60.0)
    else:
        steps.add(Action.SERVE, "at once", "", lift, REST_S)
    return steps.in_order()


UNDER_FIRST_K = 1.0  # as near the first core as is asked for when nothing else is
UNDER_MEDIUM_K = 0.5  # nearer the medium than this nobody waits
HOT_THROUGH_K = 2.0  # where nothing is asked for: hot through, not waiting for the last degrees
NEAR_MEDIUM_K = 3.0  # carryover from so little heat is nothing
REST_MIN = 5.0
MEDIUM_KEY = {"bath": "water_c", "sauce": "water_c", "oven": "air_c"}
NEAR_K = 0.05


def back_of(request: ChillRequest, back: BackIn, rules: Standard) -> BackOut:
    """Minutes, pull and peak of reheating single pieces from storage temperature.

    Raises BadInput at `back.to_c` if the medium is not hot enough.
    """
    first = request.piece.start_c if request.first_c is None else request.first_c
    stage = _stage(back, request.bagged)
    hottest = hottest_c(stage)
    to_c = min(first - UNDER_FIRST_K, hottest - HOT_THROUGH_K) if back.to_c is None else back.to_c
    if to_c > hottest - UNDER_MEDIUM_K + NEAR_K:
        raise BadInput(f"The middle cannot get to {to_c:g} °C in {hottest:g} °C: warmer, or ask for less.", "back.to_c")
    if to_c <= request.kept_c:
        raise BadInput(f"It is kept at {request.kept_c:g} °C: reheat it to more than that.", "back.to_c")
    plan = _plan(request, stage, to_c, straight=back.then == "held")
    trajectory = simulate(plan)
    run = trajectory.stages[0]
    peak, _ = trajectory.peak()
    minutes, reading_c = round(run.end_s / 60.0, 2), round(float(trajectory.reading_c(run.end_s)[0]), 1)
    rule = _rule(rules, back, trajectory)
    return BackOut(
        minutes=minutes,
        pull_reading_c=reading_c,
        peak_c=round(peak, 2),
        end_c=round(float(trajectory.core_c[-1]), 2),
        passes_first=peak > first + NEAR_K,
        latest_min=_latest(request, back, first, hottest),
        rule=rule,
        words=_said(first, peak, back),
        steps=back_steps(back, hottest, minutes, reading_c, rule.text if rule else ""),
    )


def _stage(back: BackIn, bagged: bool) -> Reheat:
    given = {} if back.medium_c is None else {MEDIUM_KEY.get(back.where, ""): back.medium_c}
    if "" in given:
        raise BadInput("Steam is always at boiling point: give no temperature.", "back.medium_c")
    try:
        return Reheat.model_validate({"kind": "reheat", "in": back.where, "minutes": 1, "bagged": bagged, **given})
    except ValueError:
        raise BadInput(f"{back.medium_c:g} °C is too hot for it: water stays under 100.", "back.medium_c") from None


def _plan(request: ChillRequest, stage: Reheat, core_c: float, straight: bool = False) -> Plan:
    """Out early enough that the middle peaks at the target. `straight`, for a rule that wants every point hot at once,
    and near the medium's temperature: in until the middle reaches it.
    """
    straight = straight or hottest_c(stage) - core_c < NEAR_MEDIUM_K
    until = Until(core_c=core_c) if straight else Until(peak_c=core_c)
    going = stage.model_copy(update={"minutes": None, "until": until})
    stages: list[Stage] = [going, Rest(minutes=REST_MIN)]
    return plan_for(request, request.piece.model_copy(update={"start_c": max(request.kept_c, -1.0)}), stages)


def _latest(request: ChillRequest, back: BackIn, first: float, hottest: float) -> float | None:
    """Minutes after which the middle would pass the first core; None if the medium cannot reach it."""
    if hottest - UNDER_MEDIUM_K <= first:
        return None
    stage = _stage(back, request.bagged)
    return round(simulate(_plan(request, stage, first)).stages[0].end_s / 60.0, 2)


def _rule(rules: Standard, back: BackIn, trajectory: Trajectory) -> SafetyOut | None:
    """The reheating rule, if the food goes to hot holding; for immediate service the first cooking stands."""
    if back.then == "served" or "reheat" not in rules.phases:
        return None
    t = np.linspace(0.0, trajectory.end_s, SAMPLES)
    verdict = judge_phase(rules, "reheat", TemperatureRecord(t, trajectory.profile(t).min(axis=1)))
    return safety_out(rules, replace(verdict, needs_probe=True))


def rule_as_done(request: ChillRequest, rules: Standard, heated_s: float) -> SafetyOut | None:
    """The reheating rule by the actual seconds of heating; None if none applies.

    Raises BadInput for a request without reheating.
    """
    if request.back is None:
        raise BadInput("No reheating method was given.", "back")
    stage = _stage(request.back, request.bagged).model_copy(update={"minutes": max(heated_s, 1.0) / 60.0})
    piece = request.piece.model_copy(update={"start_c": max(request.kept_c, -1.0)})
    return _rule(rules, request.back, simulate(plan_for(request, piece, [stage, Rest(minutes=REST_MIN)])))


def _said(first: float, peak: float, back: BackIn) -> str:
    texts = words()["back"]
    key = "over" if peak > first + NEAR_K else "under"
    message = str(texts[key]).format(first=first, by=peak - first)
    return f"{message} {texts['held']}" if back.then == "held" else message
