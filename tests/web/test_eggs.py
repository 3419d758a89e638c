"""The egg bench and egg cooks on the line: numbers, wrong numbers, rules, wet hands, records, kitchens apart."""

from __future__ import annotations

import datetime as dt
import uuid

import pytest
from django.urls import reverse

from ember.quantities import Units
from kitchen.desk.saved_requests import archive, restore, save_request
from kitchen.eggs.bench import work_out
from kitchen.eggs.forms import FORMS
from kitchen.eggs.models import EggPlan
from kitchen.line import actions
from kitchen.line.actions import LineError
from kitchen.line.forecasting import due_cooks
from kitchen.line.models import Cook, CookEvent
from kitchen.line.step_actions import start_steps
from kitchen.line.step_cooks import recorded_words, step_status_of
from kitchen.logbook.actions import sign

from ..seen import has_word
from .pages import body_of

POACH = {
    "format": "open-ember/egg", "version": 1, "method": "poach", "school": "whirl", "count": 3, "minutes": 4.0,
    "water_c": 92.0, "then": {"kind": "ice_bath"}, "advisory": True,
}  # fmt: skip
HARD = {"format": "open-ember/egg", "version": 1, "method": "boil", "count": 4, "minutes": 13.0}
TYPED = {
    "kind": "hen", "mass": "58", "count": "6", "start": "5", "altitude": "0", "after": "ice_bath", "pot_start": "hot",
    "target": "jammy",
}  # fmt: skip


@pytest.fixture
def poaching(kitchen, cook_person):
    return start_steps(kitchen, cook_person, "Morning eggs", POACH, uuid.uuid4(), place="Ring 2", medium_c=92.0)


# The bench -----------------------------------------------------------------------------------------------------------


@pytest.mark.parametrize("method", list(FORMS))
def test_every_way_with_eggs_opens_and_answers(signed_in, method):
    response = signed_in.get(reverse("eggs:bench", args=[method]))
    body = body_of(response)
    assert response.status_code == 200
    assert "Send to the line" in body
    assert "Rule met" in body or "Not met" in body
    assert not has_word(body, "nan")
    assert " style=" not in body
    assert not has_word(body, "safe")


def test_the_first_page_is_boiled_eggs_and_unknown_ways_are_not_there(signed_in):
    assert signed_in.get("/eggs/").url == "/eggs/boil/"
    assert signed_in.get("/eggs/fry/").status_code == 404


def test_nine_cut_eggs_and_the_words_on_one_axis(signed_in):
    body = body_of(signed_in.get("/eggs/boil/", TYPED))
    assert body.count('class="egg-cut"') == 9
    for word in ("Runny", "Syrupy", "Jammy", "Fudgy", "Chalky"):
        assert f"<span>{word}</span>" in body
    assert "What moves" in body
    assert "± " in body


def test_a_tap_on_a_word_and_on_an_egg(signed_in):
    htmx = {"HTTP_HX_REQUEST": "true"}
    response = signed_in.get("/eggs/boil/", TYPED | {"set": "fudgy"}, **htmx)
    assert '<h2 class="desk-word">Fudgy</h2>' in body_of(response)
    assert "target=fudgy" in response.headers["HX-Replace-Url"]
    assert "csrf" not in response.headers["HX-Replace-Url"]
    response = signed_in.get("/eggs/boil/", TYPED | {"set": "6"}, **htmx)
    assert 'value="6:00"' in body_of(response)
    assert "target=clock" in response.headers["HX-Replace-Url"]


def test_a_clock_that_is_cleared_goes_back_to_the_usual(signed_in):
    body = body_of(signed_in.get("/eggs/boil/", TYPED | {"target": "clock", "minutes": ""}))
    assert '<h2 class="desk-word">Jammy</h2>' in body
    body = body_of(signed_in.get("/eggs/poach/", TYPED | {"school": "whirl", "target": "clock", "minutes": ""}))
    assert 'value="4:00"' in body


def test_what_moves_the_clock_follows_the_picture(signed_in):
    htmx = {"HTTP_HX_REQUEST": "true"}
    assert "Egg at 20 °C" not in body_of(signed_in.get("/eggs/boil/", TYPED, **htmx)), "the picture first"
    beside = body_of(signed_in.get("/eggs/boil/aside/", TYPED, **htmx))
    assert "Egg at 20 °C" in beside
    assert "<form" not in beside
    assert "Ten seconds in the shell" in body_of(signed_in.get("/eggs/poach/aside/", **htmx))


def test_a_school_brings_its_own_heat(signed_in):
    data = TYPED | {"school": "whirl", "water": "80", "target": "clock", "minutes": "4:00", "set": "school:circulator"}
    body = body_of(signed_in.get("/eggs/poach/", data))
    assert "Rule met" in body or "Not met" in body
    assert 'value="80"' not in body


