"""Axes: time in columns with a scale of their own, temperature enlarged where doneness is decided."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

FloatArray = NDArray[np.float64]


@dataclass(frozen=True)
class TimeColumns:
    """Stages side by side: column i spans x[i] to x[i+1] px, in which time runs linearly from s[i] to s[i+1]."""

    seconds: tuple[float, ...]
    x: tuple[float, ...]

    @classmethod
    def of(cls, durations_s: Sequence[float], least_px: Sequence[float], width_px: float) -> TimeColumns:
        """Columns at least as wide as their headings need; the rest is shared by duration to the power 0.4.

        Wider than `width_px` if the headings alone are.
        """
        spare = max(width_px - sum(least_px), 0.0)
        weight = [max(d, 1.0) ** 0.4 for d in durations_s]
        widths = [low + spare * w / sum(weight) for low, w in zip(least_px, weight, strict=True)]
        return cls(
            (0.0, *(float(v) for v in np.cumsum(durations_s))),
            (0.0, *(float(v) for v in np.cumsum(widths))),
        )

    def __call__(self, seconds: float | FloatArray) -> FloatArray:
        """Times to px."""
        s = np.maximum.accumulate(np.array(self.seconds) + np.arange(len(self.seconds)) * 1e-6)
        return np.asarray(np.interp(seconds, s, self.x))

    def time(self, px: FloatArray) -> FloatArray:
        """px to times."""
        return np.asarray(np.interp(px, self.x, self.seconds))

    @property
    def width(self) -> float:
        """Total width, px."""
        return self.x[-1]


@dataclass(frozen=True)
class Enlarged:
    """Temperature to px, top down: the degrees from `low_c` to `high_c` get most of the height."""

    floor_c: float
    low_c: float
    high_c: float
    top_c: float
    height: float
    share: float = 0.6

    def __call__(self, celsius: float | FloatArray) -> FloatArray:
        """px from the top."""
        rest = (1.0 - self.share) / 2
        stops = (self.floor_c, self.low_c, self.high_c, self.top_c)
        places = (self.height, self.height * (1 - rest), self.height * rest, 0.0)
        return np.asarray(np.interp(celsius, stops, places))

    @property
    def times_taller(self) -> float:
        """How much taller a degree is drawn inside the range than below it."""
        inside = self.share / (self.high_c - self.low_c)
        below = (1 - self.share) / 2 / (self.low_c - self.floor_c)
        return inside / below


@dataclass(frozen=True)
class Plot:
    """Linear axes: seconds to px from the left, degrees to px from the top.

    `px_per_s` px a second, `height` px from `high_c` at the top to `low_c` at the bottom; times are clipped to
    `left_px` and `right_px`.
    """

    px_per_s: float
    left_px: float
    right_px: float
    low_c: float
    high_c: float
    height: float

    def x(self, seconds: float) -> float:
        """px of a time, clipped to the edges."""
        return min(max(seconds * self.px_per_s, self.left_px), self.right_px)

    def y(self, celsius: float) -> float:
        """px of a temperature."""
        return float(self.height * (self.high_c - celsius) / (self.high_c - self.low_c))

    def inside(self, celsius: float) -> float:
        """px of a temperature, clipped to the edges."""
        return self.y(min(max(celsius, self.low_c), self.high_c))

    def shows(self, seconds: float) -> bool:
        """Whether a time lies between the edges."""
        return self.left_px <= seconds * self.px_per_s <= self.right_px

    def line(self, points: Iterable[tuple[float, float]]) -> str:
        """An SVG path through (s, °C)."""
        placed = [(self.x(s), self.y(c)) for s, c in points]
        return path(np.array([x for x, _ in placed]), np.array([y for _, y in placed]))

    def area(self, seconds: FloatArray, low_c: FloatArray, high_c: FloatArray) -> str:
        """The closed SVG path between two curves over the same times."""
        px = [self.x(float(s)) for s in seconds]
        there = [(x, self.y(c)) for x, c in zip(px, high_c, strict=True)]
        back = [(x, self.y(c)) for x, c in zip(px, low_c, strict=True)][::-1]
        return "M" + "L".join(f"{x:.1f} {y:.1f}" for x, y in there + back) + "Z"


def every(points: Sequence[tuple[float, float]], most: int) -> Sequence[tuple[float, float]]:
    """At most about this many of the points, evenly spaced."""
    return points[:: max(len(points) // most, 1)]


def path(x: FloatArray, y: FloatArray) -> str:
    """An SVG path through points, to one decimal."""
    if len(x) == 0:
        return ""
    points = np.column_stack((x, y)).ravel().tolist()
    return ("M" + "L".join(["%.1f %.1f"] * len(x))) % tuple(points)  # one format for all: paths are most of a page


def between(at: FloatArray, known: FloatArray, values: FloatArray) -> FloatArray:
    """`values[row, known]` interpolated linearly at other places, constant beyond the known ones."""
    place = np.clip(np.interp(at, known, np.arange(len(known))), 0, len(known) - 1)
    i = np.minimum(place.astype(int), len(known) - 2)
    share = place - i
    return np.asarray(values[:, i] * (1.0 - share) + values[:, i + 1] * share)


def tick_step(span: float, wanted: int) -> float:
    """A round step that gives about `wanted` ticks."""
    steps = [1, 2, 5, 10, 15, 20, 30, 60, 120, 300, 600, 900, 1200, 1800, 3600, 7200, 10800, 21600, 43200, 86400]
    return float(next((s for s in steps if span / s <= wanted), 86400 * 2))
