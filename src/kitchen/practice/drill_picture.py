"""What a finished drill shows: the curve with what was done, and the cut face."""

from __future__ import annotations

import json
from collections.abc import Sequence
from functools import lru_cache
from typing import Any

from ember.evaluate import evaluate
from ember.files.plan import parse_plan
from ember.files.result import Result
from ember.food.catalogue import cut
from ember.quantities import Units
from kitchen.drawings.drill_chart import drill_chart
from kitchen.drawings.plan_chart import time_columns
from kitchen.plans.pictures import face_of


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
