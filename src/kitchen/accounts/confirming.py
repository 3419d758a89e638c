"""What a person is asked again at the moment of a signature: their PIN, or their password."""

from __future__ import annotations

import datetime as dt

from django.contrib.auth import authenticate
from django.contrib.auth.hashers import check_password
from django.db import transaction
from django.db.models import F
from django.utils import timezone

from kitchen.web import KitchenRequest

from .models import MOST_PIN_MISSES, PasswordLink, Person, Tablet

PIN_DIGITS = 6
PIN, PASSWORD = "PIN", "password"
MOST_TABLET_MISSES = 15  # by whoever: then passwords only, for a while
MISSES_COUNT_FOR = dt.timedelta(minutes=15)
FIELD = "own_password"


class NotConfirmedError(Exception):
    """Raised where a PIN or password does not confirm who somebody is; says what to do."""


def is_pin(text: str) -> bool:
    """Whether a text could be a PIN: six digits."""
    return len(text) == PIN_DIGITS and text.isascii() and text.isdigit()


def check_pin(tablet: Tablet, person: Person, pin: str) -> None:
    """Check a person's PIN on a shared tablet; counts misses by person and by tablet.

    Raises NotConfirmedError for a wrong PIN, after five misses of a person, or after fifteen on the tablet.
    """
    now = timezone.now()
    with transaction.atomic():  # misses count one after the other, and stay though the request is refused
        tablet = Tablet.objects.select_for_update().get(pk=tablet.pk)
        person = Person.objects.select_for_update().get(pk=person.pk)
        recent = tablet.missed_at is not None and now - tablet.missed_at < MISSES_COUNT_FOR
        problem = _problem(person, tablet.misses if recent else 0)
        if problem is None and check_password(pin, person.pin_hash):
            Person.objects.filter(pk=person.pk).update(pin_misses=0)
            return
        if problem is None:
            Person.objects.filter(pk=person.pk).update(pin_misses=F("pin_misses") + 1)
            Tablet.objects.filter(pk=tablet.pk).update(misses=tablet.misses + 1 if recent else 1, missed_at=now)
            left = MOST_PIN_MISSES - person.pin_misses - 1
            tries = f"{left} {'tries' if left > 1 else 'try'} left" if left else "The PIN is locked: use the password"
            problem = f"Wrong PIN. {tries}."
    raise NotConfirmedError(problem)


def _problem(person: Person, tablet_misses: int) -> str | None:
    if not person.pin_hash:
        return "You have no PIN yet: use your password, then set a PIN under You."
    if person.pin_misses >= MOST_PIN_MISSES:
        return "The PIN is locked after five wrong tries. Use your password."
    if tablet_misses >= MOST_TABLET_MISSES:
        return "Too many wrong PINs on this tablet. Use your password, or wait a quarter of an hour."
    return None


def confirm_person(request: KitchenRequest) -> str:
    """Check the PIN or password that a form sends with a signature; returns which it was.

    Raises NotConfirmedError if it is missing or wrong, or a PIN on a device that no chef enrolled.
    """
    typed = request.POST.get(FIELD, "")
    if not typed:
        raise NotConfirmedError("Enter your PIN or password to sign.")
    if is_pin(typed):
        if request.tablet is None:
            raise NotConfirmedError("A PIN works only on this kitchen's shared tablets. Enter your password.")
        check_pin(request.tablet, request.user, typed)
        return PIN
    if authenticate(request, username=request.user.username, password=typed) != request.user:
        raise NotConfirmedError("Wrong password.")
    return PASSWORD


NEW_FOR = dt.timedelta(days=1)


def is_newly_made_by(person: Person, author: Person) -> bool:
    """Whether `author` could have acted through this account within the last day: they created it, or an account that
    created it, or they made the link by which its password was chosen.
    """
    since = timezone.now() - NEW_FOR
    if PasswordLink.objects.filter(person=person, made_by=author, used_at__gte=since).exists():
        return True
    made: Person | None = person
    while made is not None and made.date_joined >= since:
        if made.created_by_id == author.pk:
            return True
        made = made.created_by
    return False
