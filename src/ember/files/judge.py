"""The judge request: a probe log of the coldest point, and what it is to be held against."""

from __future__ import annotations

from itertools import pairwise
from typing import Annotated, Literal

from pydantic import Field, ValidationError, model_validator

from .base import FileModel
from .piece import History
from .plan import describe_validation

FORMAT = "open-ember/judge"


class JudgedPiece(FileModel):
    """What of the piece the rules ask for."""

    cut: str = Field(max_length=80)
    history: list[History] = Field(default_factory=list, max_length=8)
    mass_g: float | None = Field(None, ge=1, le=60_000)
    origin: Literal["farmed", "wild"] = "farmed"


Reading = tuple[Annotated[float, Field(ge=0, le=30 * 86400)], Annotated[float, Field(ge=-40, le=300)]]


class JudgeRequest(FileModel):
    """Readings [[s, °C], …] at the coldest point, straight between."""

    format: Literal["open-ember/judge"]
    version: Literal[1]
    phase: Literal["cook"] = "cook"
    piece: JudgedPiece
    guests: Literal["general", "susceptible"] = "general"
    standard: str = Field("us-food-code-2022", max_length=60)
    readings: list[Reading] = Field(min_length=2, max_length=200_000)
    max_gap_s: float | None = Field(None, gt=0)

    @model_validator(mode="after")
    def _in_order(self) -> JudgeRequest:
        times = [s for s, _ in self.readings]
        if any(b <= a for a, b in pairwise(times)):
            raise ValueError("readings must be in order of time, each time once")
        return self


def parse_judge(data: object) -> JudgeRequest:
    """A validated request; raises BadInput with the place."""
    try:
        return JudgeRequest.model_validate(data)
    except ValidationError as error:
        raise describe_validation(error) from None
