"""When a plan meets its rule."""

from __future__ import annotations

import numpy as np
import pytest

from ember.evaluate import evaluate
from ember.solve.log_ends import rule_met_s

from .plans import plan


def test_a_temperature_held_for_seconds_is_met_once_the_coldest_point_held_it():
    chicken = plan([{"kind": "oven", "air_c": 180, "minutes": 60}], "chicken/breast")
    met = rule_met_s(chicken)
    curve = evaluate(chicken).curves
    assert met is not None
    assert np.interp(met, curve.t_s, curve.core_c) == pytest.approx(74.0, abs=1.0)  # 165 F at once


def test_a_bath_meets_its_table_long_after_its_core_is_there():
    bath = plan([{"kind": "bath", "water_c": 60, "minutes": 240}], "pork/loin")
    met = rule_met_s(bath)
    curve = evaluate(bath).curves
    there = float(np.interp(57.0, curve.core_c, curve.t_s))
    assert met is not None
    assert there < met < 240 * 60
    longer = plan([{"kind": "bath", "water_c": 60, "minutes": met / 60 + 1}], "pork/loin")
    shorter = plan([{"kind": "bath", "water_c": 60, "minutes": met / 60 - 1}], "pork/loin")
    assert evaluate(longer).safety[0].met
    assert not evaluate(shorter).safety[0].met


def test_a_rare_piece_never_meets_it():
    assert rule_met_s(plan([{"kind": "bath", "water_c": 50, "minutes": 60}], "lamb/rump")) is None
