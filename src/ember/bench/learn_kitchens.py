"""Simulated kitchens whose ovens, baths, pans and cuts have known offsets, and cooks in them."""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np

from ..errors import EmberError
from ..face.bands import edge_mm
from ..face.palette import bands_of, is_red
from ..files.plan import Plan, parse_plan
from ..files.track import Event
from ..heat.ensemble_runner import Members
from ..heat.grid import FloatArray
from ..heat.problem import Problem, make_problem
from ..heat.simulate import TOLERANCE_K
from ..learn.evidence import watching
from ..learn.face_evidence import FLAT_C, FaceSeen, from_top, looks_of_course
from ..learn.pool import Observed
from ..learn.study import Cook
from ..track.estimate import Planned, planned
from ..track.thermal_history import thermal_history
from .track_jobs import Stage, lagged, place_of

Thing = tuple[str, str]
Cooked = tuple[Plan, tuple[Thing | None, Thing | None, Thing | None]]
Faces = Literal["none", "beside", "instead"]
# How far off the things of a kitchen are, one deviation: K, log factors.
OFF = {"oven": 8.0, "bath": 0.9, "pan": 0.30, "cut": 0.08}
# How much single cooks deviate from that, one deviation.
COOK_SIZE, COOK_TRANSFER = 0.05, 0.10
COOK_MEDIUM_K = {"oven": 3.0, "bath": 0.25, "pan": 6.0}
START_K, NOISE_K = 1.5, 0.2
PLACED_M, PLACED_SHARE, FARTHEST_SHARE = 3e-3, 0.10, 0.6  # how far off the middle a needle is, and its most
EVERY_S, MOST = 20.0, 240
READ_MM, READ_K, CLEAR_K = 0.5, 1.5, 1.0  # how far faces are read off, and how near the middle no edge is seen
VESSEL = {"mass_kg": 1.9, "material": "carbon-steel", "diameter_mm": 290}
REST: Stage = {"kind": "rest", "air_c": 22, "minutes": 6}


def _plan(cut: str, mass_g: float, shape: dict[str, object], stages: list[Stage]) -> Plan:
    piece = {"cut": cut, "mass_g": mass_g, "shape": shape, "start_c": 5}
    document = {"format": "open-ember/plan", "version": 1, "name": cut, "piece": piece, "stages": [*stages, REST]}
    return parse_plan(document)


def menu() -> list[Cooked]:
    """Plans with the equipment they are cooked on: for size, medium and transfer."""
    by_mass: dict[str, object] = {"kind": "from_mass"}
    one, two, bath, pan = ("oven", "Oven 1"), ("oven", "Oven 2"), ("bath", "Bath A"), ("pan", "Pan 1")

    def measured(mm: float) -> dict[str, object]:
        return {"kind": "slab", "thickness_mm": mm}

    def oven(air_c: float, core_c: float) -> list[Stage]:
        return [{"kind": "oven", "air_c": air_c, "until": {"core_c": core_c}}]

    def in_pan(core_c: float) -> list[Stage]:
        return [{"kind": "pan", "pan_c": 205, "pan": VESSEL, "turn_every_s": 60, "until": {"core_c": core_c}}]

    return [
        (_plan("turkey/whole", 5300, by_mass, oven(175, 68)), (("cut", "turkey/whole"), one, None)),
        (_plan("chicken/whole", 1650, by_mass, oven(185, 70)), (("cut", "chicken/whole"), two, None)),
        (_plan("lamb/rump", 400, measured(44), oven(165, 50)), (None, one, None)),
        (_plan("salmon/fillet", 190, measured(30), oven(150, 44)), (None, two, None)),
        (_plan("duck/breast", 210, measured(27), [{"kind": "bath", "water_c": 59, "until": {"core_c": 55}}]),
         (None, bath, None)),
        (_plan("pork/chop", 260, measured(30), in_pan(55)), (None, None, pan)),
    ]  # fmt: skip


def steaks() -> list[Cooked]:
    """Red meat from a pan, whose face tells of it."""
    measured: dict[str, object] = {"kind": "slab", "thickness_mm": 32}
    pan: Stage = {"kind": "pan", "pan_c": 210, "pan": VESSEL, "turn_every_s": 60, "until": {"core_c": 50}}
    return [(_plan("beef/ribeye", 340, measured, [pan]), (None, None, ("pan", "Pan 1")))]


@dataclass(frozen=True)
class Kitchen:
    """True offsets of the equipment."""

    truth: dict[Thing, float]


def a_kitchen(random: np.random.Generator) -> Kitchen:
    """A kitchen with random offsets."""
    things = sorted({thing for _, things_used in menu() for thing in things_used if thing is not None})
    return Kitchen({thing: float(random.normal(0.0, OFF[thing[0]])) for thing in things})


def cooks_of(
    kitchen: Kitchen, each: int, random: np.random.Generator, plans: Sequence[Cooked] = (), faces: Faces = "none"
) -> Iterator[Cook]:  # fmt: skip
    """Finished cooks, `each` of every plan; those whose core never reached its target are left out. `faces`: "none" is
    photographed, or they are "beside" the probe, or "instead" of it in every other cook.
    """
    for number in range(each):
        for index, (plan, things) in enumerate(plans or menu()):
            how: Faces = "beside" if faces == "instead" and number % 2 == 0 else faces
            simulated = _cook(f"{index}-{number}", plan, things, kitchen, random, how)
            if simulated is not None:
                yield simulated


