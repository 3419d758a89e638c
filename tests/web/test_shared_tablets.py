"""Shared tablets, PINs, signatures that ask who signs, inspectors, and who may confirm a brine."""

from __future__ import annotations

import datetime as dt
import re
from unittest.mock import patch

import pytest
from django.contrib.auth import get_user
from django.test import Client
from django.urls import reverse
from django.utils import timezone

from kitchen.accounts import actions, tablets
from kitchen.accounts.confirming import is_newly_made_by
from kitchen.accounts.models import Membership, PasswordLink, Person, Tablet
from kitchen.accounts.signing_in import held
from kitchen.book.verify import walk
from kitchen.brines.actions import BrineError, confirm
from kitchen.brines.models import BrinePlan
from kitchen.demo.kitchen import BRINES
from kitchen.desk.saved_requests import save_request
from kitchen.line.brine_cooks import start_brine
from kitchen.line.models import Cook
from kitchen.logbook.models import SignOff
from kitchen.web import token_of

from ..conftest import PASSWORD
from .pages import body_of

PIN = "604918"
LINE = reverse("line:board")
HTMX = {"HX-Request": "true"}


@pytest.fixture
def tablet(kitchen, chef):
    return tablets.enrol(kitchen, "Pass tablet", 5, chef)


@pytest.fixture
def at_pass(tablet, cook_person, chef):
    """The browser of an enrolled tablet; cook and chef have a PIN."""
    for person in (cook_person, chef):
        actions.set_pin(person, PIN if person == cook_person else "271593")
    client = Client()
    client.cookies[tablets.COOKIE] = tablet[1]
    return client


def enter_pin(client, person, pin=PIN, **more):
    return client.post(reverse("accounts:pin", args=[person.memberships.get().pk]), {"pin": pin, **more})


def who(client):
    request = type("Request", (), {"session": client.session, "META": {}})()
    return get_user(request)


def test_a_chef_enrols_a_device_with_their_password(client, chef, cook_person, kitchen):
    url = reverse("accounts:enrol-tablet")
    form = {"name": "Pass tablet", "idle": "5", "own_password": PASSWORD}
    client.force_login(cook_person)
    assert client.post(url, form).status_code == 403
    client.force_login(chef)
    for wrong in ({"own_password": "nothing"}, {"name": ""}, {"idle": "7"}, {"own_password": ""}):
        client.post(url, form | wrong)
    assert not Tablet.objects.exists()
    client.post(url, form)
    (made,) = Tablet.objects.all()
    secret = client.cookies[tablets.COOKIE].value
    assert secret not in made.secret_hash
    assert client.cookies[tablets.COOKIE]["httponly"]
    assert "Pass tablet" in body_of(client.get(reverse("kit:devices")))


def test_names_then_a_pin_and_back_to_the_same_page(at_pass, cook_person, chef, kitchen, running):
    there = reverse("plans:list")
    names = at_pass.get(there, follow=True)
    assert [row.person for row in names.context["names"]] == [chef, cook_person]
    answer = enter_pin(at_pass, cook_person)
    assert answer.url == there
    assert who(at_pass) == cook_person
    body = body_of(at_pass.get(LINE))
    assert "data-change-person" in body
    assert 'data-idle-minutes="5"' in body
    at_pass.post(reverse("accounts:lock"), {"back": there})
    assert enter_pin(at_pass, chef, "271593").url == there
    assert who(at_pass) == chef


def test_nobody_is_kept_on_a_strange_address(at_pass, cook_person):
    enter_pin(at_pass, cook_person)
    at_pass.post(reverse("accounts:lock"), {"back": "//elsewhere.example/"})
    assert enter_pin(at_pass, cook_person).url == LINE


