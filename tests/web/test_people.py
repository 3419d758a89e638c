"""People come by a link, change their password, leave, and come back; their records stay."""

from __future__ import annotations

import datetime as dt
import re

import pytest
from django.test import Client
from django.urls import reverse
from django.utils import timezone

from kitchen.accounts import actions
from kitchen.accounts.models import Kitchen, Membership, PasswordLink, Person
from kitchen.accounts.signing_in import held

from .pages import body_of

NEW = "kelp lantern ninety"


@pytest.fixture
def at_the_desk(kitchen, chef):
    client = Client()
    client.force_login(chef)
    return client


@pytest.fixture
def mate(kitchen):
    return actions.add_person(kitchen, "mira", "Mira Vass", "harbour bell 31", "cook")


def membership_of(person):
    return Membership.objects.get(person=person)


def address_in(response):
    return re.search(r'value="http://testserver(/password/[^"]+)"', response.content.decode()).group(1)


def choose(client, address, password=NEW):
    return client.post(address, {"new_password1": password, "new_password2": password})


def test_a_person_is_added_by_a_link_that_works_once(at_the_desk, client):
    sent = {"name": "Mira Vass", "username": "mira", "role": "cook", "password": ""}
    page = at_the_desk.post(reverse("accounts:people"), sent)
    address = address_in(page)
    assert "Give Mira Vass this address" in body_of(page)
    for _ in range(2):  # looking does not use it up
        assert "Your sign-in name is <b>mira</b>" in body_of(client.get(address))
    assert choose(client, address, "short").status_code == 422
    assert choose(client, address).status_code == 302
    assert client.get(reverse("plans:list")).status_code == 200
    over = choose(Client(), address, "another one entirely")
    assert over.status_code == 404
    assert "no longer works" in body_of(over)
    assert Person.objects.get(username="mira").check_password(NEW)


def test_a_taken_sign_in_name_is_told_beside_it_and_nothing_is_lost(at_the_desk, mate):
    sent = {"name": "Mira Holt", "username": "mira", "role": "cook", "password": ""}
    page = at_the_desk.post(reverse("accounts:people"), sent)
    assert page.status_code == 422
    assert "Somebody has this sign-in name already." in body_of(page)
    assert 'value="Mira Holt"' in body_of(page)


def test_a_link_ends_by_its_age_and_by_a_newer_one(at_the_desk, mate, client):
    url = reverse("accounts:password-link", args=[membership_of(mate).pk])
    first = address_in(at_the_desk.post(url))
    second = address_in(at_the_desk.post(url))
    assert client.get(first).status_code == 404
    assert client.get(second).status_code == 200
    PasswordLink.objects.update(made_at=timezone.now() - dt.timedelta(days=3, seconds=1))
    assert client.get(second).status_code == 404
    assert mate.has_usable_password()  # an unused link changes nothing


def test_a_chef_takes_over_no_account_of_another_kitchen(at_the_desk, mate):
    Membership.objects.create(person=mate, kitchen=Kitchen.objects.create(name="Elsewhere"), role="cook")
    mine = Membership.objects.get(person=mate, kitchen__name="Test galley")
    page = at_the_desk.post(reverse("accounts:password-link", args=[mine.pk]), follow=True)
    assert "also works in another kitchen" in body_of(page)
    assert not PasswordLink.objects.exists()


def test_a_first_password_is_changed_before_anything_else(at_the_desk):
    first = "lighthouse stair 9"
    sent = {"name": "Mira Vass", "username": "mira", "role": "cook", "password": first}
    at_the_desk.post(reverse("accounts:people"), sent)
    client = Client()
    client.post(reverse("accounts:sign-in"), {"username": "mira", "password": first})
    page = client.get(reverse("plans:list"), follow=True)
    assert "Choose your own password" in body_of(page)
    assert client.get(reverse("service-worker")).status_code == 200  # a script behind a redirect is refused
    changed = client.post(
        reverse("accounts:password"), {"old_password": first, "new_password1": NEW, "new_password2": NEW}
    )
    assert changed.url == reverse("home")
    assert client.get(reverse("plans:list")).status_code == 200


def test_a_changed_password_ends_other_sessions(mate):
    here, there = Client(), Client()
    for client in (here, there):
        client.force_login(mate)
    wrong = here.post(reverse("accounts:password"), {"old_password": "no", "new_password1": NEW, "new_password2": NEW})
    assert wrong.status_code == 422
    sent = {"old_password": "harbour bell 31", "new_password1": NEW, "new_password2": NEW}
    assert here.post(reverse("accounts:password"), sent).url == reverse("accounts:you")
    assert here.get(reverse("plans:list")).status_code == 200
    assert there.get(reverse("plans:list")).status_code == 302


def test_who_leaves_sees_nothing_from_the_next_request_on(at_the_desk, mate):
    client = Client()
    client.force_login(mate)
    assert client.get(reverse("line:board")).status_code == 200
    row = membership_of(mate)
    page = at_the_desk.post(reverse("accounts:leave", args=[row.pk]), follow=True)
    assert "can no longer sign in here" in body_of(page)
    assert "Former staff, 1" in body_of(page)
    assert client.get(reverse("line:board")).status_code == 403
    assert client.post(reverse("accounts:you"), {"theme": "day"}).status_code == 403
    at_the_desk.post(reverse("accounts:come-back", args=[row.pk]))
    assert client.get(reverse("line:board")).status_code == 200


def test_the_last_chef_cannot_leave_and_former_chefs_do_not_count(at_the_desk, kitchen, chef):
    other = actions.add_person(kitchen, "solveig", "Solveig Brandt", None, "chef")
    actions.end_membership(membership_of(other))
    page = at_the_desk.post(reverse("accounts:leave", args=[membership_of(chef).pk]), follow=True)
    assert "needs at least one chef" in body_of(page)
    with pytest.raises(actions.LastChefError):
        actions.set_role(membership_of(chef), "cook")


def test_only_a_chef_of_this_kitchen_changes_people(mate, kitchen, chef):
    client = Client()
    client.force_login(mate)
    row = membership_of(chef)
    for name in ("change-role", "password-link", "leave", "come-back"):
        assert client.post(reverse(f"accounts:{name}", args=[row.pk])).status_code == 403
    stranger = actions.add_person(Kitchen.objects.create(name="Elsewhere"), "zed", "Zed", None, "chef")
    client.force_login(stranger)
    for name in ("change-role", "password-link", "leave", "come-back"):
        assert client.post(reverse(f"accounts:{name}", args=[row.pk])).status_code == 404


def test_the_kitchens_name_and_time_zone_are_changed(at_the_desk, kitchen):
    url = reverse("accounts:kitchen")
    wrong = at_the_desk.post(url, {"name": "", "place": "", "time_zone": "Mars/Olympus"})
    assert wrong.status_code == 422
    assert "Enter the kitchen's name" in wrong.content.decode().replace("&#x27;", "'")
    at_the_desk.post(url, {"name": "Tern galley", "place": "", "time_zone": "Europe/Oslo"})
    kitchen.refresh_from_db()
    assert (str(kitchen), kitchen.time_zone) == ("Tern galley", "Europe/Oslo")


def test_a_password_is_never_packed_into_a_page(client, db):
    sent = {"old_password": "harbour bell 31", "new_password1": NEW, "note": "kept"}
    page = client.post(reverse("accounts:password"), sent)
    text = re.search(r'name="held" value="([^"]+)"', page.content.decode()).group(1)
    assert held(text)["fields"] == [["note", "kept"]]
