"""The chill request: how cooked food is cooled, how long it keeps, and how it is reheated.

`piece` is the plan's, `piece.start_c` its middle as it leaves the heat. The clock of every rule runs from there:
waiting (`wait_min`) counts. °C, minutes, mm.
"""

from __future__ import annotations

from typing import Annotated, Literal, Self

from pydantic import Field, ValidationError, model_validator

from .base import FileModel, StepOut
from .piece import Piece
from .result import SafetyOut
from .wrong import describe_validation

FORMAT = "open-ember/chill"

Way = Literal["ice-bath", "blast", "walk-in", "fridge"]
Packed = Literal["open", "cook-chill", "reduced-oxygen"]
Core = Annotated[float, Field(ge=20, le=98)]


class ColdIn(FileModel):
    """A place to cool in, for `minutes` or until the warmest point is at `to_c`; the last one has neither."""

    way: Way
    air_c: float | None = Field(None, ge=-40, le=15)
    minutes: float | None = Field(None, ge=0.5, le=2880)
    to_c: float | None = Field(None, ge=1, le=60)

    @model_validator(mode="after")
    def _one_end(self) -> Self:
        if self.minutes is not None and self.to_c is not None:
            raise ValueError("give minutes or to_c, one of them")
        if self.way == "ice-bath" and self.air_c is not None:
            raise ValueError("air_c is not for an ice bath")
        return self


class BackIn(FileModel):
    """Reheating, and its core temperature; by default just below the first core."""

    where: Literal["bath", "oven", "sauce", "steam"] = Field("bath", alias="in")
    medium_c: float | None = Field(None, ge=30, le=320)
    to_c: Core | None = None
    then: Literal["served", "held"] = "served"


class BarriersIn(FileModel):
    """Barriers to growth of spores besides cold, as measured: pH, water activity, salt in its water (%), nitrite of a
    cured meat, or heat held in the middle (°C, min). `frozen`: before, during and after packing.
    """

    ph: float | None = Field(None, ge=2, le=10)
    aw: float | None = Field(None, ge=0.5, le=1)
    salt_water_pct: float | None = Field(None, ge=0, le=26)
    cured: bool = False
    frozen: bool = False
    heat_c: float | None = Field(None, ge=70, le=121)
    heat_min: float | None = Field(None, ge=0.1, le=2880)

    @model_validator(mode="after")
    def _heat_and_time(self) -> Self:
        if (self.heat_c is None) != (self.heat_min is None):
            raise ValueError("heat_c and heat_min go together")
        return self


class ChillRequest(FileModel):
    """Food that leaves the heat and is not served."""

    format: Literal["open-ember/chill"]
    version: Literal[1]
    piece: Piece
    first_c: Core | None = None
    wait_min: float = Field(0, ge=0, le=720)
    room_c: float = Field(22, ge=-5, le=45)
    bagged: bool = True
    layers: int = Field(1, ge=1, le=12)
    cold: list[ColdIn] = Field(min_length=1, max_length=4)
    standard: str = Field("us-food-code-2022", max_length=60)
    packed: Packed = "cook-chill"
    kept_c: float = Field(3, ge=-30, le=10)
    barriers: BarriersIn | None = None
    back: BackIn | None = None

    @model_validator(mode="after")
    def _hot_and_ordered(self) -> Self:
        if self.piece.start_c < 20:
            raise ValueError("piece.start_c is the middle as it leaves the heat: 20 °C or more")
        if any(step.minutes is None and step.to_c is None for step in self.cold[:-1]):
            raise ValueError("each cold place but the last needs minutes or to_c")
        last = self.cold[-1]
        if last.minutes is not None or last.to_c is not None:
            raise ValueError("the last cold place is where it stays: without minutes or to_c")
        return self


class StageReached(FileModel):
    """A stage of a cooling rule: minutes from falling below `from_c` to `to_c`, and the minutes allowed (None: no
    limit).

    `begins_min`: start of its clock, from leaving the heat; None if it never gets that cold.
    """

    from_c: float
    to_c: float
    begins_min: float | None = None
    minutes: float | None
    allowed_min: float | None
    met: bool


class WayOut(FileModel):
    """The same food cooled one way only: minutes from leaving the heat to each stage's end (None: never), and the
    margin.
    """

    way: Way
    air_c: float
    minutes: list[float | None]
    met: bool
    margin_min: float


class BarrierOut(FileModel):
    """A barrier besides cold: whether one that the standard names is present, and what follows."""

    met: bool
    words: str
    section: str


class KeepOut(FileModel):
    """Shelf life, counting the first day. `days`: None if the standard has no row for it at this temperature or without
    a barrier, or for fish without air. `wants`: what that row requires besides cold. `too_warm`: warmer than every row.
    """

    packed: Packed
    at_c: float | None
    days: float | None
    section: str
    text: str
    warmer: str
    wants: str = ""
    too_warm: bool = False
    barrier: BarrierOut | None = None


class BackOut(FileModel):
    """Reheating: `pull_reading_c` on a probe, then `peak_c` in the middle; `passes_first` if above the first core."""

    minutes: float
    pull_reading_c: float
    peak_c: float
    end_c: float
    passes_first: bool
    latest_min: float | None
    rule: SafetyOut | None
    words: str
    steps: list[StepOut]


class ChillAnswer(FileModel):
    """The result of chilling. `curve_c` is the warmest point, `surface_c` the coldest, at `t_s` from leaving the
    heat.
    """

    stages: list[StageReached]
    rule: SafetyOut
    minutes_to_end: float | None
    latest_wait_min: float | None
    thickest_mm: float | None
    ice_kg: float | None
    ways: list[WayOut]
    keep: KeepOut
    back: BackOut | None
    t_s: list[float]
    curve_c: list[float]
    surface_c: list[float]
    put_right: list[str]
    warnings: list[str]
    cautions: list[str]


def parse_chill(data: object) -> ChillRequest:
    """Validate a request. Raises BadInput with the place of the first error."""
    try:
        return ChillRequest.model_validate(data)
    except ValidationError as error:
        raise describe_validation(error) from None
