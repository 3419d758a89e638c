"""Plans: the list, the bench with good and bad numbers, files in and out."""

from __future__ import annotations

import json
import re

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from django.urls import reverse

from ember.evaluate import evaluate
from ember.files.plan import parse_plan
from ember.food.catalogue import cuts
from ember.quantities import Units
from ember.solve.oven_shape import effects
from kitchen.plans.bench import Bench
from kitchen.plans.first import first_document
from kitchen.plans.models import Plan
from kitchen.plans.stage_kinds import STAGE_KINDS
from kitchen.plans.words import oven_lines

from .pages import body_of
from .posting import UNITS, posted


def test_what_the_bench_posts_is_the_plan_it_showed(document):
    bench = Bench.of_post(posted(document), UNITS)
    found = bench.document({})
    assert parse_plan(found).stages == parse_plan(document).stages
    assert found["piece"]["shape"] == document["piece"]["shape"]
    assert found["target"] == document["target"]


@pytest.mark.parametrize("units", [UNITS, Units("F", "in", "lb")])
def test_keeping_in_any_unit_changes_nothing(document, units):
    bench = Bench.of_post(posted(document, units), units)
    found = bench.document({})
    assert found["stages"][0]["water_c"] == pytest.approx(57.0, abs=0.03)
    assert found["piece"]["shape"]["thickness_mm"] == pytest.approx(26.0, abs=0.02)


def test_the_bench_shows_what_comes_out(signed_in, plan):
    body = body_of(signed_in.get(reverse("plans:edit", args=[plan.pk])))
    for words in ("Medium-rare", "Pull at", "Rule met", "Take a probe reading", "Core peaks at", "Send to the line"):
        assert words in body


def test_a_change_is_worked_out_but_not_kept(signed_in, plan, document):
    data = posted(document) | {"s0-water_c": "62", "plan": str(plan.pk)}
    response = signed_in.post(reverse("plans:bench"), data, headers={"HX-Request": "true"})
    assert response.status_code == 200
    assert 'value="62"' in body_of(response)
    plan.refresh_from_db()
    assert plan.document["stages"][0]["water_c"] == 57.0


@pytest.mark.parametrize(
    ("field", "value", "says"),
    [
        ("size", "0", "from 1 to 600 mm"),
        ("size", "-5", "from 1 to 600 mm"),
        ("size", "5000", "from 1 to 600 mm"),
        ("size", "abc", "is not a length"),
        ("size", "", "enter a number"),
        ("s0-water_c", "250", "from \u22122 to 100"),
        ("s0-end_value", "90", "never carries the core to 90"),
        ("s2-end_value", "0", "Time must be from"),
        ("start", "-45", "from \u221240 to 95"),
        ("count", "0", "greater than or equal to 1"),
        ("count", "many", "whole number"),
        ("spread", "80", "less than twice"),
        ("name", "", "Enter a name for the plan"),
        ("name", "x" * 500, "at most 120"),
        ("s1-pan_c", "nan", "is not a temperature"),
        ("s1-sides", "1000", "less than or equal to 40"),
    ],
)
def test_bad_numbers_are_told_beside_their_field_and_stay(signed_in, plan, document, field, value, says):
    data = posted(document) | {field: value}
    for url in (reverse("plans:bench"), reverse("plans:edit", args=[plan.pk])):
        response = signed_in.post(url, data)
        body = body_of(response)
        assert response.status_code == (200 if "bench" in url else 422)
        assert says in body
        assert value in body
        assert "Traceback" not in body
    kept = Plan.objects.get(pk=plan.pk)
    assert (kept.name, kept.document) == (plan.name, plan.document)


def test_a_bath_that_never_gets_there_says_how_hot_it_gets(signed_in, document):
    data = posted(document) | {"s0-ends": "core_c", "s0-end_value": "60"}
    body = body_of(signed_in.post(reverse("plans:bench"), data))
    assert "cannot pass 57" in body or "comes to 57" in body


