"""Whether a probe can be trusted: unplugged, stuck, slipped, off the food. By its readings and its surroundings.

A probe that stays in place continues its trend: the lines through half a minute before a moment and half a minute after
it meet, to a degree or so. Where they do not, the probe moved.
"""

from __future__ import annotations

import itertools
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from ..files.track import ProbeState
from ..heat.grid import FloatArray
from ..quantities import show_duration

SILENT_S, SILENT_READINGS = 30.0, 4.0  # without a reading for so long, and so many of its usual pauses
TYPED_S = 40.0  # readings farther apart are typed in by hand: they are not missed
COLDEST_C, HOTTEST_C = -40.0, 380.0  # an open or shorted wire shows less or more
STUCK_S, STUCK_ODDS = 30.0, 1e-6
COARSE_READINGS = 60
LINE_S, LINE_LEAST = 30.0, 6
LINE_READINGS, LINE_MOST_S = 6.5, 150.0  # of a slow probe the line is longer
LONGEST_LOOK_S = 1200.0  # what lies farther apart is not compared
SETTLES_S = 12.0  # a jump is over once the needle's own lag is
JUMP_K, JUMP_SIGMAS, JUMP_SLOPES = 2.8, 6.0, 0.3
LEAST_SHARE = 0.6  # of a jump shows at once
AFTER_MOMENT_S = 20.0  # after a hand moved the piece everything changes
BUMPED_SHARE = 0.4  # a jump back to within this share of the jump
SPIKE_K = 5.0
AROUND_K = 1.2  # as near as this to what is around, and it is that
KITCHEN_C = (15.0, 30.0)
FLESH_MOST_C = 102.0  # under a face that still has water


@dataclass(frozen=True)
class Watched:
    """The diagnosis of a probe, since when (s), the remedy, and the readings that count."""

    state: ProbeState
    since_s: float | None
    text: str
    believed: list[tuple[float, float]]


@dataclass(frozen=True)
class _Fault:
    state: ProbeState
    since_s: float
    to_c: float


def watch(
    readings: Sequence[tuple[float, float | None]], moments_s: Sequence[float], replaced_s: Sequence[float],
    now_s: float, around_c: float | None,
) -> Watched:  # fmt: skip
    """Diagnose a probe by its readings, in order of time.

    `moments_s`: when the piece was handled, `replaced_s`: when the probe was inserted anew; `around_c`: temperature
    around the piece now.
    """
    if not readings:
        return Watched("none", None, "No reading: estimated from the plan.", [])
    edges = [-np.inf, *sorted(replaced_s), np.inf]
    believed: list[tuple[float, float]] = []
    fault: _Fault | None = None
    for a, b in itertools.pairwise(edges):
        own = [(s, c) for s, c in readings if a <= s < b]
        readings_kept, fault = _one_place(own, moments_s, min(b, now_s), around_c)
        believed += readings_kept
    if fault is None:
        return Watched("ok", None, "", believed)
    return Watched(fault.state, round(fault.since_s, 1), _words(fault, now_s, around_c), believed)


def _one_place(
    readings: list[tuple[float, float | None]], moments_s: Sequence[float], now_s: float, around_c: float | None
) -> tuple[list[tuple[float, float]], _Fault | None]:
    """The valid readings of one position of the probe, and its fault."""
    known = [(s, c) for s, c in readings if c is not None and COLDEST_C < c < HOTTEST_C]
    pause = float(np.median(np.diff([s for s, _ in readings][-60:]))) if len(readings) > 2 else np.inf
    if not known:
        return [], _Fault("unplugged", readings[0][0], np.nan) if readings else None
    s, c = np.array(known).T
    s, c = _without_spikes(s, c)
    s, c, jumped = _until_jump(s, c, moments_s, around_c)
    if jumped is not None:
        return list(zip(s.tolist(), c.tolist(), strict=True)), jumped
    stuck = _stuck_from(s, c)
    if stuck is not None:
        fault = _Fault("stuck", float(s[stuck]), float(c[stuck]))
        return list(zip(s[: stuck + 1].tolist(), c[: stuck + 1].tolist(), strict=True)), fault
    silent = now_s - s[-1]
    told_nothing = readings[-1][0] > s[-1] and readings[-1][0] - s[-1] >= min(SILENT_S / 3, SILENT_READINGS * pause)
    if pause <= TYPED_S and (silent > max(SILENT_S, SILENT_READINGS * pause) or told_nothing):
        return list(zip(s.tolist(), c.tolist(), strict=True)), _Fault("unplugged", float(s[-1]), float(c[-1]))
    return list(zip(s.tolist(), c.tolist(), strict=True)), None


