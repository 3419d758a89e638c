"""The judge request: a probe log of the coldest point, and the rule to judge it by."""

from __future__ import annotations

from itertools import pairwise
from typing import Annotated, Literal

from pydantic import Field, ValidationError, model_validator

from .base import FileModel, House
from .chill import BarriersIn
from .piece import History, Properties, Shape
from .wrong import describe_validation

FORMAT = "open-ember/judge"


Phase = Literal["cook", "cool", "reheat", "hold-hot", "hold-cold", "freeze", "store", "thaw", "time-control"]


class JudgedPiece(FileModel):
    """The keys of a plan's piece; each rule needs some of them, and only the cut is required."""

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


class OvenIn(FileModel):
    """The oven of a roast; `humid`: over 90 % for an hour or more, in a bag, or under water."""

    air: Literal["still", "fan", "humid"]
    celsius: float = Field(ge=30, le=320)


class JudgeRequest(FileModel):
    """Readings [[s, °C], …] at the coldest point (for cold food the warmest), linear in between.

    `checks` are readings typed by a person: they count like the others, and are never treated as outliers. `phase`:
    which rule applies; `kept` and `barriers`, for the phase store: packaging and barriers to spores. `ovens`: those of
    a roast, for a table valid only in some. `advisory`: the menu carries one. Between two readings further apart than
    `max_gap_s` the worse counts.
    """

    format: Literal["open-ember/judge"]
    version: Literal[1]
    phase: Phase = "cook"
    kept: Literal["open", "cook-chill", "reduced-oxygen"] = "open"
    piece: JudgedPiece
    guests: Literal["general", "susceptible"] = "general"
    standard: str = Field("us-food-code-2022", max_length=60)
    house: House | None = None
    advisory: bool = False
    ovens: list[OvenIn] | None = Field(None, max_length=40)
    barriers: BarriersIn | None = None
    readings: list[Reading] = Field(default_factory=list, max_length=200_000)
    checks: list[Reading] = Field(default_factory=list, max_length=2000)
    max_gap_s: float | None = Field(None, gt=0)

    @model_validator(mode="after")
    def _in_order(self) -> JudgeRequest:
        for name, rows in (("readings", self.readings), ("checks", self.checks)):
            if any(b <= a for (a, _), (b, _) in pairwise(rows)):
                raise ValueError(f"{name} must be in order of time, each time once")
        if not self.readings and not self.checks:
            raise ValueError("give at least one reading")
        return self


def parse_judge(data: object) -> JudgeRequest:
    """Validate a request. Raises BadInput with the place."""
    try:
        return JudgeRequest.model_validate(data)
    except ValidationError as error:
        raise describe_validation(error) from None
