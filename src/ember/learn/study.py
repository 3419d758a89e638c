"""A study of a kitchen's cooks, tested on held-out cooks, and the resulting proposals."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np
from scipy.stats import t as students_t

from .evidence import Watching
from .pool import SURE, Estimate, Observed, Pooled, pool

FOLDS = 5
LEAST_COOKS = 10  # of a thing, before anything is proposed
SEED = 11
WITHIN = "the value in use is within the interval: nothing to change"
NO_BETTER = "not enough data: cooks held back as a test were predicted no better"


@dataclass(frozen=True)
class Cook:
    """A finished cook: its evidence and its equipment."""

    key: str
    watching: Watching
    observed: Observed


@dataclass(frozen=True)
class HeldOut:
    """Prediction errors for the cooks of a piece of equipment by what others taught: mean |measured less predicted|, K.

    `fall_k`: before less after, with its interval over the cooks.
    """

    cooks: int
    before_k: float
    after_k: float
    fall_low_k: float
    fall_high_k: float

    @property
    def fall_k(self) -> float:
        """Reduction of the error, K."""
        return self.before_k - self.after_k


@dataclass(frozen=True)
class Proposal:
    """A calibrated value. `now`: what plans assume (in the estimate's units); `errors` rows: cook, error before, error
    after, K. `why_not`: why it should not be accepted; empty if it may be.
    """

    estimate: Estimate
    now: float
    held_out: HeldOut
    errors: tuple[tuple[str, float, float], ...]
    why_not: str


@dataclass(frozen=True)
class Study:
    """All findings: proposals, the greatest change first, and the variation between cooks."""

    proposals: tuple[Proposal, ...]
    pooled: Pooled
    cooks: int


def _held_out(cooks: Sequence[Cook], on_progress: Callable[[int, int], None]) -> dict[str, tuple[float, float]]:
    """{cook: (error before, error after)}, K, each cook predicted by the others' folds."""
    order = np.random.default_rng(SEED).permutation(len(cooks))
    folds = min(FOLDS, len(cooks))
    errors_by_key: dict[str, tuple[float, float]] = {}
    for fold in range(folds):
        mine = set(order[fold::folds].tolist())
        taught = pool([cook.observed for i, cook in enumerate(cooks) if i not in mine])
        for i in sorted(mine):
            cook = cooks[i]
            if not cook.watching.has_probe:
                continue
            before = cook.watching.error_k(cook.observed.evidence.believed)
            after = cook.watching.error_k(taught.belief(cook.observed))
            errors_by_key[cook.key] = (before, after)
            on_progress(len(errors_by_key), len(cooks))
    return errors_by_key


def _summed(rows: Sequence[tuple[str, float, float]]) -> HeldOut:
    if not rows:
        return HeldOut(0, 0.0, 0.0, 0.0, 0.0)
    before = np.abs([pair[1] for pair in rows])
    after = np.abs([pair[2] for pair in rows])
    fall = before - after
    middle = float(fall.mean())
    wide = 0.0
    if len(rows) > 1:
        wide = float(students_t.ppf(0.5 + SURE / 2, len(rows) - 1) * fall.std(ddof=1) / np.sqrt(len(rows)))
    return HeldOut(len(rows), float(before.mean()), float(after.mean()), middle - wide, middle + wide)


def _why_not(estimate: Estimate, now: float, held_out: HeldOut) -> str:
    if estimate.cooks < LEAST_COOKS:
        return f"not enough data: {estimate.cooks} cooks, {LEAST_COOKS} are needed"
    if estimate.low <= now <= estimate.high:
        return WITHIN
    if not held_out.cooks or held_out.after_k >= held_out.before_k:
        return NO_BETTER
    return ""


def study(cooks: Sequence[Cook], on_progress: Callable[[int, int], None] = lambda done, of: None) -> Study:
    """Learn from all cooks, testing each value on cooks held out from it; `on_progress` gets how many are done."""
    pooled = pool([cook.observed for cook in cooks])
    errors = _held_out(cooks, on_progress) if pooled.estimates else {}
    proposals = []
    for thing, estimate in pooled.estimates.items():
        mine = [cook for cook in cooks if thing in cook.observed.things]
        index = mine[-1].observed.things.index(thing)
        now = float(mine[-1].observed.evidence.believed[index])
        rows = tuple((cook.key, *errors[cook.key]) for cook in mine if cook.key in errors)
        held_out = _summed(rows)
        proposals.append(Proposal(estimate, now, held_out, rows, _why_not(estimate, now, held_out)))
    proposals.sort(key=lambda p: (bool(p.why_not), -p.held_out.fall_k))
    return Study(tuple(proposals), pooled, len(cooks))
