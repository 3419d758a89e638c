"""Batches: the chill desk, the clock by readings, missed and put right, portions, the last day, labels."""

from __future__ import annotations

import datetime as dt
import uuid
from urllib.parse import parse_qsl

import numpy as np
import pytest
from django.db import DatabaseError, connection, transaction
from django.urls import reverse

from ember.files.chill import parse_chill
from ember.judge.phases import judge_phase
from ember.judge.record import TemperatureRecord
from ember.judge.standards import standard
from ember.quantities import Units
from kitchen.batches import actions
from kitchen.batches.cooling_status import cooling_status_of
from kitchen.batches.forms import ChillForm
from kitchen.batches.models import Batch, BatchEvent
from kitchen.demo.batches import add_batches
from kitchen.line import actions as line_actions
from kitchen.line.models import Cook

from ..seen import has_word
from .pages import body_of

TYPED = {
    "cut": "pork/belly", "shape": "slab", "size": "44", "mass": "1000", "count": "5", "portions": "30", "start": "72",
    "bagged": "on", "wait": "8", "way": "ice-bath", "until": "5", "then": "walk-in", "layers": "1",
    "packed": "cook-chill", "kept": "3", "back": "bath", "medium": "66", "after": "served",
}  # fmt: skip


def typed_document():
    form = ChillForm(TYPED, Units())
    assert form.is_valid(), form.errors
    return form.document()


@pytest.fixture
def batch(kitchen, chef):
    return actions.out_of_the_heat(kitchen, chef, "Belly", typed_document(), 30, uuid.uuid4())


def at(batch, minutes, kind, person, **more):
    """An event so many minutes after it left the heat."""
    moment = batch.out_at + dt.timedelta(minutes=minutes)
    return BatchEvent.objects.create(batch=batch, kind=kind, at=moment, by=person, **more)


def course(batch, minutes):
    """The batch as it stands so many minutes after it left the heat."""
    return cooling_status_of(batch, batch.out_at + dt.timedelta(minutes=minutes))


def back_in_time(batch, **how_long):
    """The same batch, out of the heat that long ago: by a new row, as none is ever changed."""
    out_at = batch.out_at - dt.timedelta(**how_long)
    return Batch.objects.create(
        kitchen=batch.kitchen, name=batch.name, document=batch.document, result=batch.result, portions=batch.portions,
        out_at=out_at, out_by=batch.out_by,
    )  # fmt: skip


# The desk -------------------------------------------------------------------------------------------------------------


def test_the_desk_opens_and_answers(signed_in):
    body = body_of(signed_in.get("/batches/new/"))
    assert "In time" in body
    assert "Start the cooling clock" in body
    assert " style=" not in body
    assert not has_word(body, "safe")


@pytest.mark.parametrize("way", ["ice-bath", "blast", "walk-in", "fridge"])
def test_every_way_answers(signed_in, way):
    body = body_of(signed_in.get("/batches/new/", TYPED | {"way": way, "then": "", "until": ""}))
    assert body.count('class="school"') == 4
    assert "Storage" in body


@pytest.mark.parametrize(
    ("change", "words"),
    [
        ({"size": ""}, "Thickness: enter a number"), ({"size": "4000"}, "Thickness must be from"),
        ({"start": "12"}, "Core"),
        ({"until": ""}, "Enter the core temperature"), ({"portions": "0"}, "greater than or equal to 1"),
        ({"medium": "50", "to": "60"}, "cannot get to"), ({"layers": "40"}, "less than or equal to 12"),
        ({"kept": "25"}, "Stored at must be from"), ({"mass": "ten"}, "ten"),
        ({"way": "fridge", "until": "3", "air": "6"}, "cannot get below"),
    ],
)  # fmt: skip
def test_wrong_numbers_are_said_beside_their_field(signed_in, change, words):
    body = body_of(signed_in.get("/batches/new/", TYPED | change))
    assert words in body
    assert "field-wrong" in body


def test_a_way_tapped_is_set(signed_in):
    response = signed_in.get("/batches/new/", TYPED | {"set": "way:blast"}, HTTP_HX_REQUEST="true")
    assert "way=blast" in response.headers["HX-Replace-Url"]
    assert "csrf" not in response.headers["HX-Replace-Url"]


def test_the_form_makes_a_request_the_core_takes():
    form = ChillForm(TYPED | {"way": "blast", "air": "1", "to": "60"}, Units())
    assert form.is_valid()
    told = parse_chill(form.document())
    assert told.cold[0].air_c == 1
    assert told.cold[0].to_c == 5
    assert told.back is not None
    assert told.back.to_c == 60


