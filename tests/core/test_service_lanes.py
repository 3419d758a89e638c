"""The lanes of a service: the axis with its paces, bars that do not lie on each other, words where there is room."""

from __future__ import annotations

import itertools

import numpy as np
import pytest

from kitchen.drawings.service_lanes import HOUR_S, BarIn, LaneIn, SettingIn, paces, service_lanes

T0 = 1_936_000_000.0 - 1_936_000_000.0 % 86400.0  # a midnight
PLATE = T0 + 19.5 * HOUR_S


def at(hour):
    return T0 + hour * HOUR_S


def bar(key, begin, end, lane="oven", words="Turkey", **more):
    return BarIn(key, lane, at(begin), at(end), words, **more)


def drawn(bars, settings=(), plates=(PLATE,), lanes=("oven", "hands"), **more):
    return service_lanes([LaneIn(key, key.capitalize()) for key in lanes], bars, settings, plates, **more)


def test_minutes_get_room_near_the_plate_and_days_little():
    axis = paces(T0 - 3 * 86400.0, [PLATE], 1000.0)
    px_a_minute = [
        (x1 - x0) / ((b - a) / 60.0)
        for (a, b), (x0, x1) in zip(itertools.pairwise(axis.seconds), itertools.pairwise(axis.x), strict=True)
    ]
    assert px_a_minute == sorted(px_a_minute), "the nearer to the plate, the more room"
    assert px_a_minute[-1] > 50 * px_a_minute[0]
    assert axis.x[-1] == pytest.approx(1000.0)


def test_time_runs_forward_whatever_the_plates():
    for plates in ([PLATE], [PLATE, PLATE + 600], [PLATE, PLATE + 12 * HOUR_S], [T0 + 60.0]):
        axis = paces(T0 - HOUR_S, plates, 900.0)
        assert (np.diff(axis.seconds) > 0).all()
        assert (np.diff(axis.x) > 0).all()
        assert axis.seconds[-1] >= max(plates)


def test_a_stretch_in_which_nothing_begins_gets_less_room():
    """An evening and the morning after, which has one task."""
    plates = [PLATE, PLATE + 12 * HOUR_S]
    busy = [PLATE - 600.0 * k for k in range(12)] + [PLATE + 11.9 * HOUR_S]
    plain, weighted = paces(T0, plates, 1000.0), paces(T0, plates, 1000.0, busy)

    def morning(axis):
        return axis.x[-1] - float(axis(PLATE + HOUR_S))

    assert morning(weighted) < 0.7 * morning(plain)


def test_bars_of_one_lane_never_lie_on_each_other():
    bars = [bar(f"t{k}", 12 + 0.5 * (k % 5), 14 + 0.5 * (k % 7)) for k in range(14)]
    chart = drawn(bars)
    for one, other in itertools.combinations(chart.bars, 2):
        beside = one.x + one.width <= other.x + 1e-6 or other.x + other.width <= one.x + 1e-6
        assert beside or one.y + one.height <= other.y or other.y + other.height <= one.y
    lane = chart.lanes[0]
    assert all(lane.y <= b.y and b.y + b.height <= lane.y + lane.height for b in chart.bars)
    assert chart.lanes[1].y == pytest.approx(lane.y + lane.height)


def test_words_stand_in_the_bar_beside_it_or_nowhere():
    wide, narrow, shut = bar("a", 14, 18.5), bar("b", 18.6, 18.65), bar("c", 18.65, 18.7)
    chart = drawn([wide, narrow, shut])
    by_key = {b.key: b for b in chart.bars}
    assert by_key["a"].label == "Turkey"
    assert not by_key["a"].is_beside
    assert by_key["b"].label_x is None, "the next bar stands where its words would"
    assert by_key["c"].is_beside
    assert by_key["b"].title == "Turkey", "who cannot see it is told all the same"


def test_short_words_where_the_long_ones_do_not_fit():
    chart = drawn([bar("a", 18.0, 18.2, words="Turkey for the long crossing", short="oven"), bar("b", 18.2, 19.4)])
    assert chart.bars[0].label == "oven"


def test_a_task_of_no_time_can_still_be_seen():
    assert drawn([bar("a", 15, 15)]).bars[0].width >= 5


def test_settings_are_a_way_and_a_level():
    chart = drawn([bar("a", 17, 18)], [SettingIn("oven", "180°", at(16.7), at(17), at(18))])
    line = chart.lanes[0].settings[0]
    assert line.way_x < line.x < line.end_x
    assert chart.lanes[1].settings == []


def test_plates_that_are_near_stand_in_two_rows():
    chart = drawn([bar("a", 17, 18)], plates=[PLATE, PLATE + 60.0, PLATE + 120.0])
    assert [line.row for line in chart.plates] == [0, 1, 0]


def test_now_is_drawn_only_where_it_lies_on_the_axis():
    assert drawn([bar("a", 17, 18)], now=at(17.5)).now_x is not None
    assert drawn([bar("a", 17, 18)], now=PLATE + 86400.0).now_x is None
    early = drawn([bar("a", 17, 18)], now=at(9))
    assert early.now_x == pytest.approx(132.0, abs=2.0), "before the first task the axis begins at now"


def test_ticks_are_round_and_their_words_do_not_meet():
    chart = drawn([bar("a", -20, 12), bar("b", 17, 18)], offset_s=7200.0)
    words = [tick for tick in chart.ticks if tick.words]
    assert all(b.x - a.x >= 50 for a, b in itertools.pairwise(words))
    assert all((tick.at + 7200.0) % 60 == 0 for tick in chart.ticks)
    assert any(tick.is_day for tick in chart.ticks)


def test_the_axis_for_the_script_is_the_one_that_is_drawn():
    chart = drawn([bar("a", 14, 15), bar("b", 17, 18)])
    seconds = [float(v) for v in chart.axis_seconds.split()]
    x = [float(v) for v in chart.axis_x.split()]
    for each in chart.bars:
        begin = {"a": at(14), "b": at(17)}[each.key]
        assert 132.0 + np.interp(begin, seconds, x) == pytest.approx(each.x, abs=0.1)
