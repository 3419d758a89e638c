"""Thermometers and settings."""

from __future__ import annotations

import psychrolib
import pytest
from scipy.optimize import brentq

from ember.kit.equipment import off_at
from ember.kit.thermometers import boiling_point_c, judge_thermometer


@pytest.mark.parametrize("altitude_m", [0.0, 300.0, 800.0, 1524.0, 2200.0, 3000.0])
def test_water_boils_where_its_vapour_pressure_is_the_standard_atmosphere(altitude_m):
    """psychrolib: standard atmosphere and saturation pressure of ASHRAE Handbook Fundamentals (2017), chapter 1."""
    psychrolib.SetUnitSystem(psychrolib.SI)
    pressure = psychrolib.GetStandardAtmPressure(altitude_m)
    boils = brentq(lambda c: psychrolib.GetSatVapPres(c) - pressure, 60.0, 110.0)
    assert boiling_point_c(altitude_m) == pytest.approx(boils, abs=0.3)


def test_an_altitude_out_of_range_is_refused():
    for altitude_m in (-401.0, 5001.0, float("nan")):
        with pytest.raises(ValueError, match="altitude"):
            boiling_point_c(altitude_m)


def test_a_thermometer_is_judged_by_its_worst_point():
    good, bad = judge_thermometer([0.1, -0.4]), judge_thermometer([0.1, -1.4])
    assert (good.met, good.off_k, good.margin_k) == (True, -0.4, pytest.approx(0.6))
    assert (bad.met, bad.off_k, bad.margin_k) == (False, -1.4, pytest.approx(-0.4))
    assert good.limit_k == bad.limit_k == pytest.approx(1.0)
    assert judge_thermometer([1.0]).met  # just on the limit
    assert judge_thermometer([-1.4, 0.2]).off_k == -1.4
    with pytest.raises(ValueError, match="nothing"):
        judge_thermometer([])


def test_an_offset_between_checked_settings():
    assert off_at({}, 180.0) == 0.0
    assert off_at({180.0: -6.0}, 90.0) == -6.0
    assert off_at({100.0: 2.0, 200.0: -8.0}, 150.0) == pytest.approx(-3.0)
    assert off_at({100.0: 2.0, 200.0: -8.0}, 250.0) == -8.0
