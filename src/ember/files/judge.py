"""The judge request: a probe log of the coldest point, and what it is to be held against."""

from __future__ import annotations

from itertools import pairwise
from typing import Annotated, Literal

from pydantic import Field, ValidationError, model_validator

from .base import FileModel
from .house import House
from .piece import History, Properties, Shape
from .wrong import describe_validation

FORMAT = "open-ember/judge"


Phase = Literal["cook", "cool", "reheat", "hold-hot", "hold-cold", "freeze", "store", "time-control"]


class JudgedPiece(FileModel):
    """The keys of a plan's piece; the rules ask for some of them only, and none but the cut must be there."""

    cut: str = Field(max_length=80)
    history: list[History] = Field(default_factory=list, max_length=8)
    mass_g: float | None = Field(None, ge=1, le=60_000)
    origin: Literal["farmed", "wild"] = "farmed"
    shape: Shape | None = None
    start_c: float | None = Field(None, ge=-1, le=95)
    count: int = Field(1, ge=1, le=500)
    spread_mm: float = Field(0, ge=0, le=300)
    treated: bool = False
    fat_cap_mm: float | None = Field(None, ge=0, le=60)
    skin: bool | None = None
    bone: bool | None = None
    stuffed: bool = False
    composition: dict[str, float] | None = None
    properties: Properties | None = None


Reading = tuple[Annotated[float, Field(ge=0, le=400 * 86400)], Annotated[float, Field(ge=-40, le=300)]]


class JudgeRequest(FileModel):
    """Readings [[s, °C], …] at the coldest point (of cold food the warmest), straight between.

    `phase`: which rule they are held against; `kept`, for the phase store: how the food is packed.
    """

    format: Literal["open-ember/judge"]
    version: Literal[1]
    phase: Phase = "cook"
    kept: Literal["open", "cook-chill", "reduced-oxygen"] = "open"
    piece: JudgedPiece
    guests: Literal["general", "susceptible"] = "general"
    standard: str = Field("us-food-code-2022", max_length=60)
    house: House | None = None
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