def _without_spikes(s: FloatArray, c: FloatArray) -> tuple[FloatArray, FloatArray]:
    """Without single readings that neither neighbour supports."""
    if len(s) < 3:
        return s, c
    middle = np.median(np.stack([c[:-2], c[1:-1], c[2:]]), 0)
    keep = np.ones(len(s), dtype=bool)
    keep[1:-1] = np.abs(c[1:-1] - middle) < SPIKE_K
    return s[keep], c[keep]


def _stuck_from(s: FloatArray, c: FloatArray) -> int | None:
    """When the last value began to repeat, if it did so for longer than chance would explain."""
    different = np.flatnonzero(c != c[-1])
    first = int(different[-1]) + 1 if len(different) else 0
    count = len(c) - first
    if s[-1] - s[first] < STUCK_S:
        return None
    before = np.diff(c[: first + 1])
    if _is_coarse_and_calm(s[: first + 1], c[: first + 1], float(s[-1] - s[first])):
        return None
    alike = (float((before == 0).sum()) + 1.0) / (len(before) + 2.0)
    return first if alike ** (count - 1) < STUCK_ODDS else None


def _is_coarse_and_calm(s: FloatArray, c: FloatArray, seconds: float) -> bool:
    """Whether a thermometer of few digits would plausibly show the same for so long after these readings."""
    steps = np.abs(np.diff(c))
    if len(s) < LINE_LEAST or not steps.any():
        return False
    digit = float(steps[steps > 0].min())
    _, slope, scatter = _line(s[-COARSE_READINGS:] - s[-1], c[-COARSE_READINGS:])
    return scatter < digit and abs(slope) * seconds < 2.0 * digit


def _until_jump(
    s: FloatArray, c: FloatArray, moments_s: Sequence[float], around_c: float | None
) -> tuple[FloatArray, FloatArray, _Fault | None]:
    """The readings before a lasting jump, and its fault; temporary bumps are removed."""
    taken = np.ones(len(s), dtype=bool)
    pause = float(np.median(np.diff(s[-COARSE_READINGS:]))) if len(s) > 1 else LINE_S
    line_s = min(max(LINE_S, LINE_READINGS * pause), LINE_MOST_S)
    settled = np.searchsorted(s, s + SETTLES_S)
    there = settled < len(s)
    rise = np.zeros(len(s))
    rise[1:][there[1:]] = c[settled[1:][there[1:]]] - c[:-1][there[1:]]
    free_from = 0
    for i in np.flatnonzero(np.abs(rise) > LEAST_SHARE * JUMP_K).tolist():
        if i < free_from:
            continue
        jump_at = _jump_at(s, c, i, taken, moments_s, line_s)
        if jump_at is None:
            continue
        size, line = jump_at
        back = _comes_back(s, c, i, size, line, line_s)
        if back is None:
            return s[:i][taken[:i]], c[:i][taken[:i]], _name(s, c, i, around_c)
        taken[i:back] = False
        free_from = back + LINE_LEAST
    return s[taken], c[taken], None


def _line(s: FloatArray, c: FloatArray) -> tuple[float, float, float]:
    """Level at time 0, slope and scatter of a straight line."""
    middle = s.mean()
    slope = float(((s - middle) * (c - c.mean())).sum() / max(((s - middle) ** 2).sum(), 1e-9))
    level = float(c.mean() - slope * middle)
    return level, slope, float(np.std(c - level - slope * s))


