"""Eggs judged by the standards: served at once or pooled, pasteurised in shell, held; and whether they may be
served.
"""

from __future__ import annotations

import tomllib
from collections.abc import Sequence
from functools import cache
from importlib import resources
from typing import Any

import numpy as np

from ..files.egg import EggRequest
from ..files.egg_result import GoesOut
from ..files.result import SafetyOut
from ..heat.grid import FloatArray
from ..judge.phases import PhaseFood, judge_phase
from ..judge.record import TemperatureRecord, cut_off
from ..judge.standards import Rule, standard
from ..judge.states import State
from ..judge.verdict import MOST_LOGS, JudgedFood, Verdict, judge
from ..report.outcome import safety_out


@cache
def texts() -> dict[str, Any]:
    """The rows of rules.toml."""
    return tomllib.loads(resources.files(__package__).joinpath("data/rules.toml").read_text("utf-8"))


def cooked(
    request: EggRequest, pooled: bool, time_s: FloatArray, coldest_c: FloatArray, category: str = ""
) -> SafetyOut:
    """The standard's rule for eggs served at once, or pooled or held (or of another category), at the coldest point."""
    rules = standard(request.standard)
    category = category or ("egg-pooled" if pooled else "egg-served")
    food = JudgedFood(
        category, susceptible=request.guests == "susceptible", advisory=request.advisory, house=request.house
    )
    curve = np.asarray(time_s, dtype=float), np.asarray(coldest_c, dtype=float)
    if request.heated_s is not None:
        curve = cut_off(curve, request.heated_s)
    record = TemperatureRecord(*curve)
    verdict = judge(rules, food, record)
    return safety_out(rules, verdict)


def in_shell(request: EggRequest, log10: float) -> SafetyOut:
    """Log reduction of salmonella in the middle of a shell egg against the definition of in-shell pasteurised."""
    texts_in_shell = texts()["in_shell"]
    rule = Rule(
        id=texts_in_shell["id"],
        section=texts_in_shell["section"],
        text=texts_in_shell["text"],
        kind="table",
        points=(),
        log10=texts_in_shell["log10"],
        unit="C",
    )
    margin = min(log10, MOST_LOGS + texts_in_shell["log10"] + 1.0) - texts_in_shell["log10"]
    needed, reached = {"log10": texts_in_shell["log10"]}, {"log10": round(log10, 2)}
    verdict = Verdict(rule, State.of(margin >= 0.0), margin, "log10", needed, reached, (texts_in_shell["caution"],))
    return safety_out(standard(request.standard), verdict)


def held(request: EggRequest, phase: str, celsius: float, minutes: float) -> SafetyOut | None:
    """A sauce held at a temperature, judged by the standard's holding rule; None if it has none."""
    rules = standard(request.standard)
    if phase not in rules.phases or minutes <= 0:
        return None
    t = np.linspace(0.0, 60.0 * minutes, 40)
    record = TemperatureRecord(t, np.full(len(t), celsius))
    verdict = judge_phase(rules, phase, record, PhaseFood(house=request.house))
    return safety_out(rules, verdict)


def goes_out(request: EggRequest, rules: Sequence[SafetyOut]) -> GoesOut:
    """Whether it may be served: the first rule met, by advisory, by pasteurised egg, or not."""
    if rules[0].met:
        return "met"
    if request.pasteurised:
        return "pasteurised"
    if request.guests == "susceptible" or not rules[0].advisory_allowed:
        return "no"
    return "advisory"


def cautions_of(request: EggRequest, rules: Sequence[SafetyOut], *keys: str) -> list[str]:
    """Cautions for these eggs: by verdict, guests, method, and general ones."""
    texts_by_risk = texts()["cautions"]
    cautions: list[str] = []
    if request.guests == "susceptible":
        cautions.append(texts_by_risk["susceptible"])
    if request.pasteurised:
        cautions.append(texts_by_risk["pasteurised"])
    elif not rules[0].met:
        cautions.append(texts_by_risk["runny"])
    cautions += [texts_by_risk[key] for key in keys]
    for rule in rules:
        cautions += rule.cautions
    return list(dict.fromkeys([*cautions, *texts_by_risk["always"]]))
