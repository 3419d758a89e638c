"""Steps of a plan and where a cook stands in them."""

from __future__ import annotations

import pytest

from ember.evaluate import evaluate
from ember.track.progress import progress
from ember.track.steps import steps_of

from .plans import plan

STAGES = [
    {"kind": "temper", "minutes": 10},
    {"kind": "bath", "water_c": 57, "until": {"core_c": 52}},
    {"kind": "pan", "pan_c": 225, "seconds_a_side": 40, "sides": 3},
    {"kind": "rest", "minutes": 5},
]


@pytest.fixture(scope="module")
def cooked():
    recipe = plan(STAGES)
    result = evaluate(recipe)
    return steps_of(recipe, result.stages), result


def test_every_hand_is_there_in_order(cooked):
    steps, result = cooked
    assert [s.verb for s in steps] == ["Temper", "Drop", "Pull", "Turn", "Turn", "Rest", "Check"]
    assert [s.number for s in steps] == list(range(7))
    assert sorted(s.at_s for s in steps) == [s.at_s for s in steps]
    pull = steps[2]
    assert pull.reading_c == result.stages[1].reading_c
    assert (pull.from_place, pull.to_place, pull.to_c) == ("bath", "pan", 225)


def test_without_readings_time_alone_decides(cooked):
    steps, result = cooked
    now = progress(steps, result.curves, {0: 0.0}, 120.0, None)
    assert now.next.verb == "Drop"
    assert now.due_s == pytest.approx(600)
    assert not now.measured
    assert now.late_s(700) == pytest.approx(100)


def test_a_late_drop_moves_the_pull(cooked):
    steps, result = cooked
    on_time = progress(steps, result.curves, {0: 0.0, 1: 600.0}, 700.0, None)
    late = progress(steps, result.curves, {0: 0.0, 1: 900.0}, 1000.0, None)
    assert late.due_s - on_time.due_s == pytest.approx(300)


def test_a_cooler_reading_puts_the_pull_later(cooked):
    steps, result = cooked
    bath = result.stages[1]
    half = 600 + (bath.end_s - bath.start_s) * 0.4
    planned = progress(steps, result.curves, {0: 0.0, 1: 600.0}, half, None)
    cool = progress(steps, result.curves, {0: 0.0, 1: 600.0}, half, (half, planned.reading_c - 4))
    warm = progress(steps, result.curves, {0: 0.0, 1: 600.0}, half, (half, planned.reading_c + 4))
    same = progress(steps, result.curves, {0: 0.0, 1: 600.0}, half, (half, planned.reading_c))
    assert cool.due_s > planned.due_s > warm.due_s
    assert same.due_s == pytest.approx(planned.due_s, abs=5)
    assert cool.measured


def test_reaching_the_reading_is_due_at_once(cooked):
    steps, result = cooked
    now = progress(steps, result.curves, {0: 0.0, 1: 600.0}, 1500.0, (1490.0, steps[2].reading_c + 0.3))
    assert now.reached
    assert now.due_s == pytest.approx(1490.0)


def test_time_up_but_not_there_waits_for_the_reading(cooked):
    steps, result = cooked
    long_after = result.stages[1].end_s + 1200
    now = progress(steps, result.curves, {0: 0.0, 1: 600.0}, long_after, (long_after - 5, steps[2].reading_c - 6))
    assert not now.reached
    assert now.due_s >= long_after


def test_a_reading_from_before_the_stage_does_not_count(cooked):
    steps, result = cooked
    now = progress(steps, result.curves, {0: 0.0, 1: 600.0}, 620.0, (500.0, 51.0))
    assert not now.measured
    assert not now.reached


def test_after_the_last_step_nothing_is_next(cooked):
    steps, result = cooked
    done = {s.number: s.at_s for s in steps}
    now = progress(steps, result.curves, done, result.stages[-1].end_s + 60, None)
    assert now.next is None
    assert now.late_s(1e6) == 0.0
