"""Probe faults: found within a minute of readings, told apart, and not cried where there are none."""

import numpy as np
import pytest

from ember.bench.track_faults import KINDS, with_fault
from ember.bench.track_jobs import simulated_cook
from ember.bench.track_study import cooks, faults
from ember.track.probe import watch


def rising(until_s=600.0, pause_s=1.0, noise_k=0.3, seed=1):
    """A core in a bath, as a probe with noise shows it."""
    s = np.arange(0.0, until_s, pause_s)
    c = 58 - 52 * np.exp(-s / 800) + noise_k * np.random.default_rng(seed).standard_normal(len(s))
    return list(zip(s.tolist(), c.tolist(), strict=True))


def test_faults_of_simulated_cooks_are_found_and_clean_ones_left_alone():
    found = faults(cooks(3, seed=4, jobs=["duck breast, bath", "roast", "chop, pan", "steak, gentle oven"])[0])
    assert found["found_pct"] >= 95
    assert found["false_alarms"] == 0
    kinds = found["kinds"]
    assert kinds["stuck"]["called"] == {"stuck": kinds["stuck"]["made"]}
    assert kinds["on-the-pan"]["called"].get("off-food", 0) == kinds["on-the-pan"]["made"]
    assert set(kinds) == set(KINDS)


def test_a_clean_probe_is_believed_whole():
    readings = rising()
    found = watch(readings, [0.0], [], 600.0, 58.0)
    assert found.state == "ok"
    assert found.text == ""
    assert found.believed == readings


def test_no_reading_at_all():
    assert watch([], [], [], 100.0, None).state == "none"


def test_a_wire_that_falls_silent_is_missed_and_a_hand_that_types_is_not():
    readings = rising(300.0)
    assert watch(readings, [0.0], [], 320.0, 58.0).state == "ok"
    silent = watch(readings, [0.0], [], 345.0, 58.0)
    assert silent.state == "unplugged"
    assert silent.since_s == 299.0
    assert "check the plug and the cable" in silent.text
    typed = readings[::120]
    assert watch(typed, [0.0], [], 900.0, 58.0).state == "ok"


@pytest.mark.parametrize("broken", [None, -250.0, 850.0])
def test_a_broken_wire_says_nothing_or_nonsense(broken):
    readings = [*rising(300.0), *((300.0 + i, broken) for i in range(40))]
    found = watch(readings, [0.0], [], 340.0, 58.0)
    assert found.state == "unplugged"
    assert len(found.believed) == 300


def test_a_value_that_repeats_is_stuck_but_a_coarse_one_near_its_end_is_not():
    readings = rising(300.0)
    stuck = [*readings, *((300.0 + i, readings[-1][1]) for i in range(45))]
    found = watch(stuck, [0.0], [], 345.0, 58.0)
    assert found.state == "stuck"
    assert "push it back" in found.text
    slow = np.arange(0.0, 7200.0, 5.0)
    whole_halves = np.round(2 * (58 - 52 * np.exp(-slow / 800))) / 2
    calm = list(zip(slow.tolist(), whole_halves.tolist(), strict=True))
    assert watch(calm, [0.0], [], 7200.0, 58.0).state == "ok"


def slipped(by_k, at_s=300.0, until_s=380.0):
    return [(s, c + (by_k * (1 - np.exp(-(s - at_s) / 5.0)) if s >= at_s else 0.0)) for s, c in rising(until_s)]


def test_a_needle_that_slides_out_is_told_with_the_time_it_slid():
    found = watch(slipped(9.0), [0.0], [], 380.0, 58.0)
    assert found.state == "slipped"
    assert found.since_s == pytest.approx(300.0, abs=12.0)
    assert "push it back" in found.text
    assert max(s for s, _ in found.believed) < 312.0


def test_pushed_back_in_it_is_believed_again():
    again = [*slipped(9.0), *[(s, c) for s, c in rising(600.0) if s >= 380.0]]
    found = watch(again, [0.0], [380.0], 600.0, 58.0)
    assert found.state == "ok"
    assert found.believed[-1] == again[-1]
    assert not any(320.0 < s < 380.0 for s, _ in found.believed)


def test_a_knock_that_passes_is_taken_out_and_forgiven():
    knocked = [(s, c + (8.0 if 300 <= s < 318 else 0.0)) for s, c in rising(600.0)]
    found = watch(knocked, [0.0], [], 600.0, 58.0)
    assert found.state == "ok"
    assert len(found.believed) < len(knocked)


def test_one_wild_reading_is_no_fault():
    wild = [(s, 160.0 if s == 250.0 else c) for s, c in rising()]
    found = watch(wild, [0.0], [], 600.0, 58.0)
    assert found.state == "ok"
    assert all(c < 70 for _, c in found.believed)


def test_a_jump_as_a_hand_moves_the_piece_is_no_fault():
    moved = [(s, c + (7.0 if s >= 300 else 0.0)) for s, c in rising(600.0)]
    assert watch(moved, [0.0, 298.0], [], 600.0, 58.0).state == "ok"


def test_a_needle_in_the_water_or_the_pan_is_off_the_food():
    assert watch(slipped(58 - 23.0, 300.0), [0.0], [], 380.0, 58.0).state == "off-food"


def test_a_fault_that_would_not_show_is_not_made():
    random = np.random.default_rng(8)
    cook = simulated_cook("steak, bath", random)
    assert cook is not None
    made = with_fault(cook, "slipped", random)
    if made is not None:
        readings, began = made
        assert readings[-1][0] <= began + 60.0
        assert abs((readings[-1][1] or 0.0) - readings[0][1]) > 4.0
