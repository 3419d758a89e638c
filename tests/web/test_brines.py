"""The brine desk: numbers, wrong numbers, curing salt refused, confirmed by a second person and run, labels."""

from __future__ import annotations

import uuid

import pytest
from django.urls import reverse

from ember.quantities import Units
from kitchen.brines import actions
from kitchen.brines.forms import BrineForm
from kitchen.brines.models import BrinePlan, Confirmation
from kitchen.desk.saved_requests import save_request
from kitchen.line import actions as line_actions
from kitchen.line.brine_cooks import start_brine
from kitchen.line.models import Cook
from kitchen.line.step_cooks import step_status_of

from ..conftest import PASSWORD
from ..seen import has_word
from .pages import body_of

TYPED = {
    "school": "equilibrium", "flesh": "meat", "meat": "2400", "shape": "slab", "size": "32", "water": "1800",
    "salt_pct": "1.6", "sugar": "30", "hours": "36", "temp": "3",
}  # fmt: skip
CURED = TYPED | {"cure": "9", "strength": "6.25", "product": "immersion", "name": "Deck ribs"}
TOO_MUCH = CURED | {"cure": "60"}


@pytest.fixture
def cured(kitchen, chef):
    form = BrineForm(CURED, Units())
    assert form.is_valid(), form.errors
    return save_request(BrinePlan, kitchen, chef, "Deck ribs", form.document())


def test_the_desk_opens_and_answers(signed_in):
    body = body_of(signed_in.get("/brines/"))
    assert "% salt" in body
    assert ">Save<" in body
    assert " style=" not in body
    assert not has_word(body, "safe")


@pytest.mark.parametrize("school", ["equilibrium", "gradient", "dry", "injected"])
def test_every_school_answers(signed_in, school):
    body = body_of(signed_in.get("/brines/", TYPED | {"school": school}))
    assert "in the meat" in body
    assert body.count('class="school"') == 4


@pytest.mark.parametrize(
    ("change", "words"),
    [
        ({"meat": ""}, "Mass: enter a number"), ({"water": "0"}, "Enter the water."),
        ({"salt_pct": ""}, "Enter the salt"),
        ({"salt_pct": "80"}, "Salt must be from"), ({"temp": "60"}, "At must be from"), ({"hours": "many"}, "many"),
        ({"cure": "9"}, "Mixing them up is poisonous"), ({"cure": "9", "strength": "own"}, "strength on the bag"),
    ],
)  # fmt: skip
def test_wrong_numbers_are_said_beside_their_field(signed_in, change, words):
    body = body_of(signed_in.get("/brines/", TYPED | change))
    assert words in body


def test_a_school_tapped_brings_the_same_salt(signed_in):
    response = signed_in.get("/brines/", TYPED | {"set": "school:dry:1.6"}, HTTP_HX_REQUEST="true")
    assert "school=dry" in response.headers["HX-Replace-Url"]
    assert "csrf" not in response.headers["HX-Replace-Url"]


def test_spoons_are_turned_into_grams_with_their_error(signed_in):
    body = body_of(signed_in.get("/brines/", TYPED | {"spoons": "3", "spoon_kind": "flakes"}))
    assert "About 27 g ± 8" in body


@pytest.mark.parametrize("typed", [TYPED, CURED, CURED | {"strength": "own", "strength_pct": "0.9"}])
def test_a_kept_brine_comes_back_as_it_was(typed):
    form = BrineForm(typed, Units())
    assert form.is_valid()
    again = BrineForm({k: v for k, v in BrineForm.data_of(form.document(), Units()).items() if v is not False}, Units())
    assert again.is_valid(), again.errors
    assert again.document() == form.document()


def test_nitrite_over_its_limit_is_refused_with_the_reason(signed_in, kitchen):
    body = body_of(signed_in.get("/brines/", TOO_MUCH))
    assert "Not met: cannot be started" in body
    assert "693 over" in body
    kept = signed_in.post(reverse("brines:keep"), TOO_MUCH)
    plan = BrinePlan.objects.get()
    assert kept.url == reverse("brines:kept", args=[plan.pk])
    assert "This brine cannot be started" in body_of(signed_in.get(kept.url, follow=True))
    signed_in.post(reverse("start-brine", args=[plan.pk]))
    assert not Cook.objects.exists()


