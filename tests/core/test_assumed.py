"""A verdict that rests on a width nobody measured says so."""

from __future__ import annotations

import pytest

from ember.evaluate import evaluate
from ember.files.plan import parse_plan


def codes(minutes, **piece):
    data = {"cut": "chicken/breast", "shape": {"kind": "slab", "thickness_mm": 38}, "start_c": 4, **piece}
    stages = [{"kind": "bath", "water_c": 62, "minutes": minutes}, {"kind": "rest", "minutes": 2}]
    result = evaluate(
        parse_plan(
            {
                "format": "open-ember/plan",
                "version": 1,
                "piece": data,
                "stages": stages,
                "standard": "usda-fsis-appendix-a-2021",
            }
        )
    )
    return result.safety[0].met, [warning.code for warning in result.warnings]


def least_minutes(**piece):
    """The first minute at which the rule is met."""
    return next(minutes for minutes in range(30, 120) if codes(minutes, **piece)[0])


def test_a_rule_that_only_the_assumed_width_meets_asks_for_it():
    just = least_minutes()
    assert "size-assumed" in codes(just)[1]
    assert "size-assumed" not in codes(just + 45)[1]  # met by any width
    assert "size-assumed" not in codes(just - 5)[1]  # not met anyhow


@pytest.mark.parametrize("known", [{"width_mm": 80, "length_mm": 140}, {"width_mm": 80, "mass_g": 300}])
def test_what_was_measured_is_not_asked_for(known):
    assert "size-assumed" not in codes(least_minutes(**known), **known)[1]


def test_a_mass_leaves_only_its_proportions_open():
    by_mass = {"mass_g": 230}
    open_ended, weighed = least_minutes(), least_minutes(**by_mass)
    assert "size-assumed" in codes(weighed, **by_mass)[1]
    later = next(m for m in range(weighed, 140) if "size-assumed" not in codes(m, **by_mass)[1])
    endless = next(m for m in range(open_ended, 140) if "size-assumed" not in codes(m)[1])
    assert later <= endless
