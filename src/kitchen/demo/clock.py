"""The clock of a demonstration kitchen: set to a time, run at a pace, held."""

from __future__ import annotations

import datetime as dt

from django.utils import timezone

from kitchen.accounts.models import Kitchen
from kitchen.line.models import Reading

PACES = (0.0, 1.0, 10.0, 60.0)
AWAY_S = 120.0  # without a reading for so long nothing ran: the evening waited


def set_to(kitchen: Kitchen, at: dt.datetime, rate: float = 1.0) -> None:
    """Let the clock show a time and go on from it."""
    kitchen.clock_showed, kitchen.clock_set_at, kitchen.clock_rate = at, timezone.now(), rate
    kitchen.save(update_fields=["clock_showed", "clock_set_at", "clock_rate"])


def go_on(kitchen: Kitchen) -> bool:
    """Set a clock that ran on while the application was stopped back to the last reading; returns whether it did."""
    last = Reading.objects.filter(kitchen=kitchen, by_hand=False).order_by("-at").first()
    if last is None or kitchen.clock_rate == 0.0 or (kitchen.now() - last.at).total_seconds() < AWAY_S:
        return False
    set_to(kitchen, last.at)
    return True
