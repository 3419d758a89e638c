"""Cooks that go by steps, at one moment: the next step and its time, and the place of each egg."""

from __future__ import annotations

import datetime as dt
import uuid
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property, lru_cache
from typing import Any

from ember.eggs.answer import yolk_as_done
from ember.errors import EmberError
from ember.files.actions import Action, action_of
from ember.files.egg import Timed, parse_egg
from kitchen.accounts.models import Kitchen

from .models import Cook, CookEvent
from .observations import done_steps
from .taps import slip_s
from .words import STEP_DONE

MORE_S = 15.0  # what a tap on "more" gives
# From when on a piece is in its heat or its salt, and when it is out of it.
IN_HEAT = (Action.DROP, Action.LOWER, Action.LOAD, Action.BOIL, Action.COVER, Action.LAY_IN)
OUT = (Action.LIFT, Action.LIFT_INTO_ICE, Action.PULL, Action.TAKE_OUT)


@dataclass(frozen=True)
class ClockStep:
    """A stored step: `seconds` after step `after` was done, or after the start."""

    number: int
    action: Action
    verb: str
    what: str
    how: str
    egg: int
    after: int | None
    seconds: float
    at_s: float
    checks: tuple[str, ...]
    span: str = ""
    kind: str = "clock"

    @property
    def is_lift(self) -> bool:
        """Whether it lifts a piece out of its water with a spoon."""
        return self.action in (Action.LIFT, Action.LIFT_INTO_ICE)


@dataclass(frozen=True)
class StepPlace:
    """The place of one egg, "waits", "in" or "out"; its share of heating, and when it is lifted."""

    number: int
    where: str
    share: float
    due_at: dt.datetime


@dataclass(frozen=True)
class TakenOut:
    """A piece if taken out now: seconds in, seconds planned, and for an egg its yolk, °C and in a word."""

    in_s: float
    planned_s: float
    yolk_c: float | None
    yolk: str


@dataclass(frozen=True)
class StepCookStatus:
    """The state of a cook that goes by steps at one moment, for every screen."""

    cook: Cook
    now: dt.datetime

    @cached_property
    def steps(self) -> list[ClockStep]:
        """All its steps, in order."""
        return [
            ClockStep(**{**step, "action": action_of(step), "checks": tuple(step["checks"])})
            for step in self.cook.result["steps"]
        ]

    @cached_property
    def done(self) -> dict[int, CookEvent]:
        """Steps done, with the event that did each."""
        return done_steps(self.cook)

    @cached_property
    def _later_s(self) -> dict[int, float]:
        """Delay of each step, s, since it was last undone."""
        later: dict[int, float] = {}
        for event in self.cook.history:
            if event.kind == CookEvent.Kind.LATE and event.step is not None:
                later[event.step] = later.get(event.step, 0.0) + 60.0 * event.data.get("minutes", 0.0)
        return later

    @property
    def begins_at(self) -> dt.datetime:
        """When the first step is due: at once, or so that the eggs are ready at their time."""
        begins = self.cook.result.get("begins_at")
        return dt.datetime.fromisoformat(begins) if begins else self.cook.started_at

    def due_at(self, step: ClockStep) -> dt.datetime:
        """When a step is due, counted from when the one before it was done or is due."""
        if step.after is None:
            base = self.begins_at
        elif step.after in self.done:
            base = self.done[step.after].at
        else:
            base = max(self.due_at(self.steps[step.after]), self.now)
        return base + dt.timedelta(seconds=step.seconds + self._later_s.get(step.number, 0.0))

    @property
    def next(self) -> ClockStep | None:
        """The first step after the last one done; None once all are done."""
        last = max(self.done, default=-1)
        return next((step for step in self.steps if step.number > last), None)

    @property
    def next_due(self) -> dt.datetime | None:
        """When the next step is due."""
        return self.due_at(self.next) if self.next else None

    @property
    def coming(self) -> list[ClockStep]:
        """The next step and those after it."""
        step = self.next
        return self.steps[step.number :] if step else []

    @property
    def in_s(self) -> float:
        """Seconds until the next step; negative if it is overdue."""
        return (self.due_at(self.next) - self.now).total_seconds() if self.next else 0.0

    @property
    def place(self) -> str:
        """Where they are cooked."""
        return str(self.cook.result.get("place") or "")

    @property
    def water_c(self) -> float | None:
        """The water or pan they are cooked in."""
        medium_c = self.cook.result.get("medium_c")
        return float(medium_c) if medium_c is not None else None

    @property
    def can_undo(self) -> bool:
        """Whether there is a step to undo."""
        return bool(self.done)

    @property
    def last_done(self) -> ClockStep | None:
        """The last step done."""
        return self.steps[max(self.done)] if self.done else None

    @property
    def last_event(self) -> int | None:
        """The event that an undo would undo."""
        return self.done[max(self.done)].pk if self.done else None

    @property
    def records(self) -> str:
        """What the next tap records."""
        step = self.next
        if step is None:
            return ""
        return recorded_words(step)

    @cached_property
    def _spans(self) -> list[tuple[ClockStep, ClockStep]]:
        """Steps that begin and end the heating (or salting) of each piece."""
        intervals = []
        for number in sorted({step.egg for step in self.steps}):
            own = [step for step in self.steps if step.egg == number]
            begin = next((step for step in own if step.span == "begin"), None)
            end = next((step for step in own if step.span == "end"), None)
            if begin is not None and end is not None:
                intervals.append((begin, end))
        return intervals

    @property
    def far_too_early_s(self) -> float | None:
        """How early a tap on the step that ends heating or salting would be, s, if it may be a mistake; else None."""
        span = self._ending_span
        return None if span is None else slip_s(self.in_s, span[1].at_s - span[0].at_s)

    @property
    def _ending_span(self) -> tuple[ClockStep, ClockStep] | None:
        """The span that the next step ends, while the piece is in."""
        step = self.next
        return next((s for s in self._spans if s[1] is step and s[0].number in self.done), None)

    @property
    def if_taken_out(self) -> TakenOut | None:
        """The piece if the next step were done now; None if that step ends nothing."""
        span = self._ending_span
        if span is None:
            return None
        heated_s = (self.now - self.done[span[0].number].at).total_seconds()
        planned_s = span[1].at_s - span[0].at_s
        yolk = _yolk(self.cook.pk, round(heated_s, -1), planned_s) if self.cook.kind == Cook.Kind.EGGS else None
        return TakenOut(heated_s, planned_s, *(yolk or (None, "")))

    @property
    def planned_heat_s(self) -> float:
        """Planned seconds from going in to coming out; 0 if nothing goes in."""
        return min((end.at_s - begin.at_s for begin, end in self._spans), default=0.0)

    @property
    def heated_s(self) -> float | None:
        """Seconds from going in to coming out, as tapped, of the piece that was in shortest; to the end of the cook if
        nobody took it out. None: it never went in.
        """
        spent = []
        for begin, end in self._spans:
            if begin.number not in self.done:
                return None
            out = self.done[end.number].at if end.number in self.done else self.cook.finished_at or self.now
            spent.append(max((out - self.done[begin.number].at).total_seconds(), 0.0))
        return min(spent, default=0.0)

    @cached_property
    def places(self) -> list[StepPlace]:
        """The place of each egg, or of all as one if they go together."""
        numbers = sorted({step.egg for step in self.steps if step.egg})
        return [place for n in numbers or [0] if (place := self._place(n)) is not None]

    def _place(self, number: int) -> StepPlace | None:
        own = [step for step in self.steps if step.egg == number]
        put = next((s for s in reversed(own) if s.action in IN_HEAT), None)
        lift = next((s for s in own if s.action in OUT), None)
        if put is None or lift is None:
            return None
        due = self.due_at(lift)
        if lift.number in self.done:
            return StepPlace(number, "out", 1.0, due)
        if put.number not in self.done:
            return StepPlace(number, "waits", 0.0, due)
        begun = self.done[put.number].at
        whole = max((due - begun).total_seconds(), 1.0)
        return StepPlace(number, "in", min(max((self.now - begun).total_seconds() / whole, 0.0), 1.0), due)


