"""`./ember bench`: speed and accuracy of the core on this machine, as one JSON object.

Everything is compiled and run once before it is timed.
"""

from __future__ import annotations

import importlib.util
import json
import os
import platform
import statistics
import subprocess
import sys
import time
from collections.abc import Callable
from functools import partial
from typing import Any

import numpy as np

from ..evaluate import evaluate
from ..files.plan import Plan, parse_plan
from ..files.solve import parse_solve
from ..heat.ensemble_runner import ensemble, members_of
from ..heat.simulate import TOLERANCE_K, simulate
from ..solve.find import find
from ..solve.oven_shape import effects
from ..track.estimate import estimate
from .service_study import schedule_study
from .track_jobs import simulated_cook

REPEATS = 30
MEMBERS = 256
LINES = 1000
FINER = 8

PIECE = {"cut": "beef/flat-iron", "shape": {"kind": "slab", "thickness_mm": 36}, "start_c": 4}
BATH_DAY = [
    {"kind": "bath", "water_c": 58, "minutes": 1440},
    {"kind": "ice_bath", "minutes": 75},
    {"kind": "reheat", "in": "bath", "water_c": 57, "minutes": 50},
    {"kind": "pan", "pan_c": 225, "seconds_a_side": 40, "sides": 2},
    {"kind": "rest", "minutes": 5},
]
ROAST_PIECE = {"cut": "pork/leg", "shape": {"kind": "cylinder", "diameter_mm": 145}, "mass_g": 4100, "start_c": 5}
DOOR_MIN = 1.5
BIRD = {"cut": "turkey/whole", "shape": {"kind": "from_mass"}, "mass_g": 5400, "start_c": 4, "stuffed": True}
BIRD_STAGES = [
    {"kind": "oven", "air_c": 170, "cover": "cloth", "baste_every_min": 45, "until": {"core_c": 72}},
    {"kind": "rest", "cover": "foil", "minutes": 30},
]
SHOULDER = {"cut": "pork/shoulder", "shape": {"kind": "from_mass"}, "mass_g": 3400, "start_c": 4}
SMOKED = [{"kind": "oven", "mode": "smoker", "air_c": 112, "until": {"core_c": 91}}]


def roast_stages(stretches: int, minutes: float) -> list[dict[str, Any]]:
    """A roast with the door opened between its stretches, then rested for half an hour."""
    stages: list[dict[str, Any]] = []
    for i in range(stretches):
        if i:
            stages.append({"kind": "oven", "air_c": 90, "minutes": DOOR_MIN})
        stages.append({"kind": "oven", "air_c": 155, "minutes": minutes})
    return [*stages, {"kind": "rest", "minutes": 30}]


def _plan(piece: dict[str, Any], stages: list[dict[str, Any]]) -> Plan:
    return parse_plan({"format": "open-ember/plan", "version": 1, "piece": piece, "stages": stages})


def median_ms(act: Callable[[], object], repeats: int = REPEATS) -> float:
    """Median wall time of a function that has run once before, ms."""
    act()
    times = []
    for _ in range(repeats):
        begin = time.perf_counter()
        act()
        times.append((time.perf_counter() - begin) * 1e3)
    return round(statistics.median(times), 2)


def errors_c(plan: Plan) -> dict[str, float]:
    """Largest difference at stage ends from a run with an eight times finer grid and step, °C: core, faces."""
    run, fine = simulate(plan), simulate(plan, TOLERANCE_K / FINER, FINER)
    core = face = 0.0
    for a, b in zip(run.stages, fine.stages, strict=True):
        core = max(core, abs(float(run.core_c[a.last] - fine.core_c[b.last])))
        for node in (0, -1) if run.grid.two_faces else (-1,):
            face = max(face, abs(float(run.temperature_c[a.last, node] - fine.temperature_c[b.last, node])))
    return {"core": round(max(core, abs(run.peak()[0] - fine.peak()[0])), 4), "face": round(face, 4)}


def cold_cli_s() -> float:
    """Median time of one command, including process start, s, of five."""
    text = json.dumps({"format": "open-ember/plan", "version": 1, "piece": PIECE, "stages": BATH_DAY})
    command = [sys.executable, "-m", "ember.cli", "simulate", "-"]

    def ask() -> None:
        subprocess.run(command, input=text, capture_output=True, text=True, check=True)  # noqa: S603

    return round(median_ms(ask, 5) / 1e3, 2)


