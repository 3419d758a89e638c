"""How often somebody may guess a password: by name and address, by address, by name, and from a known browser."""

from __future__ import annotations

import pytest
from django.test import Client, RequestFactory
from django.urls import reverse

from kitchen.accounts import actions
from kitchen.accounts.lockouts import MOST_OF_A_NAME, MOST_OF_AN_ADDRESS, address_of

from ..conftest import PASSWORD
from .pages import body_of

URL = reverse("accounts:sign-in")


def try_in(client, name, password="nothing", address="10.0.0.9"):
    return client.post(URL, {"username": name, "password": password}, REMOTE_ADDR=address)


def test_a_name_is_locked_at_an_address_after_eight_misses(cook_person):
    client = Client()
    assert [try_in(client, "cook").status_code for _ in range(8)] == [200] * 7 + [429]
    assert try_in(client, "cook", PASSWORD).status_code == 429
    assert try_in(client, "cook", PASSWORD, "10.0.0.10").status_code == 302


def test_a_spray_of_many_names_is_slowed_but_not_a_browser_that_was_in(kitchen, cook_person):
    known, sprays = Client(), Client()
    assert try_in(known, "cook", PASSWORD).status_code == 302
    known.post(reverse("accounts:sign-out"))
    for i in range(MOST_OF_AN_ADDRESS):
        assert try_in(sprays, f"name{i}").status_code == 200
    assert try_in(sprays, "cook", PASSWORD).status_code == 429
    assert "Too many tries" in body_of(try_in(sprays, "name0"))
    assert try_in(known, "cook", PASSWORD).status_code == 302
    known.post(reverse("accounts:sign-out"))
    assert try_in(known, "another").status_code == 429  # known for that person alone


def test_one_name_from_many_addresses_is_slowed(cook_person):
    client = Client()
    for i in range(MOST_OF_A_NAME):
        try_in(client, "cook", address=f"10.0.1.{i}")
    assert try_in(client, "cook", PASSWORD, "10.0.2.1").status_code == 429


@pytest.mark.parametrize(
    ("remote", "forwarded", "address"),
    [
        ("10.0.0.9", "1.2.3.4", "10.0.0.9"),  # no proxy: anybody can write that line
        ("10.9.9.9", "1.2.3.4", "1.2.3.4"),
        ("10.9.9.9", "6.6.6.6, 1.2.3.4", "1.2.3.4"),
        ("10.9.9.9", "6.6.6.6, 1.2.3.4, 10.9.9.8", "1.2.3.4"),
        ("10.9.9.9", "1.2.3.4, nonsense", "10.9.9.9"),
        ("10.9.9.9", "", "10.9.9.9"),
    ],
)
def test_only_a_named_proxy_says_where_a_request_comes_from(settings, remote, forwarded, address):
    settings.TRUSTED_PROXIES = ["10.9.9.9", "10.9.9.8"]
    request = RequestFactory().get("/", REMOTE_ADDR=remote, HTTP_X_FORWARDED_FOR=forwarded)
    assert address_of(request) == address


def test_a_signature_guesses_no_more_than_a_sign_in(client, chef, running, kitchen):
    running.events.create(kind="corrected", at=kitchen.now(), by=chef, data={"note": "fire drill"})
    type(running).objects.filter(pk=running.pk).update(finished_at=kitchen.now())
    client.force_login(chef)
    sign = reverse("logbook:sign", args=[running.pk])
    statuses = [client.post(sign, {"own_password": f"guess {i}"}).status_code for i in range(9)]
    assert statuses[-1] in (403, 429)
    assert client.post(sign, {"own_password": PASSWORD}).status_code in (403, 429)
    assert not hasattr(type(running).objects.get(pk=running.pk), "sign_off")


def test_a_link_makes_the_browser_known_and_a_reset_ends_sessions(client, chef, cook_person, kitchen):
    client.force_login(cook_person)
    link = actions.make_password_link(cook_person.memberships.get(), chef)
    new = {"new_password1": "harbour bell 31", "new_password2": "harbour bell 31"}
    assert Client().post(reverse("accounts:choose-password", args=[link]), new).status_code == 302
    assert client.get(reverse("home")).status_code == 302  # the old session is over
