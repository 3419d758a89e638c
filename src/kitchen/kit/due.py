"""When a check is due."""

from __future__ import annotations

import datetime as dt
from dataclasses import dataclass

from kitchen.accounts.models import Kitchen


@dataclass(frozen=True)
class Due:
    """When something is to be checked next; `days` from today, None where it never was."""

    days: int | None

    @property
    def overdue(self) -> int:
        """How many days too late it is."""
        return max(-(self.days or 0), 0)


def due(kitchen: Kitchen, last: dt.datetime | None, every_days: int) -> Due:
    """When the next check is due after the last one."""
    if last is None:
        return Due(None)
    today = kitchen.now().astimezone(kitchen.zone).date()
    return Due((last.astimezone(kitchen.zone).date() + dt.timedelta(days=every_days) - today).days)
