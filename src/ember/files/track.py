"""The track request: a plan, events and readings; and the forecast."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field, ValidationError, model_validator

from .base import MAX_PLAN_S, FileModel
from .plan import Plan
from .wrong import describe_validation

FORMAT = "open-ember/track"

EventKind = Literal[
    "started", "ended", "turned", "basted", "opened", "closed", "pulled", "moved", "probe-moved", "interrupted",
    "resumed", "setting",
]  # fmt: skip
BeliefKind = Literal[
    "thicker", "thinner", "hotter", "cooler", "warmer-start", "colder-start", "more-heat", "less-heat"
]  # fmt: skip
ProbeState = Literal["ok", "unplugged", "stuck", "slipped", "off-food", "none"]
Seconds = Annotated[float, Field(ge=0, le=MAX_PLAN_S)]
ProbeReading = tuple[Seconds, Annotated[float, Field(ge=-60, le=900)] | None]


class Event(FileModel):
    """An event of a cook and its time, s from the start.

    `stage`: the stage that started, ended or was set (by default the current one); `c` the new setting. `moved`: to
    another place of the same kind, without effect. `probe-moved`: the probe was inserted anew.
    """

    kind: EventKind
    s: Seconds
    stage: int | None = Field(None, ge=0, le=39)
    c: float | None = Field(None, ge=-40, le=900)

    @model_validator(mode="after")
    def _setting_is_told(self) -> Event:
        if self.kind == "setting" and self.c is None:
            raise ValueError("a setting says to what: give c")
        return self


class Want(FileModel):
    """The target core."""

    core_c: float = Field(ge=-40, le=120)


class TrackRequest(FileModel):
    """A cook so far. `readings` are [s, °C]; null: the probe answered without a value.

    `want`: by default the plan's pull temperature. `moves`: "as-planned" ends a stage of fixed time on time, unless an
    event says otherwise; "as-told" leaves the piece where the last event put it. `probe_lag_s`: time constant of the
    probe.
    """

    format: Literal["open-ember/track"]
    version: Literal[1]
    plan: Plan
    events: list[Event] = Field(default_factory=list, max_length=2000)
    readings: list[ProbeReading] = Field(default_factory=list, max_length=200_000)
    now_s: Seconds
    want: Want | None = None
    moves: Literal["as-planned", "as-told"] = "as-planned"
    probe_lag_s: float = Field(5.0, ge=0, le=120)

    @model_validator(mode="after")
    def _stages_exist(self) -> TrackRequest:
        for i, event in enumerate(self.events):
            if event.stage is not None and event.stage >= len(self.plan.stages):
                raise ValueError(f"event {i + 1} is of stage {event.stage}, and the plan has {len(self.plan.stages)}")
        return self


class Spread(FileModel):
    """A forecast: tenth, fiftieth and ninetieth percentile `p10`, `p50`, `p90`.

    None if that many cases never reach it.
    """

    p10: float | None
    p50: float | None
    p90: float | None


class ProbeOut(FileModel):
    """The diagnosis of the probe, since when, s, and the remedy."""

    state: ProbeState
    since_s: float | None
    text: str


class Belief(FileModel):
    """A difference from the plan, and its size (mm, K, or a factor of the heat).

    `stated_c`: what was planned or set, for a start or a medium; `as_if_k`: how much hotter an oven would have to be
    for the same effect.
    """

    what: BeliefKind
    amount: float
    text: str
    stated_c: float | None = None
    as_if_k: float | None = None


class TrackResult(FileModel):
    """When the core reaches its target, s from the start (earlier than now: it has), and its peak.

    `by`: whether the forecast is based on readings or on the plan alone.
    """

    format: Literal["open-ember/forecast"] = "open-ember/forecast"
    version: Literal[1] = 1
    want_c: float | None
    reaches_want_at_s: Spread | None
    peak_c: Spread
    core_c_now: float
    core_c_now_spread: Spread
    probe: ProbeOut
    beliefs: list[Belief]
    by: Literal["readings", "plan"]
    readings_used: int


def parse_track(data: object) -> TrackRequest:
    """Validate a track request. Raises BadInput with the place of the error."""
    try:
        return TrackRequest.model_validate(data)
    except ValidationError as error:
        raise describe_validation(error) from None
