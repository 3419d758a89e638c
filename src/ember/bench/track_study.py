"""Accuracy of the estimator on simulated cooks whose truth differs from their plan: `./ember bench track`.

Compared with two methods without a model: a straight line through the last readings, and Newton's law of cooling (an
exponential towards the set temperature of the medium).
"""

from __future__ import annotations

import argparse
import json
import statistics
import sys
import time
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np

from ..heat.media import medium_c
from ..track.estimate import estimate
from ..track.probe import watch
from .track_faults import FOUND_WITHIN_S, KINDS, with_fault
from .track_jobs import JOBS, SimulatedCook, is_bath, simulated_cook

SEED = 20261125
EACH = 20
AT = 0.5  # of the true time
NEVER = 9.99  # error of what never comes, shares of the true time


@dataclass(frozen=True)
class Predicted:
    """One cook: errors of the three methods as shares of its true time, whether the band covers it, and the time
    taken.
    """

    job: str
    bath: bool
    error: float
    line: float
    newton: float
    covered: bool
    width: float
    peak_k: float
    update_ms: float


def _share(predicted_s: float, true_s: float) -> float:
    return min(abs(predicted_s - true_s) / true_s, NEVER) if np.isfinite(predicted_s) else NEVER


def straight_line_s(readings: Sequence[tuple[float, float]], want_c: float) -> float:
    """When the line through the last fifth of the readings reaches the target, s; infinite if never."""
    s, c = np.array(readings[-max(len(readings) // 5, 3) :]).T
    slope, level = np.polyfit(s, c, 1)
    return float((want_c - level) / slope) if slope > 0 else np.inf


def newton_s(readings: Sequence[tuple[float, float]], want_c: float, around_c: float) -> float:
    """When the exponential towards `around_c` through the last half of the readings reaches the target, s."""
    s, c = np.array(readings[-max(len(readings) // 2, 3) :]).T
    under = around_c - c
    if want_c >= around_c or np.any(under <= 0):
        return np.inf
    slope, level = np.polyfit(s, np.log(under), 1)
    return float((np.log(around_c - want_c) - level) / slope) if slope < 0 else np.inf


def predict(cook: SimulatedCook, at: float = AT) -> Predicted:
    """Predict one cook at a share of its true time: first from scratch, then once more as a later update would."""
    now = at * cook.true_s
    seen = [reading for reading in cook.readings if reading[0] <= now]
    first = estimate(cook.plan, cook.known, cook.events, seen, now, as_told=True)
    begin = time.perf_counter()
    estimate(cook.plan, cook.known, cook.events, seen, now, as_told=True, start=first.fit.z)
    took = time.perf_counter() - begin
    low, middle, high = np.percentile(first.draws.crossed_s, (10, 50, 90), method="lower")
    want = cook.known.pull_core_c or 0.0
    around = medium_c(cook.plan.stages[cook.plan.pull_stage or 0])
    return Predicted(
        cook.job, is_bath(cook.plan), _share(float(middle), cook.true_s),
        _share(straight_line_s(seen, want), cook.true_s), _share(newton_s(seen, want, around), cook.true_s),
        bool(low <= cook.true_s <= high), _share(float(high - low) + cook.true_s, cook.true_s),
        abs(float(np.median(first.draws.peak_c)) - cook.peak_c), 1e3 * took,
    )  # fmt: skip


def row_of(name: str, predicted: Sequence[Predicted]) -> dict[str, Any]:
    """A row of the table: median errors in per cent of the true time, and coverage of the 80 % band."""

    def middle(key: str) -> float:
        return float(statistics.median(getattr(each, key) for each in predicted))

    return {
        "job": name, "cooks": len(predicted), "error_pct": round(100 * middle("error"), 2),
        "line_pct": round(100 * middle("line"), 1), "newton_pct": round(100 * middle("newton"), 1),
        "covered_pct": round(100 * statistics.mean(each.covered for each in predicted)),
        "width_pct": round(100 * middle("width"), 1), "peak_k": round(middle("peak_k"), 2),
        "update_ms": round(middle("update_ms"), 1),
    }  # fmt: skip


def cooks(each: int, seed: int = SEED, jobs: Sequence[str] = tuple(JOBS)) -> tuple[list[SimulatedCook], int]:
    """That many cooks of each job, and how many truths never reached the target and were drawn again."""
    random = np.random.default_rng(seed)
    simulated: list[SimulatedCook] = []
    never = 0
    for job in jobs:
        count = 0
        while count < each:
            cook = simulated_cook(job, random)
            if cook is None:
                never += 1
                continue
            simulated.append(cook)
            count += 1
    return simulated, never


def predictions(simulated: Sequence[SimulatedCook], at: float = AT) -> list[dict[str, Any]]:
    """The table: a row for each job, then all baths, then all."""
    all_ = [predict(cook, at) for cook in simulated]
    jobs = list(dict.fromkeys(each.job for each in all_))
    rows = [row_of(job, [each for each in all_ if each.job == job]) for job in jobs]
    baths = [each for each in all_ if each.bath]
    return [*rows, *([row_of("all baths", baths)] if baths else []), row_of("all", all_)]


def faults(simulated: Sequence[SimulatedCook], seed: int = SEED) -> dict[str, Any]:
    """How many faults of each kind are detected within a minute of readings, their diagnosis, and false alarms."""
    random = np.random.default_rng(seed)
    table: dict[str, dict[str, Any]] = {}
    alarms = 0
    for cook in simulated:
        moments = [event.s for event in cook.events]
        stages = cook.plan.stages
        around = medium_c(stages[cook.plan.pull_stage or 0])
        alarms += watch(list(cook.readings), moments, [], cook.true_s, around).state != "ok"
        for kind in KINDS:
            made = with_fault(cook, kind, random)
            if made is None:
                continue
            readings, began = made
            around = medium_c(stages[max(e.stage or 0 for e in cook.events if e.s <= began)])
            state = watch(readings, moments, [], began + FOUND_WITHIN_S, around).state
            counts = table.setdefault(kind, {"made": 0, "found": 0, "called": {}})
            counts["made"] += 1
            counts["found"] += state != "ok"
            counts["called"][state] = counts["called"].get(state, 0) + 1
    made = sum(counts["made"] for counts in table.values())
    share = sum(counts["found"] for counts in table.values()) / made if made else 0.0
    return {"kinds": table, "found_pct": round(100 * share, 1), "false_alarms": alarms, "clean_cooks": len(simulated)}


def main(arguments: Sequence[str]) -> int:
    """Print the tables as text on standard error and as one JSON object."""
    parser = argparse.ArgumentParser(prog="./ember bench track", description=__doc__)
    parser.add_argument("--each", type=int, default=EACH, help="cooks of each job")
    parser.add_argument("--seed", type=int, default=SEED)
    parser.add_argument("--at", type=float, default=AT, help="share of the true time at which is predicted")
    options = parser.parse_args(arguments)
    simulated, never = cooks(options.each, options.seed)
    rows = predictions(simulated, options.at)
    print(f"{'job':28}cooks  error  line  newton  covers  width  peak  update", file=sys.stderr)
    for summary in rows:
        print(
            f"{summary['job']:28}{summary['cooks']:5}{summary['error_pct']:6.2f}%{summary['line_pct']:5.0f}%{summary['newton_pct']:7.1f}%"
            f"{summary['covered_pct']:7} %{summary['width_pct']:6.1f}%{summary['peak_k']:6.2f}"
            f"{summary['update_ms']:6.0f} ms",
            file=sys.stderr,
        )  # fmt: skip
    print(json.dumps({"track": {"at": options.at, "never_reached": never, "jobs": rows, "faults": faults(simulated)}}))
    return 0
