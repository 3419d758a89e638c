"""The time of a tap: a device without a network stores taps and sends them later with their time.

Also the result of a tap when somebody else was quicker.
"""

from __future__ import annotations

import datetime as dt
from collections.abc import Iterator
from contextlib import contextmanager
from contextvars import ContextVar
from dataclasses import dataclass
from typing import Any

from kitchen.accounts.models import Kitchen

OLDEST = dt.timedelta(hours=24)  # a device's clock that is further off is not believed
TOLD_LATE_S = 30.0


@dataclass
class Tap:
    """A tap that was stored on a device: its time, and who did the same before it arrived."""

    at: dt.datetime
    done_by: str = ""
    done_at: dt.datetime | None = None


_tap: ContextVar[Tap | None] = ContextVar("tap", default=None)


@contextmanager
def kept_tap(at: dt.datetime) -> Iterator[Tap]:
    """Context manager: what is written inside was tapped at `at`."""
    tap = Tap(at)
    token = _tap.set(tap)
    try:
        yield tap
    finally:
        _tap.reset(token)


def tapped_at(kitchen: Kitchen, not_before: dt.datetime | None = None) -> dt.datetime:
    """When the event being written was tapped: never later than now, nor before what it follows."""
    now = kitchen.now()
    tap = _tap.get()
    if tap is None or not now - OLDEST <= tap.at <= now:
        return now
    return tap.at if not_before is None else max(tap.at, not_before)


def sent_late(kitchen: Kitchen, at: dt.datetime) -> dict[str, Any]:
    """What an event stores of a late tap: when it arrived."""
    now = kitchen.now()
    return {"came_at": now.isoformat()} if (now - at).total_seconds() > TOLD_LATE_S else {}


def was_done(by: object, at: dt.datetime) -> None:
    """Record that somebody else had done the same already."""
    tap = _tap.get()
    if tap is not None:
        tap.done_by, tap.done_at = str(by), at


SHARE, LEAST_S = 0.25, 1800.0


def slip_s(early_s: float, stage_s: float) -> float | None:
    """How early a tap would be, s, if that is more than a quarter of its stage or half an hour; else None."""
    return early_s if early_s > min(SHARE * stage_s, LEAST_S) else None
