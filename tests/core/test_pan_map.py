"""Pieces laid one after the other: the pan's heat, and who needs a hand when."""

from __future__ import annotations

import math

import numpy as np
import pytest

from ember.errors import BadInput
from ember.evaluate import evaluate
from ember.heat.lay_down import conductance, lay_down_of, pan_temperatures
from ember.track.pan_map import SEARS_FROM_C, pan_map

from .plans import plan

PAN = {"mass_kg": 2.4, "material": "carbon-steel", "diameter_mm": 320}
STAGE = {"kind": "pan", "pan_c": 210, "seconds_a_side": 90, "sides": 2, "pan": PAN}


def job(count=6, **pan):
    """Large pieces on a weak flame: the pan feels each of them."""
    return lay_down_of(plan([{**STAGE, "power_w": 700, **pan}], "pork/chop", count=count, mass_g=420), 0)


def test_the_flux_is_that_of_a_half_space_in_convection():
    """Incropera & DeWitt, section 5.7: q = h (T - T0) exp(x²) erfc(x); far out h (T - T0) / (x √π)."""
    one = job()
    for x in (0.5, 1.0, 2.0, 4.0):
        seconds = (x * one.k_w_mk / one.h_w_m2k) ** 2 / one.diffusivity_m2_s
        assert conductance(one, seconds) / one.h_w_m2k == pytest.approx(math.exp(x * x) * math.erfc(x), rel=1e-9)
    near, far = conductance(one, 299.0), conductance(one, 301.0)
    assert near / far == pytest.approx(math.sqrt(301 / 299), rel=0.01)  # √t, across the seam of the asymptote


def test_an_empty_pan_holds_and_food_takes_what_the_pan_loses():
    one = job()
    _, empty = pan_temperatures(one, [], 120.0)
    assert empty == pytest.approx(np.full(len(empty), 210.0), abs=0.01)
    t, full = pan_temperatures(one, [(0.0, 1e9)], 60.0)
    taken = sum(conductance(one, max(s, 0.25)) * one.piece_m2 * (c - one.piece_c) for s, c in zip(t, full, strict=True))
    lost = sum(one.loss_w_k * (c - one.ambient_c) for c in full)
    given = one.power_w * 60.5
    assert (taken + lost) * 0.5 <= given + one.heat_j_k * (210 - full[-1]) + 1.0  # nothing from nowhere
    assert full.min() < 210


def test_more_pieces_and_a_lighter_pan_fall_further():
    def lowest(pieces, **pan):
        return pan_temperatures(job(**pan), [(10.0 * i, 1e9) for i in range(pieces)], 90.0)[1].min()

    assert lowest(6) < lowest(3) < lowest(1)
    assert lowest(4, pan={**PAN, "mass_kg": 1.0}) < lowest(4)


def test_all_at_once_it_falls_as_the_simulation_says():
    """The simulation follows the faces and their water: the half-space has neither, and agrees to some 15 K."""
    six = plan([STAGE], "pork/chop", count=6, mass_g=170)
    coldest = evaluate(six).stages[0].coldest_pan_c
    _, pan_c = pan_temperatures(lay_down_of(six, 0), [(0.0, 90.0)] * 6, 90.0)
    assert pan_c.min() == pytest.approx(coldest, abs=15)


def test_each_piece_gets_the_same_time_whenever_it_was_laid():
    did = [(1, "lay", 0.0), (2, "lay", 11.0), (3, "lay", 25.0)]
    found = pan_map(job(), 3, 90.0, 2, did, 40.0)
    assert [piece.due_s for piece in found.pieces] == [90.0, 101.0, 115.0]
    assert found.next.number == 1
    assert found.next.next == "turn"
    turned = pan_map(job(), 3, 90.0, 2, [*did, (1, "turn", 93.0)], 95.0)
    assert turned.pieces[0].next == "lift"
    assert turned.pieces[0].due_s == 183.0
    assert turned.pieces[0].side_s(0, 95.0) == 93.0
    assert turned.pieces[0].side_s(1, 95.0) == 2.0
    assert turned.next.number == 2
    out = pan_map(job(), 3, 90.0, 2, [*did, (1, "turn", 93.0), (1, "lift", 180.0)], 200.0)
    assert out.pieces[0].next is None
    assert out.pieces[0].side_s(1, 200.0) == 87.0


def test_one_more_waits_until_the_pan_sears_again():
    heavy = job(count=8, pan={**PAN, "mass_kg": 1.2})
    did = [(n, "lay", 6.0 * n) for n in range(1, 6)]
    found = pan_map(heavy, 8, 90.0, 2, did, 34.0)
    assert found.lowest_now_c < SEARS_FROM_C
    assert found.wait_s is None or found.wait_s > 0
    assert found.pieces[5].due_s > 34.0 + 6.0


def test_the_first_goes_in_at_once_and_a_good_pan_takes_the_next():
    found = pan_map(job(), 4, 90.0, 2, [], 0.0)
    assert found.wait_s == 0.0
    assert found.next.number == 1
    assert found.next.due_s == pytest.approx(0.0)


def test_only_a_pan_has_a_map():
    with pytest.raises(BadInput, match="not in a pan"):
        lay_down_of(plan([{"kind": "bath", "water_c": 60, "minutes": 60}]), 0)
