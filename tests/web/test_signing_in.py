"""A session that ends in the middle of work costs nobody what was on the screen or typed."""

from __future__ import annotations

import html
import json
import re

import pytest
from django.urls import reverse

from kitchen.accounts.signing_in import held
from kitchen.book.models import Entry

from .pages import body_of

HTMX = {"HX-Request": "true"}


@pytest.fixture
def door(kitchen, chef):
    chef.set_password("a-long-word-7")
    chef.save()
    return {"username": chef.username, "password": "a-long-word-7"}


def test_a_fragment_is_refused_with_the_way_in_and_no_page(client, db):
    answer = client.get(reverse("line:board"), headers=HTMX)
    assert answer.status_code == 401
    body = body_of(answer)
    assert "You were signed out" in body
    assert "<html" not in body


def test_the_way_in_in_place(client, door, chef):
    url = reverse("accounts:sign-in")
    wrong = client.post(url, {**door, "password": "nothing"}, headers=HTMX)
    assert wrong.status_code == 422
    assert "Wrong name or password" in body_of(wrong)
    right = client.post(url, door, headers=HTMX)
    assert right.status_code == 204
    assert json.loads(right.headers["HX-Trigger"]) == {"signed-in": {"person": chef.pk}}
    assert client.post(url, door, headers=HTMX).status_code == 204  # signed in meanwhile, elsewhere
    assert client.get(reverse("line:board"), headers=HTMX).status_code == 200


def test_a_form_is_sent_after_signing_in_as_it_was_typed(client, door):
    url = reverse("accounts:you")
    typed = {"temperature_unit": "F", "note": ["one & two", "“three”"], "token": "t"}
    answer = client.post(url + "?a=1", typed)
    assert answer.status_code == 401
    held_form = html.unescape(re.search(r'name="held" value="([^"]+)"', body_of(answer)).group(1))
    again = client.post(reverse("accounts:sign-in"), {**door, "password": "wrong", "held": held_form})
    assert html.escape(held_form) in body_of(again)  # a slip of the pen loses nothing
    page = client.post(reverse("accounts:sign-in"), {**door, "held": held_form}).content.decode()
    assert f'action="{url}?a=1"' in page
    fields = [(n, html.unescape(v)) for n, v in re.findall(r'type="hidden" name="(\w+)" value="([^"]*)"', page)]
    assert [f for f in fields if f[0] != "csrfmiddlewaretoken"] == [
        ("temperature_unit", "F"), ("note", "one & two"), ("note", "“three”"), ("token", "t"),
    ]  # fmt: skip
    assert not Entry.objects.exists()


@pytest.mark.parametrize("text", ["", "x", "eyJwYXRoIjogIi8ifQ:1abc:xyz"])
def test_what_nobody_held_is_not_sent(client, door, text):
    assert held(text) is None
    answer = client.post(reverse("accounts:sign-in"), {**door, "held": text})
    assert answer.status_code == 302