def test_a_tablet_nobody_touches_locks_and_its_line_stays_readable(at_pass, cook_person, running):
    enter_pin(at_pass, cook_person)
    later = timezone.now() + dt.timedelta(minutes=6)
    with patch("django.utils.timezone.now", return_value=later):
        assert at_pass.get(LINE, headers=HTMX).status_code == 200  # a screen that updates itself is no touch
        body = body_of(at_pass.get(LINE))
        assert "Test strip" in body
        assert "data-locked-rail" in body
        assert at_pass.get(reverse("plans:list")).url == reverse("accounts:names")
        step = at_pass.post(reverse("line:do", args=[running.pk]), {"step": "1"}, headers=HTMX)
        assert step.status_code == 401
        assert "Who is here?" in body_of(step)
        typed = at_pass.post(reverse("book:write", args=["note"]), {"what": "Ice machine", "note": "descaled"})
        assert typed.status_code == 401
        held_form = re.search(r'name="held" value="([^"]+)"', body_of(typed)).group(1)
        again = enter_pin(at_pass, cook_person, held=held_form)
        assert "Ice machine" in body_of(again)  # what was typed is there to be sent
        assert at_pass.get(reverse("plans:list")).status_code == 200
    assert Cook.objects.get(pk=running.pk).events.count() == 1


def test_without_its_cookie_a_session_of_the_tablet_is_over(at_pass, cook_person):
    """Otherwise whoever deletes one cookie in the browser's settings would be past the lock."""
    enter_pin(at_pass, cook_person)
    assert at_pass.get(reverse("plans:list")).status_code == 200
    at_pass.post(reverse("accounts:lock"))
    del at_pass.cookies[tablets.COOKIE]
    assert at_pass.get(reverse("plans:list")).status_code == 302
    assert not who(at_pass).is_authenticated


def test_a_pin_is_not_packed_into_a_page_to_be_sent_again(at_pass, cook_person):
    enter_pin(at_pass, cook_person)
    at_pass.post(reverse("accounts:lock"))
    form = {"pin": "350271", "pin_again": "350271", "own_password": PASSWORD, "note": "kept"}
    page = body_of(at_pass.post(reverse("accounts:choose-pin"), form))
    packed = held(re.search(r'name="held" value="([^"]+)"', page).group(1))
    assert packed["fields"] == [["note", "kept"]]


def test_touches_keep_it_open(at_pass, cook_person):
    enter_pin(at_pass, cook_person)
    begin = timezone.now()
    for minutes in (4, 8, 12):
        with patch("django.utils.timezone.now", return_value=begin + dt.timedelta(minutes=minutes)):
            assert at_pass.post(reverse("accounts:lock"), {"touched": "yes"}).status_code == 204
    with patch("django.utils.timezone.now", return_value=begin + dt.timedelta(minutes=16)):
        assert at_pass.get(reverse("plans:list")).status_code == 200


def test_five_misses_lock_a_pin_until_the_password(at_pass, cook_person):
    for left in ("4 tries", "3 tries", "2 tries", "1 try"):
        assert f"Wrong PIN. {left} left." in body_of(enter_pin(at_pass, cook_person, "111111"))
    assert "locked" in body_of(enter_pin(at_pass, cook_person, "111111"))
    assert "locked after five" in body_of(enter_pin(at_pass, cook_person))
    assert not who(at_pass).is_authenticated
    body = body_of(at_pass.get(reverse("accounts:names")))
    assert f"?name={cook_person.username}" in body
    url = f"{reverse('accounts:sign-in')}?name={cook_person.username}"
    at_pass.post(url, {"username": cook_person.username, "password": PASSWORD})
    assert who(at_pass) == cook_person
    form = {"pin": "350271", "pin_again": "350271", "own_password": PASSWORD}
    at_pass.post(reverse("accounts:choose-pin"), form)
    at_pass.post(reverse("accounts:lock"))
    assert enter_pin(at_pass, cook_person, "350271").status_code == 302


def test_a_tablet_slows_whoever_tries_many_names(at_pass, tablet, kitchen, cook_person):
    for i in range(4):
        person = actions.add_person(kitchen, f"p{i}", f"P {i}", None, "cook")
        actions.set_pin(person, PIN)
        for _ in range(4):
            enter_pin(at_pass, person, "111111")
    assert "on this tablet" in body_of(enter_pin(at_pass, cook_person))
    with patch("django.utils.timezone.now", return_value=timezone.now() + dt.timedelta(minutes=16)):
        assert enter_pin(at_pass, cook_person).status_code == 302


