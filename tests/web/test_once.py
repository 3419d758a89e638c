"""What creates or changes something, sent twenty times at once: with one token, with two, by two people."""

from __future__ import annotations

import datetime as dt
import uuid
from concurrent.futures import ThreadPoolExecutor
from threading import Barrier

import pytest
from django.db import connections
from django.test import Client
from django.urls import reverse

from kitchen.accounts.models import Claim, Kitchen, Membership, Person
from kitchen.batches import actions as batch_actions
from kitchen.batches.models import Batch, BatchEvent
from kitchen.book.models import Entry
from kitchen.brines.models import BrinePlan
from kitchen.eggs.models import EggPlan
from kitchen.line import actions
from kitchen.line.models import Cook, CookEvent, Reading
from kitchen.line.starting import start
from kitchen.line.step_actions import start_steps
from kitchen.line.step_cooks import step_status_of
from kitchen.plans.actions import create
from kitchen.plans.models import Plan

from ..conftest import PASSWORD
from .posting import posted
from .test_batches import TYPED as CHILL
from .test_batches import typed_document
from .test_brines import TYPED as BRINE
from .test_eggs import HARD
from .test_eggs import TYPED as EGGS

MANY = 20
pytestmark = pytest.mark.django_db(transaction=True)


@pytest.fixture
def galley(document):
    """A kitchen with two people and something of each kind to do."""
    from ember.files.plan import parse_plan

    kitchen = Kitchen.objects.create(name="Test galley", place="Deck 2")
    people = [Person.objects.create_user(name, password=PASSWORD, name=name.title()) for name in ("ada", "bo")]
    for person in people:
        Membership.objects.create(person=person, kitchen=kitchen, role="chef")
    plan = create(kitchen, people[0], parse_plan(document), [])
    return kitchen, people, plan


def send(people, url, bodies):
    """Each body from each person in turn, all at once; the statuses."""
    clients = []
    for person in people:
        client = Client(raise_request_exception=False)
        client.force_login(person)
        clients.append(client)
    gate = Barrier(len(bodies))

    def one(at):
        try:
            gate.wait(20)
            return clients[at % len(clients)].post(url, bodies[at]).status_code
        finally:
            connections.close_all()

    with ThreadPoolExecutor(len(bodies)) as pool:
        return list(pool.map(one, range(len(bodies))))


def tokens(how_many):
    """As many tokens, spread over twenty sends."""
    made = [str(uuid.uuid4()) for _ in range(how_many)]
    return [made[at % how_many] for at in range(MANY)]


def fire(galley, url, body, how_many, people=1):
    """Twenty sends with so many tokens from so many people; none of them may fail."""
    _, everybody, _ = galley
    statuses = send(everybody[:people], url, [{**body, "token": token} for token in tokens(how_many)])
    assert set(statuses) <= {200, 204, 302}, statuses
    return statuses


def new_plan(galley):
    return posted({**galley[2].document, "name": "Once more"})


def a_cold_batch(galley):
    kitchen, people, _ = galley
    batch = batch_actions.out_of_the_heat(kitchen, people[0], "Belly", typed_document(), 24, uuid.uuid4())
    batch_actions.read(batch, people[0], 3.0)
    return batch


# What makes another one each time: once for a token, twice for two.
MAKES = {
    "start a plan": lambda g: (reverse("plans:edit", args=[g[2].pk]), {**posted(g[2].document), "then": "start"}, Cook),
    "save a new plan": lambda g: (reverse("plans:new"), new_plan(g), Plan),
    "copy a plan": lambda g: (reverse("plans:copy", args=[g[2].pk]), {}, Plan),
    "send eggs": lambda g: (reverse("eggs:send", args=["boil"]), EGGS, Cook),
    "keep eggs": lambda g: (reverse("eggs:keep", args=["boil"]), {**EGGS, "name": "Ours"}, EggPlan),
    "keep a brine": lambda g: (reverse("brines:keep"), {**BRINE, "name": "Ours"}, BrinePlan),
    "start a batch": lambda g: (reverse("batches:out"), {**CHILL, "name": "Belly"}, Batch),
    "write in the book": lambda g: (
        reverse("book:write", args=["cold"]), {"what": "Deck fridge", "celsius": "3"}, Entry,
    ),
}  # fmt: skip


@pytest.mark.parametrize("how_many", [1, 2])
@pytest.mark.parametrize("what", sorted(MAKES))
def test_one_token_makes_one(galley, what, how_many):
    url, body, model = MAKES[what](galley)
    before = model.objects.count()
    fire(galley, url, body, how_many)
    made = model.objects.count() - before
    # What is kept under a name is one however often it is kept: the second token finds it there.
    assert made == how_many or (made == 1 and model in (EggPlan, BrinePlan)), made


def test_two_people_with_their_own_tokens_make_two(galley):
    url, body, _ = MAKES["start a plan"](galley)
    fire(galley, url, body, 2, people=2)
    assert Cook.objects.count() == 2