@pytest.mark.parametrize(
    ("do", "kinds"),
    [
        ("add:oven", ["bath", "pan", "rest", "oven"]),
        ("remove:1", ["bath", "rest"]),
        ("left:1", ["pan", "bath", "rest"]),
        ("right:1", ["bath", "rest", "pan"]),
        ("left:0", ["bath", "pan", "rest"]),
        ("remove:9", ["bath", "pan", "rest"]),
        ("add:soup", ["bath", "pan", "rest"]),
        ("nonsense", ["bath", "pan", "rest"]),
    ],
)
def test_the_chain_grows_shrinks_and_moves(signed_in, document, do, kinds):
    response = signed_in.post(reverse("plans:bench"), posted(document) | {"do": do})
    assert [form.kind for form in response.context["bench"].stages] == kinds


def test_an_empty_chain_says_what_to_do(signed_in, document):
    data = {key: value for key, value in posted(document).items() if key[0] != "s" or key in ("shape", "size", "start")}
    assert "Add a stage" in body_of(signed_in.post(reverse("plans:bench"), data))


def test_taking_the_advice_lands_on_the_target(signed_in, document):
    over = json.loads(json.dumps(document))
    over["stages"][0]["until"] = {"core_c": 56.0}
    response = signed_in.post(reverse("plans:bench"), posted(over))
    bench = response.context["bench"]
    assert bench.result.doneness.word != "medium-rare"
    taken = signed_in.post(reverse("plans:bench"), posted(over) | {"do": bench.advice_do})
    assert taken.context["bench"].result.doneness.word == "medium-rare"


def test_another_cut_brings_its_own_words(signed_in, document):
    data = posted(document) | {"cut": "salmon/fillet", "was_cut": "beef/strip-loin"}
    response = signed_in.post(reverse("plans:bench"), data)
    bench = response.context["bench"]
    assert bench.piece["target"].value() in ("just flaking", "flaky")
    assert bench.result is not None


@pytest.mark.parametrize("cut_id", ["beef/strip-loin", "turkey/breast", "venison/loin", "cod/fillet", "beef/mince"])
def test_every_kind_of_cut_begins_with_a_plan_that_cooks(signed_in, cut_id):
    response = signed_in.get(reverse("plans:new") + f"?cut={cut_id}")
    assert response.context["bench"].result is not None
    assert response.context["bench"].problem == ""


def test_first_keep_makes_the_plan_then_keeps_into_it(signed_in, document, kitchen):
    response = signed_in.post(reverse("plans:new"), posted(document) | {"then": "keep"})
    assert response.status_code == 302
    assert Plan.objects.of(kitchen).get().document["standard"] == kitchen.standard
    signed_in.post(response.url, posted(document) | {"then": "keep", "name": "Renamed"})
    assert Plan.objects.of(kitchen).get().name == "Renamed"


def test_what_the_form_does_not_show_is_kept(signed_in, plan, document):
    plan.document["piece"]["composition"] = {"water": 0.7, "protein": 0.2, "fat": 0.1}
    plan.save()
    signed_in.post(reverse("plans:edit", args=[plan.pk]), posted(plan.document) | {"then": "keep"})
    plan.refresh_from_db()
    assert plan.document["piece"]["composition"]["fat"] == 0.1


def test_copy_delete_and_undo(signed_in, plan, kitchen, chef_in):
    signed_in.post(reverse("plans:copy", args=[plan.pk]))
    assert set(Plan.objects.of(kitchen).values_list("name", flat=True)) == {"Test strip", "Test strip (2)"}
    response = chef_in.post(reverse("plans:delete", args=[plan.pk]), follow=True)
    body = body_of(response)
    assert "Archived: Test strip" in body
    assert reverse("plans:restore", args=[plan.pk]) in body
    assert signed_in.get(reverse("plans:edit", args=[plan.pk])).status_code == 404
    chef_in.post(reverse("plans:restore", args=[plan.pk]))
    assert signed_in.get(reverse("plans:edit", args=[plan.pk])).status_code == 200