def test_out_of_the_heat_wants_a_name_and_keeps_what_was_typed(signed_in):
    response = signed_in.post("/batches/new/out/", TYPED | {"token": str(uuid.uuid4())})
    assert response.status_code == 422
    assert "Enter a name first." in body_of(response)
    assert 'value="44"' in body_of(response)
    assert Batch.objects.count() == 0


def test_out_of_the_heat_twice_is_one_batch(signed_in, kitchen):
    sent = TYPED | {"token": str(uuid.uuid4()), "name": "Belly"}
    first, second = (signed_in.post("/batches/new/out/", sent) for _ in range(2))
    assert first.url == second.url
    assert Batch.objects.of(kitchen).count() == 1


# The clock ------------------------------------------------------------------------------------------------------------


def test_the_clock_waits_for_a_reading_under_the_rule(batch):
    first = course(batch, 20).next_stage
    assert first.due_at is None
    assert first.from_c == 57.0


def test_the_clock_runs_from_where_it_fell_below(batch, chef):
    """Read each five minutes: 72 °C at once, 57 after fifteen. 21 °C is due at 135, 5 °C at 375."""
    for minutes, celsius in ((5, 67.0), (10, 62.0), (15, 57.0), (20, 52.0)):
        at(batch, minutes, "read", chef, celsius=celsius)
    first, whole = course(batch, 31).stages
    assert (first.due_at - batch.out_at).total_seconds() / 60 == pytest.approx(135, abs=0.1)
    assert (whole.due_at - batch.out_at).total_seconds() / 60 == pytest.approx(375, abs=0.1)


def test_a_gap_starts_the_clock_as_early_as_it_may_have_begun(batch, chef):
    """Not read for half an hour: it may have fallen below at once."""
    at(batch, 30, "read", chef, celsius=42.4)
    first, _ = course(batch, 31).stages
    assert (first.due_at - batch.out_at).total_seconds() / 60 == pytest.approx(120, abs=0.1)


def test_cold_in_time(batch, chef):
    for minutes, celsius in ((30, 40.0), (80, 18.0), (150, 4.5)):
        at(batch, minutes, "read", chef, celsius=celsius)
    found = course(batch, 160)
    assert found.is_cold
    assert not found.is_missed
    assert found.why_not == ""


def test_missed_by_its_clock_without_any_reading_that_says_so(batch, chef):
    at(batch, 20, "read", chef, celsius=50.0)
    assert not course(batch, 120).is_missed
    late = course(batch, 160)
    assert late.is_missed
    assert late.why_not == "Cooling missed: take a corrective action first."


def test_reached_too_late_is_missed_too(batch, chef):
    at(batch, 20, "read", chef, celsius=50.0)
    at(batch, 170, "read", chef, celsius=18.0)
    assert course(batch, 171).is_missed


# Put right ------------------------------------------------------------------------------------------------------------


@pytest.fixture
def missed(batch, chef):
    old = back_in_time(batch, minutes=170)
    at(old, 20, "read", chef, celsius=50.0)
    return old


def test_heated_through_again_begins_anew_once(missed, chef):
    actions.reheated(missed, chef, 76.0, "in its stock")
    found = cooling_status_of(missed, missed.kitchen.now())
    assert not found.is_missed
    assert found.begins_c == 76.0
    assert found.use_by == course(missed, 0).use_by, "its last day counts from the first time"
    later = found.begins_at + dt.timedelta(minutes=30)
    BatchEvent.objects.create(batch=missed, kind="read", at=later, by=chef, celsius=50.0)
    again = cooling_status_of(missed, later + dt.timedelta(minutes=200))
    assert again.is_missed
    assert again.was_reheated


def test_heated_to_less_than_the_rule_is_refused(missed, chef):
    with pytest.raises(actions.BatchError, match=r"needs 73\.9 °C"):
        actions.reheated(missed, chef, 70.0, "")


def test_its_whole_time_over_is_not_put_right_by_heat(batch, chef):
    old = back_in_time(batch, hours=8)
    at(old, 20, "read", chef, celsius=50.0)
    with pytest.raises(actions.BatchError, match="Discard it"):
        actions.reheated(old, chef, 80.0, "")


def test_nothing_missed_is_nothing_to_put_right(batch, chef):
    with pytest.raises(actions.BatchError, match="was not missed"):
        actions.reheated(batch, chef, 80.0, "")
    with pytest.raises(actions.BatchError, match="was not missed"):
        actions.decide(batch, chef, "why not")


