"""Every kind of stage: what it does to a piece, and what no plan at all may do."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from ember.errors import BadInput, NeverReached
from ember.evaluate import evaluate
from ember.files.base import KINDS
from ember.files.plan import parse_plan
from ember.food.catalogue import cuts
from ember.food.geometry import body_size, brick_exponent, finite_cylinder_exponent, with_size
from ember.heat.ensemble_runner import ensemble, members_of
from ember.heat.kernel import run_rimmed
from ember.heat.media import medium_c
from ember.heat.problem import density_of
from ember.heat.row_kernel import run_row
from ember.heat.simulate import simulate

from .plans import document, plan

ONE_OF_EACH = {
    "temper": {"minutes": 20}, "bath": {"water_c": 57, "minutes": 40}, "pan": {"pan_c": 210, "seconds_a_side": 60},
    "plancha": {"plate_c": 220, "seconds_a_side": 60}, "grill": {"source_c": 700, "seconds_a_side": 90},
    "oven": {"air_c": 160, "minutes": 20}, "fry": {"oil_c": 175, "minutes": 4}, "steam": {"minutes": 8},
    "simmer": {"minutes": 10}, "poach": {"water_c": 75, "minutes": 10}, "boil": {"minutes": 5},
    "rest": {"minutes": 6, "on": "board"}, "hold": {"air_c": 62, "minutes": 30}, "ice_bath": {"minutes": 20},
    "chill": {"air_c": 3, "minutes": 60}, "reheat": {"in": "oven", "minutes": 20}, "torch": {"minutes": 0.3},
    "brine": {"form": "liquid", "minutes": 60}, "medium": {"medium_c": 70, "h_w_m2k": 50, "minutes": 20},
    "pressure": {"minutes": 8}, "freeze": {"air_c": -20, "minutes": 60}, "thaw": {"in": "fridge", "minutes": 60},
}  # fmt: skip


PIECES = {
    "slab": {"shape": {"kind": "slab", "thickness_mm": 26}},
    "roll": {"shape": {"kind": "cylinder", "diameter_mm": 52}},
    "fillet in sections": {
        "shape": {"kind": "slab", "thickness_mm": 26}, "outline": {"family": "fillet", "row_mm": 70, "thin_mm": 10}
    },
    "tail in sections": {
        "shape": {"kind": "cylinder", "diameter_mm": 52}, "outline": {"family": "tail", "row_mm": 160, "thin_mm": 20}
    },
}  # fmt: skip


def stage(kind, **keys):
    return {"kind": kind, **ONE_OF_EACH[kind], **keys}


@pytest.mark.parametrize("kind", KINDS)
@pytest.mark.parametrize("piece", PIECES)
def test_every_kind_moves_the_piece_towards_its_medium(kind, piece):
    shape = PIECES[piece]
    recipe = plan([stage(kind)], **shape, start_c=20)
    run = simulate(recipe)
    hot = medium_c(recipe.stages[0]) > 25
    cold = medium_c(recipe.stages[0]) < 18
    change = float((run.temperature_c[-1] * run.grid.volume).sum() / run.grid.volume.sum()) - 20.0
    assert change > 0.2 if hot else change < -0.2 if cold else abs(change) < 8
    assert evaluate(parse_plan(document([stage(kind)], **shape, start_c=20))).yield_pct <= 100.01


def test_one_compiled_form_serves_every_stage():
    # A whole number where the others have a float is another type to the compiler, and a minute's wait for a cook.
    for shape in PIECES.values():
        simulate(plan([stage("oven")], **shape, start_c=20))
    forms = [set(compiled.signatures) for compiled in (run_rimmed, run_row)]
    for shape in PIECES.values():
        for kind in KINDS:
            simulate(plan([stage(kind)], **shape, start_c=20))
        simulate(plan([stage("bath", load={"litres": 20}), {"kind": "rest", "minutes": 3, "on": "board"}], **shape))
    assert [set(compiled.signatures) for compiled in (run_rimmed, run_row)] == forms


@pytest.mark.parametrize("where", ["oven", "bath", "steam", "pan", "sauce"])
def test_reheating_in_each(where):
    run = simulate(plan([{"kind": "reheat", "in": where, "minutes": 15}]))
    assert run.core_c[-1] > 12


def test_water_boils_cooler_up_the_mountain():
    # Steam tables with the standard atmosphere: 95.0 °C at 1500 m, 90.0 at 3000 m (rounded).
    for metres, celsius in ((0, 100.0), (1500, 95.0), (3000, 90.0)):
        boil = plan([stage("boil", altitude_m=metres)]).stages[0]
        assert medium_c(boil) == pytest.approx(celsius, abs=0.2)
    with pytest.raises(BadInput) as caught:
        plan([stage("simmer", water_c=96, altitude_m=2000)])
    assert caught.value.at == "stages[0]"
    assert "93.3" in caught.value.message


def test_a_hot_plate_a_board_and_a_rack():
    def end(on):
        bath = {"kind": "bath", "water_c": 60, "minutes": 90}
        return simulate(plan([bath, {"kind": "rest", "minutes": 15, "on": on}])).core_c[-1]

    assert end("hot_plate") > end("board") > end("rack")


def test_covers_slow_the_cooling():
    def end(cover):
        bath = {"kind": "bath", "water_c": 60, "minutes": 90}
        return simulate(plan([bath, {"kind": "rest", "minutes": 15, "cover": cover}])).core_c[-1]

    assert end("wrapped") > end("foil") > end("open")


@pytest.mark.parametrize(
    ("bad", "at"),
    [
        ({"kind": "pan", "seconds_a_side": 60}, "stages[0]"),
        ({"kind": "pan", "power_w": 900, "seconds_a_side": 60}, "stages[0]"),
        ({"kind": "pan", "pan_c": 200}, "stages[0]"),
        ({"kind": "pan", "pan_c": 200, "minutes": 3, "sides": 2}, "stages[0]"),
        ({"kind": "pan", "pan_c": 200, "seconds_a_side": 60, "pan": {"mass_kg": 0}}, "stages[0].pan.mass_kg"),
        ({"kind": "fry", "oil_c": 240, "minutes": 3}, "stages[0].oil_c"),
        ({"kind": "hold", "minutes": 3}, "stages[0]"),
        ({"kind": "reheat", "in": "bath", "air_c": 100, "minutes": 3}, "stages[0]"),
        ({"kind": "bath", "water_c": 57, "until": {"log10": 6}}, "stages[0].until"),
        ({"kind": "sauna", "minutes": 3}, "stages[0]"),
    ],
)
def test_a_stage_that_cannot_be_is_refused_where_it_stands(bad, at):
    with pytest.raises(BadInput) as caught:
        plan([bad])
    assert caught.value.at == at


def test_a_turning_pan_may_wait_for_its_core():
    run = simulate(plan([{"kind": "pan", "pan_c": 210, "turn_every_s": 45, "until": {"core_c": 40}}]))
    assert run.core_c[-1] == pytest.approx(40, abs=0.01)
    with pytest.raises(NeverReached):
        simulate(plan([{"kind": "pan", "pan_c": 60, "turn_every_s": 600, "until": {"core_c": 70, "max_minutes": 60}}]))


@pytest.mark.parametrize("cut_id", sorted(cuts()))
def test_every_cut_has_a_size_from_its_mass(cut_id):
    row = cuts()[cut_id]
    for factor in (0.7, 1.0, 1.4):
        grams = 900 * factor
        piece = plan([stage("oven", minutes=5)], cut_id, shape={"kind": "from_mass"}, mass_g=grams).piece
        size = body_size(piece, row, 1050)
        assert 4 < size.size_mm < 400
        assert 0 <= size.exponent <= 2
    small = body_size(piece.model_copy(update={"mass_g": 600.0}), row, 1050).size_mm
    big = body_size(piece.model_copy(update={"mass_g": 1200.0}), row, 1050).size_mm
    assert big >= small
    assert body_size(with_size(piece, row, 1050, 33.0), row, 1050).size_mm == 33.0


def test_exponents_of_common_bodies():
    # A cube has the exponent the published heating times of a cube fit (1.25); a long bar that of a roll.
    assert brick_exponent(1, 1) == pytest.approx(1.2)
    assert finite_cylinder_exponent(10) == pytest.approx(1.0, abs=0.01)


def test_a_coarse_ensemble_follows_the_fine_run():
    recipe = plan(
        [{"kind": "oven", "air_c": 155, "minutes": 90}, {"kind": "rest", "minutes": 30}],
        "pork/leg", shape={"kind": "cylinder", "diameter_mm": 120}, fat_cap_mm=5,
    )  # fmt: skip
    at = np.linspace(0, simulate(recipe).end_s, 40)
    members = members_of(np.array([1.0, 1.1, 0.9]), np.array([5.0, 8.0, 2.0]), np.array([0.0, 0.0, 10.0]), np.ones(3))
    cores = ensemble(recipe, members, at)
    fine = simulate(recipe)
    assert np.abs(cores[0] - fine.node_c(at, fine.grid.core)).max() < 0.2
    from ember.food.catalogue import cut

    thick = with_size(recipe.piece, cut("pork/leg"), density_of(recipe), 132.0)
    thick = thick.model_copy(update={"start_c": 8.0, "fat_cap_mm": 5.5})  # a bigger piece is bigger in all its parts
    fine = simulate(recipe.model_copy(update={"piece": thick}))
    assert np.abs(cores[1] - fine.node_c(at, fine.grid.core)).max() < 0.2
    assert cores[2].max() > cores[0].max() + 3


anything = st.one_of(
    st.builds(lambda c, m, b: stage("bath", water_c=c, minutes=m, bagged=b), st.floats(0, 99), st.floats(0.1, 900),
              st.booleans()),
    st.builds(lambda c, s, n, f: stage("pan", pan_c=c, seconds_a_side=s, sides=n, first=f), st.floats(40, 500),
              st.floats(1, 300), st.integers(1, 6), st.sampled_from(["under", "top"])),
    st.builds(
        lambda c, m, a, i, k, h, d: {
            **stage("oven", air_c=c, minutes=m, mode=a, cover=k, humidity=h, open_every_min=d), "in": i,
        },
        st.floats(30, 320), st.floats(0.1, 200), st.sampled_from(["still", "fan", "combi", "smoker"]),
        st.sampled_from(["rack", "tray", "pan", "water_bath"]), st.sampled_from(["none", "cloth", "foil", "lid"]),
        st.none() | st.floats(0, 1), st.none() | st.floats(5, 60),
    ),
    st.builds(lambda c, m: stage("fry", oil_c=c, minutes=m), st.floats(60, 230), st.floats(0.1, 20)),
    st.builds(lambda k, m: stage(k, minutes=m), st.sampled_from(["steam", "simmer", "poach", "boil"]),
              st.floats(0.1, 120)),
    st.builds(lambda k, m, o: stage("rest", minutes=m, cover=k, on=o), st.sampled_from(["open", "foil", "wrapped"]),
              st.floats(0.1, 60), st.sampled_from(["rack", "board", "hot_plate"])),
    st.builds(lambda k, m: stage(k, minutes=m), st.sampled_from(["ice_bath", "chill", "temper", "hold"]),
              st.floats(0.1, 300)),
    st.builds(lambda w, m: {"kind": "reheat", "in": w, "minutes": m},
              st.sampled_from(["oven", "bath", "steam", "pan", "sauce"]), st.floats(0.1, 60)),
    st.builds(lambda c, s: stage("grill", source_c=c, seconds_a_side=s), st.floats(200, 900), st.floats(1, 300)),
    st.builds(lambda m: stage("torch", minutes=m), st.floats(0.05, 2)),
)  # fmt: skip


@settings(max_examples=120, deadline=None)
@given(
    size=st.floats(2, 200), start=st.floats(-1, 30), shape=st.sampled_from(["slab", "cylinder", "sphere"]),
    stages=st.lists(anything, min_size=1, max_size=4), cap=st.sampled_from([None, 3.0]), count=st.integers(1, 12),
    cut=st.sampled_from(["beef/strip-loin", "lamb/leg", "duck/whole"]), stuffed=st.booleans(),
)  # fmt: skip
def test_no_plan_leaves_its_media_or_loses_more_than_its_water(size, start, shape, stages, cap, count, cut, stuffed):
    body = {"kind": shape, ("thickness_mm" if shape == "slab" else "diameter_mm"): size}
    recipe = plan(stages, cut, shape=body, start_c=start, fat_cap_mm=cap, count=count, stuffed=stuffed)
    run = simulate(recipe)
    hottest = max([start, 62.0, *(65.0 if s.kind == "rest" else medium_c(s) + 5.0 for s in recipe.stages)])
    assert np.isfinite(run.temperature_c).all()
    assert run.temperature_c.max() <= hottest + 0.5
    assert run.temperature_c.min() >= min(start, -1.5, *(medium_c(s) for s in recipe.stages)) - 1.0
    assert (run.lost_kg_m3 <= run.water_kg_m3 + 1e-6).all()
    assert 0.0 <= run.water_lost_share <= 0.85
    assert np.all(np.diff(run.t_s) >= 0)


@settings(max_examples=25, deadline=None)
@given(
    thin=st.floats(8, 60), more=st.floats(1, 25), hotter=st.floats(2, 40), kind=st.sampled_from(["pan", "bath", "oven"])
)
def test_thicker_is_slower_and_hotter_is_quicker(thin, more, hotter, kind):
    key = {"pan": "pan_c", "bath": "water_c", "oven": "air_c"}[kind]
    base = {"pan": 160.0, "bath": 58.0, "oven": 130.0}[kind]

    def seconds(mm, celsius):
        heat = {"kind": kind, key: celsius, "until": {"core_c": 48}}
        if kind == "pan":
            heat["turn_every_s"] = 30
        return simulate(plan([heat], shape={"kind": "slab", "thickness_mm": mm})).end_s

    assert seconds(thin + more, base) > seconds(thin, base)
    assert seconds(thin, base + hotter) < seconds(thin, base)


def test_a_plan_that_is_done_before_it_begins():
    result = evaluate(parse_plan(document([{"kind": "chill", "air_c": 3, "until": {"core_c": 8}}], start_c=8)))
    assert result.stages[0].end_s == 0
    assert result.core.peak_c == 8
    assert result.curves.core_c == [8.0]


def test_turns_without_end_are_refused_not_followed():
    with pytest.raises(BadInput, match="turns"):
        simulate(plan([{"kind": "pan", "pan_c": 200, "turn_every_s": 1, "minutes": 20_000}]))
