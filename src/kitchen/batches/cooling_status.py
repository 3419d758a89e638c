"""The state of a batch, derived from its events: clock, cooling stages, portions left, use-by date."""

from __future__ import annotations

import datetime as dt
from dataclasses import dataclass
from functools import cached_property

import numpy as np

from ember.judge.cooling import cooling_steps
from ember.judge.record import TemperatureRecord
from ember.judge.standards import standard
from kitchen.accounts.models import Kitchen

from .models import Batch, BatchEvent

MAX_GAP_S = 300.0  # readings further apart count at the worse of their two ends

Kind = BatchEvent.Kind


@dataclass(frozen=True)
class StageDue:
    """One stage of the cooling rule. `due_at` is None until its clock runs."""

    from_c: float
    to_c: float
    allowed_min: float | None
    due_at: dt.datetime | None
    reached_at: dt.datetime | None
    missed: bool

    @property
    def met(self) -> bool:
        """Whether the stage was finished in time; None while it runs."""
        return self.reached_at is not None and not self.missed


class CoolingStatus:
    """The state of a batch at a moment."""

    def __init__(self, batch: Batch, events: list[BatchEvent], now: dt.datetime) -> None:
        self.batch, self.events, self.now = batch, events, now

    def _of(self, *kinds: str) -> list[BatchEvent]:
        return [event for event in self.events if event.kind in kinds]

    @cached_property
    def begins_at(self) -> dt.datetime:
        """When the cooling clock started: out of the heat, or out of the reheat that put it right."""
        again = self._of(Kind.REHEATED)
        return again[-1].at if again else self.batch.out_at

    @cached_property
    def begins_c(self) -> float:
        """Core temperature when the clock started, °C."""
        again = self._of(Kind.REHEATED)
        reading = again[-1].celsius if again else None
        return float(self.batch.document["piece"]["start_c"] if reading is None else reading)

    @cached_property
    def readings(self) -> list[tuple[float, float]]:
        """Readings of the warmest point as (s from `begins_at`, °C), with the one at the start."""
        readings = [(0.0, self.begins_c)]
        for event in self._of(Kind.READ):
            if event.at > self.begins_at and event.celsius is not None:
                readings.append(((event.at - self.begins_at).total_seconds(), event.celsius))
        return readings

    def seconds_out(self, when: dt.datetime | None) -> float | None:
        """Seconds since the batch first left the heat."""
        return None if when is None else (when - self.batch.out_at).total_seconds()

    @cached_property
    def read_out(self) -> list[tuple[float, float]]:
        """All readings as (s since it first left the heat, °C), before and after a reheat."""
        readings = self._of(Kind.READ, Kind.REHEATED)
        start = (0.0, float(self.batch.document["piece"]["start_c"]))
        return [start, *((self.seconds_out(event.at) or 0.0, event.celsius or 0.0) for event in readings)]

    @cached_property
    def last_c(self) -> float | None:
        """The latest reading, °C."""
        return self.readings[-1][1] if len(self.readings) > 1 else None

    @cached_property
    def stages(self) -> list[StageDue]:
        """Each stage of the rule judged by the readings; what was not measured does not count as reached."""
        rule = standard(self.batch.document["standard"]).phases["cool"]
        t, T = (np.array(column) for column in zip(*self.readings, strict=True))
        stages = []
        for step in cooling_steps(rule, TemperatureRecord(t, T, MAX_GAP_S)):
            begins = self._moment(step.begins_s)
            due = None
            if begins is not None and step.allowed_min is not None:
                due = begins + dt.timedelta(minutes=step.allowed_min)
            reached = self._moment(step.ends_s)
            late = due is not None and (reached > due if reached is not None else self.now > due)
            stages.append(StageDue(step.from_c, step.to_c, step.allowed_min, due, reached, late))
        return stages

    def _moment(self, seconds: float | None) -> dt.datetime | None:
        return None if seconds is None else self.begins_at + dt.timedelta(seconds=seconds)

    @cached_property
    def next_stage(self) -> StageDue | None:
        """The stage that is running."""
        return next((stage for stage in self.stages if stage.reached_at is None), None)

    @cached_property
    def is_missed(self) -> bool:
        """Whether a stage was missed and no chef has decided about it since."""
        return any(stage.missed for stage in self.stages) and not self._decided

    @cached_property
    def _decided(self) -> bool:
        return any(event.at >= self.begins_at for event in self._of(Kind.DECIDED))

    @cached_property
    def is_cold(self) -> bool:
        """Whether every cooling stage is finished."""
        return self.next_stage is None

    @cached_property
    def was_reheated(self) -> bool:
        """Whether it has been reheated once to put a missed cooling right."""
        return bool(self._of(Kind.REHEATED))

    @cached_property
    def is_discarded(self) -> bool:
        """Whether it was discarded."""
        return bool(self._of(Kind.DISCARDED))

    @cached_property
    def stands_in(self) -> str:
        """The place it was last put."""
        cold = self._of(Kind.COLD)
        return cold[-1].note if cold else ""

    @cached_property
    def waits_for_cold(self) -> bool:
        """Whether it has left the heat and has not been put to cool yet."""
        return not self.is_cold and not any(event.at >= self.begins_at for event in self._of(Kind.COLD))

    @cached_property
    def into_cold_by(self) -> dt.datetime | None:
        """The latest moment to start cooling that still meets the rule, by the model; None if unknown."""
        wait = self.batch.result.get("latest_wait_min")
        if not self.waits_for_cold or wait is None or self.was_reheated:
            return None
        return self.batch.out_at + dt.timedelta(minutes=wait)

    @cached_property
    def pressed_at(self) -> dt.datetime | None:
        """When pressing started; None once it is portioned."""
        pressed = self._of(Kind.PRESSED, Kind.PORTIONED)
        return pressed[-1].at if pressed and pressed[-1].kind == Kind.PRESSED else None

    @cached_property
    def portions(self) -> int:
        """Number of portions; the planned number until it is portioned."""
        cut = self._of(Kind.PORTIONED)
        return cut[-1].portions if cut else self.batch.portions

    @cached_property
    def taken(self) -> int:
        """Portions taken and not put back."""
        used = sum(event.portions for event in self._of(Kind.USED))
        return used - sum(event.portions for event in self._of(Kind.RETURNED))

    @cached_property
    def left(self) -> int:
        """Portions left."""
        return 0 if self.is_discarded else self.portions - self.taken

    @cached_property
    def days(self) -> float | None:
        """Shelf life in days, counting the day it left the heat; None if the standard has no row for it."""
        limit_days = self.batch.result["keep"]["days"]
        return None if limit_days is None else float(limit_days)

    @cached_property
    def use_by(self) -> dt.date | None:
        """The use-by date, counted from when it first left the heat."""
        if self.days is None:
            return None
        return self.batch.out_at.astimezone(self.batch.kitchen.zone).date() + dt.timedelta(days=int(self.days) - 1)

    @cached_property
    def is_past(self) -> bool:
        """Whether it is past its use-by date."""
        return self.use_by is not None and self.now.astimezone(self.batch.kitchen.zone).date() > self.use_by

    @cached_property
    def is_open(self) -> bool:
        """Whether any of it is left."""
        return self.left > 0

    @cached_property
    def why_not(self) -> str:
        """Why nothing may be taken from it; empty if something may."""
        if self.is_discarded:
            return "This batch was discarded."
        if self.left == 0:
            return "No portions are left."
        if self.is_missed:
            return "Cooling missed: take a corrective action first."
        if self.is_past:
            return "It is past its use-by date."
        if not self.is_cold and not self._decided:
            return "It is not cold yet. Log a reading first."
        return ""


