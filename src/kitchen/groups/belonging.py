"""Who belongs to a group, and who reads across it."""

from __future__ import annotations

import datetime as dt
from collections.abc import Callable
from functools import wraps
from typing import Any

from django.core.exceptions import PermissionDenied
from django.db import transaction
from django.http.response import HttpResponseBase
from django.utils import timezone

from kitchen.accounts.models import Kitchen, Membership, Person
from kitchen.web import KitchenRequest

from .models import Group, GroupKitchen, GroupRole, JoinCode


class GroupError(Exception):
    """What a group does not allow."""


def group_of(kitchen: Kitchen) -> Group | None:
    """The group a kitchen belongs to."""
    belongs = GroupKitchen.objects.of(kitchen).filter(left_at=None).select_related("group").first()
    return belongs.group if belongs else None


def role_of(person: Person, group: Group, kitchen: Kitchen) -> GroupRole | None:
    """The role of a person in a group, if it has not ended by the day of the kitchen they are in."""
    role = GroupRole.objects.filter(person=person, group=group).first()
    return role if role and role.is_current(timezone.now().astimezone(kitchen.zone).date()) else None


def reads_across(view: Callable[..., HttpResponseBase]) -> Callable[..., HttpResponseBase]:
    """Decorator: let only who has a role in this kitchen's group in; the view gets the role as second argument."""

    @wraps(view)
    def guarded(request: KitchenRequest, *args: Any, **kwargs: Any) -> HttpResponseBase:
        group = group_of(request.kitchen)
        role = role_of(request.user, group, request.kitchen) if group else None
        if role is None:
            raise PermissionDenied("Only a group chef or an inspector of the group reads across kitchens.")
        return view(request, role, *args, **kwargs)

    return guarded


@transaction.atomic
def begin_group(kitchen: Kitchen, person: Person, name: str) -> Group:
    """A new group with this kitchen in it and this person as its chef. Raises GroupError."""
    if not name:
        raise GroupError("Enter the group's name.")
    _must_be_free(kitchen)
    group = Group.objects.create(name=name, created_by=person)
    GroupKitchen.objects.create(kitchen=kitchen, group=group, joined_by=person)
    GroupRole.objects.create(group=group, person=person, role=GroupRole.Role.CHEF)
    return group


@transaction.atomic
def join(kitchen: Kitchen, person: Person, code: str) -> Group:
    """A kitchen joins by a code: from now on the group's chefs and inspectors read its records. Raises GroupError."""
    _must_be_free(kitchen)
    known = JoinCode.find(code)
    if known is None:
        raise GroupError("This code is wrong, used or more than three days old. Ask the group chef for another.")
    known.used_at = timezone.now()
    known.save(update_fields=["used_at"])
    GroupKitchen.objects.create(kitchen=kitchen, group=known.group, joined_by=person)
    return known.group


def _must_be_free(kitchen: Kitchen) -> None:
    Kitchen.objects.select_for_update().get(pk=kitchen.pk)  # two chefs at once join one group
    if group_of(kitchen) is not None:
        raise GroupError("This kitchen is in a group already.")


@transaction.atomic
def leave(kitchen: Kitchen) -> None:
    """A kitchen leaves its group: nobody reads its records from there any more; what it took over stays its own."""
    GroupKitchen.objects.of(kitchen).filter(left_at=None).update(left_at=timezone.now())


def candidates(group: Group) -> Any:
    """People who can be given a role: who works in a kitchen of the group, and has none."""
    works = Membership.objects.filter(kitchen__in=group.kitchens, left_at=None).values("person")
    return Person.objects.filter(pk__in=works, is_active=True).exclude(group_roles__group=group).order_by("name")


@transaction.atomic
def give_role(group: Group, person: Person, role: str, last_day: dt.date | None = None) -> GroupRole:
    """Give a person of the group's kitchens a role; an inspector has a last day. Raises GroupError."""
    if role == GroupRole.Role.INSPECTOR and last_day is None:
        raise GroupError("Enter the last day an inspector may look.")
    if not candidates(group).filter(pk=person.pk).exists():
        raise GroupError("This person works in none of the group's kitchens.")
    is_inspector = role == GroupRole.Role.INSPECTOR
    return GroupRole.objects.create(group=group, person=person, role=role, last_day=last_day if is_inspector else None)


@transaction.atomic
def end_role(role: GroupRole) -> None:
    """Take a role back. Raises GroupError for the last chef of a group."""
    chefs = GroupRole.objects.select_for_update().filter(group=role.group, role=GroupRole.Role.CHEF)
    if list(chefs) == [role]:
        raise GroupError("A group needs at least one chef. Make someone else a group chef first.")
    role.delete()
