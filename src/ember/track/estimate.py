"""Estimation: from a cook's readings so far to when its core reaches the target."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace

import numpy as np

from ..files.plan import Plan
from ..files.track import Belief, Event, ProbeOut, ProbeReading, Spread, TrackRequest, TrackResult
from ..heat.ensemble_runner import ThermalHistory
from ..heat.grid import FloatArray
from ..heat.kappa import problem_to_follow
from ..heat.media import medium_c
from ..heat.simulate import simulate
from ..solve.log_ends import with_log_ends
from .beliefs import beliefs_of
from .fit import Fit, Fitting, binned
from .probe import Watched, watch
from .spread import Draws, draws_of
from .stage_intervals import OFF_HEAT, StageInterval
from .thermal_history import FINEST_M, REFINE, TOLERANCE_K, set_to_c, thermal_history
from .unknowns import Unknowns, unknowns_of

DECILES = (10, 50, 90)
MOST_PLACES = 5  # of a needle put in anew that are told apart; what was before counts as one
PLANNED_K, PLANNED_REFINE = 0.1, 0.5
TEACHING_K = 0.03  # what the coarse grid is off would be the same in every cook, and be learned


@dataclass(frozen=True)
class Planned:
    """What a plan predicts: duration of each stage, s, and the core at which it is pulled, °C."""

    seconds: tuple[float, ...]
    pull_core_c: float | None


def planned(plan: Plan) -> Planned:
    """Simulate the plan itself. Raises like simulate."""
    run = simulate(with_log_ends(plan), PLANNED_K, PLANNED_REFINE)
    pull = plan.pull_stage
    core = None if pull is None else float(run.core_c[run.stages[pull].last])
    return Planned(tuple(stage.end_s - stage.start_s for stage in run.stages), core)


@dataclass(frozen=True)
class Estimate:
    """A forecast with its origin."""

    course: ThermalHistory
    unknowns: Unknowns
    fit: Fit
    draws: Draws
    probe: Watched
    beliefs: list[Belief]
    want_c: float | None
    used: int


@dataclass(frozen=True)
class Fitted:
    """The posterior of a cook's readings, and what it was made with."""

    plan: Plan
    course: ThermalHistory
    stays: list[StageInterval]
    fitting: Fitting
    fit: Fit
    probe: Watched


def fitted(
    plan: Plan, known: Planned, events: Sequence[Event], readings: Sequence[ProbeReading], now_s: float,
    as_told: bool = False, lag_s: float = 5.0, start: FloatArray | None = None,
    medium_seen: tuple[float, float] | None = None, spare: Iterable[Sequence[ProbeReading]] = (),
    to_teach: bool = False, searched_misfit: float | None = None,
) -> Fitted:  # fmt: skip
    """The posterior of a cook at `now_s`, s from its start.

    `readings`: (s, °C), in any order; later ones are ignored. `start`: the mode of an earlier estimate of the same
    cook, to continue from; it changes the work, not the answer. `searched_misfit`: as in `Fitting.fit`. `medium_seen`:
    the medium of the pull stage by a probe of its own, (K hotter than set, standard deviation). `spare`: readings of
    other probes in the piece, one of which counts if the first cannot be trusted. `to_teach`: as accurately as
    possible, however long it takes.
    """
    plan = with_log_ends(plan)
    tolerance_k, refine, finest_m = (TEACHING_K, 1.0, None) if to_teach else (TOLERANCE_K, REFINE, FINEST_M)
    problem = problem_to_follow(plan, tolerance_k, refine, finest_m)
    course, stays = thermal_history(problem, known.seconds, events, now_s, as_told)
    moments = sorted({e.s for e in events if e.s <= now_s} | {stay.from_s for stay in stays})
    replaced = [e.s for e in events if e.kind == "probe-moved" and e.s <= now_s]
    around_c = _around_c(plan, stays)

    def watched(one: Sequence[ProbeReading]) -> Watched:
        seen = sorted((reading for reading in one if reading[0] <= now_s), key=lambda reading: reading[0])
        return watch(seen, moments, replaced, now_s, around_c)

    probe = _first_to_trust(watched(readings), map(watched, spare))
    places = replaced[-MOST_PLACES:]
    data = binned(probe.believed, moments, places)
    unknowns = unknowns_of(course, len(places) + 1, medium_seen)
    if start is not None and len(start) != unknowns.count:
        start = searched_misfit = None
    fitting = Fitting(course, unknowns, data, lag_s, to_teach=to_teach)
    return Fitted(plan, course, stays, fitting, fitting.fit(start, searched_misfit), probe)