def test_a_brine_with_curing_salt_waits_for_a_second_person(client, kitchen, chef, cook_person, cured):
    client.force_login(chef)
    page = reverse("brines:kept", args=[cured.pk])
    assert "A second person must confirm" in body_of(client.get(page, follow=True))
    assert "must confirm this brine first" in body_of(client.post(reverse("start-brine", args=[cured.pk]), follow=True))
    refused = client.post(reverse("brines:confirm", args=[cured.pk]), {"own_password": PASSWORD}, follow=True)
    assert "must confirm (not the author)" in body_of(refused)
    assert not Confirmation.objects.exists()
    client.force_login(cook_person)
    body = body_of(client.get(page, follow=True))
    assert "Check the bag" in body
    assert "6.25 %" in body
    for _ in range(2):
        client.post(reverse("brines:confirm", args=[cured.pk]), {"own_password": PASSWORD})
    assert Confirmation.objects.count() == 1
    token = str(uuid.uuid4())
    for _ in range(2):
        sent = client.post(reverse("start-brine", args=[cured.pk]), {"token": token})
    cook = Cook.objects.get()
    assert sent.url == reverse("line:steps", args=[cook.pk])
    assert cook.result["confirmed_by"] == str(cook_person)


def test_a_change_voids_the_confirmation(kitchen, chef, cook_person, cured):
    actions.confirm(cured, cook_person, "password")
    changed = {**cured.document, "meat_g": cured.document["meat_g"] - 100}
    plan = save_request(BrinePlan, kitchen, chef, cured.name, changed)
    assert plan.confirmation is None
    with pytest.raises(actions.BrineError, match="second person"):
        start_brine(plan, chef, uuid.uuid4())
    plan = save_request(BrinePlan, kitchen, chef, cured.name, cured.document)
    assert plan.confirmation is not None, "the very same brine again"


def test_what_is_over_its_limit_is_not_confirmed(kitchen, chef, cook_person):
    form = BrineForm(TOO_MUCH, Units())
    assert form.is_valid()
    plan = save_request(BrinePlan, kitchen, chef, "Too much", form.document())
    with pytest.raises(actions.BrineError, match="Refused"):
        actions.confirm(plan, cook_person, "password")


def test_a_brine_without_curing_salt_starts_at_once_and_is_not_confirmed(kitchen, chef, cook_person):
    form = BrineForm(TYPED, Units())
    assert form.is_valid()
    plan = save_request(BrinePlan, kitchen, chef, "Plain", form.document())
    with pytest.raises(actions.BrineError, match="nothing to confirm"):
        actions.confirm(plan, cook_person, "password")
    assert start_brine(plan, chef, uuid.uuid4()).kind == Cook.Kind.BRINE


def test_it_runs_by_its_steps_to_the_log(client, chef, cook_person, cured):
    actions.confirm(cured, cook_person, "password")
    cook = start_brine(cured, chef, uuid.uuid4(), "Walk-in")
    client.force_login(cook_person)
    assert "Weigh" in body_of(client.get(reverse("line:board")))
    body = body_of(client.get(reverse("line:steps", args=[cook.pk])))
    assert "9 g curing salt" in body
    assert "Walk-in" in body
    verbs = [step.verb for step in step_status_of(cook).steps]
    assert verbs[:2] == ["Weigh", "Read again"]
    assert "Turn" in verbs, "a day and a half: turned once"
    for step in step_status_of(cook).steps:
        line_actions.do_step(cook, cook_person, step.number, uuid.uuid4(), step_status_of(cook).steps)
    line_actions.finish(cook, cook_person)
    body = body_of(client.get(reverse("logbook:record", args=[cook.pk])))
    assert "Read again" in body
    assert "ppm" in body
    assert "Confirmed by Bo Cook" in body
    assert "not cured as planned" in body, "its steps were tapped in a second"


def test_the_label_says_what_a_stranger_must_know(client, chef, cook_person, cured):
    actions.confirm(cured, cook_person, "password")
    cook = start_brine(cured, chef, uuid.uuid4())
    client.force_login(chef)
    body = body_of(client.get(reverse("brine-label", args=[cook.pk])))
    for words in ("Curing salt 6.25 %", "ppm", "Out", "confirmed by Bo Cook", "<svg"):
        assert words in body
    assert " style=" not in body


def test_putting_away_and_back(signed_in, kitchen, cured, chef_in):
    chef_in.post(reverse("brines:put-away", args=[cured.pk]))
    assert not BrinePlan.objects.of(kitchen).current().exists()
    chef_in.post(reverse("brines:put-back", args=[cured.pk]))
    assert BrinePlan.objects.of(kitchen).current().exists()
    assert signed_in.post(reverse("brines:keep"), TYPED).status_code == 422, "a name first"


def test_brines_of_another_kitchen_are_not_there(client, stranger, chef, cook_person, cured):
    actions.confirm(cured, cook_person, "password")
    cook = start_brine(cured, chef, uuid.uuid4())
    client.force_login(stranger)
    assert client.get(reverse("brines:kept", args=[cured.pk])).status_code == 404
    assert client.get(reverse("brine-label", args=[cook.pk])).status_code == 404
    assert client.post(reverse("start-brine", args=[cured.pk])).status_code == 404
    for name in ("confirm", "put-away", "put-back"):
        assert client.post(reverse(f"brines:{name}", args=[cured.pk])).status_code == 404
    assert "Deck ribs" not in body_of(client.get("/brines/"))
