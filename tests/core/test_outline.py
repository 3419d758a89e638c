"""The outline of a piece in a plan: what may stand in it, what follows from it, and sizes without it."""

from __future__ import annotations

import pytest

from ember.errors import BadInput
from ember.evaluate import evaluate
from ember.files.piece import Piece
from ember.files.plan import parse_plan
from ember.food.catalogue import cut, cuts
from ember.food.geometry import footprint_mm, mass_of, with_size
from ember.heat.kappa import kappas
from ember.heat.problem import density_of
from ember.heat.simulate import simulate
from ember.report.places import judged
from ember.shape.of_piece import outline_of
from ember.shape.usual import confidence_of, usual_outline

from .plans import document, plan

OVEN = [{"kind": "oven", "air_c": 200, "until": {"core_c": 52}}, {"kind": "rest", "minutes": 5}]
FILLET = {"family": "fillet", "thin_mm": 8, "row_mm": 80}


def with_outline(outline, thick=25, stages=OVEN, **piece):
    kind = piece.pop("kind", "slab")
    size = {"diameter_mm" if kind == "cylinder" else "thickness_mm": thick}
    return document(stages, piece.pop("cut", "cod/fillet"), shape={"kind": kind, **size}, outline=outline, **piece)


WRONG = {
    "thin over thick": (FILLET | {"thin_mm": 30}, "the thin end is"),
    "thinner than flesh stays": (FILLET | {"thin_mm": 2}, "the thin end is"),
    "another thickness than the shape": (FILLET | {"thick_mm": 30}, "at its thickest"),
    "the row the wrong way": (FILLET | {"row_mm": 20}, "turn the outline round"),
    "no row": ({"family": "steak"}, "needs row_mm"),
    "no thin end": ({"family": "breast", "row_mm": 150}, "needs thin_mm"),
    "a thin end of a steak": ({"family": "steak", "row_mm": 90, "thin_mm": 9}, "has no thin end"),
    "a roll that is flat": ({"family": "roll", "row_mm": 200}, "has the shape cylinder"),
    "a bone in a steak": ({"family": "steak", "row_mm": 90, "bone": {"mm": 10}}, "only a chop"),
    "a trace that goes back": ({"family": "traced", "trace": [[0, 25], [40, 20], [30, 8]]}, "go upwards"),
    "no trace": ({"family": "traced"}, "needs its trace"),
    "a block of two sizes": ({"family": "chunk", "row_mm": 60}, "needs other_mm"),
    "cut at the thin end": (FILLET | {"ends": ["square", "cut"]}, "square or round"),
}


@pytest.mark.parametrize("name", WRONG)
def test_an_outline_that_cannot_be_says_why(name):
    outline, words = WRONG[name]
    with pytest.raises(BadInput, match=words) as caught:
        parse_plan(with_outline(outline))
    assert "piece" in str(caught.value.at)


@pytest.mark.parametrize(
    ("key", "mm", "outline"),
    [
        ("width_mm", 95, FILLET), ("length_mm", 190, {"family": "breast", "thin_mm": 10, "row_mm": 150}),
        ("length_mm", 150, {**FILLET, "other_mm": 120}), ("length_mm", 75, {"family": "medallion", "row_mm": 70}),
    ],
)  # fmt: skip
def test_sizes_beside_an_outline_are_its_own(key, mm, outline):
    with pytest.raises(BadInput, match=f"{mm} mm, in the outline"):
        parse_plan(with_outline(outline, **{key: mm}))
    row = outline.get("other_mm", outline["row_mm"])
    assert parse_plan(with_outline(outline, **{key: row + 1})).piece.outline is not None


def test_a_dome_is_quicker_than_a_steak_of_its_thickness():
    """A lens of 25 × 80 mm; what heat sees of a fillet's thickness where nobody measured (Form.dome) is 0.85."""
    minutes = {}
    for family in ("steak", "dome"):
        recipe = parse_plan(with_outline({"family": family, "row_mm": 80, "other_mm": 120}))
        minutes[family] = evaluate(recipe).stages[0].end_s
    assert 0.6 < minutes["dome"] / minutes["steak"] < 0.95


