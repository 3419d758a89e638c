"""Small parts of the drawings, held against the plain way to work them out."""

from __future__ import annotations

import re

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from ember.evaluate import evaluate
from kitchen.drawings.axis import between, path
from kitchen.drawings.cut_face import Section, cut_face, moments
from kitchen.drawings.forecast_chart import forecast_chart
from kitchen.drawings.lane_chart import Fan, LaneSize, lane_chart
from kitchen.drawings.meat import flesh_of, words_by_heat
from kitchen.drawings.pan_drawing import CHART_HIGH_PX, CHART_PX, pan_chart
from kitchen.drawings.plan_chart import plan_chart, time_columns

from .plans import plan

CHAIN = [
    {"kind": "bath", "water_c": 57, "until": {"core_c": 52}},
    {"kind": "pan", "pan_c": 225, "seconds_a_side": 40, "sides": 2},
    {"kind": "rest", "minutes": 6},
]


@pytest.fixture(scope="module")
def drawn():
    recipe = plan(CHAIN, depth_map=True)
    return recipe, evaluate(recipe)


@given(
    known=st.lists(st.floats(0, 100), min_size=2, max_size=12, unique=True).map(sorted),
    at=st.lists(st.floats(-20, 120), min_size=1, max_size=8),
    seed=st.integers(0, 99),
)
def test_many_rows_at_once_are_as_each_by_itself(known, at, seed):
    x = np.array(known) + 1e-3 * np.arange(len(known))  # apart, so that a place between them is one place
    values = np.random.default_rng(seed).normal(size=(3, len(x)))
    found = between(np.array(at), x, values)
    for row, wanted in zip(found, values, strict=True):
        assert row == pytest.approx(np.interp(at, x, wanted), abs=1e-6)


def test_a_path_has_one_decimal_and_nothing_for_nothing():
    assert path(np.array([0.0, 1.26]), np.array([2.0, -3.04])) == "M0.0 2.0L1.3 -3.0"
    assert path(np.array([]), np.array([])) == ""


def test_ticks_and_grid_are_drawn_where_they_stand(drawn):
    recipe, result = drawn
    chart = plan_chart(result, recipe.stages, 700.0)
    for column in chart.columns:
        assert column.tick_path.count("M") == len(column.ticks)
        assert column.tick_path.startswith(f"M{column.x:.1f} ")
    quiet, strong = chart.grid
    assert quiet.count("H") + strong.count("H") == len(chart.y_ticks)
    assert strong.count("H") == sum(tick.strong for tick in chart.y_ticks)


def test_the_peak_is_named_over_it_and_inside_the_plot(drawn):
    recipe, result = drawn
    chart = plan_chart(result, recipe.stages, 700.0)
    assert 60 < chart.peak_text_x < chart.width - 60
    assert abs(chart.peak_text_x - chart.peak.x) < 80


def test_the_face_at_its_ends_is_the_face_that_was_drawn(drawn):
    recipe, result = drawn
    time = time_columns(result, recipe.stages, 700.0)
    flesh = flesh_of("beef/strip-loin", result, moments(time))
    words = words_by_heat("beef/strip-loin", result.doneness.word, result.doneness.high_c)
    face = cut_face(Section("steak", 30.0, 90.0), flesh, words)
    assert face.at(1.0).top == face.top
    assert face.at(2.0).under == face.at(1.0).under  # past the end is the end
    raw = face.at(0.0)
    assert [band.word for band in raw.bands] == ["raw"]
    assert raw.bands[0].mm == pytest.approx(30.0, abs=0.5)
    assert raw.levels == face.levels


def test_the_pans_chart_keeps_everything_inside():
    t = np.arange(0.0, 60.0, 0.5)
    past, now = (t, 220.0 - t), (t + 60.0, 160.0 - 0.4 * t)
    chart = pan_chart(past, now, None, 165.0)
    numbers = [float(part) for d in (chart.past, chart.now) for part in d.replace("M", " ").replace("L", " ").split()]
    assert all(-0.1 <= x <= CHART_PX + 0.1 for x in numbers[::2])
    assert all(-0.1 <= y <= CHART_HIGH_PX + 0.1 for y in numbers[1::2])
    assert chart.wait == ""
    assert 0 < chart.now_x < CHART_PX
    assert chart.sears_y + chart.sears_rest == pytest.approx(CHART_HIGH_PX)
    assert [c for _, c in chart.y_ticks] == sorted(c for _, c in chart.y_ticks)


def lane(due_s, fan=None, span_s=None, doubted=()):
    return lane_chart(
        [(-300.0, 40.0), (0.0, 45.0)], [], 45.0, 52.0, due_s, LaneSize(14.1, 127.0, 564.0, 68.0), fan, span_s, doubted
    )


@pytest.mark.parametrize("due_s", [-4000.0, -30.0, 0.0, 600.0, 2300.0])
def test_the_bar_of_a_lane_lies_on_the_picture_whenever_it_is_due(due_s):
    for span in (None, (due_s - 100.0, due_s + 200.0)):
        left, width = lane(due_s, span_s=span).bar
        assert left >= 0
        assert width > 0
        assert left <= max(due_s, 0.0) / 60 * 14.1 + 1e-6
    assert lane(9000.0).bar is None


def test_a_fan_ends_on_its_rule_and_doubted_readings_are_rings():
    t = np.linspace(0.0, 900.0, 10)
    middle = 45.0 + 7.0 * np.minimum(t / 600.0, 1.0)
    fan = Fan(t, np.stack([middle - 1, middle - 0.5, middle - 0.2, middle, middle + 0.2, middle + 0.5, middle + 1]))
    chart = lane(600.0, fan, (500.0, 720.0), [(-20.0, 60.0), (-10.0, 61.0), (5.0, 61.0)])
    assert len(chart.tints) == 3
    assert all(tint.startswith("M") and tint.endswith("Z") for tint in chart.tints)
    last_x, last_y = (float(v) for v in re.findall(r"[-\d.]+", chart.future)[-2:])
    assert last_x == pytest.approx(600.0 / 60 * 14.1, abs=0.2)
    assert last_y == pytest.approx(chart.rule_y, abs=0.2)
    assert chart.bar[0] == pytest.approx(500.0 / 60 * 14.1, abs=0.2)
    assert len(chart.rings) == 2  # none in the future
    assert all(x <= 0 and 0 <= y <= 68 for x, y in chart.rings)


def test_how_a_prediction_moved():
    rows = [(60.0, 900.0, 1500.0, 4000.0), (300.0, 1200.0, 1400.0, 1700.0), (900.0, 1330.0, 1360.0, 1400.0)]
    chart = forecast_chart(rows, 1250.0, 1370.0)
    assert 0 < chart.actual_y < chart.height
    assert chart.planned_y > chart.actual_y  # sooner is lower
    numbers = [float(v) for v in re.findall(r"[-\d.]+", chart.band)]
    assert min(numbers) >= 0
    assert max(numbers[1::2]) <= chart.height
    assert forecast_chart(rows[:1], None, None) is None
    assert forecast_chart(rows, None, None).actual_y is None
