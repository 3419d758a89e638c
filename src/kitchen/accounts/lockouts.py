"""Where a request comes from, and how often somebody may guess: by name and address, by address, by known device.

A name is locked at an address after a few misses (django-axes). Somebody who tries many names is slowed for the whole
address, and somebody who tries one name from many addresses for that name; a browser on which that person has signed in
before is let through both, so that no stranger locks a kitchen out.
"""

from __future__ import annotations

import ipaddress

from axes.models import AccessAttempt
from django.conf import settings
from django.core import signing
from django.db.models import Sum
from django.http import HttpRequest, HttpResponse
from django.utils import timezone

from .models import Person

COOKIE, SALT = "known", "known-device"
COOKIE_AGE_S = 180 * 86400
MOST_OF_AN_ADDRESS, MOST_OF_A_NAME = 24, 32  # misses within the time they count


def address_of(request: HttpRequest) -> str:
    """The client's address. X-Forwarded-For is believed only from a proxy that the settings name, and of it only the
    last address that is no such proxy.
    """
    address = str(request.META.get("REMOTE_ADDR", ""))
    proxies = set(settings.TRUSTED_PROXIES)
    if address not in proxies:
        return address
    for part in reversed(request.META.get("HTTP_X_FORWARDED_FOR", "").split(",")):
        try:
            forwarded = str(ipaddress.ip_address(part.strip()))
        except ValueError:
            break  # nobody's address: what stands before it is not to be believed either
        if forwarded not in proxies:
            return forwarded
    return address


def _misses(**where: str) -> int:
    since = timezone.now() - settings.AXES_COOLOFF_TIME
    rows = AccessAttempt.objects.filter(attempt_time__gte=since, **where)
    return rows.aggregate(total=Sum("failures_since_start"))["total"] or 0


def is_known(request: HttpRequest, username: str) -> bool:
    """Whether this person has signed in on this browser before."""
    try:
        names = signing.loads(request.COOKIES.get(COOKIE, ""), salt=SALT, max_age=COOKIE_AGE_S)
    except signing.BadSignature:
        return False
    return username in names


def is_slowed(request: HttpRequest, username: str) -> bool:
    """Whether sign-in from this address, or to this name, must wait."""
    if is_known(request, username):
        return False
    by_address = _misses(ip_address=address_of(request))
    return by_address >= MOST_OF_AN_ADDRESS or _misses(username=username) >= MOST_OF_A_NAME


def remember(request: HttpRequest, response: HttpResponse, person: Person) -> None:
    """Let this browser be one on which the person has signed in."""
    try:
        names = signing.loads(request.COOKIES.get(COOKIE, ""), salt=SALT, max_age=COOKIE_AGE_S)
    except signing.BadSignature:
        names = []
    names = [*(name for name in names if name != person.username), person.username][-20:]
    response.set_cookie(
        COOKIE, signing.dumps(names, salt=SALT), max_age=COOKIE_AGE_S, httponly=True, samesite="Lax",
        secure=settings.SESSION_COOKIE_SECURE,
    )  # fmt: skip
