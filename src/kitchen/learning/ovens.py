"""How ovens with a probe of their own recovered after their door was opened, from the cooks in them."""

from __future__ import annotations

import datetime as dt
from dataclasses import dataclass

from ember.files.stages import Oven
from ember.learn.recovery import WINDOW_S, Door, Recovery, door_of, recovery_of, usual_rate_k_min
from kitchen.accounts.models import Kitchen
from kitchen.kit.models import Equipment
from kitchen.line.cook_status import CookStatus
from kitchen.line.models import Cook, Reading
from kitchen.line.track_events import track_events

from .evidence import finished_cooks

OPENED = ("basted", "opened")
BEFORE = dt.timedelta(minutes=3)


@dataclass(frozen=True)
class Recovered:
    """An oven's recovery, and the rate that plans assumed, K a minute."""

    recovery: Recovery
    now: float


def recoveries(kitchen: Kitchen) -> dict[int, Recovered]:
    """{oven: recovery} of ovens with a fixed probe and enough door openings."""
    watched = set(Equipment.objects.of(kitchen).current().filter(kind="oven", fixed_probes__isnull=False)
                  .values_list("pk", flat=True))  # fmt: skip
    doors: dict[int, list[tuple[Door, float]]] = {}
    for cook in finished_cooks(kitchen) if watched else ():
        for oven, door, expected in _doors_of(cook, watched):
            doors.setdefault(oven, []).append((door, expected))
    recovered = {key: (recovery_of(rows), rows[0][1]) for key, rows in doors.items()}
    return {key: Recovered(recovery, now) for key, (recovery, now) in recovered.items() if recovery is not None}


def _doors_of(cook: Cook, watched: set[int]) -> list[tuple[int, Door, float]]:
    status = CookStatus(cook, cook.kitchen.now())
    events = track_events(status)
    doors = []
    for event in events:
        if event.kind not in OPENED:
            continue
        index = max((e.stage for e in events if e.kind == "started" and e.stage is not None and e.s <= event.s),
                    default=0)  # fmt: skip
        stage, place = status.plan.stages[index], status.kit.get(index)
        if not isinstance(stage, Oven) or place is None or place["id"] not in watched:
            continue
        at = cook.started_at + dt.timedelta(seconds=event.s)
        rows = Reading.objects.of(cook.kitchen).filter(
            probe__fixed_in_id=place["id"], at__gte=at - BEFORE, at__lte=at + dt.timedelta(seconds=WINDOW_S)
        )
        air = [((t - cook.started_at).total_seconds(), c) for t, c in rows.order_by("at").values_list("at", "celsius")]
        door = door_of(air, event.s)
        if door is not None:
            expected = stage.back_k_min or usual_rate_k_min(stage.air_c + stage.offset_k)
            doors.append((place["id"], door, expected))
    return doors
