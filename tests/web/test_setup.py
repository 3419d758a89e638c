"""A kitchen begins: by the one-time address, or from a shell."""

from __future__ import annotations

import re
from concurrent.futures import ThreadPoolExecutor
from io import StringIO
from threading import Barrier

import pytest
from django.core.management import CommandError, call_command
from django.db import connections
from django.test import Client
from django.urls import reverse

from kitchen.accounts.models import Kitchen, Membership, Person
from kitchen.kit.models import Equipment
from kitchen.kit.quick_add import UnknownEquipment, read_equipment
from kitchen.plans.models import Plan
from kitchen.setup.actions import setup_secret

from .pages import body_of

TYPED = {
    "name": "The Ropewalk", "place": "", "time_zone": "Europe/Oslo", "standard": "us-food-code-2022",
    "altitude": "120", "chef": "Ines Falk", "username": "ines", "password": "copper kettle 88",
    "temperature_unit": "F", "length_unit": "in", "mass_unit": "lb",
    "equipment": "2 ovens, 1 bath, 4 rings, 2 pans, a fridge", "people": "Bo Lind\nBo Marek\n", "example_plans": "on",
}  # fmt: skip


def address():
    out = StringIO()
    call_command("setup_address", stdout=out)
    return out.getvalue().strip().removeprefix("http://127.0.0.1:8000")


def test_the_first_chef_begins_a_kitchen(client, db):
    url = address()
    assert url == address()  # each start prints the same
    assert "Set up your kitchen" in body_of(client.get(url))
    assert "prints the address" in body_of(client.get(reverse("accounts:sign-in")))
    assert client.post(url, TYPED).url == reverse("home")
    kitchen = Kitchen.objects.get()
    assert (kitchen.name, kitchen.time_zone, kitchen.altitude_m, kitchen.is_demo) == (
        "The Ropewalk", "Europe/Oslo", 120.0, False,
    )  # fmt: skip
    chef = Person.objects.get(username="ines")
    assert (chef.temperature_unit, chef.length_unit, chef.mass_unit) == ("F", "in", "lb")
    assert Membership.objects.get(person=chef).is_chef
    assert set(Person.objects.values_list("username", flat=True)) == {"ines", "bo", "bo2"}
    assert not Person.objects.get(username="bo").has_usable_password()
    assert Equipment.objects.filter(kitchen=kitchen).count() == 10
    assert Plan.objects.filter(kitchen=kitchen).count() > 3
    for name in ("home", "plans:list", "line:board", "kit:kit", "accounts:you", "services:list"):
        assert client.get(reverse(name), follow=True).status_code == 200
    assert address() == ""
    assert client.get(url).status_code == 404
    assert Client().post(url, TYPED | {"username": "other"}).status_code == 404


def test_what_is_wrong_stands_beside_its_field_and_nothing_is_lost(client, db):
    wrong = TYPED | {
        "name": " ",
        "password": "short",
        "standard": "",
        "equipment": "2 ovens, 1 spaceship",
        "altitude": "9999",
    }
    page = client.post(address(), wrong)
    assert page.status_code == 422
    body = body_of(page)
    for words in (
        "Enter a name",
        "too short",
        "“1 spaceship” is not known",
        "Choose the standard",
        "Enter a height from",
    ):
        assert words in body
    assert "2 ovens, 1 spaceship" in body
    assert "Bo Marek" in page.content.decode()
    assert not Kitchen.objects.exists()


def test_everything_that_can_wait_can_be_left_out(client, db):
    bare = {
        key: value for key, value in TYPED.items() if key not in ("equipment", "people", "example_plans", "altitude")
    }
    assert client.post(address(), bare).status_code == 302
    assert not Equipment.objects.exists()
    assert not Plan.objects.exists()
    assert Person.objects.count() == 1


def test_another_secret_opens_nothing(client, db):
    assert client.get(reverse("setup:begin", args=[setup_secret()[:-1] + "x"])).status_code == 404
    assert client.post(reverse("setup:begin", args=["x"]), TYPED).status_code == 404
    assert not Kitchen.objects.exists()


@pytest.mark.django_db(transaction=True)
def test_of_two_who_begin_at_once_one_does():
    url, gate = address(), Barrier(6)

    def one(number):
        try:
            gate.wait(20)
            return Client(raise_request_exception=False).post(url, TYPED | {"username": f"chef{number}"}).status_code
        finally:
            connections.close_all()

    with ThreadPoolExecutor(6) as pool:
        statuses = sorted(pool.map(one, range(6)))
    assert statuses[0] == 302
    assert set(statuses[1:]) <= {404, 409}
    assert Kitchen.objects.count() == 1
    assert Person.objects.filter(memberships__role="chef").count() == 1


def test_the_same_from_a_shell(client, db):
    out = StringIO()
    call_command("create_kitchen", "Pier 4", chef="Ines Falk", username="ines", equipment="an oven", stdout=out)
    link = re.search(r"/password/\S+", out.getvalue()).group(0)
    assert (
        client.post(link, {"new_password1": "copper kettle 88", "new_password2": "copper kettle 88"}).status_code == 302
    )
    assert client.get(reverse("kit:kit")).status_code == 200
    assert Equipment.objects.get().name == "Oven"
    with pytest.raises(CommandError, match="--username: Somebody has this"):
        call_command("create_kitchen", "Pier 5", chef="Ines Falk", username="ines")
    with pytest.raises(CommandError, match="--time-zone"):
        call_command("create_kitchen", "Pier 5", chef="Bo", username="bo", time_zone="Mars/Olympus")


@pytest.mark.parametrize(
    ("text", "names"),
    [
        ("2 ovens", ["Oven 1", "Oven 2"]),
        ("Oven", ["Oven"]),
        ("an oven; two water baths", ["Oven", "Bath 1", "Bath 2"]),
        ("4 burners and a blast chiller", ["Ring 1", "Ring 2", "Ring 3", "Ring 4", "Blast chiller"]),
        ("1 oven, 1 combi oven", ["Oven 1", "Oven 2"]),
        ("2 rest shelves\n walk-in.", ["Shelf 1", "Shelf 2", "Fridge"]),
        (" , ", []),
    ],
)
def test_equipment_in_words(text, names):
    assert [item["name"] for item in read_equipment(text)] == names


@pytest.mark.parametrize(
    "text", ["0 ovens", "21 ovens", "999999 ovens", "12 ovens, 12 ovens", "2", "-1 oven", "oven oven"]
)
def test_words_that_name_no_equipment(text):
    with pytest.raises(UnknownEquipment):
        read_equipment(text)
