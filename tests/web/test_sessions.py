"""One tablet, one person after another: who is signed in stays so."""

from __future__ import annotations

from django.conf import settings
from django.test import Client
from django.urls import reverse

NAME = settings.SESSION_COOKIE_NAME


def test_a_late_answer_to_who_was_signed_in_before_takes_no_cookie_away(signed_in, db):
    """Somebody's page asked for the board, and they signed out meanwhile; the answer finds no session of theirs."""
    late = Client()
    late.cookies[NAME] = "thesessionthatwasflushedmeanwhile"
    answer = late.get(reverse("line:board"))
    assert answer.status_code == 302
    assert NAME not in answer.cookies


def test_signing_out_takes_it_away(signed_in):
    answer = signed_in.post(reverse("accounts:sign-out"))
    assert answer.cookies[NAME].value == ""
    assert signed_in.get(reverse("line:board")).status_code == 302


def test_signing_in_gives_one(kitchen, client):
    from kitchen.accounts.actions import add_person

    add_person(kitchen, "ansa", "Ansa", "galley-pass-3", "cook")
    client.cookies[NAME] = "ofsomebodyelse"
    answer = client.post(reverse("accounts:sign-in"), {"username": "ansa", "password": "galley-pass-3"})
    assert answer.status_code == 302
    assert answer.cookies[NAME].value not in ("", "ofsomebodyelse")