def test_a_pin_counts_only_on_an_enrolled_tablet_of_this_kitchen(at_pass, client, tablet, cook_person, stranger):
    actions.set_pin(stranger, PIN)
    assert enter_pin(client, cook_person).status_code == 404
    assert enter_pin(at_pass, stranger).status_code == 404  # nobody of this kitchen
    assert at_pass.get(reverse("accounts:names")).status_code == 200
    client.cookies[tablets.COOKIE] = "guessed"
    assert enter_pin(client, cook_person).status_code == 404
    Tablet.objects.update(revoked_at=timezone.now())
    assert enter_pin(at_pass, cook_person).status_code == 404
    assert at_pass.get(reverse("accounts:names")).url == reverse("accounts:sign-in")


@pytest.mark.parametrize(
    "pin", ["12345", "1234567", "12a456", "١٢٣٤٥٦", "111111", "123456", "654321", "271271", "272727"]
)
def test_a_pin_that_is_none_or_easy_is_refused(signed_in, cook_person, pin):
    form = {"pin": pin, "pin_again": pin, "own_password": PASSWORD}
    assert signed_in.post(reverse("accounts:choose-pin"), form).status_code == 422
    cook_person.refresh_from_db()
    assert not cook_person.pin_hash


def test_a_pin_needs_the_password_and_is_stored_hashed(signed_in, cook_person):
    url = reverse("accounts:choose-pin")
    form = {"pin": PIN, "pin_again": PIN, "own_password": PASSWORD}
    for wrong in ({"own_password": "wrong"}, {"pin_again": "604919"}):
        assert signed_in.post(url, form | wrong).status_code == 422
    assert signed_in.post(url, form).status_code == 302
    cook_person.refresh_from_db()
    assert PIN not in cook_person.pin_hash


@pytest.fixture
def finished(running, kitchen):
    Cook.objects.filter(pk=running.pk).update(finished_at=kitchen.now())
    running.events.create(kind="corrected", at=kitchen.now(), by=running.started_by, data={"note": "fire drill"})
    return running


def test_a_signature_asks_for_the_password_and_says_so(client, chef, finished, kitchen):
    client.force_login(chef)
    url = reverse("logbook:sign", args=[finished.pk])
    for typed, words in (("", "Enter your PIN"), ("nothing", "Wrong password"), (PIN, "works only on")):
        assert words in body_of(client.post(url, {"own_password": typed}, follow=True))
    assert not SignOff.objects.exists()
    assert "by password" in body_of(client.post(url, {"own_password": PASSWORD}, follow=True))
    assert SignOff.objects.get().how == "password"
    assert walk(kitchen).holds


def test_on_a_tablet_the_pin_signs(at_pass, chef, finished):
    enter_pin(at_pass, chef, "271593")
    url = reverse("logbook:sign", args=[finished.pk])
    assert "Wrong PIN" in body_of(at_pass.post(url, {"own_password": "111111"}, follow=True))
    assert "by PIN" in body_of(at_pass.post(url, {"own_password": "271593"}, follow=True))


@pytest.fixture
def cured(kitchen, chef):
    request = {key: value for key, value in BRINES[0].items() if key != "name"}
    return save_request(BrinePlan, kitchen, chef, "Cured", request)


def test_a_confirmation_is_for_one_start(cured, cook_person):
    confirm(cured, cook_person, "PIN")
    token = token_of(None)
    cook = start_brine(cured, cook_person, token)
    assert start_brine(cured, cook_person, token) == cook  # a repeated tap
    assert cook.result["confirmed_how"] == "PIN"
    with pytest.raises(BrineError, match="for each start"):
        start_brine(cured, cook_person, token_of(None))
    confirm(cured, cook_person, "password")
    assert start_brine(cured, cook_person, token_of(None)) != cook


