"""What a cook is to go through and what it went through, computed from its events."""

from __future__ import annotations

import datetime as dt
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import Any

from ember.files.plan import Plan as CorePlan
from ember.files.plan import parse_plan
from ember.files.result import CurvesOut, StageOut
from ember.track.steps import Step, step_from, steps_of

from .board_snapshot import BoardSnapshot, CookInputs
from .cook_readings import readings_of
from .models import Cook, CookEvent
from .observations import done_steps


@dataclass(frozen=True)
class CookSteps:
    """A cook at one moment: its plan, its steps, and which of them were done when."""

    cook: Cook
    now: dt.datetime
    inputs: CookInputs | None = None  # read for many cooks at once; else each is read when it is asked for
    kept: Sequence[tuple[dt.datetime, float]] | None = None  # its readings as they were signed

    @cached_property
    def plan(self) -> CorePlan:
        """The plan it follows."""
        return self._snapshot.plan if self._snapshot else parse_plan(self.cook.document)

    @property
    def _snapshot(self) -> BoardSnapshot | None:
        """Its unchanging data, if read before."""
        return self.inputs.snapshot if self.inputs else None

    @property
    def pieces(self) -> int:
        """Number of pieces cooked together."""
        return int(self.plan.piece.count)

    @cached_property
    def result(self) -> dict[str, Any]:
        """The plan's result as of the start."""
        result: dict[str, Any] = self._snapshot.result if self._snapshot else self.cook.result
        return result

    @cached_property
    def planned_stages_s(self) -> tuple[float, ...]:
        """Planned duration of each stage, s."""
        return tuple(stage["end_s"] - stage["start_s"] for stage in self.result["stages"])

    @cached_property
    def curves(self) -> CurvesOut:
        """The planned curves."""
        if self._snapshot:
            return self._snapshot.curves
        return CurvesOut(**self.cook.result["curves"])

    @cached_property
    def steps(self) -> list[Step]:
        """All its steps, as of the start."""
        if self._snapshot and self._snapshot.steps is not None:
            return self._snapshot.steps
        if step_rows := self.cook.result.get("steps"):
            return [step_from(step) for step in step_rows]
        runs = [StageOut(**stage) for stage in self.cook.result["stages"]]
        return steps_of(self.plan, runs)

    @cached_property
    def done(self) -> dict[int, CookEvent]:
        """Steps done, with the event that did each."""
        return done_steps(self.cook)

    @cached_property
    def readings(self) -> list[tuple[float, float]]:
        """(seconds from the start, °C) in order, none from before the start; for a board the last minutes only."""
        if self.kept is not None:
            rows: Any = [reading for reading in self.kept if reading[0] >= self.cook.started_at]
        elif self.inputs is not None:
            rows = [reading for reading in self.inputs.readings if reading[0] >= self.cook.started_at]
        else:
            rows = readings_of(self.cook).filter(at__gte=self.cook.started_at).values_list("at", "celsius")
        return [((at - self.cook.started_at).total_seconds(), celsius) for at, celsius in rows]

    @property
    def now_s(self) -> float:
        """Seconds since the start; fixed once the cook is finished."""
        end = self.cook.finished_at or self.now
        return (end - self.cook.started_at).total_seconds()
