"""A plan's cook one step at a time, with the interface that the steps page uses for eggs and brines."""

from __future__ import annotations

import datetime as dt
from dataclasses import dataclass
from functools import cached_property

from ember.files.actions import PLACE_WORDS
from ember.track.steps import ASIDE, Step

from .cook_status import CookStatus
from .models import Cook
from .next_actions import NextAction, next_actions_of
from .queries import status_of
from .step_cooks import StepPlace


@dataclass(frozen=True)
class PlanStep:
    """A step in the words of the page."""

    number: int
    verb: str
    what: str
    how: str
    kind: str
    to_c: float | None = None
    egg: int = 0
    checks: tuple[str, ...] = ()


@dataclass(frozen=True)
class PlanSteps:
    """A plan's cook for the steps page."""

    status: CookStatus

    @property
    def cook(self) -> Cook:
        """The cook."""
        return self.status.cook

    @property
    def now(self) -> dt.datetime:
        """The kitchen's present."""
        return self.status.now

    @property
    def steps(self) -> list[Step]:
        """All its steps."""
        return self.status.steps

    @cached_property
    def action(self) -> NextAction:
        """The next action: of the chain, or one beside it that is due earlier."""
        return next_actions_of([self.status], self.now)[0]

    @property
    def next(self) -> PlanStep | None:
        """The next step; None once all are done, or only the check is left."""
        step = self.action.step
        return None if step is None or self.action.is_check else self._said(step)

    @property
    def coming(self) -> list[PlanStep]:
        """The next step and those after it; a round counts as one."""
        first, step = self.action.step, self.status.progress.next
        beside = [] if first is None or first is step else [first]
        return [self._said(each) for each in (*beside, *(self._chain(step) if step else []))]

    def _chain(self, step: Step) -> list[Step]:
        again = self.status.round
        last = again.last if again is not None else -1
        chain = [step]
        for each in self.steps[step.number + 1 :]:
            same = each.kind == chain[-1].kind and each.stage == chain[-1].stage and each.kind in ("turn", "baste")
            if each.kind not in ASIDE and each.number > last and not same:
                chain.append(each)
        return chain

    def due_at(self, step: PlanStep) -> dt.datetime:
        """When a step is due, counted from the next one."""
        status = self.status
        if self.action.step is not None and step.number == self.action.step.number:
            return self.action.due_at
        first = status.progress.next
        ahead = 0.0 if first is None else self.steps[step.number].at_s - self._next_at_s(first)
        return status.due_at + dt.timedelta(seconds=max(ahead, 0.0))

    def _next_at_s(self, first: Step) -> float:
        again = self.status.round
        if again is None:
            return first.at_s
        return again.times_s[min(self.status.round_passed, again.count - 1)]

    @property
    def in_s(self) -> float:
        """Seconds until the next step; negative if it is overdue."""
        return self.action.in_s

    @property
    def place(self) -> str:
        """Where the piece is."""
        return "" if self.cook.waits else self.status.place

    @property
    def water_c(self) -> float | None:
        """None: for eggs only."""
        return None

    @property
    def places(self) -> list[StepPlace]:
        """Empty: for eggs only."""
        return []

    @property
    def button(self) -> str:
        """The big button's words: for the first stage where the piece is now, which starts the timer."""
        step = self.action.step
        return self.action.begun_words if step is not None and step.kind == "start" else "Next"

    @property
    def records(self) -> str:
        """What the next tap records."""
        step = self.action.step
        if step is None:
            return ""
        if step.kind == "start":
            return "starts the clock"
        if step.kind == "wash":
            return "hands washed, board changed"
        return f"{step.verb.lower()}: done" if step.kind == "prep" else f"{step.verb.lower()} {self.cook.name}: done"

    @property
    def far_too_early_s(self) -> float | None:
        """How early a tap on the next step would be, s, if it may be a mistake."""
        return self.action.far_too_early_s

    @property
    def if_taken_out(self) -> None:
        """Empty: for eggs only; a plan shows its core instead."""
        return None

    @property
    def core_c(self) -> float:
        """Present core, °C."""
        return self.status.present_c

    @property
    def can_undo(self) -> bool:
        """Whether there is a step to undo."""
        return self.status.can_undo

    @property
    def last_event(self) -> int | None:
        """The event that an undo would undo."""
        return self.status.last_event

    @property
    def last_done(self) -> PlanStep | None:
        """The last step done."""
        number = self.status.last_number
        return None if number is None else self._said(self.steps[number])

    def _said(self, step: Step) -> PlanStep:
        verb, what, how, to_c = step.verb, self.cook.name, step.how, None
        if step.kind == "wash":
            verb, what = "Wash", "hands"
        elif step.kind == "prep":  # "Dry it"
            what = ""
        elif step.kind not in ("prep", "turn", "baste") and not how:
            to_c = step.to_c if step.kind != "end" else None
            how = f"{PLACE_WORDS[step.from_place]} to {self.status.place_name(step.stage, step.to_place)}"
        return PlanStep(step.number, verb, what, how, step.kind, to_c)


def plan_steps(cook: Cook) -> PlanSteps:
    """The steps of a cook at its kitchen's present."""
    return PlanSteps(status_of(cook))
