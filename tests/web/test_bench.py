"""The bench: stages, steps and choices, by what its buttons, drags and keys post."""

from __future__ import annotations

import re
from typing import Any

import pytest
from django.urls import reverse

from ember.evaluate import evaluate
from ember.files.plan import parse_plan
from ember.quantities import Units
from kitchen.cuts.models import OwnCut
from kitchen.plans.bench import Bench
from kitchen.plans.chain import changed
from kitchen.plans.words import changed_since, fit_lines, price_lines

from .pages import body_of
from .posting import UNITS, posted

HTMX = {"HX-Request": "true"}

STEPS = [
    {"kind": "season", "minutes": 2, "before": 0},
    {"kind": "rub", "minutes": 3, "before": 1, "with": ["pepper", "garlic"]},
    {"kind": "portion", "minutes": 4, "before": 3},
]


@pytest.fixture
def prepared(document: dict[str, Any]) -> dict[str, Any]:
    return {**document, "prep": STEPS}


def after(document: dict[str, Any], do: str, **more: str) -> dict[str, Any]:
    """The document once the bench has done what was asked."""
    found = Bench.of_post(changed(posted(document) | more | {"do": do}, UNITS), UNITS).document(document)
    assert found is not None
    return found


def kinds(document: dict[str, Any]) -> list[str]:
    return [stage["kind"] for stage in document["stages"]]


def places(document: dict[str, Any]) -> dict[str, int]:
    return {step["kind"]: step["before"] for step in document["prep"]}


# The chain -----------------------------------------------------------------------------------------------------------


@pytest.mark.parametrize(
    ("do", "chain"),
    [
        ("move:0:2", ["pan", "rest", "bath"]),
        ("move:2:0", ["rest", "bath", "pan"]),
        ("move:0:9", ["bath", "pan", "rest"]),
        ("move:x:1", ["bath", "pan", "rest"]),
        ("move:1", ["bath", "pan", "rest"]),
    ],
)
def test_a_stage_dragged_goes_where_it_was_dropped(document, do, chain):
    assert kinds(after(document, do)) == chain


def test_steps_go_along_with_the_stage_they_stand_before(prepared):
    moved = after(prepared, "move:1:0")
    assert kinds(moved) == ["pan", "bath", "rest"]
    assert places(moved) == {"season": 1, "rub": 0, "portion": 3}
    removed = after(prepared, "remove:1")
    assert places(removed) == {"season": 0, "rub": 1, "portion": 2}


def test_another_kind_of_end_begins_with_a_number_that_makes_sense(document):
    assert after(document, "end:0", **{"s0-ends": "core_c"})["stages"][0]["until"]["core_c"] > 45
    assert after(document, "end:0", **{"s0-ends": "minutes"})["stages"][0]["minutes"] == 30
    assert after(document, "end:0", **{"s0-ends": "log10"})["stages"][0]["until"]["log10"] == 6.5


@pytest.mark.parametrize(
    ("out", "first", "minutes"), [("20", "temper", 20), ("1 h", "temper", 60), ("0", "bath", None), ("", "bath", None)]
)
def test_minutes_out_of_the_fridge_are_a_first_stage(document, out, first, minutes):
    found = after(document, "", out=out, was_out="")
    assert found["stages"][0]["kind"] == first
    assert found["stages"][0].get("minutes") == minutes


def test_out_of_the_fridge_is_changed_and_taken_back(document):
    tempered = after(document, "", out="20", was_out="")
    again = posted(tempered)
    assert again["out"] == "20"
    assert after(tempered, "", out="35", was_out="20")["stages"][0]["minutes"] == 35
    assert kinds(after(tempered, "", out="", was_out="20")) == ["bath", "pan", "rest"]
    assert kinds(after(tempered, "remove:0")) == ["bath", "pan", "rest"]


def test_minutes_that_cannot_be_read_stay_where_they_were_typed(signed_in, document):
    data = posted(document) | {"out": "soon", "was_out": ""}
    body = body_of(signed_in.post(reverse("plans:bench"), data))
    assert 'value="soon"' in body
    assert "is not a" in body


# Preparation ---------------------------------------------------------------------------------------------------------


def test_a_step_is_put_where_it_belongs_and_can_be_left_out(document):
    dried = after(document, "prep:dry")
    assert places(dried) == {"dry": 1}  # before the colour
    assert places(after(dried, "prep:portion")) == {"dry": 1, "portion": 3}
    assert "prep" not in after(dried, "unprep:0")


def test_steps_survive_the_form(prepared):
    assert after(prepared, "")["prep"] == STEPS


