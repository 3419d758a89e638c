"""The demo's book: cold storage, a rejected delivery, a note."""

from __future__ import annotations

import datetime as dt
import uuid
from typing import Any

from kitchen.accounts.models import Kitchen, Person
from kitchen.book.actions import held_against
from kitchen.book.models import Entry, ScheduledCheck
from kitchen.kit.models import Equipment

# Hours ago, who, kind, what, °C, taken in, note; what is a name of the kit where there is one.
ENTRIES: list[tuple[float, str, str, str, float | None, bool | None, str]] = [
    (27.5, "tobin", "cold", "Walk-in", 3.6, None, ""),
    (26.0, "pell", "delivery", "Cod, two boxes, Skerry quay", 2.1, True, ""),
    (
        25.8,
        "pell",
        "delivery",
        "Mussels, Skerry quay",
        8.4,
        False,
        "warm in the middle of the bag; sent back",
    ),
    (15.0, "runa", "cold", "Walk-in", 6.3, None, "door stood open for the stores; 4.2 half an hour later"),
    (14.4, "runa", "cold", "Walk-in", 4.2, None, ""),
    (5.5, "tobin", "hot", "Soup well", 66.0, None, ""),
    (2.0, "pell", "note", "Ice machine", None, None, "descaled, first tray thrown away"),
]


# Kind, what, every so many hours, how long ago it was put on the schedule, hours.
SCHEDULE = [("cold", "Walk-in", 8, 200.0), ("hot", "Soup well", 4, 200.0), ("cold", "Blast chiller", 12, 30.0)]


def add_schedule(kitchen: Kitchen) -> None:
    """The kitchen's own schedule of checks."""
    kit = {item.name: item for item in Equipment.objects.of(kitchen).current()}
    for kind, what, every_h, hours in SCHEDULE:
        since = kitchen.now() - dt.timedelta(hours=hours)
        ScheduledCheck.objects.create(
            kitchen=kitchen, kind=kind, what=what, equipment=kit.get(what), every_h=every_h, since=since
        )


def add_entries(kitchen: Kitchen, people: dict[str, Person]) -> None:
    """Create the entries, each at its age."""
    kit = {item.name: item for item in Equipment.objects.of(kitchen).current()}
    for hours, who, kind, what, celsius, accepted, note in ENTRIES:
        at = kitchen.now() - dt.timedelta(hours=hours)
        rule: dict[str, Any] | None = held_against(kitchen, kind, celsius) if celsius is not None else None
        Entry.objects.create(
            kitchen=kitchen, by=people[who], at=at, token=uuid.uuid4(), kind=kind,
            what=what, celsius=celsius, accepted=accepted, note=note, rule=rule, equipment=kit.get(what),
        )  # fmt: skip
