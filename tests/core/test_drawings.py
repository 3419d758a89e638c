"""Drawings are pure functions: signs, labels and contours without a database or a request."""

from __future__ import annotations

import numpy as np
import pytest

from ember.evaluate import evaluate
from ember.files.stages import KINDS
from kitchen.drawings.families import FAMILY, family_of, pattern
from kitchen.drawings.plan_chart import LEAST_PX, _apart, _contour, plan_chart

from .plans import plan


def test_every_kind_of_stage_has_a_look_and_a_least_width():
    assert set(FAMILY) == set(KINDS)
    assert set(FAMILY.values()) == set(LEAST_PX)
    assert family_of("plate") == "rest"


@pytest.mark.parametrize("kind", KINDS)
@pytest.mark.parametrize("width", [20.0, 92.0, 400.0])
def test_a_sign_is_drawn_to_the_length_of_its_block(kind, width):
    path = pattern(kind, width)
    assert path.startswith("M")
    starts = [float(part.split()[0]) for part in path.split("M")[1:]]
    assert 0 <= min(starts) <= max(starts) <= width


def test_labels_do_not_lie_on_one_another():
    labels = [(100.0, 64.0, 20.0), (110.0, 64.0, 40.0), None, (200.0, 64.0, 60.0)]
    assert [level for _, _, level in _apart(labels)] == [20.0, 60.0]


def test_a_contour_is_broken_where_another_place_takes_over():
    x = np.linspace(0, 1, 41)
    near, far = 60 - 100 * np.abs(x - 0.5), 60 - 400 * np.abs(x - 0.5)
    whole = _contour(10.0 * np.arange(6.0), x, np.array([near] * 6), 50.0)
    broken = _contour(10.0 * np.arange(6.0), x, np.array([near] * 3 + [60 - 22 * np.abs(x - 0.5)] * 3), 50.0)
    assert len(whole) == 2
    assert all(path.count("M") == 1 for path in whole + broken)
    assert len(broken) == 4
    assert _contour(10.0 * np.arange(6.0), x, np.array([far] * 6), 70.0) == []
    # A middle that touches the level, or a scrap of a line, draws nothing.
    assert _contour(10.0 * np.arange(6.0), x, np.array([near] * 6), 59.95) == []
    assert _contour(np.arange(6.0), x, np.array([near] * 6), 50.0) == []


def test_a_plan_of_every_family_is_drawn_to_its_width():
    stages = [
        {"kind": "bath", "water_c": 57, "minutes": 60}, {"kind": "ice_bath", "minutes": 30},
        {"kind": "oven", "air_c": 170, "minutes": 10}, {"kind": "pan", "pan_c": 220, "seconds_a_side": 40},
        {"kind": "rest", "minutes": 4},
    ]  # fmt: skip
    recipe = plan(stages, depth_map=True)
    chart = plan_chart(evaluate(recipe), [stage.kind for stage in recipe.stages], 600.0)
    assert chart.width >= sum(LEAST_PX[column.family] for column in chart.columns)
    assert chart.height > chart.plot_end_y > chart.plot_y > chart.strip_px
    assert chart.columns[-1].x + chart.columns[-1].width == pytest.approx(chart.width)
