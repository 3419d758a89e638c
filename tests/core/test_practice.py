"""Calls and drills: the statistics against worked examples, the drills against the model they are made of."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from ember.errors import BadInput
from ember.evaluate import evaluate
from ember.files.plan import parse_plan
from ember.practice.calls import (
    Call,
    advice,
    best_by_cut,
    bias_of,
    by_group,
    by_sense,
    near_of,
    score,
    spread_of,
    trend_of,
)
from ember.practice.deal import DISHES, LEVELS, Deal, Move, deal
from ember.practice.drill import finish, look, stages_of, truth
from ember.practice.egg_drill import KINDS, LONGEST_S, egg_deal, egg_finish, egg_look
from ember.practice.lay_drill import Taps, lay_finish
from ember.practice.signs import sign, signs, word_at


def calls_off(sense, offs, cut="lamb/rump"):
    return [Call(sense, 55.0 + off, 55.0, cut, "medium") for off in offs]


# Statistics of calls ------------------------------------------------------------------------------------------------


def test_bias_has_students_interval():
    """NIST/SEMATECH e-Handbook 1.3.5.2: 195 values, mean 9.261460, deviation 0.022789: 95 % from 9.258242 to 9.264679.

    The values are those of its summary, rebuilt; the interval here is of 90 %: t(0.95, 194) = 1.652746.
    """
    rng = np.random.default_rng(1)
    values = rng.normal(size=195)
    values = 9.261460 + 0.022789 * (values - values.mean()) / values.std(ddof=1)
    found = bias_of(list(values))
    wide = 1.652746 * 0.022789 / np.sqrt(195)
    assert found.value == pytest.approx(9.261460)
    assert found.high - found.value == pytest.approx(wide, rel=1e-4)


def test_spread_has_the_interval_of_chi_squared():
    """Ten values of deviation 2: chi squared of 9 at 5 and 95 % is 3.325 and 16.919 (any table)."""
    values = np.array([-1.0, 1.0] * 5)
    values *= 2.0 / values.std(ddof=1)
    found = spread_of(list(values))
    assert found.value == pytest.approx(2.0)
    assert found.low == pytest.approx(2.0 * np.sqrt(9 / 16.919), rel=1e-3)
    assert found.high == pytest.approx(2.0 * np.sqrt(9 / 3.325), rel=1e-3)


def test_the_share_of_good_calls_has_wilsons_interval():
    """Newcombe 1998, Stat Med 17:857, table I: 81 of 263: 0.2553 to 0.3662 at 95 %; here 90 %, by its formula."""
    found = near_of([0.0] * 81 + [9.0] * 182)
    z, n, p = 1.644854, 263, 81 / 263
    centre = (p + z**2 / (2 * n)) / (1 + z**2 / n)
    half = z / (1 + z**2 / n) * np.sqrt(p * (1 - p) / n + z**2 / (4 * n**2))
    assert (found.low, found.high) == (pytest.approx(centre - half, abs=1e-6), pytest.approx(centre + half, abs=1e-6))


@settings(max_examples=40, deadline=None)
@given(st.floats(-4, 4), st.floats(0.3, 3), st.integers(8, 60), st.integers(0, 10_000))
def test_intervals_hold_their_value_and_narrow_with_calls(bias, spread, number, seed):
    offs = np.random.default_rng(seed).normal(bias, spread, number).tolist()
    found = score("press", calls_off("press", offs))
    for interval in (found.bias, found.spread, found.near):
        assert interval.low <= interval.value <= interval.high
    wider = score("press", calls_off("press", offs[:4]))
    assert wider.trend is None
    assert wider.is_few
    assert not found.is_few


def test_nine_of_ten_intervals_of_the_bias_hold_the_truth():
    rng = np.random.default_rng(3)
    held = [bias_of(rng.normal(1.5, 2.0, 12).tolist()) for _ in range(600)]
    share = np.mean([one.low <= 1.5 <= one.high for one in held])
    assert 0.87 < share < 0.93


def test_one_call_says_no_interval():
    found = score("pin", calls_off("pin", [2.0]))
    assert (found.bias.low, found.spread.high, found.trend) == (None, None, None)
    assert not found.bias.leaves_out_nought


def test_a_trend_is_told_by_its_line():
    better = trend_of([5.0 - 0.4 * i for i in range(10)])
    assert better.value == pytest.approx(-4.0)
    assert better.leaves_out_nought


def test_what_to_trust_and_what_to_correct():
    rng = np.random.default_rng(2)
    calls = calls_off("press", rng.normal(2.6, 1.5, 25)) + calls_off("pin", rng.normal(0.0, 0.9, 25))
    calls += calls_off("juices", [0.0, 0.1, -0.1])  # very good, but three
    found = advice(by_sense(calls))
    assert [(row.kind, row.sense) for row in found] == [("trust", "pin"), ("lower", "press")]
    assert found[1].by_k == pytest.approx(2.6, abs=0.8)
    assert [row.kind for row in advice(by_sense(calls[-3:]))] == ["few"]


def test_which_sense_for_what():
    calls = calls_off("press", [0.1, -0.1] * 5, "pork/chop") + calls_off("pin", [2.0, -2.0] * 5, "pork/chop")
    calls += calls_off("press", [4.0, -4.0] * 5) + calls_off("pin", [0.2] * 10) + calls_off("cut", [0.0] * 3)
    assert [(cut, row.name) for cut, row in best_by_cut(calls)] == [("lamb/rump", "pin"), ("pork/chop", "press")]


def test_groups_of_few_calls_are_left_out():
    calls = calls_off("press", [1.0] * 5, "lamb/rump") + calls_off("press", [1.0] * 3, "pork/chop")
    assert [(row.name, row.calls) for row in by_group(calls, "cut")] == [("lamb/rump", 5)]
    assert [row.name for row in by_group(calls, "wanted")] == ["medium"]


# Signs --------------------------------------------------------------------------------------------------------------


@pytest.mark.parametrize("sense", list(signs()))
def test_signs_rise_with_heat_and_say_where_they_are_from(sense):
    row = signs()[sense]
    lows = [low for low, _ in row.words]
    assert lows == sorted(lows)
    assert len({word for _, word in row.words}) == len(lows)
    assert row.source == "common practice"
    assert word_at(row.words, lows[-1] + 1) == row.words[-1][1]
    assert word_at(row.words, lows[0] - 50) == row.words[0][1]


def test_the_same_look_says_the_same_and_looks_differ_as_much_as_told():
    assert sign("pin", 50.0, 7, 120.0) == sign("pin", 50.0, 7, 120.0)
    words = [sign("pin", 48.0, 7, float(s)) for s in range(400)]  # on the border of "just hot"
    assert 0.4 < np.mean([word == "just hot" for word in words]) < 0.6


# Drills in the pan --------------------------------------------------------------------------------------------------


def known(index, **more):
    """A drill whose truth is what is told."""
    dish = DISHES[index]
    told = {"size": 1.0, "start_c": 5.0, "pan_off_k": 0.0, "oven_off_k": 0.0} | more
    return Deal(LEVELS[0], 1, dish, dish.thick_mm, **told)


def turned(*at, rest, cut):
    return [*(Move("turn", float(s)) for s in at), Move("rest", float(rest)), Move("cut", float(cut))]


def test_a_seed_deals_the_same_and_levels_go_further():
    assert deal(2, 77) == deal(2, 77)
    assert deal(2, 77) != deal(2, 78)
    spread = [np.std([deal(level, seed).size for seed in range(80)]) for level in (1, 2, 3)]
    assert spread[0] < spread[1] < spread[2]
    with pytest.raises(BadInput):
        deal(4, 1)


def test_a_drill_is_the_models_own_cook():
    """Turned each minute, pulled and rested: the same as the plan of it, face by face."""
    moves = turned(60, 120, 180, rest=240, cut=600)
    plan = truth(known(0), moves, 600.0)
    same = parse_plan(plan.model_dump(mode="json", exclude_none=True) | {"stages": [
        {"kind": "pan", "pan_c": 205, "seconds_a_side": 60, "sides": 4}, {"kind": "rest", "air_c": 24, "minutes": 6},
    ]})  # fmt: skip
    assert evaluate(plan).core.peak_c == pytest.approx(evaluate(same).core.peak_c, abs=0.6)


@pytest.mark.parametrize("index", range(len(DISHES)))
def test_every_dish_can_be_done_well(index):
    dish = DISHES[index]
    best = 0
    for pull in range(300, 2700, 120) if dish.oven_c else range(240, 720, 40):
        before = [Move("turn", 110.0), Move("oven", 220.0)] if dish.oven_c else [
            Move("turn", 60.0 * k) for k in range(1, 12) if 60 * k < pull
        ]  # fmt: skip
        best = max(best, finish(known(index), [*before, Move("rest", pull), Move("cut", pull + 360.0)]).score)
    assert best >= 85


def test_left_in_too_long_it_goes_over_and_earlier_would_have_been_cooler():
    found = finish(known(1), turned(60, 120, 180, 240, 300, 360, 420, rest=640, cut=1000))
    assert found.off_k > 3
    assert found.score < 70
    assert found.earlier_s == 120.0
    assert found.earlier_peak_c < found.result.core.peak_c
    assert {why for why, _ in found.losses} >= {"degrees off", "juice lost"}


def test_a_hidden_truth_decides():
    moves = turned(60, 120, 180, 240, rest=300, cut=660)
    thin, thick = finish(known(0, size=0.8), moves), finish(known(0, size=1.2), moves)
    assert thin.result.core.peak_c > thick.result.core.peak_c + 5


def test_a_missed_rule_costs_where_no_advisory_helps():
    found = finish(known(3), turned(60, 120, rest=150, cut=400))
    assert not found.rule_met
    assert "the rule is not met" in {why for why, _ in found.losses}


def test_signs_follow_the_cook():
    dealt = known(0)
    cold = look(dealt, [], 20.0)
    assert dict(cold.signs)["firmness"] == "soft as raw"
    assert "face" not in dict(cold.signs)  # it lies down still
    hot = look(dealt, [Move("turn", 60.0 * k) for k in range(1, 14)], 840.0, pin=True)
    assert dict(hot.signs)["firmness"] in ("firm", "hard", "firm, gives a little")
    assert "pin" in dict(hot.signs)
    assert dict(hot.signs)["face"] in ("dark", "charred")
    resting = look(dealt, [Move("rest", 300.0)], 400.0)
    assert resting.place == "rest"
    assert "sizzle" not in dict(resting.signs)


def test_basting_warms_the_upper_face():
    still = truth(known(0), [], 120.0)
    basted = truth(known(0), [Move("baste", 60.0)], 120.0)
    assert any(getattr(stage, "baste", None) for stage in basted.stages)
    assert evaluate(basted).core.end_c > evaluate(still).core.end_c


@pytest.mark.parametrize(
    "moves",
    [[Move("turn", 60.0), Move("turn", 30.0)], [Move("cut", 60.0), Move("turn", 90.0)], [Move("oven", 60.0)]],
)
def test_what_cannot_be_is_refused(moves):
    with pytest.raises(BadInput):
        stages_of(known(0), moves, 120.0)


def test_a_drill_is_pulled_then_cut():
    with pytest.raises(BadInput):
        finish(known(0), [Move("turn", 60.0)])
    with pytest.raises(BadInput):
        finish(known(0), [Move("rest", 60.0)])
    with pytest.raises(BadInput):
        truth(known(0), [], 9e9)


# Eggs ---------------------------------------------------------------------------------------------------------------

TIMES = {"scramble": range(60, 400, 20), "poach": range(120, 480, 30), "custard": range(1200, 5400, 300)}


@pytest.mark.parametrize("kind", KINDS)
def test_eggs_have_a_moment_and_go_over_after_it(kind):
    dealt = egg_deal(kind, 1, 5)
    assert dealt == egg_deal(kind, 1, 5)
    scores = [egg_finish(dealt, float(s)).score for s in TIMES[kind]]
    assert max(scores) == 100
    assert scores[0] < 100
    assert scores[-1] < 100
    words = [egg_look(dealt, float(s)) for s in TIMES[kind]]
    assert len(set(words)) >= 3


def test_a_scramble_goes_on_by_itself():
    dealt = egg_deal("scramble", 1, 5)
    found = egg_finish(dealt, 150.0)
    assert found.peak_c > 0
    later = egg_finish(dealt, 190.0)
    assert later.peak_c > found.peak_c
    assert later.earlier_word


def test_odd_egg_drills_are_refused():
    for kind, level in (("fry", 1), ("poach", 0), ("poach", 9)):
        with pytest.raises(BadInput):
            egg_deal(kind, level, 1)
    dealt = egg_deal("poach", 1, 1)
    with pytest.raises(BadInput):
        egg_finish(dealt, 0.0)
    with pytest.raises(BadInput):
        egg_look(dealt, LONGEST_S["poach"] + 1)


# Order in the pan ---------------------------------------------------------------------------------------------------


def test_the_order_and_the_evenness_decide():
    even = lay_finish(Taps((0, 2, 4, 6), (60, 62, 64, 66), (120, 122, 124, 126)))
    assert (even.score, even.out_of_order, even.spread_s) == (100, 0, 0.0)
    wrong = lay_finish(Taps((0, 2, 4, 6), (66, 62, 64, 60), (120, 122, 124, 126)))
    assert wrong.out_of_order == 2
    assert wrong.score < 90
    short = lay_finish(Taps((0, 2, 4, 6), (30, 32, 34, 36), (60, 62, 64, 66)))
    assert short.off_s == 30.0
    assert short.score == 60


@pytest.mark.parametrize(
    "taps",
    [Taps((0, 1), (2, 3), (4, 5)), Taps((0, 1, 2), (3, 4), (5, 6, 7)), Taps((0, 5, 9), (3, 4, 12), (20, 21, 22)),
     Taps((0, 1, float("nan")), (3, 4, 5), (6, 7, 8))],
)  # fmt: skip
def test_a_pan_that_cannot_be_is_refused(taps):
    with pytest.raises(BadInput):
        lay_finish(taps)