def _jump_at(
    s: FloatArray, c: FloatArray, i: int, taken: FloatArray, moments_s: Sequence[float], line_s: float
) -> tuple[float, tuple[float, float]] | None:
    """Size of the jump between readings i - 1 and i, K, and the line before it; None if there is none.

    It is the gap between the line before and the line after, half way between the two: a curve leaves hardly any.
    """
    first = int(np.searchsorted(s, s[i - 1] - line_s))
    before = np.arange(first, i)[taken[first:i]]
    if len(before) < LINE_LEAST:  # few readings: the last ones there were
        before = np.flatnonzero(taken[:i])[-LINE_LEAST:]
    start = int(np.searchsorted(s, s[i] + SETTLES_S))
    end = max(int(np.searchsorted(s, s[i] + SETTLES_S + line_s)), start + LINE_LEAST - 1)
    after = np.arange(start, min(end, len(s)))
    if len(before) < LINE_LEAST or len(after) < LINE_LEAST - 1 or s[after[-1]] - s[before[0]] > LONGEST_LOOK_S:
        return None
    first = int(before[0])
    if any(s[first] - AFTER_MOMENT_S < m < s[after[-1]] for m in moments_s):
        return None
    level, slope, scatter = _line(s[before] - s[i], c[before])
    then, then_slope, then_scatter = _line(s[after] - s[i], c[after])
    gap = then - level + (then_slope - slope) * 0.5 * SETTLES_S
    unsure = 2.0 * max(scatter, then_scatter, 0.05) * np.sqrt(1.0 / len(before) + 1.0 / len(after))
    if abs(gap) < max(JUMP_K, JUMP_SIGMAS * unsure, JUMP_SLOPES * abs(then_slope - slope) * line_s):
        return None
    return float(gap), (level, slope)


def _comes_back(
    s: FloatArray, c: FloatArray, i: int, size: float, line: tuple[float, float], line_s: float
) -> int | None:
    """When readings are back on the line from before the jump; None if they stay away."""
    level, slope = line
    for k in range(int(np.searchsorted(s, s[i] + SETTLES_S)), len(s) - 1):
        if s[k] - s[i] > 3 * line_s:
            return None
        off = c[k : k + 2] - level - slope * (s[k : k + 2] - s[i])
        if np.all(np.abs(off) < BUMPED_SHARE * abs(size)):
            return k
    return None


def _name(s: FloatArray, c: FloatArray, i: int, around_c: float | None) -> _Fault:
    """The kind of a jump: to the surroundings, to the kitchen's air, past what flesh can be, or towards the outside."""
    level = float(np.median(c[int(np.searchsorted(s, s[i] + SETTLES_S)) :]))
    off_food = level > FLESH_MOST_C or (
        around_c is not None
        and (
            abs(level - around_c) < AROUND_K
            or (KITCHEN_C[0] < level < KITCHEN_C[1] and c[i - 1] > KITCHEN_C[1] + JUMP_K and around_c > KITCHEN_C[1])
        )
    )
    return _Fault("off-food" if off_food else "slipped", float(s[i]), level)


def _words(fault: _Fault, now_s: float, around_c: float | None) -> str:
    """The fault and its remedy in words."""
    since = show_duration(max(now_s - fault.since_s, 0.0))
    match fault.state:
        case "unplugged":
            return f"No reading for {since}: check the plug and the cable. Until then the core is estimated."
        case "stuck":
            return f"Same value for {since}: pull the probe, check it, and push it back to the centre."
        case "off-food":
            what = (
                "the kitchen's air"
                if fault.to_c < KITCHEN_C[1] and (around_c or 0) > KITCHEN_C[1]
                else "what is around"
            )
            return f"The probe reads {what}, not the food: push it back to the centre."
        case _:
            return f"The probe slid towards the surface {since} ago: push it back to the centre."
