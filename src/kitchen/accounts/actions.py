"""Every write about people."""

from __future__ import annotations

import datetime as dt

from django.contrib.auth.hashers import make_password
from django.db import transaction
from django.db.models import QuerySet
from django.utils import timezone

from .models import Invitation, Kitchen, Membership, PasswordLink, Person


class LastChefError(Exception):
    """Raised where a kitchen would be left without a chef."""


class OtherKitchenError(Exception):
    """Raised where a chef would take over the account of somebody who works in another kitchen, too."""


@transaction.atomic
def add_person(
    kitchen: Kitchen, username: str, name: str, password: str | None, role: str, is_first_password: bool = False,
    by: Person | None = None, last_day: dt.date | None = None,
) -> Person:  # fmt: skip
    """Create a person with a role in a kitchen; without a password they need a link to choose one. An inspector has a
    last day; `by` whom they were added.
    """
    person = Person.objects.create_user(
        username=username, password=password, name=name, created_by=by,
        must_change_password=is_first_password and bool(password),
    )  # fmt: skip
    Membership.objects.create(person=person, kitchen=kitchen, role=role, last_day=last_day)
    return person


def _keep_a_chef(membership: Membership) -> None:
    """Raise LastChefError if the kitchen would have no chef without this one; locks the chefs until the commit."""
    chefs = Membership.objects.select_for_update().filter(
        kitchen=membership.kitchen, role=Membership.Role.CHEF, left_at=None
    )
    if list(chefs) == [membership]:
        raise LastChefError("A kitchen needs at least one chef. Make someone else a chef first.")


@transaction.atomic
def set_role(membership: Membership, role: str, last_day: dt.date | None = None) -> None:
    """Change a person's role; an inspector has a last day. Raises LastChefError where nobody would be left to sign."""
    if role != Membership.Role.CHEF:
        _keep_a_chef(membership)
    membership.role = role
    membership.last_day = last_day
    membership.save(update_fields=["role", "last_day"])


@transaction.atomic
def end_membership(membership: Membership) -> None:
    """Let a person leave: from the next request on they see nothing of this kitchen; their records stay.

    Raises LastChefError where nobody would be left to sign records.
    """
    _keep_a_chef(membership)
    membership.left_at = timezone.now()
    membership.save(update_fields=["left_at"])
    PasswordLink.objects.filter(person=membership.person, used_at=None).delete()


@transaction.atomic
def resume_membership(membership: Membership) -> None:
    """Let a person who left come back in the same role."""
    membership.left_at = None
    membership.save(update_fields=["left_at"])


@transaction.atomic
def ask_in(kitchen: Kitchen, username: str, role: str, last_day: dt.date | None, by: Person) -> Invitation:
    """Ask somebody who has a sign-in already; a later question replaces an earlier one."""
    known = Invitation.objects.filter(kitchen=kitchen, username=username, answered_at=None)
    known.delete()
    return Invitation.objects.create(kitchen=kitchen, username=username, role=role, last_day=last_day, by=by)


def invitations_of(person: Person) -> QuerySet[Invitation]:
    """The questions that a person has not answered."""
    return Invitation.objects.filter(username=person.username, answered_at=None).select_related("kitchen", "by")


@transaction.atomic
def answer(invitation: Invitation, person: Person, is_accepted: bool) -> None:
    """Accept or decline. Who works there already keeps the role they have."""
    invitation.answered_at = timezone.now()
    invitation.save(update_fields=["answered_at"])
    if not is_accepted:
        return
    membership = Membership.objects.filter(person=person, kitchen=invitation.kitchen).first()
    if membership is not None and membership.left_at is None and membership.is_current:
        return
    given = {"role": invitation.role, "last_day": invitation.last_day, "left_at": None}
    Membership.objects.update_or_create(person=person, kitchen=invitation.kitchen, defaults=given)


@transaction.atomic
def make_password_link(membership: Membership, by: Person) -> str:
    """The secret of a link by which the person chooses a new password.

    Raises OtherKitchenError if they also work elsewhere: whoever holds the link could sign in there.
    """
    if any(other.kitchen_id != membership.kitchen_id for other in membership.person.current_memberships):
        raise OtherKitchenError(
            f"{membership.person} also works in another kitchen. Only they can change their password."
        )
    return PasswordLink.make(membership.person, by)


@transaction.atomic
def use_password_link(secret: str, password: str) -> Person | None:
    """Set the password of the link's person, and use the link up; None if it cannot be used (any more)."""
    link = PasswordLink.find(secret)
    if link is None or not PasswordLink.objects.filter(pk=link.pk, used_at=None).update(used_at=timezone.now()):
        return None
    set_password(link.person, password)
    return link.person


def set_password(person: Person, password: str) -> None:
    """Set a password that the person chose; their other sessions end with it."""
    person.set_password(password)
    person.must_change_password = False
    person.save(update_fields=["password", "must_change_password"])


def set_pin(person: Person, pin: str) -> None:
    """Set the PIN for shared tablets; wrong tries before no longer count."""
    person.pin_hash, person.pin_misses = make_password(pin), 0
    person.save(update_fields=["pin_hash", "pin_misses"])
