"""A temperature record for rules: across a long gap the worse of its two ends counts."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

FloatArray = NDArray[np.float64]

NEAR = 1e-6
Curve = tuple[FloatArray, FloatArray]


@dataclass(frozen=True)
class TemperatureRecord:
    """Temperatures at one point, linear between samples: `time_s[n]` increasing, `temperature_c[n]`.

    `max_gap_s`: samples further apart leave a gap, of which only the ends are known. None: nothing is a gap.
    """

    time_s: FloatArray
    temperature_c: FloatArray
    max_gap_s: float | None = None

    @cached_property
    def gaps(self) -> NDArray[np.int64]:
        """Index of the sample before each gap."""
        if self.max_gap_s is None:
            return np.zeros(0, dtype=np.int64)
        return np.flatnonzero(np.diff(self.time_s) > self.max_gap_s + NEAR)

    @property
    def longest_gap_s(self) -> float:
        """The longest gap, s; 0 without any."""
        return float(np.diff(self.time_s)[self.gaps].max()) if len(self.gaps) else 0.0

    @property
    def duration_s(self) -> float:
        """From the first to the last sample."""
        return float(self.time_s[-1] - self.time_s[0])

    @cached_property
    def colder(self) -> Curve:
        """The record with every gap at the colder of its ends: the worst case for heat."""
        return self._filled(np.minimum)

    @cached_property
    def warmer(self) -> Curve:
        """The record with every gap at the warmer of its ends: the worst case for cold."""
        return self._filled(np.maximum)

    def _filled(self, worst: np.ufunc) -> Curve:
        if not len(self.gaps):
            return self.time_s, self.temperature_c
        at = np.repeat(self.gaps + 1, 2)
        times = np.column_stack([self.time_s[self.gaps], self.time_s[self.gaps + 1]]).ravel()
        level = np.repeat(worst(self.temperature_c[self.gaps], self.temperature_c[self.gaps + 1]), 2)
        return np.insert(self.time_s, at, times), np.insert(self.temperature_c, at, level)


def cut_off(curve: Curve, until_s: float) -> Curve:
    """The curve up to a time."""
    t, T = curve
    samples = int(np.searchsorted(t, until_s, side="left"))
    if samples >= len(t):
        return curve
    return np.append(t[:samples], until_s), np.append(T[:samples], np.interp(until_s, t, T))


def crossing_s(time_s: FloatArray, T: FloatArray, i: int, level_c: float) -> float:
    """When the line from sample `i` to the next one reaches a level, s."""
    share = (level_c - T[i]) / (T[i + 1] - T[i])
    return float(time_s[i] + min(max(share, 0.0), 1.0) * (time_s[i + 1] - time_s[i]))


def first_below_s(curve: Curve, level_c: float) -> float | None:
    """When the curve is first at or below a level, s; None if never."""
    return _first_s(curve, level_c, level_c + NEAR >= curve[1])


def first_above_s(curve: Curve, level_c: float) -> float | None:
    """When the curve first rises above a level, s; None if never."""
    return _first_s(curve, level_c, level_c + NEAR < curve[1])


def _first_s(curve: Curve, level_c: float, is_there: NDArray[np.bool_]) -> float | None:
    """When the curve crosses a level on its way to the first sample beyond it, s."""
    t, T = curve
    there = np.flatnonzero(is_there)
    if not len(there):
        return None
    i = int(there[0])
    return float(t[0]) if i == 0 else crossing_s(t, T, i - 1, level_c)


def stays_below_s(curve: Curve, level_c: float) -> float | None:
    """Since when the curve stays at or below a level to its end, s; None if it ends above."""
    t, T = curve
    over = np.flatnonzero(level_c + NEAR < T)
    if not len(over):
        return float(t[0])
    i = int(over[-1])
    return None if i == len(T) - 1 else crossing_s(t, T, i, level_c)


def stretches_above(curve: Curve, level_c: float) -> list[tuple[float, float]]:
    """(from, to), s, of each unbroken stretch at or above a level."""
    t, T = curve
    above = level_c - NEAR <= T
    starts = np.flatnonzero(above & ~np.concatenate([[False], above[:-1]]))
    ends = np.flatnonzero(above & ~np.concatenate([above[1:], [False]]))
    stretches = []
    for first, last in zip(starts.tolist(), ends.tolist(), strict=True):
        begin = float(t[0]) if first == 0 else crossing_s(t, T, first - 1, level_c)
        end = float(t[-1]) if last == len(T) - 1 else crossing_s(t, T, last, level_c)
        stretches.append((min(begin, float(t[first])), max(end, float(t[last]))))
    return stretches


def longest_above_s(curve: Curve, level_c: float) -> float:
    """Longest unbroken time at or above a level, s; negative if there was none."""
    return max((end - begin for begin, end in stretches_above(curve, level_c)), default=-1.0)


def held_c(curve: Curve, seconds: float) -> float:
    """Highest temperature held without a break for `seconds`, °C; minus infinity for a shorter record."""
    T = curve[1]
    if seconds <= 0:
        return float(T.max())
    low, high = float(T.min()), float(T.max())
    if longest_above_s(curve, low) < seconds - NEAR:
        return float("-inf")
    if longest_above_s(curve, high) >= seconds - NEAR:
        return high
    while high - low > 1e-3:
        middle = 0.5 * (low + high)
        low, high = (middle, high) if longest_above_s(curve, middle) >= seconds - NEAR else (low, middle)
    return low


def between_s(curve: Curve, low_c: float, high_c: float) -> float:
    """Seconds spent strictly between two temperatures."""
    t, T = curve
    a, b = T[:-1], T[1:]
    low, high = np.minimum(a, b), np.maximum(a, b)
    rise = high - low
    flat = rise < 1e-12
    inside = np.clip((np.minimum(high, high_c) - np.maximum(low, low_c)) / np.where(flat, 1.0, rise), 0.0, 1.0)
    inside = np.where(flat, ((low > low_c) & (low < high_c)).astype(float), inside)
    return float((inside * np.diff(t)).sum())


def outside_s(curve: Curve, level_c: float, above: bool) -> tuple[float, int]:
    """Seconds above (or below) a level, and in how many stretches."""
    T = curve[1]
    sign = 1.0 if above else -1.0
    out = sign * (T - level_c) > NEAR
    if len(T) == 1:
        return 0.0, int(out[0])
    stretches = int(out[0]) + int((out[1:] & ~out[:-1]).sum())
    seconds = between_s(curve, level_c, np.inf) if above else between_s(curve, -np.inf, level_c)
    return seconds, stretches
