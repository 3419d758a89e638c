"""Stages with fields of their own on the bench: loads, frost, fire, pressure; posted, kept and shown again."""

from __future__ import annotations

import pytest

from ember.quantities import Units
from kitchen.plans.bench import Bench
from kitchen.plans.chain import changed
from kitchen.plans.stage_form import StageForm

from .posting import UNITS, posted

QUARTS = Units("F", "in", "lb")
STAGES = [
    {"kind": "bath", "water_c": 56.0, "minutes": 90.0, "load": {"litres": 20.0, "power_w": 1500.0}},
    {"kind": "fry", "oil_c": 175.0, "minutes": 5.0, "load": {"litres": 8.0, "pieces": 3}},
    {"kind": "oven", "air_c": 160.0, "minutes": 30.0, "cover": "wrapped"},
    {"kind": "oven", "air_c": 190.0, "minutes": 20.0, "mode": "air-fryer"},
    {"kind": "grill", "source_c": 600.0, "zone": "indirect", "lid": "closed", "bars": False, "minutes": 20.0},
    {"kind": "grill", "source_c": 750.0, "fire": "above", "seconds_a_side": 240.0, "sides": 2},
    {"kind": "pressure", "bar_over": 0.7, "minutes": 40.0},
    {"kind": "freeze", "air_c": -35.0, "blast": True, "minutes": 900.0},
    {"kind": "thaw", "in": "water", "water_c": 12.0, "minutes": 60.0},
    {"kind": "thaw", "in": "fridge", "air_c": 3.0, "minutes": 1200.0},
]


@pytest.mark.parametrize("stage", STAGES, ids=[f"{s['kind']} {i}" for i, s in enumerate(STAGES)])
@pytest.mark.parametrize("units", [UNITS, QUARTS], ids=["metric", "quarts"])
def test_what_is_kept_is_shown_and_posted_back_as_it_was(document, stage, units):
    values = posted({**document, "stages": [stage]}, units)
    bench = Bench.of_post(changed(values, units), units)
    bench.work_out({})
    assert not bench.stages[0].errors
    (found,) = bench.core.model_dump(by_alias=True, exclude_unset=True)["stages"]
    for key, value in stage.items():
        if key == "load":
            assert found["load"] == pytest.approx(value, rel=0.01)
        else:
            assert found[key] == (pytest.approx(value, abs=0.06) if isinstance(value, float) else value), key


def test_a_load_left_empty_is_none(document):
    bath = {"kind": "bath", "water_c": 56.0, "minutes": 90.0}
    values = posted({**document, "stages": [bath]}) | {"s0-load_volume": "", "s0-load_power": ""}
    bench = Bench.of_post(changed(values, UNITS), UNITS)
    bench.work_out({})
    assert bench.core.stages[0].load is None


@pytest.mark.parametrize(("typed", "words"), [("lots", "volume"), ("0.1", "from 0.5 to 2000")])
def test_a_load_that_cannot_be_says_so_beside_it(document, typed, words):
    bath = {"kind": "bath", "water_c": 56.0, "minutes": 90.0}
    values = posted({**document, "stages": [bath]}) | {"s0-load_volume": typed}
    bench = Bench.of_post(changed(values, UNITS), UNITS)
    bench.work_out({})
    assert words in str(bench.stages[0].errors["load_volume"])


def test_a_large_load_tells_how_far_its_bath_falls(document):
    bath = {"kind": "bath", "water_c": 60.0, "minutes": 120.0, "load": {"litres": 20.0, "power_w": 1500.0}}
    piece = {**document["piece"], "mass_g": 250.0, "count": 64, "start_c": 4.0}
    bench = Bench.of_post(posted({**document, "piece": piece, "stages": [bath]}), UNITS)
    bench.work_out({})
    assert not bench.problem
    assert any("falls to" in warning.text and "at once" in warning.text for warning in bench.result.warnings)


@pytest.mark.parametrize("kind", ["pressure", "freeze", "thaw", "grill", "fry"])
def test_a_stage_just_added_works(document, kind):
    values = changed(posted(document) | {"do": f"add:{kind}"}, UNITS)
    bench = Bench.of_post(values, UNITS)
    bench.work_out({})
    assert bench.stages[-1].kind == kind
    assert not bench.stages[-1].errors
    assert isinstance(bench.stages[-1], StageForm)


def test_a_piece_begins_frozen(document):
    values = posted(document) | {"start": "-18"}
    bench = Bench.of_post(changed(values, UNITS), UNITS)
    bench.work_out({})
    assert bench.core.piece.start_c == -18.0
