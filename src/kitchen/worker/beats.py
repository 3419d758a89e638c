"""Signs of life, written and read."""

from __future__ import annotations

import datetime as dt

from django.utils import timezone

from .models import Beat


def beat(name: str) -> None:
    """Record that something was done just now."""
    Beat.objects.update_or_create(name=name, defaults={"at": timezone.now()})


def age_of(name: str) -> dt.timedelta | None:
    """How long ago something was last done; None if never."""
    last = Beat.objects.filter(name=name).first()
    return None if last is None else timezone.now() - last.at