def test_another_bird_begins_with_its_own_mass(signed_in):
    body = body_of(signed_in.get("/eggs/boil/", TYPED | {"kind": "duck", "was_kind": "hen"}))
    assert "weighs" not in body
    assert "duck" in body


@pytest.mark.parametrize(
    ("change", "words"),
    [
        ({"mass": "900"}, "A hen egg weighs 35 to 100 g"), ({"mass": "heavy"}, "heavy"),
        ({"count": "0"}, "greater than"),
        ({"start": "99"}, "Start must be from"), ({"altitude": "9000"}, "Altitude must be from"),
        ({"target": "clock", "minutes": "soon"}, "soon"), ({"up_at": "26:70"}, "time of day"),
        ({"pot_start": "cold", "litres": "80", "power": "200"}, "less water, fewer eggs"),
    ],
)  # fmt: skip
def test_wrong_numbers_are_said_and_nothing_is_lost(signed_in, change, words):
    body = body_of(signed_in.get("/eggs/boil/", TYPED | change))
    assert words in body
    assert "problem" in body
    for name in change:
        if change[name] and name not in ("target", "pot_start"):
            assert f'value="{change[name]}"' in body


def test_a_target_that_cannot_be_is_said(signed_in):
    data = TYPED | {"water": "55", "target": "set", "after": "open"}
    assert "never comes to set" in body_of(signed_in.get("/eggs/circulator/", data))


def test_it_speaks_the_persons_units(client, cook_person):
    cook_person.temperature_unit, cook_person.mass_unit = "F", "lb"
    cook_person.save()
    client.force_login(cook_person)
    body = body_of(client.get("/eggs/circulator/"))
    assert "°F" in body
    assert 'value="147.2"' in body, "a bath of 64 °C"


def test_when_to_begin_for_a_time(signed_in):
    body = body_of(signed_in.get("/eggs/boil/", TYPED | {"up_at": "23:30"}))
    assert "start at 23:" in body


def test_the_altitude_is_the_kitchens(client, kitchen, cook_person):
    kitchen.altitude_m = 1500.0
    kitchen.save()
    client.force_login(cook_person)
    assert 'value="1500"' in body_of(client.get("/eggs/boil/"))


def test_kinds_stand_in_a_table(signed_in):
    body = body_of(signed_in.get(reverse("eggs:kinds")))
    for word in ("Quail", "Hen XL", "Duck", "Goose", "Ostrich"):
        assert word in body


@pytest.mark.parametrize("method", list(FORMS))
def test_a_kept_request_comes_back_as_it_was(method):
    """Typed, kept, and read back into the fields: the same request."""
    units = Units()
    form = FORMS[method](None, units)
    assert form.is_valid(), form.errors
    document = form.document()
    again = FORMS[method]({k: v for k, v in FORMS[method].data_of(document, units).items() if v is not False}, units)
    assert again.is_valid(), again.errors
    assert again.document() == document
    assert work_out(document, units).says is not None


# Kept ----------------------------------------------------------------------------------------------------------------


def test_keeping_opening_putting_away_and_back(signed_in, kitchen, chef_in):
    data = TYPED | {"name": "Deck eggs"}
    kept = signed_in.post(reverse("eggs:keep", args=["boil"]), data)
    plan = EggPlan.objects.get()
    assert kept.url == reverse("eggs:kept", args=[plan.pk])
    opened = signed_in.get(signed_in.get(kept.url).url)
    assert "Deck eggs" in body_of(opened)
    assert "Archive" in body_of(chef_in.get(chef_in.get(kept.url).url))
    signed_in.post(reverse("eggs:keep", args=["boil"]), data | {"count": "9"})
    assert EggPlan.objects.get().document["count"] == 9, "the same name replaces"
    chef_in.post(reverse("eggs:put-away", args=[plan.pk]))
    assert not EggPlan.objects.of(kitchen).current().exists()
    assert "Undo" in body_of(chef_in.get("/eggs/boil/"))
    chef_in.post(reverse("eggs:put-back", args=[plan.pk]))
    assert EggPlan.objects.of(kitchen).current().exists()


def test_keeping_needs_a_name(signed_in):
    response = signed_in.post(reverse("eggs:keep", args=["boil"]), TYPED)
    assert response.status_code == 422
    assert "Enter a name first." in body_of(response)
    assert not EggPlan.objects.exists()


def test_a_name_taken_meanwhile_stays_with_the_other(kitchen, chef):
    first = save_request(EggPlan, kitchen, chef, "Eggs", HARD)
    archive(first)
    save_request(EggPlan, kitchen, chef, "Eggs", POACH)
    assert restore(first) is False


