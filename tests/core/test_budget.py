"""What one question may cost: steps of the solver and seconds of the processor."""

from __future__ import annotations

import time

import pytest

from ember.errors import BadInput
from ember.evaluate import evaluate
from ember.files.plan import parse_plan
from ember.heat.budget import Budget, TooMuchWork, spend, steps_left, within

from .plans import document

FORTY = [{"kind": "oven", "air_c": 100 + 5 * (i % 20), "until": {"peak_c": 60 + i % 5}} for i in range(39)]


def forty_ovens():
    return parse_plan(document([*FORTY, {"kind": "rest", "minutes": 10}]))


def test_forty_ovens_to_a_peak_are_refused_in_time():
    evaluate(parse_plan(document([{"kind": "oven", "air_c": 160, "until": {"peak_c": 58}}])))  # compiled
    began = time.thread_time()
    with pytest.raises(TooMuchWork, match="too long to calculate"), within(Budget(seconds=2.5)):
        evaluate(forty_ovens())
    assert time.thread_time() - began < 3.0


def test_steps_count_too():
    with pytest.raises(TooMuchWork), within(Budget(steps=50)):
        evaluate(parse_plan(document([{"kind": "oven", "air_c": 160, "minutes": 600}])))


def test_an_ordinary_plan_costs_little():
    with within(Budget()) as budget:
        evaluate(
            parse_plan(
                document([{"kind": "oven", "air_c": 160, "until": {"peak_c": 58}}, {"kind": "rest", "minutes": 20}])
            )
        )
    assert budget.steps > 350_000


def test_without_a_budget_there_is_no_limit():
    spend(10**12)
    assert steps_left(500) == 500


def test_a_budget_inside_another_does_not_give_more():
    with within(Budget(steps=10)) as outer, within(Budget(steps=1000)) as inner:
        assert inner is outer
        with pytest.raises(BadInput):
            spend(11)


def test_heavy_work_is_told_of_once():
    calls = []
    with within(Budget(heavy_s=0.0, on_heavy=lambda: calls.append(1))):
        for _ in range(3):
            spend(1)
    assert calls == [1]