def cooling_statuses(batches: list[Batch], now: dt.datetime) -> list[CoolingStatus]:
    """The status of each batch, with the events of all read in one query."""
    by_batch: dict[object, list[BatchEvent]] = {batch.pk: [] for batch in batches}
    for event in BatchEvent.objects.filter(batch__in=batches).select_related("by"):
        by_batch[event.batch_id].append(event)
    return [CoolingStatus(batch, by_batch[batch.pk], now) for batch in batches]


MOST_ON_SHELF = 500


def shelf_of(kitchen: Kitchen, now: dt.datetime) -> tuple[list[CoolingStatus], list[CoolingStatus]]:
    """The batches that are there, missed coolings first, then those cooling, then by use-by date; and those gone."""
    rows = list(Batch.objects.of(kitchen).select_related("kitchen", "out_by")[:MOST_ON_SHELF])
    statuses = cooling_statuses(rows, now)
    return sorted((s for s in statuses if s.is_open), key=_order), [s for s in statuses if not s.is_open]


def _order(status: CoolingStatus) -> tuple[bool, bool, dt.date]:
    return (not status.is_missed, status.is_cold, status.use_by or status.batch.out_at.date())


def cooling_status_of(batch: Batch, now: dt.datetime) -> CoolingStatus:
    """The status of one batch."""
    return cooling_statuses([batch], now)[0]