def _first_to_trust(first: Watched, spare: Iterable[Watched]) -> Watched:
    """The first probe's diagnosis, with the readings of another one that can be trusted if it cannot."""
    if first.state in ("ok", "none"):
        return first
    for other in spare:
        if other.state == "ok":
            return replace(first, believed=other.believed)
        if other.state == "none":
            break
    return first


def estimate(
    plan: Plan, known: Planned, events: Sequence[Event], readings: Sequence[ProbeReading], now_s: float,
    want_c: float | None = None, as_told: bool = False, lag_s: float = 5.0, start: FloatArray | None = None,
    medium_seen: tuple[float, float] | None = None, spare: Iterable[Sequence[ProbeReading]] = (),
    searched_misfit: float | None = None,
) -> Estimate:  # fmt: skip
    """The posterior of a cook at `now_s` from `fitted`, and the forecast from it."""
    found = fitted(
        plan, known, events, readings, now_s, as_told, lag_s, start, medium_seen, spare, searched_misfit=searched_misfit
    )
    plan, fit, unknowns = found.plan, found.fit, found.fitting.unknowns
    want = want_c if want_c is not None else known.pull_core_c
    rising = want is None or want >= plan.piece.start_c
    left_s = _left_s(plan, known, found.stays, now_s)
    draws = draws_of(found.course, found.fitting, fit, now_s, want, rising, left_s)
    pull = plan.pull_stage
    set_c = 0.0 if pull is None else set_to_c(plan.stages[pull], pull, [e for e in events if e.s <= now_s])
    beliefs = beliefs_of(plan, unknowns, fit, set_c)
    return Estimate(found.course, unknowns, fit, draws, found.probe, beliefs, want, len(found.probe.believed))


def _left_s(plan: Plan, known: Planned, stays: Sequence[StageInterval], now_s: float) -> float:
    """Planned time left to the pull, s."""
    here = next((stay for stay in reversed(stays) if stay.stage != OFF_HEAT), None)
    if plan.pull_stage is None or here is None or here.stage > plan.pull_stage:
        return 0.0
    return max(sum(known.seconds[here.stage : plan.pull_stage + 1]) - (now_s - here.from_s), 0.0)


def _around_c(plan: Plan, stays: Sequence[StageInterval]) -> float | None:
    """Temperature around the piece."""
    here = stays[-1].stage if stays else OFF_HEAT
    return medium_c(plan.stages[here]) if here != OFF_HEAT and not stays[-1].ended else None


def _spread(values: FloatArray, digits: int) -> Spread:
    low, middle, high = np.percentile(values, DECILES, method="lower")
    deciles = [round(float(v), digits) if np.isfinite(v) else None for v in (low, middle, high)]
    return Spread(p10=deciles[0], p50=deciles[1], p90=deciles[2])


def track(request: TrackRequest) -> TrackResult:
    """Answer a track request. Raises BadInput and NeverReached like the simulation of its plan."""
    known = planned(request.plan)
    estimated = estimate(
        request.plan, known, request.events, request.readings, request.now_s,
        request.want.core_c if request.want else None, request.moves == "as-told", request.probe_lag_s,
    )  # fmt: skip
    return result_of(estimated)


def result_of(estimated: Estimate) -> TrackResult:
    """The estimate in the published format."""
    now = _spread(estimated.draws.core_now_c, 2)
    return TrackResult(
        want_c=None if estimated.want_c is None else round(estimated.want_c, 2),
        reaches_want_at_s=None if estimated.want_c is None else _spread(estimated.draws.crossed_s, 1),
        peak_c=_spread(estimated.draws.peak_c, 2),
        core_c_now=now.p50 if now.p50 is not None else 0.0,
        core_c_now_spread=now,
        probe=ProbeOut(state=estimated.probe.state, since_s=estimated.probe.since_s, text=estimated.probe.text),
        beliefs=estimated.beliefs,
        by="readings" if estimated.used else "plan",
        readings_used=estimated.used,
    )