def lines_s() -> float:
    """Time of a thousand plans through `simulate --lines`, including process start, s."""
    rows = []
    for i in range(LINES):
        piece = {**PIECE, "shape": {"kind": "slab", "thickness_mm": 20 + 0.03 * i}}
        stages = [{"kind": "bath", "water_c": 54 + 0.004 * i, "minutes": 90}, *BATH_DAY[3:]]
        rows.append(json.dumps({"format": "open-ember/plan", "version": 1, "piece": piece, "stages": stages}))
    command = [sys.executable, "-m", "ember.cli", "simulate", "--lines", "-"]
    begin = time.perf_counter()
    done = subprocess.run(command, input="\n".join(rows), capture_output=True, text=True, check=True)  # noqa: S603
    if done.stdout.count("\n") != LINES or '"error"' in done.stdout:
        raise RuntimeError("the lines were not all answered")
    return round(time.perf_counter() - begin, 2)


def track_update_ms() -> dict[str, float]:
    """Time of one more estimate of a cook half way, continuing from the one before; for a bath, a roast, a turned
    steak.
    """
    timings = {}
    for job in ("steak, bath", "roast", "thick steak, pan"):
        cook = next(c for c in (simulated_cook(job, np.random.default_rng(n)) for n in range(9)) if c is not None)
        now = 0.5 * cook.true_s
        seen = [reading for reading in cook.readings if reading[0] <= now]
        first = estimate(cook.plan, cook.known, cook.events, seen, now, as_told=True)
        again = partial(
            estimate, cook.plan, cook.known, cook.events, seen, now, as_told=True, start=first.fit.z
        )  # fmt: skip
        timings[job] = median_ms(again, 10)
    return timings


def main() -> None:
    """Measure and print."""
    from . import sections
    from .reference import py_pde_ratio, scipy_ratio

    bird, smoked = _plan(BIRD, BIRD_STAGES), _plan(SHOULDER, SMOKED)
    day, roast = _plan(PIECE, BATH_DAY), _plan(ROAST_PIECE, roast_stages(5, 46.8))
    question = parse_solve(
        {
            "format": "open-ember/plan", "version": 1, "piece": ROAST_PIECE, "stages": roast_stages(1, 150),
            "find": {"what": "pull", "stage": 0, "so_that": {"peak_c": 62}},
        }
    )  # fmt: skip
    random = np.random.default_rng(20270305)
    members = members_of(
        size=1 + 0.05 * random.normal(size=MEMBERS), start_c=5 + random.normal(size=MEMBERS),
        medium_k=8 * random.normal(size=MEMBERS), transfer=1 + 0.1 * random.normal(size=MEMBERS),
    )  # fmt: skip
    at = np.linspace(0.0, simulate(roast).end_s, 90)
    day_errors, roast_errors = errors_c(day), errors_c(roast)
    report = {
        "machine": {
            "processor": platform.processor() or platform.machine(), "processors": os.cpu_count(),
            "python": platform.python_version(),
        },
        "simulate_ms": {
            "bath_day": median_ms(lambda: simulate(day)), "roast_4h": median_ms(lambda: simulate(roast)),
            "smoked_shoulder": median_ms(lambda: simulate(smoked)),
        },
        "sections_ms_p95": sections.times_ms(),
        "evaluate_ms": {"bird_and_its_parts": median_ms(lambda: evaluate(bird), 10)},
        "oven_effects_ms": median_ms(lambda: effects(bird), 10),
        "solve_pull_ms": median_ms(lambda: find(question), 10),
        "ensemble_256_ms": median_ms(lambda: ensemble(roast, members, at), 5),
        "track_update_ms": track_update_ms(),
        "schedule": schedule_study(),
        "ratio": {"scipy_bdf": scipy_ratio(), "py_pde": py_pde_ratio()},
        "ratio_in_sections": sections.ratios(),
        "error_c": {key: max(day_errors[key], roast_errors[key]) for key in ("core", "face")},
        "cold_cli_s": cold_cli_s(),
        "lines_1000_s": lines_s(),
    }  # fmt: skip
    if importlib.util.find_spec("pde") is None:
        report["note"] = "py-pde, a test dependency, is not installed: its ratio was not measured."
    print(json.dumps(report))


if __name__ == "__main__":
    if sys.argv[1:2] == ["track"]:
        from .track_study import main as study

        sys.exit(study(sys.argv[2:]))
    main()