def test_the_list_finds_by_name_and_cut_and_says_when_nothing(signed_in, plan):
    assert "Test strip" in body_of(signed_in.get("/plans/?q=strip"))
    assert "Test strip" in body_of(signed_in.get("/plans/?q=beef"))
    assert "Test strip" in body_of(signed_in.get("/plans/?q=striploin+test"))
    assert "No plans match" in body_of(signed_in.get("/plans/?q=trout"))
    Plan.objects.update(deleted_at=plan.kitchen.now())
    assert "No plans yet" in body_of(signed_in.get("/plans/"))


def test_five_hundred_plans_take_a_handful_of_queries(
    signed_in, kitchen, chef, document, django_assert_max_num_queries
):
    Plan.objects.bulk_create(
        Plan(kitchen=kitchen, name=f"Plan {i:03d} " + "long " * 20, document=document, created_by=chef, updated_by=chef)
        for i in range(500)
    )
    with django_assert_max_num_queries(8):
        response = signed_in.get("/plans/")
    assert len(response.context["rows"]) == 500


def test_a_file_goes_out_and_comes_in_again(signed_in, plan, kitchen):
    response = signed_in.get(reverse("plans:export", args=[plan.pk]))
    assert response.headers["Content-Disposition"] == 'attachment; filename="test-strip.ember.json"'
    upload = SimpleUploadedFile("p.ember.json", response.content)
    signed_in.post(reverse("plans:import"), {"file": upload})
    documents = list(Plan.objects.of(kitchen).values_list("document", flat=True))
    assert len(documents) == 2
    assert documents[0] == documents[1]


@pytest.mark.parametrize(
    ("content", "says"),
    [
        (b"not json", "not JSON"),
        (b"\xff\xfe", "not JSON"),
        (b"{}", "at format"),
        (b'{"format": "open-ember/plan", "version": 1, "piece": {}, "stages": []}', "at piece.cut"),
        (b"[" * 50_000, "not JSON"),
    ],
)
def test_a_bad_file_names_the_place(signed_in, kitchen, content, says):
    response = signed_in.post(reverse("plans:import"), {"file": SimpleUploadedFile("x.json", content)}, follow=True)
    assert says in body_of(response)
    assert Plan.objects.of(kitchen).count() == 0


def test_no_file_and_a_huge_file_are_told(signed_in):
    assert "Choose a" in body_of(signed_in.post(reverse("plans:import"), follow=True))
    huge = SimpleUploadedFile("x.json", b" " * 1_100_000)
    assert "too large" in body_of(signed_in.post(reverse("plans:import"), {"file": huge}, follow=True))


def test_names_are_escaped(signed_in, plan):
    plan.name = '<b onmouseover="x">&'
    plan.save()
    body = body_of(signed_in.get("/plans/"))
    assert "<b onmouseover" not in body
    assert "&lt;b onmouseover" in body


def test_the_first_plan_of_a_roll_is_a_roll(cook_person):
    from ember.food.catalogue import cut

    assert first_document(cut("venison/loin"))["piece"]["shape"] == {"kind": "cylinder", "diameter_mm": 48.0}


@pytest.mark.parametrize("kind", list(STAGE_KINDS))
def test_every_kind_of_stage_goes_through_the_bench_unchanged(document, kind):
    document["stages"] = [{"kind": kind, **STAGE_KINDS[kind].fresh}]
    bench = Bench.of_post(posted(document), UNITS)
    found = bench.document({})
    assert found is not None, [form.errors for form in bench.forms()]
    assert parse_plan(found).stages == parse_plan(document).stages


