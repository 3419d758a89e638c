"""The drawing of a cooling: gates where the rule's clock ends, readings where they were taken, nothing outside."""

from __future__ import annotations

import re

import pytest

from kitchen.drawings.chill_chart import HEIGHT, WIDTH, chill_chart, reckoned_gates

T = [0.0, 1800.0, 3600.0, 7200.0, 14400.0]
WARM = [70.0, 60.0, 40.0, 20.0, 5.0]
COLD = [70.0, 20.0, 8.0, 4.0, 3.0]
US = [(60.0, 21.0, 120.0), (60.0, 5.0, 360.0)]  # its clock starts after an hour


def points(path):
    """The numbers of a path, two by two."""
    found = [float(v) for v in re.findall(r"-?\d+\.?\d*", path)]
    return list(zip(found[::2], found[1::2], strict=True))


def test_gates_count_from_where_the_clock_starts():
    """After an hour: due at 3600 s + 2 h and + 6 h."""
    assert reckoned_gates(T, WARM, US) == [(3600 + 7200, 21.0), (3600 + 21600, 5.0)]


def test_a_step_that_begins_later_has_a_later_gate():
    """The second of Appendix B's steps begins where the first ends, at 7200 s here."""
    assert reckoned_gates(T, WARM, [(120.0, 4.4, 300.0)]) == [(7200 + 18000, 4.4)]


def test_a_step_without_a_time_has_its_gate_where_it_ends():
    """And a clock that never started, at the end."""
    assert reckoned_gates(T, WARM, [(120.0, 20.0, None), (None, 4.0, 60.0)]) == [(7200, 20.0), (14400, 4.0)]


def test_everything_lies_inside():
    """Curves, gates and readings that reach past them."""
    chart = chill_chart(T, WARM, COLD, reckoned_gates(T, WARM, US), [(0, 70), (40_000, 95), (100, -20)])
    inside = [*points(chart.warmest), *points(chart.coldest), *chart.dots, *((g.x, g.y) for g in chart.gates)]
    assert all(0 <= x <= WIDTH and 0 <= y <= HEIGHT for x, y in inside)


def test_colder_is_lower_and_later_is_further_right():
    """The axes run the way a cook reads them."""
    chart = chill_chart(T, WARM, [], [(7200, 21.0), (21600, 5.0)], [(600, 60), (6000, 30)])
    first, second = chart.gates
    assert first.x < second.x
    assert first.y < second.y
    assert chart.dots[0][0] < chart.dots[1][0]
    assert chart.dots[0][1] < chart.dots[1][1]
    ys = [y for _, y in points(chart.warmest)]
    assert ys == sorted(ys)
    assert chart.coldest == ""


@pytest.mark.parametrize(("seconds", "words"), [(7200, "2:00"), (8460, "2:21"), (2400, "0:40")])
def test_a_gate_says_its_time(seconds, words):
    """Hours and minutes."""
    assert chill_chart(T, WARM, [], [(seconds, 21.0)]).gates[0].by == words


def test_ticks_are_in_order_and_begin_at_nought():
    """From 0 °C and 0:00 on."""
    chart = chill_chart(T, WARM, COLD, [])
    assert chart.x_ticks[0] == (0.0, "0:00")
    assert [c for _, c in chart.y_ticks] == sorted(c for _, c in chart.y_ticks)
    assert chart.y_ticks[0][1] == 0.0