# To the line ---------------------------------------------------------------------------------------------------------


def test_what_misses_its_rule_goes_only_with_its_advisory(signed_in):
    data = TYPED | {"target": "clock", "minutes": "6:00", "token": str(uuid.uuid4())}
    refused = signed_in.post(reverse("eggs:send", args=["boil"]), data)
    assert refused.status_code == 422
    assert "tick the consumer advisory" in body_of(refused)
    assert not Cook.objects.exists()
    for _ in range(2):  # the same token sends once
        sent = signed_in.post(reverse("eggs:send", args=["boil"]), data | {"advisory": "on"})
    cook = Cook.objects.get()
    assert sent.url == reverse("line:steps", args=[cook.pk])
    assert cook.goes_by_steps
    assert cook.pieces == 6


def test_guests_at_risk_get_none_that_misses(signed_in):
    data = TYPED | {"target": "clock", "minutes": "6:00", "guests": "susceptible", "advisory": "on"}
    refused = signed_in.post(reverse("eggs:send", args=["boil"]), data)
    assert "Not for susceptible guests" in body_of(refused)
    assert not Cook.objects.exists()
    signed_in.post(reverse("eggs:send", args=["boil"]), data | {"pasteurised": "on"})
    assert Cook.objects.count() == 1


def test_eggs_stand_on_the_board_and_ask_for_no_forecast(signed_in, poaching):
    body = body_of(signed_in.get(reverse("line:board")))
    assert "Drop egg 1" in body
    assert "Morning eggs" in body
    assert "Ring 2" in body
    assert due_cooks() == []


def test_one_tap_a_step_to_the_end(signed_in, poaching):
    url = reverse("line:steps-act", args=[poaching.pk])
    steps = step_status_of(poaching).steps
    for step in steps:
        body = body_of(signed_in.get(reverse("line:steps", args=[poaching.pk])))
        assert f"{step.verb} {step.what}" in body
        token = str(uuid.uuid4())
        for _ in range(2):  # wet fingers tap twice
            signed_in.post(url, {"step": step.number, "token": token, "how": "done"}, HTTP_HX_REQUEST="true")
    assert "All steps are done" in body_of(signed_in.get(reverse("line:steps", args=[poaching.pk])))
    done = signed_in.post(url, {"how": "finish", "token": str(uuid.uuid4())})
    assert done.url == reverse("logbook:record", args=[poaching.pk])
    assert CookEvent.objects.filter(cook=poaching, kind="done").count() == len(steps)
    page = reverse("line:steps", args=[poaching.pk])
    assert signed_in.get(page).url == done.url
    assert signed_in.get(page, HTTP_HX_REQUEST="true").headers["HX-Redirect"] == done.url, "another screen goes along"


def test_the_board_takes_the_tap_too(signed_in, poaching):
    signed_in.post(reverse("line:do", args=[poaching.pk]), {"tap": f"{poaching.pk}:0:{uuid.uuid4()}"})
    assert step_status_of(Cook.objects.get()).next.number == 1


def test_a_lift_is_due_so_long_after_its_own_drop(poaching, cook_person):
    steps = step_status_of(poaching).steps
    actions.do_step(poaching, cook_person, 0, uuid.uuid4(), steps)
    event = CookEvent.objects.get(kind="done")
    status = step_status_of(Cook.objects.get())
    lift = next(step for step in steps if step.verb == "Lift")
    assert status.due_at(lift) == event.at + dt.timedelta(minutes=4)
    assert status.places[0].where == "in"
    assert status.places[1].where == "waits"


def test_fifteen_seconds_more_and_a_step_taken_back(signed_in, poaching):
    url = reverse("line:steps-act", args=[poaching.pk])

    def tap(how, **more):
        return signed_in.post(url, {"how": how, "token": str(uuid.uuid4()), **more}, HTTP_HX_REQUEST="true")

    for number in range(3):
        tap("done", step=number)
    before = step_status_of(Cook.objects.get())
    due = before.due_at(before.next)
    tap("more", step=before.next.number)
    after = step_status_of(Cook.objects.get())
    assert after.due_at(after.next) - due == dt.timedelta(seconds=15)
    tap("undo")
    assert step_status_of(Cook.objects.get()).next.number == 2
    tap("undo")
    tap("undo")
    assert step_status_of(Cook.objects.get()).next.number == 0, "the first one too"
    tap("undo")
    assert "not next" in body_of(tap("done", step=5))


