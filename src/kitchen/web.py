"""What views share: input outside of forms, and downloads."""

from __future__ import annotations

import datetime as dt
import unicodedata
import uuid
from typing import TYPE_CHECKING, TypeGuard

from django.http import HttpRequest
from django.utils.text import slugify

if TYPE_CHECKING:
    from django_htmx.middleware import HtmxDetails

    from kitchen.accounts.models import Kitchen, Membership, Person, Tablet


class KitchenRequest(HttpRequest):
    """A request of a signed-in person, with the kitchen that the middleware set."""

    user: Person
    kitchen: Kitchen
    membership: Membership
    tablet: Tablet | None
    is_locked: bool
    htmx: HtmxDetails


def clean_text(text: str | None, longest: int) -> str:
    """The text without control characters (PostgreSQL stores no NUL) and surrounding space, at most `longest` long."""
    clean = "".join(c for c in text or "" if c in "\n\t" or unicodedata.category(c) not in ("Cc", "Cs"))
    return clean.strip()[:longest]


MOST_DIGITS = 9  # what PostgreSQL's integer holds


def parse_count(text: str | None) -> int | None:
    """A whole number from a form, 0 or more; None for anything else ("²" is a digit to Python, but not a number)."""
    return int(text) if text and text.isdecimal() and len(text) <= MOST_DIGITS else None


def is_uuid(text: str | None) -> TypeGuard[str]:
    """Whether a text is a UUID."""
    try:
        uuid.UUID(text or "")
    except ValueError:
        return False
    return True


def token_of(text: str | None) -> uuid.UUID:
    """The token that makes a repeated request harmless; a new one if none was sent."""
    return uuid.UUID(text) if text and is_uuid(text) else uuid.uuid4()


FIRST_YEAR, LAST_YEAR = 2000, 2199  # days outside them are slips of the pen


def day_in(text: str | None) -> dt.date | None:
    """The day in a text ("2031-05-07"); None for anything else."""
    try:
        day = dt.date.fromisoformat(text or "")
    except ValueError:
        return None
    return day if FIRST_YEAR <= day.year <= LAST_YEAR else None


def attachment(name: str, ending: str) -> str:
    """A Content-Disposition header with a file name that every file system accepts."""
    return f'attachment; filename="{slugify(name)[:60] or "plan"}{ending}"'
