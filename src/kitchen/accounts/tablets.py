"""Shared tablets: enrolled by a chef, people change on them by name and PIN, and they lock when nobody touches them.

A locked tablet keeps its last session, so that the line stays readable in that person's units; the server refuses
everything else until somebody enters a PIN or password.
"""

from __future__ import annotations

import secrets
from typing import Any

from django.conf import settings
from django.http import HttpRequest, HttpResponse
from django.utils import timezone

from .models import Kitchen, Membership, Person, Tablet, hash_token

COOKIE = "tablet"
COOKIE_AGE_S = 400 * 86400  # the longest browsers keep one
LOCKED, TOUCHED, BACK = "tablet_locked", "tablet_touched", "tablet_back"
TOUCH_STEP_S = 20.0  # so that not every request writes the session
READABLE = ("line:board", "counts")  # while locked
OPEN = ("accounts:names", "accounts:pin", "accounts:lock", "accounts:sign-in", "accounts:sign-out")


def enrol(kitchen: Kitchen, name: str, idle_minutes: int, chef: Person) -> tuple[Tablet, str]:
    """Make a tablet; returns it with the secret of its cookie, which is not stored."""
    secret = secrets.token_urlsafe(32)
    tablet = Tablet.objects.create(
        kitchen=kitchen, name=name, idle_minutes=idle_minutes, enrolled_by=chef, secret_hash=hash_token(secret)
    )
    return tablet, secret


def put_cookie(response: HttpResponse, secret: str) -> None:
    """Let a browser be the tablet."""
    response.set_cookie(
        COOKIE, secret, max_age=COOKIE_AGE_S, httponly=True, samesite="Lax", secure=settings.SESSION_COOKIE_SECURE
    )


def tablet_of(request: HttpRequest) -> Tablet | None:
    """The tablet a request comes from, if its enrolment stands."""
    secret = request.COOKIES.get(COOKIE)
    return Tablet.find(secret) if secret else None


def names_of(tablet: Tablet) -> list[Membership]:
    """Who can sign in on a tablet, by name: everybody of the kitchen but inspectors."""
    rows = Membership.objects.filter(kitchen=tablet.kitchen, left_at=None).select_related("person", "kitchen")
    rows = rows.exclude(role=Membership.Role.INSPECTOR).order_by("person__name")
    return [row for row in rows if row.is_current]


def lock(request: Any, back: str = "") -> None:
    """Lock the tablet of a session; `back`: where the next person goes on."""
    request.session[LOCKED] = True
    request.session[BACK] = back


def unlock(request: Any) -> str:
    """Unlock it; returns where to go on, empty if nowhere in particular."""
    back = str(request.session.pop(BACK, ""))
    request.session.pop(LOCKED, None)
    request.session[TOUCHED] = timezone.now().timestamp()
    return back


def is_touch(request: Any) -> bool:
    """Whether somebody touched the tablet: a page opened or a form sent, not a screen that updates itself."""
    return request.method == "POST" or not request.htmx


def is_locked(request: Any) -> bool:
    """Whether the tablet of a request is locked, by somebody or because nobody touched it for too long."""
    tablet: Tablet | None = request.tablet
    if tablet is None:
        return False
    if request.session.get(LOCKED):
        return True
    now = timezone.now().timestamp()
    touched = request.session.get(TOUCHED)
    if touched is not None and now - touched > 60.0 * tablet.idle_minutes:
        lock(request)
        return True
    if touched is None or (now - touched > TOUCH_STEP_S and is_touch(request)):
        request.session[TOUCHED] = now
    return False
