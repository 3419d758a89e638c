"""What the models of every format share."""

from __future__ import annotations

from typing import Annotated

from pydantic import BaseModel, ConfigDict, Field

MAX_STAGE_S = 14 * 86400.0
MAX_PLAN_S = 30 * 86400.0

# The stages a plan may have; each is a model of stages.py.
KINDS: tuple[str, ...] = (
    "temper", "bath", "pan", "plancha", "grill", "oven", "fry", "steam", "simmer", "poach", "boil", "rest", "hold",
    "ice_bath", "chill", "reheat", "torch", "brine", "medium",
)  # fmt: skip

# No control characters: a name is one line on a card, and a database takes no NUL.
Text = Annotated[str, Field(pattern=r"^[^\x00-\x1f\x7f]*$")]
Minutes = Annotated[float, Field(ge=1 / 60, le=MAX_STAGE_S / 60)]


class FileModel(BaseModel):
    """Unknown keys are errors, numbers are finite, nothing changes once read."""

    # Built when first used: a command that reads one format does not wait for the others.
    model_config = ConfigDict(
        extra="forbid", frozen=True, allow_inf_nan=False, defer_build=True, serialize_by_alias=True
    )
