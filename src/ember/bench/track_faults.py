"""Faults of a probe, added to simulated readings."""

from __future__ import annotations

from typing import Literal

import numpy as np

from ..heat.grid import FloatArray
from ..heat.media import medium_c
from .track_jobs import LAG_S, NOISE_K, SimulatedCook

FaultKind = Literal["unplugged", "no-value", "stuck", "slipped", "on-the-pan", "in-the-air"]
KINDS: dict[FaultKind, tuple[str, ...]] = {
    "unplugged": ("unplugged",), "no-value": ("unplugged",), "stuck": ("stuck",), "slipped": ("slipped", "off-food"),
    "on-the-pan": ("off-food", "slipped"), "in-the-air": ("off-food",),
}  # fmt: skip
SLIPS_TO = 0.8  # of the way from the middle to the face
LEAST_K = 4.0  # a needle that slides where everything is as warm shows no fault
KITCHEN_C = 21.0
FOUND_WITHIN_S = 60.0

Readings = list[tuple[float, float | None]]


def with_fault(cook: SimulatedCook, kind: FaultKind, random: np.random.Generator) -> tuple[Readings, float] | None:
    """Readings up to FOUND_WITHIN_S after the fault began, and when it began; None if it would not show."""
    began = min(cook.true_s * random.uniform(0.3, 0.7), cook.true_s - FOUND_WITHIN_S)
    if began < 0.25 * cook.true_s or any(abs(e.s - began) < FOUND_WITHIN_S for e in cook.events if e.s > 0):
        return None
    end = began + FOUND_WITHIN_S
    before: Readings = [r for r in cook.readings if r[0] < began]
    times = cook.t_s[(cook.t_s >= began) & (cook.t_s <= end)]
    if kind == "unplugged":
        return before, began
    if kind == "no-value":
        return before + [(float(t), None) for t in times], began
    last = before[-1][1]
    if kind == "stuck":
        return before + [(float(t), last) for t in times], began
    now, to = np.interp(times, cook.t_s, cook.shown_at(cook.off_m)), _after_slip(cook, kind, times)
    if np.abs(to - now).min() < LEAST_K:
        return None
    shown = to + (now - to) * np.exp(-(times - began) / LAG_S) + NOISE_K * random.standard_normal(len(times))
    return before + _rounded(times, shown), began


def _after_slip(cook: SimulatedCook, kind: FaultKind, times: FloatArray) -> FloatArray:
    """Temperatures where the probe has moved to, °C: further out, into the room's air, or into the medium."""
    if kind == "slipped":
        return np.interp(times, cook.t_s, cook.shown_at(SLIPS_TO * float(cook.x_m[-1])))
    stage = cook.plan.stages[cook.plan.pull_stage or 0]
    return np.full(len(times), KITCHEN_C if kind == "in-the-air" else medium_c(stage))


def _rounded(t_s: FloatArray, celsius: FloatArray) -> Readings:
    return [(float(s), float(c)) for s, c in zip(t_s, celsius, strict=True)]
