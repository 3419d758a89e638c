"""Reads of running cooks: their steps, readings and present state, computed from events."""

from __future__ import annotations

import datetime as dt
from dataclasses import dataclass
from functools import cached_property

from django.db.models import Q, QuerySet

from ember.files.plan import Plan as CorePlan
from ember.files.plan import parse_plan
from ember.files.result import CurvesOut, Result
from ember.track.progress import Progress, progress
from ember.track.steps import PLACES, Step, steps_of
from kitchen.accounts.models import Kitchen

from .models import Cook, CookEvent, Reading

STALE_AFTER_S = 90.0  # of kitchen time: then the probe is not heard from


def done_steps(cook: Cook) -> dict[int, CookEvent]:
    """The event that did each step, after what was undone."""
    done: dict[int, CookEvent] = {}
    for event in cook.events.all():
        if event.kind in (CookEvent.Kind.STARTED, CookEvent.Kind.DONE):
            done.setdefault(event.step, event)
        elif event.kind == CookEvent.Kind.UNDONE:
            done.pop(event.step, None)
    return done


def readings_of(cook: Cook) -> QuerySet[Reading]:
    """Readings of a cook: those typed in for it, and those of its probes while they were in its piece."""
    wanted = Q(cook=cook)
    for use in cook.probe_uses.all():
        mine = Q(probe_id=use.probe_id, at__gte=use.during.lower)
        if use.during.upper is not None:
            mine &= Q(at__lt=use.during.upper)
        wanted |= mine
    return Reading.objects.of(cook.kitchen).filter(wanted).order_by("at", "id")


@dataclass(frozen=True)
class Following:
    """A cook with everything a screen asks of it at one moment."""

    cook: Cook
    now: dt.datetime

    @cached_property
    def plan(self) -> CorePlan:
        """The plan it follows."""
        return parse_plan(self.cook.document)

    @cached_property
    def curves(self) -> CurvesOut:
        """The planned curves."""
        return CurvesOut(**self.cook.result["curves"])

    @cached_property
    def steps(self) -> list[Step]:
        """All its steps."""
        stages = Result.model_fields["stages"].annotation.__args__[0]  # type: ignore[union-attr]
        runs = [stages(**stage) for stage in self.cook.result["stages"]]
        return steps_of(self.plan, Result.model_construct(stages=runs))

    @cached_property
    def done(self) -> dict[int, CookEvent]:
        """Steps done, with the event that did each."""
        return done_steps(self.cook)

    @cached_property
    def readings(self) -> list[tuple[float, float]]:
        """(seconds from the start, °C) in order, none from before the start."""
        rows = readings_of(self.cook).filter(at__gte=self.cook.started_at).values_list("at", "celsius")
        return [((at - self.cook.started_at).total_seconds(), celsius) for at, celsius in rows]

    @property
    def now_s(self) -> float:
        """Seconds since the start; a finished cook stands still."""
        end = self.cook.finished_at or self.now
        return (end - self.cook.started_at).total_seconds()

    @cached_property
    def progress(self) -> Progress:
        """Where it stands."""
        done_at = {n: (e.at - self.cook.started_at).total_seconds() for n, e in self.done.items()}
        return progress(self.steps, self.curves, done_at, self.now_s, self.readings[-1] if self.readings else None)

    @property
    def stage(self) -> int:
        """The stage it is in; the number of stages once the last step is done."""
        return self.steps[self.progress.done].stage if self.progress.done >= 0 else 0

    @property
    def is_past_last_step(self) -> bool:
        """All steps done: to be checked and finished."""
        return self.progress.next is None

    @property
    def place(self) -> str:
        """Where the piece is now."""
        return PLACES[self.plan.stages[self.stage].kind] if self.stage < len(self.plan.stages) else "plate"

    @property
    def last_verb(self) -> str:
        """The step that was done last."""
        return self.steps[self.progress.done].verb if self.progress.done >= 0 else ""

    @property
    def due_at(self) -> dt.datetime:
        """When the next step is due."""
        return self.cook.started_at + dt.timedelta(seconds=self.progress.due_s)

    @property
    def last_reading(self) -> tuple[float, float] | None:
        """The newest reading."""
        return self.readings[-1] if self.readings else None

    @property
    def has_probe(self) -> bool:
        """Whether a probe is in the piece."""
        return any(use.during.upper is None for use in self.cook.probe_uses.all())

    @property
    def silent_s(self) -> float | None:
        """How long a cook with a probe has not been heard from, when that is too long; else None."""
        if not self.has_probe or self.cook.finished_at:
            return None
        quiet = self.now_s - (self.readings[-1][0] if self.readings else 0.0)
        return quiet if quiet > STALE_AFTER_S else None

    @property
    def present_c(self) -> float:
        """The core as it is now: the last reading while it is fresh, else worked out from the plan."""
        last = self.last_reading
        if last and self.now_s - last[0] <= STALE_AFTER_S:
            return last[1]
        return self.progress.reading_c

    @property
    def is_measured(self) -> bool:
        """Whether the present core is a reading."""
        last = self.last_reading
        return bool(last and self.now_s - last[0] <= STALE_AFTER_S)


def running(kitchen: Kitchen) -> list[Following]:
    """All running cooks of a kitchen, the one that needs a hand first in front."""
    now = kitchen.now()
    cooks = (
        Cook.objects.of(kitchen)
        .filter(finished_at=None)
        .select_related("kitchen")
        .prefetch_related("events__by", "probe_uses__probe")
    )
    found = [Following(cook, now) for cook in cooks]
    return sorted(found, key=lambda f: (f.is_past_last_step, f.due_at, f.cook.started_at))


def follow(cook: Cook) -> Following:
    """One cook at its kitchen's present."""
    return Following(cook, cook.kitchen.now())
