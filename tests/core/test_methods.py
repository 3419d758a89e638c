"""The library of methods: each suits some cut, and lands a piece of it on what is wanted."""

from __future__ import annotations

import pytest

from ember.evaluate import evaluate
from ember.files.plan import parse_plan
from ember.food.catalogue import Cut, cuts
from ember.food.search import also_called, search
from ember.judge.doneness import scale_of
from ember.kinetics.texture import hours_to_tender
from ember.methods.apply import applied
from ember.methods.library import Method, methods, suitable
from ember.methods.prep import place_for, prep_kinds, thought_of
from ember.solve.fit import with_method

from .plans import document

SHAPES = {"slab": "thickness_mm", "cylinder": "diameter_mm", "sphere": "diameter_mm"}


def aim_of(row: Cut) -> float:
    words = scale_of(row.doneness)[1:]
    return words[len(words) // 2].aim_c


def some_cuts(method: Method, most: int = 2) -> list[Cut]:
    rows = [row for row in cuts().values() if method in suitable(row, row.form.size_mm, aim_of(row))]
    return rows[:: max(len(rows) // most, 1)][:most]


def test_every_cut_has_a_method_and_its_usual_one_comes_first():
    for row in cuts().values():
        found = suitable(row, row.form.size_mm, aim_of(row))
        assert found, row.id
        known = [label for label in row.methods if any(label in method.labels for method in found)]
        assert known[0] in found[0].labels, row.id


def test_a_catalogue_label_without_a_method_is_only_for_another_size():
    labels = {label for method in methods().values() for label in method.labels}
    assert {label for row in cuts().values() for label in row.methods} <= labels


@pytest.mark.parametrize("method", methods().values(), ids=methods())
def test_it_lands_on_what_is_wanted(method):
    rows = some_cuts(method)
    assert rows
    for row in rows:
        form = row.form
        piece = {"shape": {"kind": form.kind, SHAPES[form.kind]: form.size_mm}}
        if form.radius_share is not None:
            piece = {"shape": {"kind": "from_mass"}, "mass_g": 2000}
        plan = parse_plan(document([{"kind": "temper", "minutes": 1}], row.id, **piece))
        plan = with_method(plan, applied(method, row.id, aim_of(row)))
        assert evaluate(plan).core.peak_c == pytest.approx(method.aim_c or aim_of(row), abs=2.0), row.id


def test_tough_methods_are_as_long_as_the_collagen_takes():
    stages = applied(methods()["bath-one-day"], "beef/chuck", 0.0)["stages"]
    bath = next(stage for stage in stages if stage["kind"] == "bath")
    assert bath["minutes"] / 60 == pytest.approx(hours_to_tender(70.0), abs=0.1)


def test_a_round_piece_is_turned_onto_four_sides():
    flat = applied(methods()["bath-then-pan"], "beef/strip-loin", 55.0)["stages"][1]
    round_ = applied(methods()["bath-then-pan"], "pork/tenderloin", 60.0)["stages"][1]
    assert (flat["sides"], round_["sides"]) == (2, 4)


def test_filled_in_numbers_stay_within_what_a_bath_can_do():
    assert applied(methods()["poach"], "chicken/breast", 90.0)["stages"][0]["water_c"] <= 100.0


@pytest.mark.parametrize(
    ("typed", "meant"),
    [
        ("chiken brest", "chicken/breast"), ("sirlion", "beef/strip-loin"), ("ribey", "beef/ribeye"),
        ("salmn", "salmon/fillet"), ("shrimp", "prawn/peeled"), ("lam rump", "lamb/rump"), ("ENTRECOTE", "beef/ribeye"),
        ("pork chpo", "pork/chop"),
    ],
)  # fmt: skip
def test_a_cut_is_found_however_it_is_spelt(typed, meant):
    assert meant in [row.id for row in search(typed, 2)]


def test_search_finds_nothing_for_nonsense_and_begins_with_the_catalogue():
    assert search("zzzzqq") == []
    assert [row.id for row in search("", 3)] == list(cuts())[:3]
    assert set(also_called()) <= set(cuts())


def test_prep_goes_where_it_belongs():
    stages = ["temper", "bath", "pan", "rest"]
    assert place_for(prep_kinds()["score"], stages) == 0
    assert place_for(prep_kinds()["dry"], stages) == 2
    assert place_for(prep_kinds()["carve"], stages) == 4
    assert all(kind.why and kind.minutes > 0 for kind in prep_kinds().values())
    chop = {kind.id for kind in thought_of(cuts()["pork/chop"])}
    assert "snip" in chop
    assert "tie" not in chop
    assert "snip" not in {kind.id for kind in thought_of(cuts()["chicken/whole"])}
