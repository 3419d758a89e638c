"""The present state of a cook of a plan: what is due, where it is, how warm, how done."""

from __future__ import annotations

import datetime as dt
from dataclasses import dataclass, replace
from functools import cached_property
from typing import Any

import numpy as np

from ember.files.actions import PLACE_WORDS, Place
from ember.food.catalogue import cut
from ember.judge.doneness import Word, scale_of, word_for
from ember.track.full_steps import BOARD
from ember.track.progress import Progress, progress
from ember.track.rounds import Round, round_of
from ember.track.steps import ASIDE, MOVES, Step, steps_aside

from .cook_readings import STALE_AFTER_S
from .cook_steps import CookSteps
from .forecast_view import ForecastView
from .models import CookEvent
from .places import kit_of
from .real_course import RealCourse, real_course


@dataclass(frozen=True)
class CookStatus(CookSteps):
    """A cook's state at one moment, for every screen."""

    @cached_property
    def progress(self) -> Progress:
        """Progress along its steps, including delays."""
        done_at = {n: (e.at - self.cook.started_at).total_seconds() for n, e in self.done.items()}
        last = self.readings[-1] if self.readings and not self.fault else None
        position = progress(self.steps, self.curves, done_at, self.now_s, last)
        if position.next is None:
            return position
        if self.cook.waits:
            return replace(position, due_s=position.due_s + 60.0 * self.put_off_min(position.next))
        due = self._forecast_due_s(position)
        return replace(
            position, due_s=(position.due_s if due is None else due) + 60.0 * self.put_off_min(position.next)
        )

    def _forecast_due_s(self, position: Progress) -> float | None:
        """When the pull is due by the forecast; None if another step is next, or its reading is reached already."""
        forecast_view, step = self.forecast_view, self.pull_step
        if (
            forecast_view is None
            or not forecast_view.is_by_readings
            or position.next is None
            or step is None
            or position.reached
        ):
            return None
        if position.next.number != step.number or forecast_view.forecast.stage != self.plan.pull_stage:
            return None
        return forecast_view.p50_s

    @cached_property
    def round(self) -> Round | None:
        """The current round of turns or bastings; None if the next step is not of one."""
        step = self.progress.next
        return None if step is None else round_of(self.steps, step.number)

    @property
    def round_passed(self) -> int:
        """How many times of the round have passed."""
        return 0 if self.round is None else sum(s <= self.progress.plan_s + 1e-6 for s in self.round.times_s)

    @cached_property
    def forecast_view(self) -> ForecastView | None:
        """The newest forecast, while it is fresh and the cook runs."""
        if self.cook.finished_at is not None or self.cook.waits:
            return None
        forecast = self.inputs.forecast if self.inputs else self.cook.forecasts.first()
        forecast_view = ForecastView(forecast, self.cook, self.now) if forecast is not None else None
        return forecast_view if forecast_view is not None and forecast_view.is_fresh else None

    @property
    def fault(self) -> str:
        """The probe's fault; empty if it has none."""
        return self.forecast_view.fault if self.forecast_view else ""

    def put_off_min(self, step: Step | None) -> float:
        """How long a step was delayed since the step before it was done, min."""
        if step is None:
            return 0.0
        late = [e for e in self.cook.history if e.kind == CookEvent.Kind.LATE and e.step == step.number]
        chain = [e.pk for n, e in self.done.items() if n < step.number and self.steps[n].kind not in ASIDE]
        since = max(chain, default=0)
        return float(sum(e.data.get("minutes", 0.0) for e in late if e.pk > since))

    @cached_property
    def kit(self) -> dict[int, dict[str, Any]]:
        """Equipment by stage."""
        return kit_of(self.cook)

    def place_name(self, stage: int, place: Place) -> str:
        """The kitchen's name for the place of a stage, "Bath A"; else the word for that kind of place."""
        return str(self.kit[stage]["name"]) if stage in self.kit and place != BOARD else PLACE_WORDS[place]

    @cached_property
    def pull_step(self) -> Step | None:
        """The step that ends the stage which decides its core; None if there is none."""
        pull = self.plan.pull_stage
        return next((s for s in self.steps if pull is not None and s.stage > pull and s.kind in MOVES), None)

    @property
    def planned_pull_s(self) -> float | None:
        """When the plan pulls it, counted from the last step done, s; None once it was pulled."""
        step = self.pull_step
        if step is None or any(self.steps[n].kind in MOVES and n >= step.number for n in self.done):
            return None
        chain = {n: e for n, e in self.done.items() if self.steps[n].kind not in ASIDE}
        last = max(chain, default=None)
        if last is None:
            return step.at_s
        begun = (chain[last].at - self.cook.started_at).total_seconds()
        return begun + step.at_s - self.steps[last].at_s

    @property
    def due_pull_at(self) -> dt.datetime | None:
        """When the pull is due: by the forecast, else by the plan."""
        due = (
            self.forecast_view.p50_s
            if self.forecast_view and self.forecast_view.is_by_readings
            else self.planned_pull_s
        )
        return None if due is None else self.cook.started_at + dt.timedelta(seconds=due)

    @property
    def stage(self) -> int:
        """The current stage; the number of stages once the last step is done."""
        return self.steps[self.progress.done].stage if self.progress.done >= 0 else 0

    @property
    def is_past_last_step(self) -> bool:
        """Whether all steps are done, so that it is to be checked and finished."""
        return self.progress.next is None

    @property
    def place_kind(self) -> Place:
        """The kind of place the piece is in."""
        done = self.progress.done
        return self.steps[0].from_place if done < 0 else self.steps[done].to_place

    @property
    def place(self) -> str:
        """Where the piece is, by the kitchen's name."""
        done = self.progress.done
        return PLACE_WORDS[self.place_kind] if done < 0 else self.place_name(self.steps[done].stage, self.place_kind)

    @cached_property
    def scale(self) -> tuple[Word, ...]:
        """The doneness scale of its cut."""
        own = self.plan.piece.own_cut
        return scale_of(cut(self.plan.piece.cut).doneness, own.doneness if own else ())

    @property
    def word_now(self) -> str:
        """Doneness if it were cut now: by the hottest core so far, measured or, since then, modelled."""
        view = self.forecast_view
        believed = view.hottest_c if view is not None else None
        read = [] if self.fault else [c for _, c in self.readings]
        known = [*read, *([] if believed is None else [believed])]
        if not known or not (self.is_measured or (view is not None and view.is_by_readings)):
            known.append(self._worked_hottest_c)
        return word_for(self.scale, max(known)).word

    @property
    def _worked_hottest_c(self) -> float:
        """The hottest core so far by the steps as tapped, else by the plan, °C."""
        if self.course is not None:
            return self.course.hottest_by(self.now_s)
        t, c = np.array(self.curves.t_s), np.array(self.curves.core_c)
        return float(c[t <= self.progress.plan_s + 1e-6].max(initial=float(c[0])))

    @cached_property
    def course(self) -> RealCourse | None:
        """The core by the steps as tapped, if these are far off the plan and nobody measures it."""
        is_read = self.is_measured or (self.forecast_view is not None and self.forecast_view.is_by_readings)
        return None if self.cook.waits or is_read else real_course(self)

    @property
    def word_if_left(self) -> str:
        """Doneness if it is pulled in time and left to its plan; after the pull, if it is left as it is. If it is
        overdue, its doneness now.
        """
        if self.course is not None and not self.is_measured:
            until_s = float("inf") if self.rests_from_heat else max(self.progress.due_s, self.now_s)
            return word_for(self.scale, self.course.hottest_by(until_s)).word
        return str(self.result["doneness"]["word"])

    @property
    def rests_from_heat(self) -> bool:
        """Whether it was taken out of the stage that decides its core."""
        step = self.pull_step
        return step is not None and step.number in self.done

    @property
    def rests_s(self) -> float | None:
        """How long it has rested, s; None if it is not resting."""
        if self.stage >= len(self.plan.stages) or self.plan.stages[self.stage].kind != "rest":
            return None
        began = [
            e.at for n, e in self.done.items() if self.steps[n].stage == self.stage and self.steps[n].kind in MOVES
        ]
        return (self.now - max(began)).total_seconds() if began else None

    @cached_property
    def aside(self) -> list[Step]:
        """Steps beside the chain that are still to do."""
        return [] if self.cook.finished_at else steps_aside(self.steps, self.done)

    @property
    def pan_stage(self) -> int | None:
        """The pan stage it is in or goes into next; None if there is none."""
        near = [self.stage, self.stage + 1] if self.progress.next else []
        return next((i for i in near if i < len(self.plan.stages) and self.plan.stages[i].kind == "pan"), None)

    @property
    def can_undo(self) -> bool:
        """Whether there is a step to undo."""
        return any(event.kind == CookEvent.Kind.DONE for event in self.done.values())

    @property
    def _last(self) -> tuple[int, int] | None:
        """The last step done and its event."""
        done = ((event.pk, n) for n, event in self.done.items() if event.kind == CookEvent.Kind.DONE)
        return max(done, default=None)

    @property
    def last_verb(self) -> str:
        """The verb of the last step done."""
        return self.steps[self._last[1]].verb if self._last else ""

    @property
    def last_number(self) -> int | None:
        """The number of the last step done."""
        return self._last[1] if self._last else None

    @property
    def last_event(self) -> int | None:
        """The event that an undo would undo."""
        return self._last[0] if self._last else None

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
        return any(use.during.upper is None for use in self.cook.probe_history)

    @property
    def silent_s(self) -> float | None:
        """How long a cook with a probe has been silent, s, if that is too long; else None."""
        if not self.has_probe or self.cook.finished_at or self.cook.waits:
            return None
        if self.fault:  # that is told already, and better
            return None
        quiet = self.now_s - (self.readings[-1][0] if self.readings else 0.0)
        return quiet if quiet > STALE_AFTER_S else None

    @property
    def present_c(self) -> float:
        """Present core, °C: the last reading while it is fresh, else by the plan."""
        if self.is_measured:
            return self.readings[-1][1]
        if self.forecast_view is not None and self.forecast_view.is_by_readings:
            return self.forecast_view.core_at_c(self.now_s)
        return self.course.reading_at(self.now_s) if self.course else self.progress.reading_c

    @property
    def is_measured(self) -> bool:
        """Whether the present core is a reading."""
        last = self.last_reading
        return bool(last and self.now_s - last[0] <= STALE_AFTER_S and not self.fault)