def test_only_a_chef_decides_and_in_words(client, missed, cook_person, chef):
    url = reverse("batches:act", args=[missed.pk])
    for person, note in ((cook_person, "looks fine"), (chef, "")):
        client.force_login(person)
        client.post(url, {"what": "decided", "note": note})
        assert cooling_status_of(missed, missed.kitchen.now()).is_missed
    client.post(url, {"what": "decided", "note": "probe stood in the bone"})
    found = cooling_status_of(missed, missed.kitchen.now())
    assert not found.is_missed
    assert found.why_not == ""


# Portions -------------------------------------------------------------------------------------------------------------


@pytest.fixture
def cold(batch, chef):
    old = back_in_time(batch, hours=20)
    for minutes, celsius in ((30, 40.0), (80, 18.0), (150, 4.5)):
        at(old, minutes, "read", chef, celsius=celsius)
    return old


def test_taken_for_two_services_and_put_back(signed_in, cold):
    url = reverse("batches:act", args=[cold.pk])
    signed_in.post(url, {"what": "used", "portions": "12", "note": "lunch"})
    signed_in.post(url, {"what": "used", "portions": "10", "note": "supper"})
    assert cooling_status_of(cold, cold.kitchen.now()).left == 8
    event = cold.events.get(note="supper")
    for _ in range(2):
        signed_in.post(url, {"what": "back", "event": str(event.pk)})
    assert cooling_status_of(cold, cold.kitchen.now()).left == 18


def test_more_than_are_left_are_not_taken(signed_in, cold):
    response = signed_in.post(reverse("batches:act", args=[cold.pk]), {"what": "used", "portions": "31"}, follow=True)
    assert "Only 30 are left." in body_of(response)


def test_a_wrong_number_comes_back_beside_its_field(signed_in, cold, batch):
    response = signed_in.post(reverse("batches:act", args=[cold.pk]), {"what": "used", "portions": "few"})
    assert response.status_code == 422
    assert 'value="few"' in body_of(response)
    response = signed_in.post(reverse("batches:act", args=[batch.pk]), {"what": "read", "celsius": "hot"})
    assert response.status_code == 422
    assert 'value="hot"' in body_of(response)


def test_nothing_is_taken_before_it_is_cold_or_after_its_last_day(batch, chef, cold):
    with pytest.raises(actions.BatchError, match="not cold yet"):
        actions.use(batch, chef, 1)
    old = back_in_time(cold, days=7)
    for minutes, celsius in ((30, 40.0), (80, 18.0), (150, 4.5)):
        at(old, minutes, "read", chef, celsius=celsius)
    with pytest.raises(actions.BatchError, match="past its use-by date"):
        actions.use(old, chef, 1)


def test_into_the_cold_comes_first_and_is_moved_later(signed_in, batch, chef):
    url = reverse("batches:act", args=[batch.pk])
    course = cooling_status_of(batch, batch.kitchen.now())
    assert course.waits_for_cold
    assert course.into_cold_by > batch.out_at
    assert "Start chilling by" in body_of(signed_in.get(reverse("batches:batch", args=[batch.pk])))
    for place in ("Ice bath", "Ice bath", "Walk-in"):
        signed_in.post(url, {"what": "cold", "place": place})
    course = cooling_status_of(batch, batch.kitchen.now())
    assert [event.note for event in course.events] == ["Ice bath", "Walk-in"]
    assert (course.waits_for_cold, course.stands_in) == (False, "Walk-in")
    assert "Choose where it is" in body_of(signed_in.post(url, {"what": "cold", "place": " "}))


def test_pressed_then_cut_into_portions(signed_in, cold):
    url = reverse("batches:act", args=[cold.pk])
    signed_in.post(url, {"what": "pressed", "note": "4 kg"})
    assert cooling_status_of(cold, cold.kitchen.now()).pressed_at is not None
    signed_in.post(url, {"what": "portioned", "cut_into": "26"})
    course = cooling_status_of(cold, cold.kitchen.now())
    assert (course.pressed_at, course.left) == (None, 26)
    signed_in.post(url, {"what": "used", "portions": "20", "note": "lunch"})
    body = body_of(signed_in.post(url, {"what": "portioned", "cut_into": "19"}, follow=True))
    assert "20 are already used" in body
    wrong = signed_in.post(url, {"what": "portioned", "cut_into": "some"})
    assert wrong.status_code == 422
    assert 'value="some"' in body_of(wrong)
    assert cooling_status_of(cold, cold.kitchen.now()).left == 6


