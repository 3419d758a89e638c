"""What a trajectory says: hands, curves, the end of a batch, browning."""

from __future__ import annotations

import numpy as np
import pytest

from ember.evaluate import evaluate
from ember.files.base import KINDS
from ember.files.stages import lasting
from ember.heat.simulate import simulate
from ember.report.curves import CURVE_POINTS
from ember.report.serves import SET_UP_MIN, hands_on_min

from .plans import plan

SEAR = {"kind": "pan", "pan_c": 220, "seconds_a_side": 60, "sides": 2}


def test_hands_are_counted_for_every_kind_and_stand_by_a_short_pan():
    assert set(SET_UP_MIN) == set(KINDS)
    assert hands_on_min(plan([SEAR]), [2.0]) == pytest.approx(1.0 + 2.0)
    long = {"kind": "pan", "pan_c": 120, "minutes": 60, "turn_every_s": 600}
    assert hands_on_min(plan([long]), [60.0]) < 20  # it is left alone between its turns
    until_done = {"kind": "pan", "pan_c": 200, "turn_every_s": 45, "until": {"peak_c": 54}}
    assert evaluate(plan([until_done])).hands_on_min > 5  # a pan that waits for the core is stood by too
    oven = {"kind": "oven", "air_c": 160, "minutes": 90, "baste_every_min": 30}
    assert hands_on_min(plan([oven]), [90.0]) == pytest.approx(1.5 + 3 * 1.5)
    basted = long | {"baste": {"every_s": 5}}
    assert hands_on_min(plan([basted]), [60.0]) > 60


def test_curves_keep_every_stage_and_its_ends():
    recipe = plan([{"kind": "bath", "water_c": 57, "minutes": 600}, SEAR, {"kind": "rest", "minutes": 4}])
    result = evaluate(recipe)
    t = np.array(result.curves.t_s)
    assert len(t) <= CURVE_POINTS
    for stage in result.stages:
        assert np.abs(t - stage.end_s).min() < 0.1
        assert ((t >= stage.start_s) & (t <= stage.end_s)).sum() > 50


def test_curves_of_the_faces_do_not_wave_in_a_bath():
    # The outermost cells answer in hundredths of a second: between long steps their slope is noise.
    run = simulate(plan([{"kind": "bath", "water_c": 57, "minutes": 240}]))
    face = run.node_c(np.linspace(60, run.end_s, 2000), 0)
    assert np.all(np.diff(face) > -0.02)


def test_the_ends_of_a_batch_lie_about_the_middle():
    result = evaluate(plan([SEAR, {"kind": "rest", "minutes": 5}], spread_mm=8))
    assert (result.thin.size_mm, result.thick.size_mm) == (26, 34)
    assert result.thin.core.peak_c > result.core.peak_c > result.thick.core.peak_c
    assert result.thin.pull.s == result.thick.pull.s == result.pull.s
    assert result.thin.yield_pct < result.thick.yield_pct


def test_browning_grows_with_heat_and_time_and_needs_a_hot_pan():
    def index(pan_c, seconds):
        return evaluate(plan([SEAR | {"pan_c": pan_c, "seconds_a_side": seconds}])).browning[0].index

    assert index(200, 60) < index(200, 120) < index(230, 120)
    assert index(120, 120) < 0.1
    assert 0.5 < index(200, 120) < 3.5  # golden to brown; common practice


def test_a_stage_made_to_last():
    pan, bath = plan([SEAR, {"kind": "bath", "water_c": 57, "until": {"core_c": 50}}]).stages
    assert lasting(pan, 90).seconds_a_side == 45
    assert lasting(pan, 90, 3).sides == 3
    assert lasting(bath, 90).minutes == 1.5
    assert lasting(bath, 90).until is None