def test_what_the_bench_has_no_field_for_travels_along(document):
    document["stages"] = [
        {"kind": "pan", "power_w": 1400, "pan": {"mass_kg": 2.2, "material": "cast-iron", "preheated_to_c": 210},
         "pan_c": 220, "minutes": 3, "turn_every_s": 45, "baste": {"from_s": 60, "every_s": 5}},
        {"kind": "bath", "water_c": 60, "until": {"log10": 6.5, "organism": "listeria", "max_minutes": 300}},
        {"kind": "chill", "air_c": 2, "walk_in": True, "bagged": True, "until": {"core_c": 6}},
        {"kind": "hold", "water_c": 58, "minutes": 30},
        {"kind": "rest", "on": "hot_plate", "plate_c": 80, "minutes": 3},
    ]  # fmt: skip
    found = Bench.of_post(posted(document), UNITS).document({})
    assert parse_plan(found).stages == parse_plan(document).stages


def test_along_that_came_back_damaged_is_told_and_nothing_breaks(client, signed_in, document):
    data = posted(document) | {"s0-along": "{not json"}
    reply = signed_in.post("/plans/bench/", data)
    assert reply.status_code == 200
    assert "is damaged" in body_of(reply)
    for bad in ("[1]", '{"surprise": 1}', '{"kind": "nothing"}'):
        reply = signed_in.post("/plans/bench/", posted(document) | {"s0-along": bad})
        assert reply.status_code == 200


def test_what_a_file_says_of_the_piece_is_not_lost_on_the_bench(document):
    document["piece"] |= {
        "cut": "lamb/rump", "shape": {"kind": "general", "thickness_mm": 48.0, "exponent": 0.35}, "fat_cap_mm": 6.0,
        "skin": False, "history": ["pierced", "frozen-parasite"], "treated": True,
    }  # fmt: skip
    document["prep"] = [{"kind": "score", "minutes": 3, "before": 0}]
    found = Bench.of_post(posted(document), UNITS).document(document)
    again, first = parse_plan(found), parse_plan(document)
    assert again.piece == first.piece
    assert again.prep == first.prep
    changed = posted(document) | {"cut": "cod/fillet"}
    assert "fat_cap_mm" not in Bench.of_post(changed, UNITS).document(document)["piece"]


@pytest.mark.parametrize("cut_id", list(cuts()))
def test_every_cut_begins_with_a_plan_that_can_be_cooked(cut_id):
    first = first_document(cuts()[cut_id])
    bench = Bench.of_document(first, UNITS)
    assert bench.work_out_document(first), bench.problem
    if wanted := first["target"].get("doneness"):
        assert bench.result.doneness.word == wanted
    else:
        assert bench.result.core.peak_c == pytest.approx(first["target"]["core_c"], abs=1.0)
    posted_back = Bench.of_post(posted(first), UNITS)
    assert posted_back.work_out({}), posted_back.problem
    assert posted_back.core.piece.shape == bench.core.piece.shape


def test_a_size_from_the_mass_needs_the_mass(signed_in):
    data = posted(first_document(cuts()["turkey/whole"]))
    data.pop("size", None)
    page = body_of(signed_in.post("/plans/bench/", data))
    assert "about" in page
    page = body_of(signed_in.post("/plans/bench/", data | {"mass": ""}))
    assert "Enter the mass" in page


BIRD = {
    "format": "open-ember/plan",
    "version": 1,
    "name": "Bird for the long leg",
    "piece": {"cut": "chicken/whole", "shape": {"kind": "from_mass"}, "mass_g": 1700, "start_c": 4, "stuffed": True},
    "target": {"doneness": "tender"},
    "stages": [
        {"kind": "oven", "air_c": 185, "mode": "fan", "cover": "foil", "open_every_min": 20, "until": {"core_c": 75}},
        {"kind": "rest", "minutes": 15},
    ],
}


