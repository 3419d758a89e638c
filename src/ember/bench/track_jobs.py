"""Simulated cooks whose truth differs from their plan: jobs, truths, and probe readings."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np

from ..files.plan import Plan, parse_plan
from ..files.track import Event
from ..heat.ensemble_runner import Members
from ..heat.grid import FloatArray
from ..heat.problem import make_problem
from ..heat.simulate import TOLERANCE_K
from ..track.estimate import Planned, planned
from ..track.thermal_history import thermal_history

# What a truth differs by: even between minus and plus these.
SIZE_SHARE, MEDIUM_K, START_K, TRANSFER_SHARE = 0.15, 3.0, 3.0, 0.40
TRANSFER_CENTRE = 2.0  # the centre of the transfer is itself off by up to this factor
FARTHEST_M, NOISE_K, LAG_S = 5e-3, 0.3, 5.0
FARTHEST_SHARE = 0.6  # of the half thickness, of pieces so small that 5 mm is outside

Stage = dict[str, Any]
REST: Stage = {"kind": "rest", "air_c": 22, "minutes": 8}


def _slab(mm: float) -> dict[str, Any]:
    return {"kind": "slab", "thickness_mm": mm}


def _roll(mm: float) -> dict[str, Any]:
    return {"kind": "cylinder", "diameter_mm": mm}


def _pan(celsius: float, turn_s: float, core_c: float) -> Stage:
    return {"kind": "pan", "pan_c": celsius, "turn_every_s": turn_s, "until": {"core_c": core_c}}


def _sear(celsius: float, seconds: float) -> Stage:
    return {"kind": "pan", "pan_c": celsius, "seconds_a_side": seconds, "sides": 2}


def _bath(celsius: float, core_c: float) -> Stage:
    return {"kind": "bath", "water_c": celsius, "until": {"core_c": core_c}}


def _oven(celsius: float, core_c: float, **more: Any) -> Stage:
    return {"kind": "oven", "air_c": celsius, "until": {"core_c": core_c}, **more}


# The kinds of jobs the product is for, with cuts and numbers of our own. Baths are hotter than the core that is waited
# for: a true bath may be 3 K colder than it says, and the core must be able to come there.
JOBS: dict[str, tuple[dict[str, Any], list[Stage]]] = {
    "thick steak, pan": ({"cut": "beef/strip-loin", "shape": _slab(41), "start_c": 7}, [_pan(222, 60, 46), REST]),
    "chop, pan": ({"cut": "pork/chop", "shape": _slab(27), "start_c": 6}, [_pan(196, 100, 56), REST]),
    "lean game, pan": ({"cut": "venison/loin", "shape": _roll(48), "start_c": 6}, [_pan(218, 45, 42), REST]),
    "small loin, sear and oven": (
        {"cut": "venison/loin", "shape": _roll(52), "start_c": 8}, [_sear(220, 70), _oven(168, 44), REST],
    ),
    "duck breast, bath": (
        {"cut": "duck/breast", "shape": _slab(26), "start_c": 5},
        [_bath(60.5, 56), _sear(205, 60), REST],
    ),
    "lamb rump, pan and oven": (
        {"cut": "lamb/rump", "shape": _slab(46), "start_c": 6, "mass_g": 430}, [_sear(190, 120), _oven(192, 48), REST],
    ),
    "steak, gentle oven": (
        {"cut": "beef/strip-loin", "shape": _slab(39), "start_c": 6},
        [_sear(225, 45), _oven(112, 49), REST],
    ),
    "large bird": (
        {"cut": "turkey/whole", "shape": {"kind": "from_mass"}, "mass_g": 5700, "start_c": 5},
        [_oven(182, 70), REST],
    ),
    "roast": ({"cut": "beef/rib-roast", "shape": _roll(118), "start_c": 5}, [_oven(158, 49), REST]),
    "ham, simmered": (
        {"cut": "ham/whole", "shape": _roll(138), "start_c": 5},
        [{"kind": "simmer", "water_c": 83, "until": {"core_c": 65}}, REST],
    ),
    "tough cut, bath": ({"cut": "beef/short-rib", "shape": _slab(54), "start_c": 5}, [_bath(71, 66), REST]),
    "game bird breast, bath": (
        {"cut": "pheasant/breast", "shape": _slab(23), "start_c": 5},
        [_bath(62.5, 58), _sear(210, 30), REST],
    ),
    "steak, bath": (
        {"cut": "beef/strip-loin", "shape": _slab(37), "start_c": 5},
        [_bath(57.5, 53), _sear(228, 40), REST],
    ),
    "thick fish, pan and oven": (
        {"cut": "cod/fillet", "shape": _slab(34), "start_c": 6},
        [_sear(192, 60), _oven(178, 46, **{"in": "pan"}), REST],
    ),
    "salmon, gentle bath": ({"cut": "salmon/fillet", "shape": _slab(31), "start_c": 5}, [_bath(52, 47), REST]),
    "prawns, poached": (
        {"cut": "prawn/peeled", "shape": _roll(19), "start_c": 5},
        [{"kind": "poach", "water_c": 86, "until": {"core_c": 58}}, REST],
    ),
}  # fmt: skip
BATHS = ("bath", "simmer", "poach")


def job_plan(name: str) -> Plan:
    """The plan of a job."""
    piece, stages = JOBS[name]
    return parse_plan({"format": "open-ember/plan", "version": 1, "name": name, "piece": piece, "stages": stages})


def is_bath(plan: Plan) -> bool:
    """Whether it is pulled from water."""
    return plan.pull_stage is not None and plan.stages[plan.pull_stage].kind in BATHS


@dataclass(frozen=True)
class SimulatedCook:
    """A cook with a known truth: `true_s` when its core reached its target, `peak_c` its peak after that.

    `readings` [(s, °C)] up to then; `events` as a kitchen would record them. `far`: noise-free temperatures at other
    positions of the probe, °C by position.
    """

    job: str
    plan: Plan
    known: Planned
    events: tuple[Event, ...]
    readings: tuple[tuple[float, float], ...]
    true_s: float
    peak_c: float
    size: float
    transfer: float
    medium_k: float
    start_c: float
    t_s: FloatArray
    temperature_c: FloatArray
    x_m: FloatArray
    off_m: float

    def shown_at(self, off_m: float) -> FloatArray:
        """Reading of a probe at another position at `t_s`, without noise."""
        return lagged(self.t_s, place_of(self.temperature_c, self.x_m, off_m))


def place_of(temperature_c: FloatArray, x_m: FloatArray, off_m: float) -> FloatArray:
    """Temperatures at a position in the piece, by a parabola through the nearest nodes."""
    i = int(np.clip(np.searchsorted(x_m, off_m), 1, len(x_m) - 2))
    a, b, c = x_m[i - 1 : i + 2]
    return np.asarray(
        temperature_c[:, i - 1] * (off_m - b) * (off_m - c) / ((a - b) * (a - c))
        + temperature_c[:, i] * (off_m - a) * (off_m - c) / ((b - a) * (b - c))
        + temperature_c[:, i + 1] * (off_m - a) * (off_m - b) / ((c - a) * (c - b))
    )


def lagged(t_s: FloatArray, celsius: FloatArray) -> FloatArray:
    """A first-order lag, exact for input that is linear between the times."""
    shown = np.empty_like(celsius)
    shown[0] = celsius[0]
    for i in range(1, len(t_s)):
        h = t_s[i] - t_s[i - 1]
        slope = (celsius[i] - celsius[i - 1]) / h
        steady = celsius[i] - LAG_S * slope
        shown[i] = steady + (shown[i - 1] - celsius[i - 1] + LAG_S * slope) * np.exp(-h / LAG_S)
    return shown


def simulated_cook(job: str, random: np.random.Generator, every_s: float | None = None) -> SimulatedCook | None:
    """One cook of a job with its own truth; None if its core never reaches its target."""
    plan = job_plan(job)
    known = planned(plan)
    pull = plan.pull_stage or 0
    before = sum(known.seconds[:pull])
    events = tuple(Event(kind="started", s=sum(known.seconds[:i]), stage=i) for i in range(pull + 1))
    problem = make_problem(plan, TOLERANCE_K)
    size = 1 + SIZE_SHARE * random.uniform(-1, 1)
    centre = TRANSFER_CENTRE ** random.uniform(-1, 1)
    transfer = centre * (1 + TRANSFER_SHARE * random.uniform(-1, 1))
    media = MEDIUM_K * random.uniform(-1, 1, 3)
    media[0] = 0.0
    one = np.ones(1)
    start_c = plan.piece.start_c + START_K * random.uniform(-1, 1)
    members = Members(
        size * one, one, start_c * one, media[None],
        np.array([[1.0, transfer, transfer]]),
    )  # fmt: skip
    course, _ = thermal_history(problem, known.seconds, events, before, True)
    nodes = np.arange(len(problem.grid.x_m))
    want = known.pull_core_c
    end = course.follow(members, np.array([before]), nodes[:1], want)
    if not np.isfinite(end.crossed_s[0]):
        return None
    true_s = float(end.crossed_s[0])
    step = every_s if every_s is not None else 1.0 if true_s < 1500 else 5.0
    t = np.arange(0.0, true_s, step)
    temperature = course.follow(members, t, nodes, want).temperature_c[0]
    x = (problem.grid.x_m - problem.grid.x_m[problem.grid.core]) * size
    farthest = min(FARTHEST_M, FARTHEST_SHARE * problem.grid.half_m * size)
    off = farthest * random.uniform(-1 if problem.grid.two_faces else 0, 1)
    shown = lagged(t, place_of(temperature, x, off)) + NOISE_K * random.standard_normal(len(t))
    readings = tuple((float(s), float(c)) for s, c in zip(t, shown, strict=True))
    return SimulatedCook(
        job, plan, known, events, readings, true_s, float(end.peak_c[0]), size, transfer, float(media[1]), start_c,
        t,        temperature, x, float(off),
    )  # fmt: skip
