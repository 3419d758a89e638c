"""What the models of every format share: the base, a step with its time, a kitchen's own limits."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import BaseModel, ConfigDict, Field

from .actions import Action

MAX_STAGE_S = 14 * 86400.0
MAX_PLAN_S = 30 * 86400.0

# The stages a plan may have; each is a model of stages.py.
KINDS: tuple[str, ...] = (
    "temper", "bath", "pan", "plancha", "grill", "oven", "fry", "steam", "simmer", "poach", "boil", "pressure", "rest",
    "hold", "ice_bath", "chill", "freeze", "thaw", "reheat", "torch", "brine", "medium",
)  # fmt: skip

# No control characters: a name is one line on a card, and a database takes no NUL.
Text = Annotated[str, Field(pattern=r"^[^\x00-\x1f\x7f]*$")]
Minutes = Annotated[float, Field(ge=1 / 60, le=MAX_STAGE_S / 60)]


class FileModel(BaseModel):
    """Base of all models: unknown keys are errors, numbers are finite, instances are immutable."""

    # Built when first used: a command that reads one format does not wait for the others.
    model_config = ConfigDict(
        extra="forbid", frozen=True, allow_inf_nan=False, defer_build=True, serialize_by_alias=True
    )


Limit = Annotated[float, Field(ge=-30, le=100)]


class House(FileModel):
    """A kitchen's own limits. `core_c`: by safety category the least core temperature, °C. They only add to the
    standard.
    """

    core_c: dict[str, Limit] = Field(default_factory=dict, max_length=40)
    hold_hot_c: Limit | None = None
    hold_cold_c: Limit | None = None
    reheat_c: Limit | None = None


class StepOut(FileModel):
    """One step: `seconds` after step `after` was done (the start: None). `egg`: number of the piece, 0 for all.

    `action` is its code and `verb` the word for it; `span`: where heating (or salting) begins and ends.
    """

    number: int
    action: Action
    verb: str
    what: str
    how: str = ""
    egg: int = 0
    after: int | None = None
    seconds: float = 0.0
    at_s: float = 0.0
    checks: list[str] = []
    span: Literal["", "begin", "end"] = ""
