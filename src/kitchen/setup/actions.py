"""Creating a kitchen with its first chef."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Any

from django.conf import settings
from django.db import connection, transaction
from django.utils.crypto import constant_time_compare, salted_hmac

from ember.files.plan import parse_plan
from kitchen.accounts.actions import add_person
from kitchen.accounts.models import Kitchen, Membership, PasswordLink, Person
from kitchen.demo.kitchen import PLANS, TAGS
from kitchen.kit.actions import keep_equipment
from kitchen.plans.actions import create as create_plan

SETUP_LOCK = 7_140_016  # any number that nothing else in this database locks


def setup_secret() -> str:
    """The secret of the one-time address, the same at each start: it follows from the installation's key."""
    return salted_hmac("kitchen.setup", "first chef", secret=settings.SECRET_KEY, algorithm="sha256").hexdigest()[:40]


def is_open(secret: str | None = None) -> bool:
    """Whether the first kitchen can still be set up, by this secret if one is given."""
    right = secret is None or constant_time_compare(secret, setup_secret())
    return right and not Kitchen.objects.exists()


@dataclass
class NewKitchen:
    """What a kitchen begins with."""

    kitchen: dict[str, Any]
    username: str
    chef: str
    units: dict[str, str] = field(default_factory=dict)
    password: str = ""  # empty: they choose one by a link
    equipment: list[dict[str, Any]] = field(default_factory=list)
    people: list[tuple[str, str]] = field(default_factory=list)  # (sign-in name, name)
    has_example_plans: bool = False


class AlreadySetUpError(Exception):
    """Raised where somebody else completed the set-up first."""


@transaction.atomic
def create_kitchen(wanted: NewKitchen) -> Person:
    """Create a kitchen and return its first chef. Each further person gets a link from the chef later."""
    kitchen = Kitchen.objects.create(**wanted.kitchen)
    chef = add_person(kitchen, wanted.username, wanted.chef, wanted.password or None, Membership.Role.CHEF)
    Person.objects.filter(pk=chef.pk).update(**wanted.units)
    for item in wanted.equipment:
        keep_equipment(kitchen, None, item, chef)
    for username, name in wanted.people:
        add_person(kitchen, username, name, None, Membership.Role.COOK, by=chef)
    if wanted.has_example_plans:
        for document in PLANS:
            own = document | {"standard": kitchen.standard}
            create_plan(kitchen, chef, parse_plan(own), TAGS.get(document["name"], ()))
    return chef


@transaction.atomic
def create_first_kitchen(wanted: NewKitchen) -> Person:
    """Create the first kitchen. Raises AlreadySetUpError if there is one: of two at once, one comes first."""
    with connection.cursor() as cursor:
        cursor.execute("SELECT pg_advisory_xact_lock(%s)", [SETUP_LOCK])
    if Kitchen.objects.exists():
        raise AlreadySetUpError
    return create_kitchen(wanted)


def password_link_for(person: Person) -> str:
    """The secret of a link by which the person chooses a password."""
    return PasswordLink.make(person, None)
