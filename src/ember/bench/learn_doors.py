"""Simulated ovens with a known recovery after their doors, and whether it is found."""

from __future__ import annotations

import math
from typing import Any

import numpy as np

from ..files.plan import parse_plan
from ..heat.simulate import simulate
from ..learn.recovery import door_of, recovery_of, usual_rate_k_min

DOORS, EVERY_MIN, OPEN_S, READ_EVERY_S = 10, 20, 30.0, 10.0
SLOWEST_K_MIN, FASTEST_K_MIN = 5.0, 35.0
DOOR_LOG, NOISE_K = 0.10, 0.5  # how much single doors differ; noise of a reading
AIR_C = 180.0


def one_oven(seed: int) -> tuple[float, float, float, float, float, float]:
    """(truth, estimate, low, high, K a minute; error before, after, min) of one oven; NaN if nothing is found."""
    random = np.random.default_rng([7, seed])
    truth = math.exp(random.uniform(math.log(SLOWEST_K_MIN), math.log(FASTEST_K_MIN)))
    expected_rate = usual_rate_k_min(AIR_C)
    doors = []
    for _ in range(DOORS):
        rate = truth * math.exp(random.normal(0.0, DOOR_LOG))
        stage = {
            "kind": "oven", "air_c": AIR_C, "minutes": 2 * EVERY_MIN - 1, "open_every_min": EVERY_MIN,
            "back_k_min": rate,
        }  # fmt: skip
        piece = {"cut": "turkey/whole", "mass_g": 5000, "shape": {"kind": "from_mass"}, "start_c": 5}
        head = {"format": "open-ember/plan", "version": 1, "name": "oven"}
        run = simulate(parse_plan({**head, "piece": piece, "stages": [stage]}))
        t = np.arange(0.0, run.end_s, READ_EVERY_S)
        shown = np.interp(t, run.t_s, run.around_c) + NOISE_K * random.standard_normal(len(t))
        door = door_of(list(zip(t.tolist(), shown.tolist(), strict=True)), 60.0 * EVERY_MIN - OPEN_S)
        if door is not None:
            doors.append((door, expected_rate))
    recovery = recovery_of(doors)
    if recovery is None:
        return (truth, math.nan, math.nan, math.nan, math.nan, math.nan)
    return truth, recovery.rate_k_min, recovery.low, recovery.high, recovery.before_min, recovery.after_min


def doors_study(ovens: int) -> dict[str, Any]:
    """All ovens: how often the interval holds the truth, and the error for doors left out."""
    rows = np.array([one_oven(seed) for seed in range(ovens)])
    known = rows[~np.isnan(rows[:, 1])]
    truth, value, low, high, before, after = known.T
    return {
        "ovens": ovens, "found": len(known), "doors_each": DOORS,
        "inside_pct": round(100.0 * float(np.mean((low <= truth) & (truth <= high))), 1),
        "rms_pct": round(100.0 * float(np.sqrt(np.mean((value / truth - 1.0) ** 2))), 1),
        "before_min": round(float(before.mean()), 2), "after_min": round(float(after.mean()), 2),
    }  # fmt: skip
