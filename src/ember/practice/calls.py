"""Accuracy of doneness calls: judgements of the core before the probe is read, by sense. Small samples are marked."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from scipy import stats

SENSES = ("press", "pin", "juices", "cut", "opacity", "wobble", "float")
NEAR_K = 2.0  # a call so near is a good one; common practice
FEW = 8  # under so many calls nothing is advised
LEAST_OF_A_GROUP = 4
SURE = 0.9
WORTH_K = 0.8  # a bias under this is not worth a word


@dataclass(frozen=True)
class Call:
    """One call in order: estimate and reading, °C; the cut, and the target word."""

    sense: str
    called_c: float
    read_c: float
    cut: str = ""
    wanted: str = ""

    @property
    def off_k(self) -> float:
        """Error, K: positive if it was called too high."""
        return self.called_c - self.read_c


@dataclass(frozen=True)
class Interval:
    """A value with a 90 % interval; the ends are None if it cannot be computed."""

    value: float
    low: float | None = None
    high: float | None = None

    @property
    def leaves_out_nought(self) -> bool:
        """Whether zero is outside of it."""
        return self.low is not None and self.high is not None and (self.low > 0.0 or self.high < 0.0)


@dataclass(frozen=True)
class Score:
    """Accuracy of a group of calls: `bias` and `spread`, K, `near` share within NEAR_K, `trend`, K, of the absolute
    error for ten more calls (negative: improving).
    """

    name: str
    calls: int
    bias: Interval
    spread: Interval
    near: Interval
    trend: Interval | None

    @property
    def is_few(self) -> bool:
        """Too few calls to rely on."""
        return self.calls < FEW

    @property
    def rms_k(self) -> float:
        """Root mean square error, K."""
        return float(np.hypot(self.bias.value, self.spread.value))


def bias_of(off_k: Sequence[float]) -> Interval:
    """Mean with Student's interval.

    >>> found = bias_of([1.0, 2.0, 3.0])
    >>> round(found.value, 3), round(found.low, 3), round(found.high, 3)  # 2 -+ 2.920 x 1 / sqrt(3)
    (2.0, 0.314, 3.686)
    """
    values = np.asarray(off_k, dtype=float)
    mean = float(values.mean())
    if len(values) < 2:
        return Interval(mean)
    wide = float(stats.t.ppf(0.5 + SURE / 2, len(values) - 1) * stats.sem(values))
    return Interval(mean, mean - wide, mean + wide)


def spread_of(off_k: Sequence[float]) -> Interval:
    """Standard deviation with its interval by chi squared (of normal errors)."""
    values = np.asarray(off_k, dtype=float)
    if len(values) < 2:
        return Interval(0.0)
    freedom = len(values) - 1
    deviation = float(values.std(ddof=1))
    low, high = stats.chi2.ppf([0.5 + SURE / 2, 0.5 - SURE / 2], freedom)
    return Interval(deviation, deviation * float(np.sqrt(freedom / low)), deviation * float(np.sqrt(freedom / high)))


def near_of(off_k: Sequence[float]) -> Interval:
    """Share of calls within NEAR_K with Wilson's interval (1927, J Am Stat Assoc 22:209; by scipy)."""
    near = int(np.sum(np.abs(off_k) <= NEAR_K))
    interval = stats.binomtest(near, len(off_k)).proportion_ci(SURE, method="wilson")
    return Interval(near / len(off_k), float(interval.low), float(interval.high))


def trend_of(off_k: Sequence[float]) -> Interval | None:
    """How the absolute error moves in ten calls, K, by a line through them; None under FEW."""
    if len(off_k) < FEW:
        return None
    fit = stats.linregress(np.arange(len(off_k)), np.abs(off_k))
    wide = float(stats.t.ppf(0.5 + SURE / 2, len(off_k) - 2) * fit.stderr)
    slope = float(fit.slope)
    return Interval(10 * slope, 10 * (slope - wide), 10 * (slope + wide))


def score(name: str, calls: Sequence[Call]) -> Score:
    """The score of at least one call, in order."""
    off_k = [call.off_k for call in calls]
    return Score(name, len(calls), bias_of(off_k), spread_of(off_k), near_of(off_k), trend_of(off_k))


def by_sense(calls: Sequence[Call]) -> list[Score]:
    """A score for each sense used, in the order of SENSES."""
    groups: dict[str, list[Call]] = defaultdict(list)
    for call in calls:
        groups[call.sense].append(call)
    return [score(sense, groups[sense]) for sense in SENSES if groups[sense]]


def by_group(calls: Sequence[Call], key: str) -> list[Score]:
    """Scores by "cut" or by target word, for those with enough calls, the most called first."""
    groups: dict[str, list[Call]] = defaultdict(list)
    for call in calls:
        if name := str(getattr(call, key)):
            groups[name].append(call)
    rows = [score(name, group) for name, group in groups.items() if len(group) >= LEAST_OF_A_GROUP]
    return sorted(rows, key=lambda scored: (-scored.calls, scored.name))


def best_by_cut(calls: Sequence[Call]) -> list[tuple[str, Score]]:
    """(cut, score of the sense to trust) for cuts with enough calls of a sense."""
    groups: dict[str, list[Call]] = defaultdict(list)
    for call in calls:
        if call.cut:
            groups[call.cut].append(call)
    rows = []
    for cut, group in sorted(groups.items()):
        enough = [scored for scored in by_sense(group) if not scored.is_few]
        if enough:
            rows.append((cut, min(enough, key=lambda scored: scored.rms_k)))
    return rows


@dataclass(frozen=True)
class Advice:
    """Advice: "trust" a sense, or call "lower" or "higher" by it, K; `few` if the calls are too few."""

    kind: str
    sense: str = ""
    by_k: float = 0.0
    near: float = 0.0


def advice(scores: Sequence[Score]) -> list[Advice]:
    """Which sense to trust, and which to correct, as far as the calls support it."""
    enough = [scored for scored in scores if not scored.is_few]
    if not enough:
        return [Advice("few")]
    best = min(enough, key=lambda scored: scored.rms_k)
    advice_rows = [Advice("trust", best.name, near=best.near.value)]
    for scored in enough:
        if scored.bias.leaves_out_nought and abs(scored.bias.value) >= WORTH_K:
            advice_rows.append(
                Advice("lower" if scored.bias.value > 0 else "higher", scored.name, abs(scored.bias.value))
            )
    return advice_rows
