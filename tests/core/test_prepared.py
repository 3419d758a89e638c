"""Preparation that changes a piece's form: what is cut off, folded, tied, opened or shielded, and what that does."""

from __future__ import annotations

import math

import numpy as np
import pytest

from ember.errors import BadInput
from ember.evaluate import evaluate
from ember.files.plan import parse_plan
from ember.heat.problem import as_cooked, density_of
from ember.heat.simulate import simulate
from ember.shape.of_piece import outline_of, volume_m3

BREAST = {"family": "breast", "row_mm": 150.0, "other_mm": 92.0, "thin_mm": 12.0}
TAIL = {"family": "tail", "row_mm": 210.0, "thin_mm": 24.0}
OVEN = [{"kind": "oven", "air_c": 175, "until": {"core_c": 71}}, {"kind": "rest", "minutes": 5}]


def plan_of(prep=(), outline=BREAST, size=34.0, stages=OVEN, **piece):
    is_round = outline is not None and outline["family"] in ("tail", "roll")
    shape = {"kind": "cylinder", "diameter_mm": size} if is_round else {"kind": "slab", "thickness_mm": size}
    data = {"cut": "chicken/breast", "shape": shape, "start_c": 5, **piece}
    if outline is not None:
        data["outline"] = outline
    document = {"format": "open-ember/plan", "version": 1, "piece": data, "prep": list(prep), "stages": stages}
    return parse_plan(document)


def peaks(plan):
    return {place.place: place.peak_c for place in evaluate(plan).places or ()}


@pytest.mark.parametrize(("outline", "size"), [(BREAST, 34.0), (TAIL, 58.0)])
def test_what_is_cut_off_is_gone_and_what_is_folded_is_not(outline, size):
    whole = plan_of(outline=outline, size=size)
    off, under = (as_cooked(plan_of([{"kind": kind, "mm": 40}], outline, size)) for kind in ("trim", "fold"))
    before, cut_off, folded = (volume_m3(plan.piece) for plan in (whole, off, under))
    assert folded == pytest.approx(before, rel=0.03)
    x, half = outline_of(whole.piece).x_m, outline_of(whole.piece).y_m
    power = 2.0 if outline is TAIL else 1.0
    left = np.where(x <= x[-1] - 0.04, half**power, 0.0)
    share = np.trapezoid(left, x) / np.trapezoid(half**power, x)
    assert cut_off == pytest.approx(share * before, rel=0.02)
    for plan in (off, under):
        assert outline_of(plan.piece).x_m[-1] == pytest.approx(1e-3 * outline["row_mm"] - 0.04)


def test_a_thin_end_that_was_seen_to_is_done_with_the_rest():
    bare = peaks(plan_of())
    for kind in ("fold", "trim", "shield"):
        seen_to = peaks(plan_of([{"kind": kind, "mm": 40}]))
        assert seen_to["thin_end"] < bare["thin_end"] - 8.0, kind
        assert abs(seen_to["core"] - bare["core"]) < 1.0


def test_mass_goes_with_what_is_cut_off_only():
    trimmed = as_cooked(plan_of([{"kind": "trim", "mm": 40}], mass_g=280)).piece
    folded = as_cooked(plan_of([{"kind": "fold", "mm": 40}], mass_g=280)).piece
    assert 0.7 * 280 < trimmed.mass_g < 0.95 * 280
    assert folded.mass_g == 280


def test_butterflied_it_is_half_as_thick_and_the_same_volume():
    flat = plan_of(outline=None, mass_g=260)
    opened = as_cooked(plan_of([{"kind": "butterfly"}], None, mass_g=260))
    assert opened.piece.shape.thickness_mm == 17.0
    roll = as_cooked(plan_of([{"kind": "butterfly"}], {"family": "roll", "row_mm": 200.0}, 60.0)).piece
    made_mm3 = roll.shape.thickness_mm * roll.width_mm * 200.0
    assert made_mm3 == pytest.approx(math.pi / 4 * 60.0**2 * 200.0, rel=0.01)
    assert simulate(opened).stages[0].end_s < 0.6 * simulate(flat).stages[0].end_s
    breast = as_cooked(plan_of([{"kind": "butterfly"}])).piece
    assert volume_m3(breast) == pytest.approx(volume_m3(plan_of().piece), rel=0.01)


def test_a_string_makes_a_tapered_piece_an_even_roll():
    tied = as_cooked(plan_of([{"kind": "tie"}], mass_g=300))
    length_mm, across_mm = tied.piece.outline.row_mm, tied.piece.shape.diameter_mm
    volume_mm3 = 1e6 * 300 / density_of(tied)
    assert math.pi / 4 * across_mm**2 * length_mm == pytest.approx(volume_mm3, rel=0.01)
    tail = as_cooked(plan_of([{"kind": "tie"}], TAIL, 58.0)).piece
    assert volume_m3(tail) == pytest.approx(volume_m3(plan_of(outline=TAIL, size=58.0).piece), rel=0.01)
    # A medallion's string keeps it what it is.
    medallion = {"family": "medallion", "row_mm": 70.0}
    assert as_cooked(plan_of([{"kind": "tie"}], medallion, 40.0)).piece.outline.family == "medallion"


