"""All evidence of a kitchen combined: the offset of each oven, bath, pan and cut, and the variation between cooks.

A two-level normal model: a cook's offset is that of its oven (bath, pan, cut) plus a deviation of its own; its readings
are a normal likelihood of the sum (evidence). The variance of deviations maximises the marginal likelihood (empirical
Bayes; Efron & Morris 1975, J Am Stat Assoc 70:311, from memory), with a weak prior around typical values; the rest is
then solved exactly. Intervals are Student's, by the number of cooks.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from scipy.optimize import minimize
from scipy.stats import t as students_t

from ..heat.grid import FloatArray
from .evidence import Evidence

SIZE, MEDIUM, TRANSFER = range(3)
# Deviations of what a kitchen's things may be off, before any cook was looked at: log size, K, log transfer. Ovens are
# often 10 to 20 K off, common practice; the rest as wide as single cooks are taken to be, and wider.
WIDE = {"cut": 0.15, "oven": 20.0, "bath": 3.0, "pan": 0.7}
# How much single cooks usually deviate, and by what factor that may be wrong (one deviation of its logarithm).
USUAL = {
    "size:measured": 0.06, "size:mass": 0.08, "medium:oven": 4.0, "medium:bath": 0.4, "medium:pan": 10.0,
    "medium:other": 3.0, "transfer:pan": 0.15, "transfer:other": 0.12,
}  # fmt: skip
USUAL_LOG = 0.5
# What the model itself, and how needles are put in on the whole, may be off: the same in every cook, so that no number
# of cooks takes it away. Fitted here, on simulated kitchens whose needles are put in otherwise than is believed.
COMMON = {"cut": 0.015, "oven": 0.8, "bath": 0.08, "pan": 0.08}
SURE = 0.95


@dataclass(frozen=True)
class Observed:
    """One cook: its evidence, its equipment as (kind, name) for size, medium and transfer (None if nothing is to be
    learned about it), and the names of its deviations (keys of USUAL).
    """

    evidence: Evidence
    things: tuple[tuple[str, str] | None, tuple[str, str] | None, tuple[str, str] | None]
    spreads: tuple[str, str, str]


@dataclass(frozen=True)
class Estimate:
    """An offset in the units of its kind (log factor, or K), with a 95 % interval."""

    kind: str
    name: str
    value: float
    low: float
    high: float
    cooks: int
    spread: float

    @property
    def half_width(self) -> float:
        """Half the width of its interval."""
        return 0.5 * (self.high - self.low)


@dataclass(frozen=True)
class Pooled:
    """Everything learned: estimates by equipment, and the variation between cooks."""

    estimates: dict[tuple[str, str], Estimate]
    spreads: dict[str, float]

    def belief(self, observed: Observed) -> FloatArray:
        """[log size, K, log transfer] to assume for a cook; its plan's own where nothing was learned."""
        values = observed.evidence.believed.copy()
        for column, thing in enumerate(observed.things):
            if thing is not None and thing in self.estimates:
                values[column] = self.estimates[thing].value
        return values


class _Model:
    def __init__(self, observed: Sequence[Observed]) -> None:
        self.things = sorted({thing for one in observed for thing in one.things if thing is not None})
        self.spreads = sorted({name for one in observed for name in one.spreads})
        n, p = len(observed), len(self.things)
        self.information = np.array([one.evidence.information for one in observed])
        self.shift = np.array([one.evidence.shift for one in observed])
        self.design = np.zeros((n, 3, p))
        self.which = np.zeros((n, 3), dtype=int)
        self.fixed = np.zeros((n, 3))  # what is not learned of stays at what the plan took it to be
        for i, one in enumerate(observed):
            for column, thing in enumerate(one.things):
                self.which[i, column] = self.spreads.index(one.spreads[column])
                if thing is None:
                    self.fixed[i, column] = one.evidence.believed[column]
                else:
                    self.design[i, column, self.things.index(thing)] = 1.0
        self.prior = np.diag([1.0 / WIDE[kind] ** 2 for kind, _ in self.things])
        self.usual = np.log([USUAL[name] for name in self.spreads])

    def solve(self, log_spread: FloatArray) -> tuple[FloatArray, FloatArray, float]:
        """Offsets and their covariance for these deviations; logarithm of their marginal likelihood."""
        variance = np.exp(2.0 * log_spread)[self.which]  # [cook, 3]
        inner = np.eye(3) + self.information * variance[:, None, :]
        # (information^-1 + T)^-1, and the same times the mean, without dividing by what may be nothing.
        weight = np.linalg.solve(inner, self.information)
        pull = np.linalg.solve(inner, self.shift[:, :, None])[:, :, 0]
        pull = pull - np.einsum("nij,nj->ni", weight, self.fixed)
        precision = self.prior + np.einsum("nip,nij,njq->pq", self.design, weight, self.design)
        right = np.einsum("nip,ni->p", self.design, pull)
        covariance = np.linalg.inv(precision)
        value = covariance @ right
        log_likelihood = (
            -0.5 * np.linalg.slogdet(inner)[1].sum()
            - 0.5 * np.linalg.slogdet(precision)[1]
            + 0.5 * right @ value
            + 0.5 * self._quadratic(variance, inner)
        )
        return value, covariance, float(log_likelihood)

    def _quadratic(self, variance: FloatArray, inner: FloatArray) -> float:
        """The part of each cook's marginal likelihood that does not depend on the offsets."""
        left = self.shift - np.einsum("nij,nj->ni", self.information, self.fixed)
        spread = np.einsum("ni,ni->n", left, variance * np.linalg.solve(inner, left[:, :, None])[:, :, 0])
        return float(spread.sum())

    def best(self) -> FloatArray:
        def loss(log_spread: FloatArray) -> float:
            return -self.solve(log_spread)[2] + 0.5 * float((((log_spread - self.usual) / USUAL_LOG) ** 2).sum())

        optimum = minimize(loss, self.usual, method="L-BFGS-B", bounds=[(u - 2.0, u + 2.0) for u in self.usual])
        return np.asarray(optimum.x)


def pool(observed: Sequence[Observed]) -> Pooled:
    """All cooks combined; nothing is learned from none."""
    model = _Model(observed)
    if not model.things:
        return Pooled({}, {})
    log_spread = model.best()
    value, covariance, _ = model.solve(log_spread)
    spreads = dict(zip(model.spreads, np.exp(log_spread).tolist(), strict=True))
    counts = Counter(thing for one in observed for thing in one.things if thing is not None)
    own: dict[tuple[str, str], float] = {}
    for one in observed:
        for column, thing in enumerate(one.things):
            if thing is not None:
                own[thing] = spreads[one.spreads[column]]
    estimates = {}
    for i, thing in enumerate(model.things):
        deviation = np.sqrt(covariance[i, i] + COMMON[thing[0]] ** 2)
        wide = float(students_t.ppf(0.5 + SURE / 2, max(counts[thing] - 1, 1)) * deviation)
        middle = float(value[i])
        estimates[thing] = Estimate(*thing, middle, middle - wide, middle + wide, counts[thing], own[thing])
    return Pooled(estimates, spreads)
