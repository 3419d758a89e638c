"""A question about a plan: what to change in one of its stages to meet a goal."""

from __future__ import annotations

from typing import Literal

from pydantic import Field, ValidationError, model_validator

from ..errors import BadInput
from .base import MAX_PLAN_S, FileModel
from .plan import Plan
from .result import Result
from .stages import Organism
from .wrong import describe_validation

Unknown = Literal["pull", "minutes", "medium_c", "thickness_mm"]


class SoThat(FileModel):
    """The goal: peak core, core at the end of the stage, log reduction at the coldest point by the plan's end, or total
    seconds.
    """

    peak_c: float | None = Field(None, ge=20, le=99)
    core_c: float | None = Field(None, ge=-40, le=120)
    log10: float | None = Field(None, gt=0, le=20)
    organism: Organism | None = None
    ready_s: float | None = Field(None, ge=1, le=MAX_PLAN_S)

    @model_validator(mode="after")
    def _one_of_them(self) -> SoThat:
        if sum(wish is not None for wish in (self.peak_c, self.core_c, self.log10, self.ready_s)) != 1:
            raise ValueError("give one of peak_c, core_c, log10, ready_s")
        if (self.organism is None) != (self.log10 is None):
            raise ValueError("log10 and organism go together")
        return self


class Find(FileModel):
    """The value to find, and its stage (from 0; the pull's own by default)."""

    what: Unknown
    stage: int | None = Field(None, ge=0, le=39)
    so_that: SoThat


class SolveRequest(Plan):
    """A plan with a question."""

    find: Find

    @property
    def plan(self) -> Plan:
        """The plan alone."""
        return Plan.model_construct(**{name: getattr(self, name) for name in Plan.model_fields})


def parse_solve(data: object) -> SolveRequest:
    """Validate a question. Raises BadInput with the place and the reason."""
    try:
        request = SolveRequest.model_validate(data)
    except ValidationError as error:
        raise describe_validation(error) from None
    if request.find.stage is not None and request.find.stage >= len(request.stages):
        raise BadInput(f"there is no stage {request.find.stage}; the last is {len(request.stages) - 1}", "find.stage")
    return request


class Answer(FileModel):
    """The value found, its unit, and the result of the changed plan."""

    value: float
    unit: str
    result: Result
