"""The outline of a piece on the bench: chosen, filled in, asked about, drawn, kept."""

from __future__ import annotations

import pytest

from ember.quantities import Units
from kitchen.drawings.plan_chart import plan_chart
from kitchen.plans.bench import Bench
from kitchen.plans.chain import changed
from kitchen.plans.pictures import drawing_of, face_of, plan_view_of

from .posting import UNITS, posted

INCHES = Units("F", "in", "lb")
FILLET = {"family": "fillet", "thin_mm": 10.0, "row_mm": 70.0}
TRACED = {"family": "traced", "trace": [[0, 26], [30, 20], [70, 9]]}


def worked(document, units=UNITS, **more):
    """The bench once a form of the document with some more values was posted."""
    bench = Bench.of_post(changed(posted(document, units) | more, units), units)
    bench.work_out({}, depth_map=True)
    return bench


def with_outline(document, outline):
    return {**document, "piece": {**document["piece"], "outline": outline}}


@pytest.mark.parametrize("family", ["steak", "medallion", "fillet", "breast", "chop", "chunk", "lump", "dome"])
def test_a_family_just_chosen_begins_with_sizes_that_work(document, family):
    bench = worked(document, outline=family)
    assert not bench.piece.errors
    assert not bench.problem
    outline = bench.core.piece.outline
    assert outline.family == family
    assert outline.row_mm >= 26
    assert bench.result.evenness_pct is not None
    assert bench.outline_fields[0][0] in ("Width", "Length", "Across")


@pytest.mark.parametrize("family", ["roll", "tail"])
def test_rolls_have_outlines_of_their_own(document, family):
    rolled = {**document, "piece": {**document["piece"], "shape": {"kind": "cylinder", "diameter_mm": 45.0}}}
    assert worked(rolled, outline=family).core.piece.outline.family == family
    assert worked(rolled, outline="fillet").core.piece.outline is None  # that of a flat piece


def test_an_outline_goes_with_its_cut(document):
    assert (
        worked(with_outline(document, FILLET), cut="cod/fillet", was_cut="beef/strip-loin").core.piece.outline is None
    )


@pytest.mark.parametrize(
    ("value", "field", "words"),
    [
        ({"thin": "30"}, "thin", "thin end"), ({"thin": "1"}, "thin", "thin end"), ({"row": "12"}, "row", "turn the"),
        ({"row": "wide"}, "row", "number"), ({"thin": ""}, "thin", "enter a number"),
    ],
)  # fmt: skip
def test_a_size_that_cannot_be_says_so_beside_its_field(document, value, field, words):
    bench = worked(with_outline(document, FILLET), **value)
    assert bench.result is None
    assert words in " ".join(bench.piece.errors[field])
    assert bench.piece[field].value() == value[field]  # nothing typed is lost


def test_mass_and_sizes_that_do_not_agree_are_asked_about_once(document):
    sizes = {"family": "steak", "row_mm": 90.0, "other_mm": 150.0, "ends": ["cut", "round"]}
    asked = worked(with_outline(document, sizes), mass="900")
    assert "Weighs 900 g, these sizes make 3" in asked.piece.errors["mass"][0]
    assert asked.result is None
    sure = worked(with_outline(document, sizes), mass="900", sure="sizes=900")
    assert sure.core.piece.mass_g == 900
    assert not worked(with_outline(document, sizes), mass="370").piece.errors


def test_what_is_kept_comes_back_as_it_was(document):
    chop = {"family": "chop", "row_mm": 110.0, "other_mm": 140.0, "bone": {"end": "thick", "mm": 14.0}}
    for outline in (FILLET, chop, TRACED):
        again = worked(with_outline(document, outline)).core.piece.outline.model_dump(exclude_none=True, mode="json")
        assert again == {**again, **{key: value for key, value in outline.items() if key != "trace"}}
        assert again.get("trace") == outline.get("trace")


def test_inches_are_read_and_shown(document):
    bench = worked(with_outline(document, FILLET), INCHES, row="2.75", thin="3/8")
    assert bench.core.piece.outline.row_mm == pytest.approx(69.85)
    assert bench.core.piece.outline.thin_mm == pytest.approx(9.525)