def test_an_account_the_author_made_today_does_not_confirm(cured, kitchen, chef, cook_person):
    puppet = actions.add_person(kitchen, "puppet", "Puppet", PASSWORD, "chef", by=chef)
    second = actions.add_person(kitchen, "second", "Second", PASSWORD, "cook", by=puppet)
    for person in (puppet, second):
        with pytest.raises(BrineError, match="less than a day ago"):
            confirm(cured, person, "password")
    Person.objects.filter(pk=puppet.pk).update(date_joined=timezone.now() - dt.timedelta(days=2))
    puppet.refresh_from_db()
    assert not is_newly_made_by(puppet, chef)
    assert confirm(cured, puppet, "password").by == puppet


def test_nor_does_an_account_whose_password_they_gave_today(cured, chef, cook_person):
    Person.objects.filter(pk=cook_person.pk).update(date_joined=timezone.now() - dt.timedelta(days=90))
    actions.use_password_link(PasswordLink.make(cook_person, chef), "another long word 5")
    with pytest.raises(BrineError, match="less than a day ago"):
        confirm(cured, cook_person, "password")


def test_nobody_confirms_their_own_recipe_under_another_name(cured, kitchen, chef, cook_person):
    copy = save_request(BrinePlan, kitchen, cook_person, "The same again", cured.document)
    with pytest.raises(BrineError, match="not the author"):
        confirm(copy, chef, "password")
    with pytest.raises(BrineError, match="not the author"):
        confirm(cured, cook_person, "password")


@pytest.fixture
def inspector(kitchen):
    today = timezone.now().astimezone(kitchen.zone).date()
    return actions.add_person(kitchen, "vera", "Vera Look", PASSWORD, "inspector", last_day=today)


def test_an_inspector_reads_everything_and_changes_nothing(client, inspector, plan, running, kitchen):
    client.force_login(inspector)
    pages = (
        "home",
        "plans:list",
        "line:board",
        "logbook:log",
        "book:book",
        "book:report",
        "kit:kit",
        "accounts:people",
    )
    for page in pages:
        assert client.get(reverse(page), follow=True).status_code == 200, page
    sent = (
        (reverse("line:do", args=[running.pk]), {"step": "1"}),
        (reverse("book:write", args=["note"]), {"what": "x", "note": "y"}),
        (reverse("plans:delete", args=[plan.pk]), {}),
        (reverse("logbook:sign", args=[running.pk]), {"own_password": PASSWORD}),
        (reverse("accounts:people"), {"name": "X", "username": "x", "role": "chef"}),
        (reverse("plans:new"), {}),
    )
    for url, body in sent:
        assert client.post(url, body).status_code == 403, url
    own = {"temperature_unit": "F", "length_unit": "in", "mass_unit": "lb", "theme": "day"}
    assert client.post(reverse("accounts:you"), own).status_code == 302
    assert running.events.count() == 1


def test_an_inspector_is_gone_after_their_last_day(client, inspector, kitchen):
    client.force_login(inspector)
    assert client.get(reverse("home")).status_code == 200
    Membership.objects.filter(person=inspector).update(
        last_day=timezone.now().astimezone(kitchen.zone).date() - dt.timedelta(days=1)
    )
    assert client.get(reverse("home")).status_code == 403


def test_a_chef_makes_an_inspector_with_a_last_day(client, chef, cook_person, kitchen):
    client.force_login(chef)
    url = reverse("accounts:people")
    typed = {"name": "Vera", "username": "vera", "role": "inspector", "password": PASSWORD}
    assert client.post(url, typed).status_code == 422
    assert client.post(url, typed | {"last_day": "2031-05-07"}).status_code == 302
    assert Membership.objects.get(person__username="vera").last_day == dt.date(2031, 5, 7)
    row = cook_person.memberships.get()
    client.post(reverse("accounts:change-role", args=[row.pk]), {"role": "inspector"})
    row.refresh_from_db()
    assert row.only_reads
    assert row.last_day > timezone.now().date()
    client.post(reverse("accounts:change-role", args=[row.pk]), {"role": "cook"})
    row.refresh_from_db()
    assert row.last_day is None
