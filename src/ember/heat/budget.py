"""How much work one question may cost: steps of the solver and seconds of the processor, whatever the plan asks for.

The budget belongs to the context that set it, a request or a command; without one there is no limit.
"""

from __future__ import annotations

import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from contextvars import ContextVar
from dataclasses import dataclass, field

from ..errors import BadInput

MOST_STEPS = 400_000  # a roast of four hours takes some hundred, a seared slab of 80 mm under a fierce fire 2,000
MOST_S = 20.0
# No more of one run counts: what takes longer loads the compiled solver, and its steps count anyway.
LONGEST_RUN_S = 0.5


class TooMuchWork(BadInput):
    """A plan that costs more to calculate than its question may."""

    code = "too-much-work"

    def __init__(self) -> None:
        super().__init__("This takes too long to calculate. Use fewer stages, or end them by minutes.", "stages")


def _nothing() -> None:
    """What is done by default when work turns out to be heavy."""


@dataclass
class Budget:
    """What is left of `steps` and `seconds` (of this thread's processor time). `on_heavy` is called once, when more
    than `heavy_s` were used; it may raise.
    """

    steps: int = MOST_STEPS
    seconds: float = MOST_S
    heavy_s: float = float("inf")
    on_heavy: Callable[[], None] = _nothing
    is_heavy: bool = field(default=False, init=False)
    _last_s: float = field(default_factory=time.thread_time, init=False)
    _used_s: float = field(default=0.0, init=False)

    def spend(self, steps: int) -> None:
        """Account for a run of the solver. Raises TooMuchWork once the budget is used up."""
        self.steps -= steps
        now_s = time.thread_time()
        self._used_s += min(now_s - self._last_s, LONGEST_RUN_S)
        self._last_s = now_s
        if self.steps < 0 or self._used_s > self.seconds:
            raise TooMuchWork
        if self._used_s > self.heavy_s and not self.is_heavy:
            self.is_heavy = True
            self.on_heavy()


_budget: ContextVar[Budget | None] = ContextVar("budget", default=None)


@contextmanager
def within(budget: Budget) -> Iterator[Budget]:
    """Hold what is calculated inside to a budget; one that is set already stays."""
    if (outer := _budget.get()) is not None:
        yield outer
        return
    token = _budget.set(budget)
    try:
        yield budget
    finally:
        _budget.reset(token)


def spend(steps: int) -> None:
    """Account for a run of the solver in the budget of this context, if there is one. Raises TooMuchWork."""
    if (budget := _budget.get()) is not None:
        budget.spend(steps)


def steps_left(most: int) -> int:
    """How many steps the next run may take: `most`, or what the budget has left."""
    budget = _budget.get()
    return most if budget is None else max(min(most, budget.steps), 1)
