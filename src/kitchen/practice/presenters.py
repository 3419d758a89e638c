"""Practice on its pages: advice in words, and the picture of a finished drill."""

from __future__ import annotations

import json
from collections.abc import Sequence
from functools import lru_cache
from typing import Any

from ember.errors import EmberError
from ember.evaluate import evaluate
from ember.files.plan import parse_plan
from ember.files.result import Result
from ember.food.catalogue import cut
from ember.practice.calls import FEW, NEAR_K, Advice
from ember.quantities import Units
from kitchen.drawings.drill_chart import drill_chart
from kitchen.drawings.plan_chart import time_columns
from kitchen.plans.pictures import face_of
from kitchen.units.number_text import figure, fixed

from .models import Call
from .words import SHORT

NAMES = dict(Call.Sense.choices)


def cut_name(key: str) -> str:
    """The name of a cut."""
    try:
        return cut(key).name
    except EmberError:
        return key


def advice_words(advices: Sequence[Advice], units: Units) -> list[tuple[str, str]]:
    """(advice, reason) of each."""
    lines = []
    for advice in advices:
        if advice.kind == "few":
            lines.append(("Make more calls.", f"Under {FEW} calls with one sense, nothing can be said about it."))
            continue
        name = SHORT[advice.sense]
        if advice.kind == "trust":
            near = figure(units.temperature_step(NEAR_K), 1)
            why = f"{100 * advice.near:.0f} of 100 calls land within {near} {units.degree} of the probe."
            lines.append((f"Trust {name}.", why))
        else:
            by = fixed(units.temperature_step(advice.by_k), 1)
            too = "high" if advice.kind == "lower" else "low"
            lines.append((f"{name.capitalize()}: call {by}° {advice.kind}.", f"You call it too {too}."))
    return lines


@lru_cache(maxsize=32)
def _result(text: str) -> Result:
    return evaluate(parse_plan(_loaded(text)))


def _loaded(text: str) -> dict[str, Any]:
    return dict(json.loads(text))


def drill_picture(outcome: dict[str, Any], moves: Sequence[tuple[str, float]], units: Units) -> dict[str, Any]:
    """The drawings of a finished pan drill."""
    text = json.dumps(outcome["document"], sort_keys=True)
    core, result = parse_plan(outcome["document"]), _result(text)
    chart = drill_chart(
        result.curves.t_s, [units.temperature_value(c) for c in result.curves.core_c],
        (units.temperature_value(outcome["low_c"]), units.temperature_value(outcome["high_c"])), moves,
    )  # fmt: skip
    return {
        "chart": chart,
        "face": face_of(core, cut(core.piece.cut), result, time_columns(result, core.stages, 400.0)),
    }