def _cook(
    key: str, plan: Plan, things: tuple[Thing | None, Thing | None, Thing | None], kitchen: Kitchen,
    random: np.random.Generator, faces: Faces = "none",
) -> Cook | None:  # fmt: skip
    off = [kitchen.truth[thing] if thing else 0.0 for thing in things]
    kind = plan.stages[plan.pull_stage or 0].kind
    size = math.exp(off[0] + random.normal(0.0, COOK_SIZE))
    medium = off[1] + random.normal(0.0, COOK_MEDIUM_K[kind])
    transfer = math.exp(off[2] + random.normal(0.0, COOK_TRANSFER))
    try:
        warmer_k = random.normal(0.0, START_K)
        readings, events, end_s = _lived(plan, size, medium, transfer, random, warmer_k)
        (slicing,) = random.spawn(1)  # the same cooks, whether they are sliced or not
        face = None if faces == "none" else _face(plan, size, medium, transfer, warmer_k, slicing)
        shown = [] if faces == "instead" and face is not None else readings
        seen = watching(plan, planned(plan), events, shown, end_s, face)
    except EmberError:
        return None
    if seen is None:
        return None
    spreads = ("size:mass" if things[0] else "size:measured", f"medium:{kind}",
               "transfer:pan" if kind == "pan" else "transfer:other")  # fmt: skip
    return Cook(key, seen, Observed(seen.evidence, things, spreads))


def _lived(
    plan: Plan, size: float, medium_k: float, transfer: float, random: np.random.Generator, warmer_k: float = 0.0
) -> tuple[list[tuple[float, float]], list[Event], float]:
    """Readings, events and the end of a cook that is pulled by the clock of its plan."""
    known = planned(plan)
    pulled_s = sum(known.seconds[: (plan.pull_stage or 0) + 1])
    end_s = pulled_s + 0.5 * known.seconds[-1]
    t = np.linspace(0.0, end_s, int(min(max(end_s / EVERY_S, 40), MOST)))
    problem, events, temperature = _truth(plan, known, size, medium_k, transfer, warmer_k, t)
    x: FloatArray = (problem.grid.x_m - problem.grid.x_m[problem.grid.core]) * size
    half_m = problem.grid.half_m * size
    off_m = float(
        np.clip(max(PLACED_M, PLACED_SHARE * half_m) * random.normal(), *(FARTHEST_SHARE * half_m * np.array([-1, 1])))
    )
    off_m = off_m if problem.grid.two_faces else abs(off_m)
    shown = lagged(t, place_of(temperature, x, off_m)) + NOISE_K * random.standard_normal(len(t))
    return [(float(s), float(c)) for s, c in zip(t, shown, strict=True)], events, end_s


def _truth(
    plan: Plan, known: Planned, size: float, medium_k: float, transfer: float, warmer_k: float, t: FloatArray
) -> tuple[Problem, list[Event], FloatArray]:
    """The piece, what was tapped, and the temperatures [time, node] of a cook that goes by the clock of its plan."""
    events = [Event(kind="started", s=sum(known.seconds[:i]), stage=i) for i in range(len(plan.stages))]
    problem = make_problem(plan, TOLERANCE_K)
    course, _ = thermal_history(problem, known.seconds, events, sum(known.seconds), True)
    one = np.ones(1)
    members = Members(
        size * one, one, (plan.piece.start_c + warmer_k) * one, np.array([[0.0, medium_k, 0.0]]),
        np.array([[1.0, transfer, transfer]]),
    )  # fmt: skip
    return problem, events, course.follow(members, t, np.arange(len(problem.grid.x_m))).temperature_c[0]


def _face(
    plan: Plan, size: float, medium_k: float, transfer: float, warmer_k: float, random: np.random.Generator
) -> FaceSeen | None:  # fmt: skip
    """The face of such a cook as it was sliced at the end, read with errors; None if it shows nothing but its crust."""
    known = planned(plan)
    end_s = sum(known.seconds)
    t = np.linspace(0.0, end_s, MOST)
    problem, _, temperature = _truth(plan, known, size, medium_k, transfer, warmer_k, t)
    grid, cut_id = problem.grid, plan.piece.cut
    looks, share = from_top(looks_of_course(cut_id, t, temperature), grid.x_m, grid.two_faces)
    mm = 2e3 * grid.half_m * size
    coldest = int(np.argmin(looks))
    middle = float(looks[coldest]) + random.normal(0.0, READ_K)
    edges = []
    for celsius, _ in bands_of(cut_id)[1:-1]:
        if looks[coldest] >= celsius - CLEAR_K:
            break
        for from_above in (True, False):
            depth = share[: coldest + 1] if from_above else 1.0 - share[coldest:][::-1]
            heat = looks[: coldest + 1] if from_above else looks[coldest:][::-1]
            edges.append((celsius, from_above, edge_mm(depth, heat, celsius) + random.normal(0.0, READ_MM) / mm))
        if looks[coldest] >= celsius:
            break
    says = is_red(cut_id) and middle < FLAT_C
    return FaceSeen(cut_id, mm, tuple(edges), middle if says else None, end_s) if edges or says else None