def test_every_step_shows_its_reason_and_a_rub_what_each_school_costs(signed_in, prepared):
    prepared["stages"][1]["seconds_a_side"] = 150.0
    body = " ".join(body_of(signed_in.post(reverse("plans:bench"), posted(prepared))).split())
    assert re.search("burns? here", body)
    assert "In the other order" in body
    other = after(prepared, "other:1:2")
    assert places(other)["rub"] == 2
    body = " ".join(body_of(signed_in.post(reverse("plans:bench"), posted(other))).split())
    assert not re.search("burns? here", body)


def test_a_chop_that_would_curl_is_warned_of_until_it_is_snipped(signed_in, document):
    document["piece"] |= {"cut": "pork/chop", "shape": {"kind": "slab", "thickness_mm": 22.0}}
    document |= {"stages": document["stages"][1:], "target": {"doneness": "medium"}}
    document["stages"][0]["seconds_a_side"] = 200.0

    def warned(plan: dict[str, Any]) -> bool:
        result = signed_in.post(reverse("plans:bench"), posted(plan)).context["result"]
        return "curls" in [warning.code for warning in result.warnings]

    assert warned(document)
    assert not warned({**document, "prep": [{"kind": "snip", "minutes": 2, "before": 0}]})


# Choices -------------------------------------------------------------------------------------------------------------


@pytest.mark.parametrize(
    ("typed", "first"),
    [("rump", "rump"), ("chiken brest", "chicken breast"), ("salmn", "salmon"), ("EYE", "eye")],
)
def test_the_cut_search_forgives(signed_in, typed, first):
    found = signed_in.get(reverse("plans:find-cuts"), {"cut_q": typed}).context["found"]
    assert first in found[0].name.lower()


def test_an_unknown_cut_is_said_and_an_own_cut_is_found(signed_in, kitchen):
    OwnCut.objects.create(kitchen=kitchen, name="Dock strip", base="beef/strip-loin")
    assert "No cut is called" in body_of(signed_in.get(reverse("plans:find-cuts"), {"cut_q": "qqqq"}))
    assert "Dock strip" in body_of(signed_in.get(reverse("plans:find-cuts"), {"cut_q": "dock"}))


def test_methods_are_offered_and_one_becomes_the_plans_own(signed_in, prepared):
    response = signed_in.post(reverse("plans:methods"), posted(prepared))
    rows = response.context["rows"]
    assert len(rows) > 5
    assert all(row["total_s"] > 0 for row in rows)
    wanted = next(row for row in rows if [s["kind"] for s in row["stages"]] != kinds(prepared))["method"]
    applied = signed_in.post(reverse("plans:bench"), posted(prepared) | {"do": f"method:{wanted.id}"}).context["bench"]
    assert applied.result is not None, applied.problem
    assert applied.result.doneness.word == "medium-rare"
    assert {"season", "rub"} <= {form.kind for form in applied.preps}  # what was done to the piece stays


def test_methods_and_fit_wait_for_a_bench_that_is_right(signed_in, document):
    wrong = posted(document) | {"size": "none"}
    for name in ("methods", "fit"):
        assert "Fix the highlighted" in body_of(signed_in.post(reverse(f"plans:{name}"), wrong))
    assert "<dl" not in body_of(signed_in.post(reverse("plans:prices"), wrong))
    assert "Fix the highlighted fields" in body_of(signed_in.post(reverse("plans:compare"), wrong))


def test_the_price_of_small_choices(signed_in, document):
    response = signed_in.post(reverse("plans:prices"), posted(document))
    lines = {line.what: line.does for line in response.context["lines"]}
    assert "core" in lines["20 min out of the fridge"]
    assert "later" in lines["5 mm thicker"]
    assert any(what.startswith("Bath 1") and "hotter" in does for what, does in lines.items())
    assert any(what.startswith("Rest") for what in lines)


def test_prices_and_fits_in_fahrenheit_and_inches(document):
    from ember.solve.fit import fit
    from ember.solve.prices import prices

    plan, units = parse_plan(document), Units("F", "in", "lb")
    for line in price_lines(plan, prices(plan), units):
        assert "°C" not in line.what + line.does
        assert " mm" not in line.what + line.does
    ways = fit_lines(plan, fit(plan, 40 * 60.0), 40 * 60.0, units)
    assert ways[0].what == "As planned"
    assert any("°F" in way.what for way in ways)


def test_a_plan_that_says_something_else_than_when_it_was_cooked_tells_why(document):
    result = evaluate(parse_plan(document))
    kept = result.model_dump(mode="json")
    assert changed_since(kept, result, UNITS) == ""
    kept["pull"]["s"] *= 1.2
    said = changed_since(kept, result, UNITS)
    assert "since it was last cooked" in said
    assert "new model" in said
    assert "°F" in changed_since(kept, result, Units("F", "in", "lb"))
    assert changed_since({}, result, UNITS) == ""  # it stopped before anything was worked out