def test_a_stuffed_bird_shows_its_parts_and_what_the_oven_did(signed_in):
    def parts(data):
        return re.findall(r'<th scope="row">(\w+)</th><td>', body_of(signed_in.post(reverse("plans:bench"), data)))

    def oven(data):
        return body_of(signed_in.post(reverse("plans:prices"), data))

    assert {"Breast", "Thigh", "Stuffing"} <= set(parts(posted(BIRD)))
    assert "Foil tent: " in oven(posted(BIRD))
    assert "min longer than open." in oven(posted(BIRD))
    assert "quicker than still air." in oven(posted(BIRD))
    plain = posted(BIRD) | {"s0-cover": "none", "s0-mode": "still", "s0-door": ""}
    del plain["stuffed"]
    assert "Stuffing" not in parts(plain)
    assert "oven-lines" not in oven(plain)


def test_stuffed_stays_with_the_plan_and_goes_with_the_cut():
    assert Bench.of_post(posted(BIRD), UNITS).document({})["piece"]["stuffed"] is True
    unticked = posted(BIRD)
    del unticked["stuffed"]
    assert "stuffed" not in Bench.of_post(unticked, UNITS).document(BIRD)["piece"]


@pytest.mark.parametrize(
    ("stage", "line"),
    [
        ({"cover": "cloth", "baste_every_min": 30}, "Buttered cloth: "),
        ({"baste_every_min": 15}, "Basted every 15 min: "),
        ({"mode": "combi", "humidity": 60}, "Humidity 60 %: "),
        ({"water_tray": True}, "Water tray: "),
        ({"in": "tray"}, "On a tray: "),
        ({"offset_k": -15}, "Oven runs 15 °C cool: "),
        ({"mode": "smoker", "air_c": 110}, "Smoker: "),
    ],
)
def test_each_choice_has_its_line(stage, line):
    oven = {"kind": "oven", "air_c": 150, "until": {"core_c": 70}, **stage}
    found = parse_plan({**BIRD, "stages": [oven]})
    lines = oven_lines(found.stages, effects(found), UNITS)
    assert any(said.startswith(line) for said in lines), lines
    fahrenheit = oven_lines(found.stages, effects(found), Units("F"))
    assert not any("°C" in said for said in fahrenheit)


def test_a_stage_by_the_clock_says_degrees():
    oven = {"kind": "oven", "air_c": 150, "minutes": 60, "cover": "foil"}
    found = parse_plan({**BIRD, "stages": [oven]})
    (line,) = oven_lines(found.stages, effects(found), Units("F"))
    assert re.fullmatch(r"Foil tent: the core comes out \d+\.\d °F colder than open\.", line)


def test_the_door_is_opened_or_basted_at_and_keeps_its_minutes():
    basted = {**BIRD, "stages": [{"kind": "oven", "air_c": 180, "baste_every_min": 45, "minutes": 90}]}
    data = posted(basted)
    assert (data["s0-door"], data["s0-door_every"]) == ("baste_every_min", "45")
    assert Bench.of_post(data, UNITS).document({})["stages"][0]["baste_every_min"] == 45
    opened = Bench.of_post(data | {"s0-door": "open_every_min"}, UNITS).document({})["stages"][0]
    assert opened["open_every_min"] == 45
    assert "baste_every_min" not in opened
    shut = Bench.of_post(data | {"s0-door": ""}, UNITS).document({})["stages"][0]
    assert not {"open_every_min", "baste_every_min"} & set(shut)
    # Chosen a moment ago, its minutes not yet on the screen: the usual ones.
    del data["s0-door_every"]
    assert Bench.of_post(data, UNITS).document({})["stages"][0]["baste_every_min"] == 30


# Duck breast is served pink: none of its words meets the rule, and the bench says so.
NO_PINK = [row for row in cuts().values() if row.category in ("poultry", "minced") and row.doneness != "duck"]


@pytest.mark.parametrize("row", NO_PINK, ids=lambda row: row.id)
def test_a_first_plan_meets_its_rule_where_no_advisory_helps(row):
    result = evaluate(parse_plan(first_document(row)))
    assert result.safety[0].met, result.safety[0].words
