"""Who sees and does what: sign-in, kitchens apart, roles, and the policy on every page."""

from __future__ import annotations

import uuid

import pytest
from django.urls import reverse

from tests.conftest import PASSWORD

from .pages import body_of

PAGES = [
    "plans:list", "plans:new", "line:board", "logbook:log", "accounts:you", "standards:mine", "standards:doneness",
    "cuts:catalogue", "kit:kit", "eggs:kinds", "brines:desk",
]  # fmt: skip


@pytest.mark.parametrize("name", PAGES)
def test_every_page_asks_for_sign_in(client, db, name):
    response = client.get(reverse(name))
    assert response.status_code == 302
    assert response.url.startswith("/sign-in/")


@pytest.mark.parametrize("name", PAGES)
def test_every_page_opens_for_a_cook_and_has_a_strict_policy(client, cook_person, name):
    client.force_login(cook_person)
    response = client.get(reverse(name))
    assert response.status_code == 200
    policy = response.headers["Content-Security-Policy"]
    assert "script-src 'self'" in policy
    assert "unsafe" not in policy
    body = body_of(response)
    assert "<script>" not in body
    assert " style=" not in body
    assert "onclick" not in body


def test_sign_in_and_out(client, cook_person):
    response = client.post("/sign-in/", {"username": "cook", "password": PASSWORD})
    assert response.status_code == 302
    assert client.get("/plans/").status_code == 200
    client.post("/sign-out/")
    assert client.get("/plans/").status_code == 302


def test_a_wrong_password_is_said_and_locks_after_some_tries(client, cook_person):
    response = client.post("/sign-in/", {"username": "cook", "password": "wrong"})
    assert "Wrong name or password" in body_of(response)
    for _ in range(8):
        response = client.post("/sign-in/", {"username": "cook", "password": "wrong"})
    assert response.status_code == 429
    assert "Too many tries" in body_of(response)
    assert client.post("/sign-in/", {"username": "cook", "password": PASSWORD}).status_code == 429


def test_rows_of_another_kitchen_are_not_there(client, plan, running, stranger):
    client.force_login(stranger)
    for url in (
        reverse("plans:edit", args=[plan.pk]),
        reverse("plans:export", args=[plan.pk]),
        reverse("line:check", args=[running.pk]),
        reverse("logbook:record", args=[running.pk]),
        reverse("logbook:readings-csv", args=[running.pk]),
    ):
        assert client.get(url).status_code == 404, url
    for url in (
        reverse("plans:delete", args=[plan.pk]),
        reverse("plans:copy", args=[plan.pk]),
        reverse("line:do", args=[running.pk]),
        reverse("line:stop", args=[running.pk]),
        reverse("logbook:sign", args=[running.pk]),
    ):
        assert client.post(url).status_code == 404, url
    assert plan.name not in body_of(client.get("/plans/"))
    assert running.name not in body_of(client.get("/line/"))


def test_another_kitchens_probe_is_not_used(client, stranger, device, document):
    from ember.files.plan import parse_plan
    from kitchen.line.models import ProbeUse
    from kitchen.plans.actions import create

    theirs = create(stranger.memberships.get().kitchen, stranger, parse_plan(document))
    client.force_login(stranger)
    from tests.web.posting import posted

    data = posted(document) | {"then": "start", "probe": str(device[0].probes.first().pk)}
    assert client.post(reverse("plans:edit", args=[theirs.pk]), data).status_code == 302
    assert ProbeUse.objects.count() == 0


def test_a_person_without_a_kitchen_is_told(client, django_user_model):
    person = django_user_model.objects.create_user("lone", password=PASSWORD, name="Lone")
    client.force_login(person)
    response = client.get("/plans/")
    assert response.status_code == 403
    assert "not in a kitchen" in body_of(response)
    assert client.post("/sign-out/").status_code == 302


def test_a_cook_may_not_do_what_a_chef_does(client, cook_person, device):
    client.force_login(cook_person)
    assert client.post(reverse("kit:add-device"), {"name": "x", "probes": "1"}).status_code == 403
    assert client.post(reverse("kit:revoke", args=[device[0].pk])).status_code == 403
    assert client.post(reverse("accounts:people"), {}).status_code == 403


def test_a_chef_adds_people_and_changes_roles_but_one_chef_stays(client, kitchen, chef):
    client.force_login(chef)
    new = {"name": "Di New", "username": "di", "password": "a fine long word", "role": "cook"}
    assert client.post(reverse("accounts:people"), new).status_code == 302
    client.post("/sign-out/")
    assert client.post("/sign-in/", {"username": "di", "password": "a fine long word"}).status_code == 302
    client.force_login(chef)
    own = kitchen.memberships.get(person=chef)
    client.post(reverse("accounts:change-role", args=[own.pk]), {"role": "cook"})
    own.refresh_from_db()
    assert own.role == "chef"
    other = kitchen.memberships.get(person__username="di")
    client.post(reverse("accounts:change-role", args=[other.pk]), {"role": "chef"})
    client.post(reverse("accounts:change-role", args=[own.pk]), {"role": "cook"})
    own.refresh_from_db()
    assert own.role == "cook"


def test_a_weak_first_password_is_refused_beside_its_field(client, chef):
    client.force_login(chef)
    new = {"name": "Di", "username": "di", "password": "short", "role": "cook"}
    response = client.post(reverse("accounts:people"), new)
    assert response.status_code == 422
    assert "too short" in body_of(response)


def test_own_units_are_kept_and_used(client, cook_person, plan):
    client.force_login(cook_person)
    wanted = {"temperature_unit": "F", "length_unit": "in", "mass_unit": "lb", "theme": "night"}
    client.post(reverse("accounts:you"), wanted)
    body = body_of(client.get(reverse("plans:edit", args=[plan.pk])))
    assert 'data-theme="night"' in body
    assert "°F" in body
    assert "134.6" in body  # the bath's 57 °C


def test_unknown_addresses_get_a_page(client, cook_person):
    client.force_login(cook_person)
    response = client.get(f"/plans/{uuid.uuid4()}/")
    assert response.status_code == 404
    assert "Page not found" in body_of(response)


def test_health(client, db):
    assert client.get("/healthz").content == b"ok"