@lru_cache(maxsize=256)
def _yolk(cook: uuid.UUID, heated_s: float, planned_s: float) -> tuple[float, str] | None:
    """The yolk of an egg in its shell or poached after that time; None for other eggs."""
    request = parse_egg(Cook.objects.only("document").get(pk=cook).document)
    if not isinstance(request, Timed):
        return None
    try:
        return yolk_as_done(request, heated_s, planned_s)
    except EmberError:
        return None


def recorded_words(step: ClockStep) -> str:
    """A step as the record words it: "egg 1 is in the ice"."""
    what = step.what[:1].lower() + step.what[1:]
    if step.action not in STEP_DONE:
        return f"{step.verb.lower()} {what}: done"
    one, several = STEP_DONE[step.action]
    return f"{what} {several if step.egg == 0 and what[0].isdigit() else one}"


def step_status_of(cook: Cook) -> StepCookStatus:
    """The status of a cook at its kitchen's present."""
    return StepCookStatus(cook, cook.kitchen.now())


def steps_running(kitchen: Kitchen, now: dt.datetime) -> list[StepCookStatus]:
    """All running cooks that go by steps, the one that is due first in front."""
    cooks = Cook.objects.of(kitchen).by_steps().filter(finished_at=None).select_related("kitchen")
    statuses = [StepCookStatus(cook, now) for cook in cooks.with_events()]
    return sorted(statuses, key=lambda f: (f.next is None, f.due_at(f.next) if f.next else f.cook.started_at))


@dataclass(frozen=True)
class StepAction:
    """The next action of a cook that goes by steps, in the queue of the line."""

    status: StepCookStatus
    step: ClockStep | None
    due_at: dt.datetime
    in_s: float
    token: uuid.UUID
    goes_by_steps: bool = True
    early_s: float = 20.0

    @property
    def is_early(self) -> bool:
        """Whether it is time to get ready."""
        return self.in_s <= self.early_s


def step_actions_of(statuses: Sequence[StepCookStatus]) -> list[StepAction]:
    """The next action of each cook."""
    actions = []
    for f in statuses:
        due = f.due_at(f.next) if f.next else f.now
        actions.append(StepAction(f, f.next, due, (due - f.now).total_seconds(), uuid.uuid4()))
    return actions


def steps_record(status: StepCookStatus) -> dict[str, Any]:
    """Planned and done times, step by step, for the log."""
    rows = []
    for step in status.steps:
        event = status.done.get(step.number)
        before = status.done.get(step.after) if step.after is not None else None
        planned = status.begins_at + dt.timedelta(seconds=step.at_s)
        if before is not None:  # so long after the step it counts from, whenever that was done
            planned = before.at + dt.timedelta(seconds=step.seconds)
        rows.append(
            {
                "verb": step.verb, "what": step.what, "plan": planned.isoformat(),
                "done": event.at.isoformat() if event else None,
                "off_s": (event.at - planned).total_seconds() if event else None,
                "skipped": bool(event and event.data.get("skipped")), "by": str(event.by) if event else "",
            }
        )  # fmt: skip
    return {"steps": rows}
