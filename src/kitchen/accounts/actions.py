"""Every write about people."""

from __future__ import annotations

from django.db import transaction

from .models import Kitchen, Membership, Person


class LastChefError(Exception):
    """Raised where a kitchen would be left without a chef."""


@transaction.atomic
def add_person(kitchen: Kitchen, username: str, name: str, password: str, role: str) -> Person:
    """Create a person with a role in a kitchen."""
    person = Person.objects.create_user(username=username, password=password, name=name)
    Membership.objects.create(person=person, kitchen=kitchen, role=role)
    return person


@transaction.atomic
def set_role(membership: Membership, role: str) -> None:
    """Change a person's role. Raises LastChefError where nobody would be left to sign records."""
    chefs = Membership.objects.select_for_update().filter(kitchen=membership.kitchen, role=Membership.Role.CHEF)
    if role != Membership.Role.CHEF and list(chefs) == [membership]:
        raise LastChefError("A kitchen needs at least one chef. Make someone else a chef first.")
    membership.role = role
    membership.save(update_fields=["role"])
