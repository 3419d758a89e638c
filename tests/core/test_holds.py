"""A hot hold: doneness that drifts, water that goes on leaving, the clock where heat is not the control."""

from __future__ import annotations

import pytest

from ember.evaluate import evaluate
from kitchen.drawings.hold_strip import WIDTH_PX, hold_strip

from .plans import plan

BATH = {"kind": "bath", "water_c": 54.5, "minutes": 90}


def held(hold, cut="beef/strip-loin", **piece):
    """A steak from a bath of 54.5 °C, held."""
    return evaluate(plan([BATH, {"kind": "hold", **hold}], cut, **piece))


def codes(result):
    return {warning.code for warning in result.warnings}


def test_hotter_than_the_piece_it_drifts():
    """At 65 °C it passes its word within the hour, and says when; the yield only falls."""
    result = held({"air_c": 65, "minutes": 180})
    (hold,) = result.holds
    assert hold.word != hold.word_after
    assert hold.stays_min is not None
    assert 5 < hold.stays_min < 150
    yields = [point.yield_pct for point in hold.points]
    assert yields == sorted(yields, reverse=True)
    assert hold.lost_pct == pytest.approx(yields[0] - yields[-1], abs=0.02)
    assert result.yield_pct == pytest.approx(yields[-1], abs=0.05), "the last point is the plan's own yield"
    assert {"hold-drifts", "hold-dries"} <= codes(result)


def test_the_word_at_the_minute_it_changes():
    """Cut off a minute before it drifts it has its word; a minute after it has the next."""
    (hold,) = held({"air_c": 65, "minutes": 180}).holds
    (short,) = held({"air_c": 65, "minutes": hold.stays_min - 1}).holds
    assert short.stays_min is None
    assert short.word_after == hold.word
    (longer,) = held({"air_c": 65, "minutes": hold.stays_min + 1}).holds
    assert longer.word_after != hold.word


def test_at_its_own_temperature_it_stays():
    """In water of the bath's temperature it stays what it is, and loses little."""
    result = held({"water_c": 54.5, "minutes": 60, "bagged": True})
    (hold,) = result.holds
    assert hold.stays_min is None
    assert hold.word == hold.word_after
    assert hold.lost_pct < 1.5
    assert "hold-drifts" not in codes(result)


# US Food Code 3-501.16(A)(1): 57.2 °C; 3-501.19(B): 4 h. UK Regulations 2013: 63 °C, once up to 2 h. From memory.
@pytest.mark.parametrize(
    ("standard", "setting_c", "clock"),
    [("us-food-code-2022", 58, None), ("us-food-code-2022", 55, 240), ("uk-fsa", 60, 120), ("uk-fsa", 64, None)],
)
def test_under_the_rules_heat_a_clock_runs(standard, setting_c, clock):
    """Time as the control, by standard; heat where it is enough."""
    (hold,) = held({"air_c": setting_c, "minutes": 300}, standard=standard).holds
    assert hold.clock_min == clock


def test_over_the_clock_it_says_by_how_much():
    """Five hours at 55 °C under the Food Code: an hour over."""
    result = held({"air_c": 55, "minutes": 300})
    said = next(warning.text for warning in result.warnings if warning.code == "hold-clock")
    assert "240 min, 60 over" in said
    assert "hold-clock" not in codes(held({"air_c": 55, "minutes": 200}))


def test_the_bag_keeps_it_hotter_and_hotter_presses_out_more():
    """Bare it dries, which cools it: colder in the middle than in its bag, and so less is pressed out."""
    bare = held({"air_c": 62, "minutes": 120, "bagged": False}).holds[0]
    kept = held({"air_c": 62, "minutes": 120, "bagged": True}).holds[0]
    assert kept.points[-1].core_c > bare.points[-1].core_c + 0.5
    assert kept.lost_pct > bare.lost_pct > 0


def test_a_cold_hold_is_none():
    """What is kept cold does not drift."""
    assert evaluate(plan([BATH, {"kind": "hold", "air_c": 4, "minutes": 60}])).holds == []


def test_the_strip_is_whole_and_turns_where_the_word_turns():
    (hold,) = held({"air_c": 65, "minutes": 180}).holds
    strip = hold_strip(hold)
    assert sum(span.width for span in strip.spans) == pytest.approx(WIDTH_PX)
    assert strip.spans[1].x == pytest.approx(WIDTH_PX * hold.stays_min / hold.minutes)
    assert [span.late for span in strip.spans] == [False] + [True] * (len(strip.spans) - 1)


def test_the_clock_stands_on_the_strip_only_when_it_runs_out():
    (cool,) = held({"air_c": 52, "minutes": 300}).holds
    assert cool.clock_min == 240
    assert hold_strip(cool).clock_x == pytest.approx(WIDTH_PX * 240 / 300)
    (short,) = held({"air_c": 52, "minutes": 100}).holds
    assert hold_strip(short).clock_x is None
