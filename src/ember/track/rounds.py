"""Repeated steps within one stage: turns and bastings, counted as one round with an interval."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from .steps import Step

AGAIN = ("turn", "baste")  # kinds of steps that come again
LEAST = 3  # fewer are told one by one


@dataclass(frozen=True)
class Round:
    """Steps `first` to `last` (numbers), of which those `numbers` repeat every `every_s`; planned times, s."""

    first: int
    last: int
    numbers: tuple[int, ...]
    times_s: tuple[float, ...]
    kind: str
    with_basting: bool

    @property
    def count(self) -> int:
        """Number of times."""
        return len(self.numbers)

    @property
    def every_s(self) -> float:
        """The interval, s."""
        return (self.times_s[-1] - self.times_s[0]) / (self.count - 1)

    @property
    def lasts_s(self) -> float:
        """From the first to the last, s."""
        return self.times_s[-1] - self.times_s[0]

    def passed(self, since_first_s: float) -> int:
        """How many times have passed by a time counted from the first one."""
        return 0 if since_first_s < 0 else min(int(since_first_s // self.every_s) + 1, self.count)


def round_of(steps: Sequence[Step], number: int) -> Round | None:
    """The round of a step: its consecutive repetitions within the stage; None if there are too few.

    A basting between turns belongs to their round.
    """
    if steps[number].kind not in AGAIN:
        return None
    stage = steps[number].stage
    first = last = number
    while first > 0 and _goes_on(steps[first - 1], stage):
        first -= 1
    while last + 1 < len(steps) and _goes_on(steps[last + 1], stage):
        last += 1
    within = steps[first : last + 1]
    turns = [step for step in within if step.kind == "turn"]
    bastes = [step for step in within if step.kind == "baste"]
    again = turns if len(turns) >= len(bastes) else bastes
    if len(again) < LEAST:
        return None
    return Round(
        first, last, tuple(s.number for s in again), tuple(s.at_s for s in again), again[0].kind,
        bool(bastes) and again is turns,
    )  # fmt: skip


def _goes_on(step: Step, stage: int) -> bool:
    return step.kind in AGAIN and step.stage == stage