@pytest.mark.parametrize(("how_many", "taken"), [(1, 3), (2, 6)])
def test_portions_are_taken_once_for_a_token(galley, how_many, taken):
    batch = a_cold_batch(galley)
    fire(galley, reverse("batches:act", args=[batch.pk]), {"what": "used", "portions": "3"}, how_many, people=2)
    assert sum(e.portions for e in BatchEvent.objects.filter(kind="used")) == taken


def test_reheating_two_takes_two(galley):
    batch = a_cold_batch(galley)
    fire(galley, reverse("batches:act", args=[batch.pk]), {"what": "bring", "portions": "2"}, 1)
    assert sum(e.portions for e in BatchEvent.objects.filter(kind="used")) == 2
    assert Cook.objects.count() == 1


@pytest.mark.parametrize("how_many", [1, 2])
def test_a_step_is_done_once_whoever_taps_it(galley, how_many):
    _, people, plan = galley
    cook = start(plan, people[0])
    url = reverse("line:do", args=[cook.pk])
    fire(galley, url, {"step": "1"}, how_many, people=2)
    assert CookEvent.objects.filter(kind="done").count() == 1


@pytest.mark.parametrize("how_many", [1, 2])
def test_an_undo_takes_one_step_back_whoever_taps_it(galley, how_many):
    kitchen, people, _ = galley
    cook = start_steps(kitchen, people[0], "Hard ones", HARD, uuid.uuid4())
    for step in step_status_of(cook).steps[:2]:
        actions.do_step(cook, people[0], step.number, uuid.uuid4(), step_status_of(cook).steps)
    last = step_status_of(Cook.objects.get()).last_event
    url = reverse("line:steps-act", args=[cook.pk])
    fire(galley, url, {"how": "undo", "event": str(last)}, how_many, people=2)
    assert CookEvent.objects.filter(kind="undone").count() == 1


def test_a_reading_is_typed_once_for_a_token(galley):
    _, people, plan = galley
    cook = start(plan, people[0])
    fire(galley, reverse("line:reading", args=[cook.pk]), {"celsius": "41.5"}, 1, people=2)
    assert Reading.objects.count() == 1


def test_a_cook_is_stopped_once(galley):
    _, people, plan = galley
    cook = start(plan, people[0])
    fire(galley, reverse("line:stop", args=[cook.pk]), {"why": "dropped"}, 2, people=2)
    assert CookEvent.objects.filter(kind="stopped").count() == 1


def test_a_record_is_signed_and_corrected_once(galley):
    _, people, plan = galley
    cook = actions.finish(start(plan, people[0]), people[0])
    fire(galley, reverse("logbook:correct", args=[cook.pk]), {"note": "thrown away"}, 1)
    assert CookEvent.objects.filter(kind="corrected").count() == 1
    fire(galley, reverse("logbook:sign", args=[cook.pk]), {"own_password": PASSWORD}, 2, people=2)
    assert hasattr(Cook.objects.get(), "sign_off")


def test_another_button_is_another_request_and_a_refused_one_claims_nothing(galley):
    _, people, plan = galley
    client = Client()
    client.force_login(people[0])
    cook = start(plan, people[0])
    token = str(uuid.uuid4())
    assert (
        client.post(reverse("book:write", args=["cold"]), {"what": "", "celsius": "", "token": token}).status_code
        >= 400
    )
    assert not Claim.objects.exists()
    client.post(reverse("line:do", args=[cook.pk]), {"step": "1", "token": token})
    client.post(reverse("line:do", args=[cook.pk]), {"step": "1", "how": "late", "token": token})
    assert Claim.objects.count() == 2


def test_every_form_that_changes_something_carries_a_token():
    import re
    from pathlib import Path

    computes = {
        "accounts/sign_in.html",
        "accounts/_sign_in.html",
        "accounts/no_kitchen.html",
        "plans/compare.html",
        "plans/_methods.html",
    }
    computes.add("accounts/held.html")  # sends the token it was sent with
    computes |= {"accounts/choose_password.html", "setup/begin.html"}  # their addresses work once
    computes |= {"accounts/names.html", "accounts/_pin.html", "base.html", "demo/_bar.html"}  # again is the same
    root = Path(__file__).resolve().parents[2] / "src" / "kitchen" / "templates"
    without = []
    for page in sorted(root.rglob("*.html")):
        for form in re.findall(r"<form\b.*?</form>", page.read_text("utf-8"), flags=re.S):
            post = 'method="post"' in form and "csrf_token" in form and "accounts:sign-out" not in form
            if post and not re.search(r'once %}|name="token"|name="tap"', form):
                without.append(str(page.relative_to(root)))
    assert set(without) <= computes


def test_old_claims_are_deleted_once_a_day(kitchen, chef):
    from django.core.management import call_command

    from kitchen.accounts.models import CLAIMED_FOR, Claim

    old, _ = Claim.take(kitchen, chef, "old")
    recent, _ = Claim.take(kitchen, chef, "recent")
    Claim.objects.filter(pk=old.pk).update(at=old.at - CLAIMED_FOR - dt.timedelta(minutes=1))
    call_command("maintain")
    assert list(Claim.objects.all()) == [recent]
