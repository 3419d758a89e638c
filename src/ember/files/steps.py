"""A hand with its clock, as eggs and brines have them: so long after another one was done."""

from __future__ import annotations

from typing import Literal

from .base import FileModel


class StepOut(FileModel):
    """One thing a hand does: `seconds` after step `after` was done (the start: None). `egg`: which piece, 0 all.

    `span`: where the heat (or the salt) begins and ends.
    """

    number: int
    verb: str
    what: str
    how: str = ""
    egg: int = 0
    after: int | None = None
    seconds: float = 0.0
    at_s: float = 0.0
    checks: list[str] = []
    span: Literal["", "begin", "end"] = ""