def test_a_trace_with_a_step_is_refused_where_it_stands():
    steps = [[0, 40], [20, 40], [21, 8], [80, 8]]
    with pytest.raises(BadInput, match="turns too sharply") as caught:
        evaluate(parse_plan(with_outline({"family": "traced", "trace": steps}, thick=40)))
    assert caught.value.at == "piece.outline"


def test_a_trace_of_a_taper_is_the_taper():
    trace = [[0, 25], [20, 20.75], [40, 16.5], [60, 12.25], [80, 8]]
    straight = simulate(parse_plan(with_outline(FILLET)))
    traced = simulate(parse_plan(with_outline({"family": "traced", "trace": trace})))
    assert traced.stages[0].end_s == pytest.approx(straight.stages[0].end_s, rel=0.01)


def test_the_result_says_each_place_and_draws_the_face():
    result = evaluate(parse_plan(with_outline(FILLET) | {"depth_map": True}))
    places = {place.place: place for place in result.places}
    assert set(places) == {"core", "thick_end", "thin_end"}
    assert places["thin_end"].peak_c > places["core"].peak_c + 20
    assert places["core"].peak_c == pytest.approx(result.core.peak_c, abs=0.1)
    assert 5 < result.evenness_pct < 60
    face = result.section
    cells = len(face.x_mm) * len(face.x_mm[0])
    assert {len(row) for row in face.hottest_c} == {len(row) for row in face.pigment} == {cells}
    assert len(face.t_s) == len(face.hottest_c)
    assert max(max(row) for row in face.y_mm) == pytest.approx(12.5, abs=0.01)
    assert not face.is_half


def test_without_an_outline_nothing_is_said_of_places():
    result = evaluate(plan(OVEN, "cod/fillet"))
    assert (result.places, result.evenness_pct, result.section) == ([], None, None)


def test_beside_the_bone_it_stays_behind_and_counts():
    chop = {"family": "chop", "row_mm": 110, "bone": {"mm": 14}}
    result = evaluate(parse_plan(with_outline(chop, 30, cut="pork/chop")))
    assert {place.place for place in result.places} == {"core", "bone", "edge"}


def test_in_a_pan_the_edge_is_shown_and_not_judged():
    pan = [{"kind": "pan", "pan_c": 220, "seconds_a_side": 60, "sides": 4}, {"kind": "rest", "minutes": 8}]
    steak = with_outline({"family": "steak", "row_mm": 100}, 25, pan, cut="beef/strip-loin")
    result = evaluate(parse_plan(steak))
    edge = next(place for place in result.places if place.place == "edge")
    assert not edge.judged
    assert result.core.peak_c - 8.0 < edge.peak_c < 60.0  # vapour and spatter beside it, not the pan itself


def test_a_piece_in_sections_takes_every_kind_of_stage_and_end():
    stages = [
        {"kind": "temper", "minutes": 20},
        {"kind": "bath", "water_c": 57, "until": {"peak_c": 54}},
        {"kind": "pan", "pan_c": 230, "seconds_a_side": 45, "sides": 2},
        {"kind": "rest", "minutes": 5},
        {"kind": "ice_bath", "minutes": 10},
    ]
    result = evaluate(
        parse_plan(with_outline({"family": "medallion", "row_mm": 70}, 40, stages, cut="beef/tenderloin"))
    )
    assert result.core.peak_c == pytest.approx(54.0, abs=0.3)
    assert [stage.kind for stage in result.stages] == [stage["kind"] for stage in stages]


def test_followers_in_one_dimension_keep_the_time_of_the_sections():
    """κ is larger the more of the skin is edge, and 1 in a pan."""
    bath = [{"kind": "bath", "water_c": 57, "until": {"core_c": 54}}]
    pan = [{"kind": "pan", "pan_c": 220, "seconds_a_side": 60, "sides": 4}]

    def factor(row_mm, stages=bath):
        steak = with_outline({"family": "steak", "row_mm": row_mm}, 40, stages, cut="beef/strip-loin")
        return kappas(parse_plan(steak))[0]

    assert 1.0 < factor(160) < factor(100) < factor(70)
    assert factor(70, pan) == 1.0
    assert kappas(plan(bath)) == (1.0,)