def test_face_and_piece_are_drawn_on_the_outline(document):
    bench = worked(with_outline(document, FILLET))
    drawing = drawing_of(bench)
    assert drawing.kind == "outline"
    assert drawing.across_mm == pytest.approx(70.0, abs=0.1)
    thin_mm = (drawing.thin[2] - drawing.thin[1]) / drawing.mm_px
    assert thin_mm == pytest.approx(10.0, abs=0.1)
    chart = plan_chart(bench.result, bench.core.stages, 684.0)
    face = face_of(bench.core, bench.cut, bench.result, chart.time)
    assert len(face.levels) == len(face.top) > 100
    assert {len(frame) for frame in face.frames} == {6 * len(face.levels)}
    assert face.width / face.height == pytest.approx(70 / 26, abs=0.05)


# Without an outline ---------------------------------------------------------------------------------------------------


def test_width_and_length_are_asked_for_and_what_is_assumed_is_shown(document):
    bench = worked(document)
    assert [label for label, _ in bench.size_fields] == ["Width", "Length"]
    shown = [field.field.widget.attrs["placeholder"] for _, field in bench.size_fields]
    assert all(20 < float(text) < 400 for text in shown)
    assert bench.assumed
    measured = worked(document, wide="60", long="110")
    assert (measured.core.piece.width_mm, measured.core.piece.length_mm) == (60, 110)
    assert not measured.assumed
    narrow = worked(document, wide="40", long="110")
    assert narrow.result.core.peak_c != measured.result.core.peak_c


def test_a_heavier_piece_is_wider(document):
    light, heavy = (worked(document, mass=grams) for grams in ("250", "500"))
    widths = [float(b.size_fields[0][1].field.widget.attrs["placeholder"]) for b in (light, heavy)]
    assert widths[0] < widths[1]
    assert light.assumed == "its mass"


def test_a_roll_has_a_length_and_its_shapes_own_is_kept(document):
    shape = {"kind": "cylinder", "diameter_mm": 45.0, "length_mm": 160.0}
    rolled = {**document, "piece": {**document["piece"], "shape": shape}}
    bench = worked(rolled)
    assert [(label, field.value()) for label, field in bench.size_fields] == [("Length", "160")]
    assert bench.core.piece.length_mm == 160


def test_an_outline_says_the_sizes_itself(document):
    wide = {**document, "piece": {**document["piece"], "width_mm": 90.0}}
    bench = worked(wide, outline="steak", wide="90")
    assert bench.core.piece.width_mm is None
    assert bench.core.piece.outline.family == "steak"
    assert bench.size_fields == []


def test_sizes_that_were_measured_and_the_mass_are_asked_about_together(document):
    asked = worked(document, wide="200", long="300", mass="250")
    assert "Weighs 250 g, these sizes make" in asked.piece.errors["mass"][0]


def test_a_chops_bone_has_a_handle_where_its_edge_is(document):
    chop = {"family": "chop", "row_mm": 110.0, "other_mm": 140.0, "bone": {"end": "thick", "mm": 14.0}}
    drawing = drawing_of(worked(with_outline(document, chop)))
    assert drawing.bone[0] == pytest.approx(drawing.across[1] - 14.0 * drawing.mm_px)
    del chop["bone"]
    assert drawing_of(worked(with_outline(document, chop))).bone is None


def test_a_cut_is_drawn_as_it_usually_is_until_somebody_measured(document):
    fillet = {**document, "piece": {**document["piece"], "cut": "cod/fillet"}, "target": {"doneness": "firm"}}
    drawing = drawing_of(worked(fillet, was_cut="cod/fillet"))
    assert drawing.usual == "fair"
    assert drawing.thin is None  # nothing to drag that nobody measured
    assert drawing_of(worked(with_outline(document, FILLET))).usual == ""


@pytest.mark.parametrize(("name", "value", "makes"), [("wide", "6", "long"), ("long", "900", "wide")])
def test_one_size_that_makes_a_ribbon_is_asked_about(document, name, value, makes):
    asked = worked(document, mass="295", **{name: value})
    assert f"mm {makes}." in asked.piece.errors[name][0]
    assert asked.piece[name].value() == value
    sure = worked(document, mass="295", sure=f"{name}={value}", **{name: value})
    assert not sure.piece.errors
    assert not worked(document, mass="295", **{name: "100"}).piece.errors