def test_the_prepared_piece_keeps_what_was_done_to_it():
    plan = plan_of([{"kind": "fold", "mm": 25}])
    assert plan.history == ["pierced"]
    assert as_cooked(plan).history == ["pierced"]


def test_skewered_it_does_not_drape():
    in_pan = [{"kind": "pan", "pan_c": 190, "seconds_a_side": 150, "sides": 2}]
    soft, stiff = (peaks(plan_of(prep, stages=in_pan)) for prep in ([], [{"kind": "skewer"}]))
    assert stiff["thin_end"] < soft["thin_end"] - 10.0


@pytest.mark.parametrize(
    ("step", "outline", "words"),
    [
        ({"kind": "fold", "mm": 30}, None, "no thin end"),
        ({"kind": "trim", "mm": 30}, {"family": "steak", "row_mm": 90.0}, "no thin end"),
        ({"kind": "shield"}, BREAST, "how much"),
        ({"kind": "fold", "mm": 90}, BREAST, "more than half"),
    ],
)
def test_a_step_that_cannot_be_says_why(step, outline, words):
    with pytest.raises(BadInput, match=words) as found:
        evaluate(plan_of([{"kind": "season"}, step], outline))
    assert found.value.at == "prep[1]"


@pytest.mark.parametrize(
    ("cut", "mass_g", "air_c", "low", "high"),
    [("chicken/whole", 1700, 220, 40, 50), ("turkey/whole", 5500, 230, 75, 95)],
)
def test_a_spatchcocked_bird_takes_little_more_than_half_the_time(cut, mass_g, air_c, low, high):
    # Common practice.
    bird = {"cut": cut, "shape": {"kind": "from_mass"}, "mass_g": mass_g, "start_c": 4}
    oven = [{"kind": "oven", "air_c": air_c, "until": {"core_c": 74}}]
    whole = {"format": "open-ember/plan", "version": 1, "piece": bird, "stages": oven}
    flat = evaluate(parse_plan({**whole, "prep": [{"kind": "spatchcock"}]}))
    assert low <= flat.pull.s / 60 <= high
    assert flat.pull.s < 0.75 * evaluate(parse_plan(whole)).pull.s
    assert {part.part for part in flat.parts} == {"breast", "thigh"}


def test_a_stuffed_bird_is_not_spatchcocked():
    bird = {"cut": "chicken/whole", "shape": {"kind": "from_mass"}, "mass_g": 1700, "start_c": 4, "stuffed": True}
    document = {
        "format": "open-ember/plan",
        "version": 1,
        "piece": bird,
        "stages": OVEN,
        "prep": [{"kind": "spatchcock"}],
    }
    with pytest.raises(BadInput, match="unstuffed"):
        evaluate(parse_plan(document))


def test_only_a_flat_piece_or_a_roll_is_butterflied():
    document = plan_of().model_dump(by_alias=True) | {"prep": [{"kind": "butterfly"}]}
    document["piece"] = {"cut": "chicken/whole", "shape": {"kind": "from_mass"}, "mass_g": 1600, "start_c": 5}
    with pytest.raises(BadInput, match="butterflied"):
        evaluate(parse_plan(document))


def test_steps_come_one_after_another_and_an_answer_is_not_changed_twice():
    twice = plan_of([{"kind": "trim", "mm": 30}, {"kind": "fold", "mm": 20}])
    once = as_cooked(twice)
    assert as_cooked(once) is once
    assert outline_of(once.piece).x_m[-1] == pytest.approx(0.100)


@pytest.mark.parametrize("family", ["chop", "breast", "fillet"])
def test_a_round_end_is_a_tip_and_not_a_wall_without_heat(family):
    """The stadium of 100 x 25 as a row from end to end takes as long as half of it up to its middle; a taper's round
    ends shorten it.
    """
    dry = {"k_w_mk": 0.5, "rho_kg_m3": 1050.0, "cp_j_kgk": 3500.0}
    stages = [{"kind": "medium", "medium_c": 80, "h_w_m2k": 100, "until": {"core_c": 73}}]
    thin = {} if family == "chop" else {"thin_mm": 10.0}

    def seconds(outline):
        return simulate(plan_of(outline=outline, size=25.0, stages=stages, properties=dry, start_c=10)).end_s

    both_round = seconds({"family": family, "row_mm": 100.0, "ends": ["round", "round"], **thin})
    if family == "chop":
        mirrored = seconds({"family": "steak", "row_mm": 100.0, "ends": ["cut", "round"]})
        assert both_round == pytest.approx(mirrored, rel=0.012)
        assert both_round == pytest.approx(
            2129.6, rel=0.015
        )  # finite elements of second order: stadium 100 x 25, film of 100
    else:
        square = seconds({"family": family, "row_mm": 100.0, **thin})
        assert 0.85 * square < both_round <= 1.005 * square
