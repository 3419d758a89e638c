"""What a piece wears in the fryer, pieces that touch in a bath, trussed birds."""

from __future__ import annotations

import pytest

from ember.errors import BadInput
from ember.evaluate import evaluate
from ember.files.plan import parse_plan
from ember.heat.simulate import simulate

from .plans import document


def fried_min(cut, mm, core_c, coat, oil_c=175):
    stage = {"kind": "fry", "oil_c": oil_c, "coat": coat, "until": {"core_c": core_c}}
    piece = {"shape": {"kind": "slab", "thickness_mm": mm}, "start_c": 5}
    return simulate(parse_plan(document([stage], cut, **piece))).end_s / 60


# Common practice: crumbed chicken of 12 mm fries 3 to 5 minutes at 175 °C, battered cod of 25 mm 5 to 8 at 180 °C.
@pytest.mark.parametrize(
    ("cut", "mm", "core_c", "coat", "oil_c", "low", "high"),
    [("chicken/breast", 12, 72, "crumb", 175, 3, 5), ("cod/fillet", 25, 58, "batter", 180, 5, 8)],
)
def test_coated_pieces_fry_as_long_as_practice_says(cut, mm, core_c, coat, oil_c, low, high):
    assert low <= fried_min(cut, mm, core_c, coat, oil_c) <= high


def test_a_thicker_coat_takes_longer():
    times = [fried_min("chicken/breast", 14, 72, coat) for coat in ("none", "flour", "crumb", "batter")]
    assert times == sorted(times)
    assert 1.1 < times[2] / times[0] < 2.0


def in_bath(lies, mm, **piece):
    stage = {"kind": "bath", "water_c": 60, "lies": lies, "until": {"core_c": 58}}
    piece = {"shape": {"kind": "slab", "thickness_mm": mm}, "width_mm": 400, "length_mm": 400, "start_c": 5, **piece}
    return parse_plan(document([stage], "chicken/breast", **piece))


def test_a_touching_pair_is_one_piece_twice_as_thick():
    pair, thick = (simulate(in_bath(lies, mm)) for lies, mm in (("against", 20), ("free", 40)))
    coldest = pair.temperature_c.min(axis=1)[-1]  # its cold face is the pair's middle
    assert pair.end_s < thick.end_s
    assert coldest == pytest.approx(float(pair.temperature_c[-1, 0]), abs=0.01)
    assert simulate(in_bath("free", 20)).end_s < 0.6 * pair.end_s


def test_a_pairs_coldest_place_is_judged():
    pair = evaluate(in_bath("against", 25))
    assert pair.stages[0].surface_c[1] < pair.core.peak_c
    assert "touching" in [warning.code for warning in pair.warnings]


def test_only_flat_pieces_touch():
    with pytest.raises(BadInput, match="only flat pieces"):
        in_bath("against", 0, shape={"kind": "cylinder", "diameter_mm": 60})


def test_a_trussed_birds_thigh_takes_about_a_tenth_longer():
    stages = [{"kind": "oven", "air_c": 180, "until": {"core_c": 74}}]
    bird = {"shape": {"kind": "from_mass"}, "mass_g": 1800, "start_c": 5}
    plain = document(stages, "chicken/whole", **bird)
    trussed = {**plain, "prep": [{"kind": "truss", "minutes": 4}]}
    open_s, tied_s = (simulate(parse_plan(each), part="thigh").end_s for each in (plain, trussed))
    assert 1.06 < tied_s / open_s < 1.13


def test_only_a_bird_is_trussed():
    with pytest.raises(BadInput, match="whole bird"):
        evaluate(parse_plan({**document([{"kind": "rest", "minutes": 5}]), "prep": [{"kind": "truss"}]}))