def test_a_traced_piece_is_as_thick_as_its_thickest_place(document):
    bench = worked(document, outline="traced", trace="0 26, 30 21.5; 80 8")
    outline = bench.core.piece.outline
    assert outline.trace == ((0.0, 26.0), (30.0, 21.5), (80.0, 8.0))
    assert bench.core.piece.shape.thickness_mm == 26.0
    bench = worked(document, outline="traced", trace="0 31, 30 21.5; 80 8", size="26")
    assert bench.core.piece.shape.thickness_mm == 31.0


def test_a_trace_begins_with_the_usual_piece(document):
    bench = worked(document, outline="traced", trace="")
    places = [place for place, _ in bench.core.piece.outline.trace]
    assert places[0] == 0.0
    assert len(places) == 7


@pytest.mark.parametrize(
    ("trace", "words"),
    [
        ("0 26, 30", "not a place and a thickness"),
        ("0 26, 30 20", "from 3 to 60"),
        ("0 26, 40 20, 30 9", "go upwards"),
        ("0 26, 40 20, 80 1", "thin end"),
        ("0 26, 10 20, 20 9", "row is at least"),
    ],
)
def test_a_trace_that_cannot_be_says_why_beside_it(document, trace, words):
    bench = worked(document, outline="traced", trace=trace)
    assert bench.result is None
    assert words in str(bench.piece.errors["trace"])


@pytest.mark.parametrize("edge", ["square", "round"])
def test_every_edge_is_square_or_round(document, edge):
    for family in ("steak", "fillet", "breast", "chop"):
        outline = worked(document, outline=family, edge=edge, row="80", thin="12").core.piece.outline
        assert outline.ends == ("cut" if family == "steak" else edge, edge)


def test_what_no_field_shows_of_an_outline_stays(document):
    kept = {**FILLET, "keep": 0.25, "lies": "stiff"}
    outline = worked(with_outline(document, kept)).core.piece.outline
    assert (outline.keep, outline.lies) == (0.25, "stiff")


def test_a_flat_piece_is_drawn_from_above_too(document):
    bench = worked(with_outline(document, FILLET))
    assert plan_view_of(bench).wide_mm == pytest.approx(FILLET["row_mm"])
    assert [label for label, _, _ in bench.grips_above] == ["Width", "Length"]
    long = plan_view_of(worked(with_outline(document, {**FILLET, "other_mm": 130.0})))
    assert long.long_mm == pytest.approx(130.0)
    even = plan_view_of(worked(document))
    assert even.long_mm >= even.wide_mm > 20.0


def test_preparation_that_the_piece_does_not_allow_is_told_at_its_step(document):
    even = {**document, "prep": [{"kind": "fold", "minutes": 1, "before": 0, "mm": 20}]}
    bench = worked(even)
    assert bench.result is None
    assert "no thin end" in str(bench.preps[0].errors["mm"])
    bench = worked(with_outline(even, FILLET))
    assert bench.result is not None
    assert bench.core.prep[0].mm == 20.0


def first_step(values):
    return {key.partition("-")[2]: value for key, value in values.items() if key.startswith("p0-")}


@pytest.mark.parametrize("kind", ["trim", "fold", "shield"])
@pytest.mark.parametrize(("units", "row", "mm"), [(UNITS, "80", "16"), (INCHES, "3", "0.6")])
def test_a_thin_end_that_is_seen_to_begins_with_a_fifth_of_the_row(document, kind, units, row, mm):
    values = posted(with_outline(document, FILLET), units) | {"row": row, "do": f"prep:{kind}"}
    step = first_step(changed(values, units))
    assert (step["kind"], step["mm"]) == (kind, mm)
    bench = Bench.of_post(changed(values, units), units)
    bench.work_out({})
    assert not bench.preps[0].errors
    assert bench.result is not None


def test_of_an_even_piece_or_one_whose_row_cannot_be_read_it_asks_how_much(document):
    assert "mm" not in first_step(changed(posted(document, UNITS) | {"do": "prep:fold"}, UNITS))
    bench = worked(document, do="prep:fold")
    assert bench.preps[0].errors["mm"] == ["How much of it: enter a number."]
    unread = posted(with_outline(document, FILLET), UNITS) | {"row": "wide", "do": "prep:fold"}
    assert "mm" not in first_step(changed(unread, UNITS))


def test_of_a_traced_piece_it_begins_with_a_fifth_of_the_trace(document):
    values = posted(with_outline(document, TRACED), UNITS) | {"do": "prep:fold"}
    assert first_step(changed(values, UNITS))["mm"] == "14"