def test_a_look_is_kept_and_stopping_says_so(signed_in, poaching):
    url = reverse("line:steps-act", args=[poaching.pk])
    signed_in.post(url, {"word": "egg 1 floats", "token": str(uuid.uuid4())})
    assert CookEvent.objects.get(kind="checked").data["word"] == "egg 1 floats"
    signed_in.post(url, {"how": "stop", "token": str(uuid.uuid4())})
    poaching.refresh_from_db()
    assert poaching.finished_at is not None
    assert "Stopped" in body_of(signed_in.get(reverse("logbook:record", args=[poaching.pk])))


def test_what_the_next_tap_records_is_said(poaching):
    said = [recorded_words(step) for step in step_status_of(poaching).steps]
    assert "egg 1 is in" in said
    assert "egg 2 is in the ice" in said
    assert "3 eggs are in the cold" in said or "3 eggs in the cold" in said


def test_eggs_have_no_pages_of_pieces(signed_in, poaching):
    assert signed_in.get(reverse("line:check", args=[poaching.pk])).url == reverse("line:steps", args=[poaching.pk])
    assert signed_in.get(reverse("line:pan", args=[poaching.pk, 0])).status_code == 404
    assert signed_in.post(reverse("line:reading", args=[poaching.pk]), {"celsius": "60"}).status_code == 404
    assert signed_in.post(reverse("line:tell", args=[poaching.pk]), {"what": "opened"}).status_code == 404


def done_as_planned(cook, person, short_s=0.0):
    """Each step at its time, the last of the heat so much too soon; the cook then began that long ago."""
    steps = step_status_of(cook).steps
    lasts = dt.timedelta(seconds=steps[-1].at_s + 1.0)
    Cook.objects.filter(pk=cook.pk).update(started_at=cook.started_at - lasts)
    cook.refresh_from_db()
    for step in steps:
        early = short_s if step.span == "end" else 0.0
        CookEvent.objects.create(
            cook=cook, kind="done", step=step.number, by=person,
            at=cook.started_at + dt.timedelta(seconds=max(step.at_s - early, 0.0)),
        )  # fmt: skip
    return actions.finish(cook, person)


def test_the_record_stands_and_is_signed(client, chef, kitchen):
    cook = done_as_planned(start_steps(kitchen, chef, "Hard ones", HARD, uuid.uuid4()), chef)
    client.force_login(chef)
    body = body_of(client.get(reverse("logbook:record", args=[cook.pk])))
    assert "Rule met: core" in body
    assert "judged by the heat model, from the times tapped" in body
    assert "Lift" in body
    sign(Cook.objects.get(), chef, "password")
    body = body_of(client.get(reverse("logbook:record", args=[cook.pk])))
    assert "A signed record cannot be changed." in body
    with pytest.raises(Exception, match="signed"):
        CookEvent.objects.create(cook=cook, kind="corrected", at=kitchen.now(), by=chef, data={"note": "x"})


def test_eggs_out_too_soon_need_a_corrective_action(client, chef, kitchen):
    cook = start_steps(kitchen, chef, "Hard ones", HARD, uuid.uuid4())
    for step in step_status_of(cook).steps:
        actions.do_step(cook, chef, step.number, uuid.uuid4(), step_status_of(cook).steps)
    actions.finish(cook, chef)
    client.force_login(chef)
    body = body_of(client.get(reverse("logbook:record", args=[cook.pk])))
    assert "Not met: core peaked" in body
    assert "Record a corrective action" in body
    with pytest.raises(LineError, match="corrective action"):
        sign(Cook.objects.get(), chef, "password")
    actions.correct(cook, chef, "Back in the water for 9 min")
    assert sign(Cook.objects.get(), chef, "password").record["state"] == "not-met"


# Kitchens apart ------------------------------------------------------------------------------------------------------


def test_eggs_of_another_kitchen_are_not_there(client, stranger, kitchen, chef, poaching):
    plan = save_request(EggPlan, kitchen, chef, "Ours", HARD)
    client.force_login(stranger)
    for url in (reverse("line:steps", args=[poaching.pk]), reverse("eggs:kept", args=[plan.pk])):
        assert client.get(url).status_code == 404
    for url in (
        reverse("line:steps-act", args=[poaching.pk]), reverse("eggs:put-away", args=[plan.pk]),
        reverse("eggs:put-back", args=[plan.pk]),
    ):  # fmt: skip
        assert client.post(url, {"step": 0}).status_code == 404
    assert "Ours" not in body_of(client.get("/eggs/boil/"))


def test_five_hundred_eggs_and_long_names_fit(signed_in):
    data = TYPED | {"count": "500", "litres": "150", "name": "Œufs " * 15}
    response = signed_in.get("/eggs/boil/", data)
    assert response.status_code == 200
    assert signed_in.get("/eggs/boil/", TYPED | {"name": "x" * 200}).status_code == 200