def test_make_it_fit_gives_ways_that_fit_and_are_taken(signed_in, document):
    takes = evaluate(parse_plan(document)).stages[-1].end_s
    ready = takes * 0.8
    response = signed_in.post(reverse("plans:fit"), posted(document) | {"fit_minutes": f"{ready / 60:.0f}"})
    ways = [way for way in response.context["lines"] if way.fits and way.do]
    assert ways
    taken = signed_in.post(reverse("plans:bench"), posted(document) | {"do": ways[0].do}).context["bench"]
    assert taken.result is not None, taken.problem
    assert taken.result.stages[-1].end_s <= ready * 1.02
    assert taken.result.doneness.word == ways[0].word


@pytest.mark.parametrize("typed", ["soon", "0", "-5", "20 days", "9" * 30])
def test_minutes_that_make_no_sense_are_told(signed_in, document, typed):
    response = signed_in.post(reverse("plans:fit"), posted(document) | {"fit_minutes": typed})
    assert response.context["problem"]
    assert response.context["lines"] == []


# Compare -------------------------------------------------------------------------------------------------------------


def test_methods_stand_side_by_side_and_one_is_picked(signed_in, document):
    offered = [row["method"].id for row in signed_in.post(reverse("plans:methods"), posted(document)).context["rows"]]
    response = signed_in.post(reverse("plans:compare"), posted(document) | {"method": offered[:2]})
    columns = response.context["columns"]
    assert [column.key for column in columns] == ["now", *offered[:2]]
    assert {row.label for row in response.context["rows"]} >= {
        "Time needed", "Hands-on time", "Grey edge", "Window", "Yield", "Rule",
    }  # fmt: skip
    picked = signed_in.post(reverse("plans:bench"), posted(document) | {"do": f"method:{offered[0]}"})
    assert b"<!doctype html>" in picked.content.lower()  # a whole page: the page did not ask for a piece of itself
    assert kinds({"stages": [{"kind": f.kind} for f in picked.context["bench"].stages]}) == [
        stage.kind for stage in columns[1].plan.stages
    ]


def test_compare_without_a_choice_picks_for_itself_and_never_more_than_four(signed_in, document):
    assert 2 <= len(signed_in.post(reverse("plans:compare"), posted(document)).context["columns"]) <= 4
    from ember.methods.library import methods

    everything = signed_in.post(reverse("plans:compare"), posted(document) | {"method": list(methods())})
    assert len(everything.context["columns"]) == 4


# Long and short plans ------------------------------------------------------------------------------------------------


def test_one_stage_and_twelve_stages_are_drawn(signed_in, document):
    one = {**document, "stages": [{"kind": "bath", "water_c": 56.0, "minutes": 70}]}
    response = signed_in.post(reverse("plans:bench"), posted(one))
    assert len(response.context["chart"].columns) == 1
    twelve = {**document, "stages": [{"kind": "rest", "air_c": 22, "minutes": 1 + i} for i in range(12)]}
    response = signed_in.post(reverse("plans:bench"), posted(twelve))
    assert len(response.context["chart"].columns) == 12
    assert "Add a stage" not in body_of(response)
    assert kinds(after(twelve, "")) == ["rest"] * 12


def test_the_numbers_of_the_chart_stand_in_a_table(signed_in, document):
    response = signed_in.post(reverse("plans:bench"), posted(document))
    table = body_of(response).split('id="curve-table"')[1].split("</table>")[0]
    rows = response.context["chart"].rows
    assert len(rows) >= 8
    for row in rows:
        assert f"<td>{row.core_c:.1f}</td>" in table


def test_a_measure_far_from_usual_is_asked_about(signed_in, document):
    """5.5 g of turkey: asked about once, and remembered."""
    typed = posted(document) | {"cut": "turkey/whole", "was_cut": "turkey/whole", "shape": "from_mass", "mass": "5.5"}
    body = body_of(signed_in.post(reverse("plans:bench"), typed, headers=HTMX))
    assert "5.5 g? Whole turkey is usually about" in body
    assert 'data-do="sure:mass=5.5"' in body
    sure = body_of(signed_in.post(reverse("plans:bench"), typed | {"do": "sure:mass=5.5"}, headers=HTMX))
    assert "is usually about" not in sure
    assert re.search(r'name="sure" value="[^"]*mass=5.5"', sure)
    again = body_of(signed_in.post(reverse("plans:bench"), typed | {"sure": "mass=5.5", "mass": "6"}, headers=HTMX))
    assert "6 g? Whole turkey" in again  # only that value was right


def test_a_number_that_could_be_two_is_asked_about(signed_in, document):
    typed = posted(document) | {"mass": "5,500"}
    body = body_of(signed_in.post(reverse("plans:bench"), typed, headers=HTMX))
    assert "could be 5500 or 5.5" in body
