"""Steps with their own clocks, laid out one after another and sorted by due time."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field
from typing import Literal

from .files.actions import ACTION_WORDS, Action
from .files.base import StepOut

Span = Literal["", "begin", "end"]


@dataclass
class Steps:
    """A builder of steps: each a number of seconds after another one, sorted by due time."""

    steps: list[StepOut] = field(default_factory=list)

    def add(
        self, action: Action, what: str, how: str = "", after: int | None = None, seconds: float = 0.0, egg: int = 0,
        checks: Sequence[str] = (), span: Span = "", verb: str = "",
    ) -> int:  # fmt: skip
        """Add a step; returns its number here, for others to follow.

        `span`: where heating begins or ends. `verb`: a recipe's own word for it, else that of the action.
        """
        begins = 0.0 if after is None else self.steps[after].at_s
        self.steps.append(
            StepOut(
                number=len(self.steps), action=action, verb=verb or ACTION_WORDS[action], what=what, how=how, egg=egg,
                after=after, seconds=round(seconds, 1), at_s=round(begins + seconds, 1), checks=list(checks), span=span,
            )
        )  # fmt: skip
        return len(self.steps) - 1

    def in_order(self) -> list[StepOut]:
        """All steps, sorted and numbered by due time."""
        order = sorted(range(len(self.steps)), key=lambda i: (self.steps[i].at_s, i))
        place = {old: new for new, old in enumerate(order)}
        return [
            self.steps[old].model_copy(
                update={"number": new, "after": None if (a := self.steps[old].after) is None else place[a]}
            )
            for new, old in enumerate(order)
        ]
