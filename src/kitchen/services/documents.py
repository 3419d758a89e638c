"""Documents of a service as typed records."""

from __future__ import annotations

import datetime as dt
from typing import Any

from pydantic import BaseModel, Field

from ember.files.service import ServiceAnswer


class Move(BaseModel):
    """A task moved by a new schedule: its old and new start, and the difference in minutes."""

    name: str
    n: int
    was: dt.datetime
    start: dt.datetime
    by_min: float


class Proposal(BaseModel):
    """A changed schedule that waits for the chef; None in a dismissed one. `late`: the lateness it was made for;
    `asked`: its request.
    """

    late: list[list[Any]] | None = None
    at: dt.datetime | None = None
    asked: dict[str, Any] | None = None
    schedule: ServiceAnswer | None = None
    moves: list[Move] = Field(default_factory=list)

    @property
    def fits(self) -> bool:
        """Whether it has a plan that holds."""
        return self.schedule is not None and self.schedule.status != "infeasible"
