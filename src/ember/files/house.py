"""A kitchen's own limits, stricter than its standard."""

from __future__ import annotations

from typing import Annotated

from pydantic import Field

from .base import FileModel

Limit = Annotated[float, Field(ge=-30, le=100)]


class House(FileModel):
    """`core_c`: by safety category the least the middle must come to, °C. They only ever add to the standard."""

    core_c: dict[str, Limit] = Field(default_factory=dict, max_length=40)
    hold_hot_c: Limit | None = None
    hold_cold_c: Limit | None = None
    reheat_c: Limit | None = None