def test_nothing_is_pressed_or_cut_while_it_is_warm(batch, chef):
    with pytest.raises(actions.BatchError, match="Chill it first"):
        actions.press(batch, chef, "4 kg")
    with pytest.raises(actions.BatchError, match="Chill it first"):
        actions.portion(batch, chef, 12)


def test_what_a_cook_left_goes_to_the_desk_and_the_batch_knows_its_cook(signed_in, running):
    response = signed_in.get(reverse("batches:from-cook", args=[running.pk]))
    query = response.url.split("?", 1)[1]
    body = body_of(signed_in.get(response.url))
    assert running.name in body
    typed = dict(parse_qsl(query)) | {"token": str(uuid.uuid4())}
    signed_in.post(reverse("batches:out"), typed)
    found = Batch.objects.get(cook=running)
    piece = running.document["piece"]
    assert found.document["piece"]["cut"] == piece["cut"]
    assert found.document["piece"]["count"] == piece.get("count", 1)
    assert running.name in body_of(signed_in.get(reverse("batches:batch", args=[found.pk])))


def test_a_strangers_cook_is_not_found_and_not_linked(client, stranger, running):
    client.force_login(stranger)
    assert client.get(reverse("batches:from-cook", args=[running.pk])).status_code == 404


def test_the_desk_takes_a_barrier_and_wants_both_halves_of_a_heat(signed_in):
    typed = {"packed": "reduced-oxygen", "ph": "4.4"}
    usual = ChillForm(None, Units()).data
    assert "30 days" in body_of(signed_in.get(reverse("batches:desk"), usual | typed))
    assert "No shelf life" in body_of(signed_in.get(reverse("batches:desk"), usual | typed | {"ph": ""}))
    assert "Enter both a temperature" in body_of(signed_in.get(reverse("batches:desk"), usual | {"heat": "90"}))


def test_thrown_away_is_the_end(signed_in, cold, chef):
    signed_in.post(reverse("batches:act", args=[cold.pk]), {"what": "discarded", "note": "fridge stood open"})
    found = cooling_status_of(cold, cold.kitchen.now())
    assert found.left == 0
    with pytest.raises(actions.BatchError, match="discarded"):
        actions.read(cold, chef, 4.0)


@pytest.mark.parametrize(("standard", "days"), [("us-food-code-2022", 7), ("uk-fsa", 5), ("anz", None)])
def test_the_last_day_counts_the_first(kitchen, chef, standard, days):
    """Seven days of the Food Code (day of preparation is day 1), five of cook-chill; where nothing is said, none."""
    kitchen.standard = standard
    kitchen.save()
    made = actions.out_of_the_heat(kitchen, chef, "Belly", typed_document(), 4, uuid.uuid4())
    found = cooling_status_of(made, kitchen.now())
    first = made.out_at.astimezone(kitchen.zone).date()
    assert found.use_by == (None if days is None else first + dt.timedelta(days=days - 1))


# What stands ----------------------------------------------------------------------------------------------------------


@pytest.mark.parametrize("table", ["batches_batch", "batches_batchevent"])
def test_nothing_of_it_is_ever_changed(cold, table):
    with pytest.raises(DatabaseError, match="never changed"), transaction.atomic(), connection.cursor() as cursor:
        cursor.execute(f"UPDATE {table} SET {'name' if table == 'batches_batch' else 'note'} = 'x'")


def test_the_label_says_what_when_who_and_how(signed_in, cold):
    body = body_of(signed_in.get(reverse("batches:label", args=[cold.pk])))
    assert "Use by" in body
    assert "<dt>Portions</dt><dd>30</dd>" in body
    assert "on the probe" in body
    assert "<svg" in body


def test_another_kitchens_batch_is_not_found(client, cold, stranger):
    client.force_login(stranger)
    for name in ("batch", "label"):
        assert client.get(reverse(f"batches:{name}", args=[cold.pk])).status_code == 404
    assert client.post(reverse("batches:act", args=[cold.pk]), {"what": "discarded"}).status_code == 404
    assert "Belly" not in body_of(client.get("/batches/"))


