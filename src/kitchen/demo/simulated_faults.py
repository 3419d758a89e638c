"""Faults between a simulated device and the kitchen, on demand."""

from __future__ import annotations

import datetime as dt
from dataclasses import dataclass, field
from typing import Any, Protocol

SLIPPED_K = 9.0
CLOCK_OFF = dt.timedelta(hours=3, minutes=7)
MOST_A_POST = 2000
KINDS = {
    "lost": "readings are never sent",
    "late": "readings are held back and sent afterwards, in one batch",
    "twice": "every batch is sent twice",
    "slipped": "the needle slid towards the outside: it reads 9 K more",
    "stuck": "it repeats its last value",
    "clock": "the device's clock is three hours ahead",
}


class Posts(Protocol):
    """Sends a batch of readings."""

    def call(self, path: str, body: dict[str, Any] | None = None) -> dict[str, Any]:
        """Post to a path."""


@dataclass(frozen=True)
class Fault:
    """A kind of fault from one tick to another."""

    kind: str
    first: int
    last: int

    @classmethod
    def parse(cls, text: str) -> Fault:
        """Parse "late@20-40", or "late" for ever. Raises ValueError."""
        kind, _, span = text.partition("@")
        if kind not in KINDS:
            raise ValueError(f"faults are {', '.join(KINDS)}")
        first, _, last = span.partition("-")
        return cls(kind, int(first or 0), int(last or first or 10**9))

    def is_on(self, tick: int) -> bool:
        """Whether it happens at a tick."""
        return self.first <= tick <= self.last


@dataclass
class Sender:
    """Sends readings, with faults. What could not be sent goes with the next batch."""

    api: Posts
    faults: list[Fault] = field(default_factory=list)
    unsent: list[dict[str, Any]] = field(default_factory=list)
    last: dict[str, float] = field(default_factory=dict)
    ticks: int = 0

    def send(self, readings: list[dict[str, Any]], now: dt.datetime) -> list[dict[str, Any]]:
        """Send these readings with those that waited; returns what was sent. Raises OSError if the server does not
        respond.
        """
        self.ticks += 1
        on = {fault.kind for fault in self.faults if fault.is_on(self.ticks)}
        for reading in readings:
            code = reading["probe"]
            if "slipped" in on:
                reading["celsius"] = round(reading["celsius"] + SLIPPED_K, 2)
            if "stuck" in on:
                reading["celsius"] = self.last.get(code, reading["celsius"])
            self.last[code] = reading["celsius"]
            if "clock" in on:
                reading["at"] = (dt.datetime.fromisoformat(reading["at"]) + CLOCK_OFF).isoformat()
        if "lost" in on:
            return []
        self.unsent += readings
        sent = self.unsent[:MOST_A_POST]
        if "late" in on or not sent:
            return []
        body = {"readings": sent} | ({"sent_at": (now + CLOCK_OFF).isoformat()} if "clock" in on else {})
        for _ in range(2 if "twice" in on else 1):
            self.api.call("readings", body)
        self.unsent = self.unsent[len(sent) :]
        return sent