def test_another_size_is_another_outline():
    piece = parse_plan(with_outline(FILLET)).piece
    bigger = with_size(piece, cut("cod/fillet"), 1050.0, 30.0)
    assert bigger.outline.thin_mm == pytest.approx(9.6)
    assert bigger.outline.row_mm == 80


def test_sizes_that_were_measured_make_the_mass():
    steak = {"family": "steak", "row_mm": 100, "other_mm": 160, "ends": ["cut", "square"]}
    recipe = parse_plan(with_outline(steak, 30, cut="beef/strip-loin"))
    mass = mass_of(recipe.piece, cut("beef/strip-loin"), density_of(recipe))
    assert mass == pytest.approx(density_of(recipe) * 0.03 * 0.1 * 0.16 * 1e3, rel=0.01)
    whole = evaluate(recipe)
    assert whole.mass_g == pytest.approx(mass, abs=0.1)


@pytest.mark.parametrize("key", sorted(cuts()))
@pytest.mark.parametrize("size_mm", [12.0, 40.0])
def test_width_and_length_are_sizes_of_a_piece(key, size_mm):
    """Of any cut as a slab, its own form round or not: as wide as it can be at that mass, never a ribbon."""
    entry = cut(key)
    for mass_g in (60.0, None):
        piece = plan(OVEN, key, shape={"kind": "slab", "thickness_mm": size_mm}, mass_g=mass_g).piece
        wide, long = footprint_mm(piece, entry, 1060.0)
        assert wide <= long * 1.001
        assert wide >= min(size_mm, long) * 0.4 or wide > 0.3 * long


def test_measured_width_and_length_are_kept():
    piece = plan(OVEN, "beef/strip-loin", width_mm=90, length_mm=150).piece
    assert footprint_mm(piece, cut("beef/strip-loin"), 1060.0) == (90, 150)
    assert mass_of(piece, cut("beef/strip-loin"), 1060.0) == pytest.approx(1060e-6 * 30 * 90 * 150 * 0.785, rel=0.01)


def test_the_thickest_of_a_batch_may_be_thicker_than_its_row():
    """Pieces of a batch vary: one that is nearly as thick as it is long is one, and no error."""
    lump = {"family": "lump", "row_mm": 41, "other_mm": 60}
    result = evaluate(parse_plan(with_outline(lump, 40, cut="lamb/rump", spread_mm=6)))
    assert result.thin.peak_c > result.core.peak_c > result.thick.peak_c


def test_a_mirrored_trace_is_judged_to_its_middle():
    """Half a steak as traced, up to its plane of symmetry: only its edge is beside a pan."""
    half = {"family": "traced", "trace": [[0, 25], [30, 25], [50, 20]], "ends": ["cut", "square"]}
    pan = [{"kind": "pan", "pan_c": 220, "seconds_a_side": 60, "sides": 4}, {"kind": "rest", "minutes": 8}]
    recipe = parse_plan(with_outline(half, 25, pan, cut="beef/strip-loin"))
    sure = judged(recipe, simulate(recipe).row)
    assert sure[0]
    assert not sure[-1]
    assert {place.place for place in evaluate(recipe).places} == {"core", "edge"}


@pytest.mark.parametrize("cut_id", sorted(cuts()))
def test_every_cut_has_a_usual_outline_that_can_be_cooked_by(cut_id):
    """Of whole birds and balls there is none; any other could be taken over as it is."""
    entry = cuts()[cut_id]
    size = entry.form.size_mm
    round_form = entry.form.kind != "slab"
    shape = {"kind": "cylinder", "diameter_mm": size} if round_form else {"kind": "slab", "thickness_mm": size}
    piece = Piece(cut=cut_id, shape=shape, start_c=5)
    found = usual_outline(piece, entry, size, *footprint_mm(piece, entry, 1060.0))
    if entry.thigh_share is not None:
        assert found is None
        return
    taken_over = Piece(cut=cut_id, shape=shape, start_c=5, outline=found)
    made = outline_of(taken_over)
    assert made.y_m.max() == pytest.approx(size * 0.5e-3, rel=1e-6)
    assert confidence_of(entry) in ("fair", "unsure")