def test_the_shelf_empty_and_with_five_hundred(
    client, stranger, signed_in, batch, kitchen, django_assert_max_num_queries
):  # fmt: skip
    client.force_login(stranger)
    assert "No batches yet" in body_of(client.get("/batches/"))
    client.force_login(batch.out_by)
    Batch.objects.bulk_create(
        Batch(
            kitchen=kitchen, name=f"Batch {i} " + "long " * 12, document=batch.document, result=batch.result,
            portions=3, out_at=batch.out_at, out_by=batch.out_by,
        )
        for i in range(500)
    )  # fmt: skip
    with django_assert_max_num_queries(12):
        body = body_of(signed_in.get("/batches/"))
    assert body.count("shelf-row") == 500


def test_missed_stands_first_on_the_shelf(signed_in, cold, missed):
    body = body_of(signed_in.get("/batches/"))
    assert body.index(str(missed.pk)) < body.index(str(cold.pk))
    assert "Cooling missed" in body


def test_portions_are_brought_back_on_the_line_once(signed_in, cold):
    url, token = reverse("batches:act", args=[cold.pk]), str(uuid.uuid4())
    sent = {"what": "bring", "portions": "6", "note": "first sitting", "token": token}
    first, second = signed_in.post(url, sent), signed_in.post(url, sent)
    assert first.url == second.url
    assert cooling_status_of(cold, cold.kitchen.now()).left == 24
    body = body_of(signed_in.get(first.url))
    assert "the bath to 66" in body
    cook = Cook.objects.get()
    assert cook.kind == Cook.Kind.BACK
    assert [step["verb"] for step in cook.result["steps"]] == ["Set", "Lay in", "Lift", "Serve"]


def test_what_is_brought_back_is_on_the_board_and_in_the_log(signed_in, cold):
    signed_in.post(reverse("batches:act", args=[cold.pk]), {"what": "bring", "portions": "2"})
    assert "2 back" in body_of(signed_in.get("/line/"))
    cook = Cook.objects.get()
    line_actions.finish(cook, cook.started_by)
    assert "2 back" in body_of(signed_in.get("/log/", follow=True))


def test_without_a_way_back_nothing_is_sent(kitchen, chef):
    document = {key: value for key, value in typed_document().items() if key != "back"}
    made = actions.out_of_the_heat(kitchen, chef, "Cold plate", document, 4, uuid.uuid4())
    with pytest.raises(actions.BatchError, match="no reheating method"):
        actions.bring_back(made, chef, 1, "", uuid.uuid4())


def test_only_eggs_are_drawn_in_a_pot(signed_in, cold):
    signed_in.post(reverse("batches:act", args=[cold.pk]), {"what": "bring", "portions": "2"})
    body = body_of(signed_in.get(reverse("line:steps", args=[Cook.objects.get().pk])))
    assert "steps-pot" not in body
    assert "Stop this cook" in body


def test_after_it_was_heated_again_the_gates_move_and_old_readings_stay(missed, chef, signed_in):
    before = cooling_status_of(missed, missed.kitchen.now())
    actions.reheated(missed, chef, 77.0, "")
    actions.read(missed, chef, 50.0)
    found = cooling_status_of(missed, missed.kitchen.now())
    assert found.stages[0].due_at > before.stages[0].due_at + dt.timedelta(minutes=120)
    assert [round(c) for _, c in found.read_out] == [72, 50, 77, 50]
    assert body_of(signed_in.get(reverse("batches:batch", args=[missed.pk]))).count("chill-dot") == 4


def test_the_stages_of_readings_are_the_verdict_of_the_core(batch, chef):
    for minutes, celsius in ((25, 55.0), (100, 25.0), (150, 19.0), (300, 4.0)):
        at(batch, minutes, "read", chef, celsius=celsius)
    found = course(batch, 310)
    t, warmest = (np.array(column) for column in zip(*found.readings, strict=True))
    verdict = judge_phase(standard("us-food-code-2022"), "cool", TemperatureRecord(t, warmest, 300.0))
    assert verdict.met == all(stage.met for stage in found.stages)
    spare = min((stage.due_at - stage.reached_at).total_seconds() / 60 for stage in found.stages)
    assert verdict.margin == pytest.approx(spare, abs=0.05)


def test_the_demonstrations_batches_are_what_they_say(kitchen, chef):
    add_batches(kitchen, {"tobin": chef, "pell": chef})
    belly, hens, shin = (
        cooling_status_of(Batch.objects.get(name__startswith=name), kitchen.now())
        for name in ("Pressed", "Hen", "Shin")
    )
    assert (belly.left, belly.why_not) == (15, "")
    assert hens.next_stage is not None
    assert not hens.is_missed
    assert shin.is_missed
    assert not shin.stages[-1].missed, "it can still be put right"
