"""Fixtures for everything that needs the database: a kitchen with a chef and a cook, and another kitchen beside it."""

from __future__ import annotations

import os
from typing import Any

import pytest
from django.db.models.signals import post_migrate
from hypothesis import settings

PASSWORD = "a long test pass"

# The same examples at every run, so that a change fails by its own fault; HYPOTHESIS_PROFILE=explore looks further.
settings.register_profile("same", derandomize=True)
settings.register_profile("explore", derandomize=False)
settings.load_profile(os.environ.get("HYPOTHESIS_PROFILE", "same"))


# Files that take longest come first, so that no process waits for another at the end.
LONGEST_FIRST = (
    "learn", "demo_evening", "faces", "face", "upgrade", "units_walk", "plans", "eggs", "estimator", "practice",
    "everything", "fence", "eggs_whole", "batches", "outline", "odd_input", "services", "once", "roles", "service",
    "heat", "eggs_pan", "chill",
)  # fmt: skip


def pytest_collection_modifyitems(items: list[pytest.Item]) -> None:
    """Sort the files by how long they take; their tests stay in order. Those of the browser have their own order."""
    if any("browser" in item.path.parts for item in items):
        return
    places = {f"test_{name}": place for place, name in enumerate(LONGEST_FIRST)}
    items.sort(key=lambda item: places.get(item.path.stem, len(places)))


@pytest.fixture(scope="session", autouse=True)
def no_table_of_permissions() -> None:
    """Roles are the kitchen's own: Django's permissions would be written anew after every test that commits."""
    post_migrate.disconnect(dispatch_uid="django.contrib.auth.management.create_permissions")


@pytest.fixture(scope="session", autouse=True)
def tables_are_emptied_between_tests() -> Any:
    """What stands refuses to be emptied. Tests that commit are followed by it all the same, as only an administrator
    of the database could.
    """
    from django.db.backends.postgresql.operations import DatabaseOperations

    refused = DatabaseOperations.sql_flush

    def sql_flush(self: Any, *arguments: Any, **options: Any) -> list[str]:
        statements = refused(self, *arguments, **options)
        return ["SET session_replication_role = replica", *statements, "SET session_replication_role = origin"]

    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(DatabaseOperations, "sql_flush", sql_flush)
        yield


@pytest.fixture
def kitchen(db: Any) -> Any:
    from kitchen.accounts.models import Kitchen

    return Kitchen.objects.create(name="Test galley", place="Deck 2")


@pytest.fixture
def chef(kitchen: Any) -> Any:
    from kitchen.accounts.actions import add_person

    return add_person(kitchen, "chef", "Ada Chef", PASSWORD, "chef")


@pytest.fixture
def cook_person(kitchen: Any) -> Any:
    from kitchen.accounts.actions import add_person

    return add_person(kitchen, "cook", "Bo Cook", PASSWORD, "cook")


@pytest.fixture
def chef_in(chef: Any) -> Any:
    """A browser of its own in which the chef is signed in."""
    from django.test import Client

    client = Client()
    client.force_login(chef)
    return client


@pytest.fixture
def stranger(db: Any) -> Any:
    """A chef of another kitchen."""
    from kitchen.accounts.actions import add_person
    from kitchen.accounts.models import Kitchen

    return add_person(Kitchen.objects.create(name="Other"), "stranger", "Cy Other", PASSWORD, "chef")


@pytest.fixture
def document() -> dict[str, Any]:
    """A small plan: bath, sear, rest."""
    return {
        "format": "open-ember/plan",
        "version": 1,
        "name": "Test strip",
        "piece": {
            "cut": "beef/strip-loin",
            "shape": {"kind": "slab", "thickness_mm": 26.0},
            "start_c": 5.0,
            "count": 2,
        },
        "target": {"doneness": "medium-rare"},
        "standard": "us-food-code-2022",
        "stages": [
            {"kind": "bath", "water_c": 57.0, "until": {"peak_c": 54.5}},
            {"kind": "pan", "pan_c": 220.0, "seconds_a_side": 40.0, "sides": 2},
            {"kind": "rest", "air_c": 22.0, "minutes": 5.0},
        ],
    }


@pytest.fixture
def plan(kitchen: Any, chef: Any, document: dict[str, Any]) -> Any:
    from ember.files.plan import parse_plan
    from kitchen.plans.actions import create

    return create(kitchen, chef, parse_plan(document))


@pytest.fixture
def device(kitchen: Any) -> Any:
    """(device, token) with two probes."""
    from kitchen.kit.actions import add_device

    return add_device(kitchen, "Box", 2)


@pytest.fixture
def running(plan: Any, cook_person: Any, device: Any) -> Any:
    """A cook just started, with the first probe in it."""
    from kitchen.line.starting import start

    return start(plan, cook_person, device[0].probes.first())


@pytest.fixture
def signed_in(client: Any, cook_person: Any) -> Any:
    """The client of a cook."""
    client.force_login(cook_person)
    return client
