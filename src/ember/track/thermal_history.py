"""Thermal history of a cook: the conditions reported so far, and those of the plan still ahead."""

from __future__ import annotations

import itertools
import math
from collections.abc import Iterator, Sequence
from dataclasses import replace
from typing import Any

from ..files import stages as st
from ..files.base import MAX_STAGE_S
from ..files.plan import Plan
from ..files.track import Event
from ..heat.ensemble_runner import Phase, Stretch, ThermalHistory
from ..heat.faces import Segment, Setting, air, both, media
from ..heat.media import medium_c, segments
from ..heat.oven import with_door
from ..heat.problem import Problem
from .stage_intervals import OFF_HEAT, StageInterval, spans, stage_intervals

REFINE, TOLERANCE_K, FINEST_M = 0.4, 0.2, 0.6e-3
# How much longer than planned a stage may go on before the forecast gives up on it.
LONGEST_SHARE, LONGEST_MORE_S = 4.0, 1800.0
# Groups of members' media: not varied, the stage that is pulled from, the others that heat.
NONE, PULLED, OTHER = range(3)
COMES_BACK_S = 600.0  # an oven after its door

MEDIUM_KEYS: dict[str, tuple[str, ...]] = {
    "bath": ("water_c",), "pan": ("pan_c",), "plancha": ("plate_c",), "oven": ("air_c",), "fry": ("oil_c",),
    "simmer": ("water_c",), "poach": ("water_c",), "boil": ("water_c",), "grill": ("source_c",),
    "medium": ("medium_c",), "temper": ("air_c",), "rest": ("air_c",), "chill": ("air_c",), "brine": ("temp_c",),
    "freeze": ("air_c",), "thaw": ("air_c", "water_c"),
    "hold": ("air_c", "water_c"), "reheat": ("air_c", "water_c", "pan_c"),
}  # fmt: skip


def with_medium(stage: st.Stage, celsius: float) -> st.Stage:
    """The stage at another temperature; unchanged if it has none."""
    keys: dict[str, Any] = {
        key: celsius
        for key in MEDIUM_KEYS.get(stage.kind, ())
        if getattr(stage, key) is not None or len(MEDIUM_KEYS[stage.kind]) == 1
    }
    return stage.model_copy(update=keys)


def set_to_c(stage: st.Stage, index: int, events: Sequence[Event]) -> float:
    """Setting of a stage after these events, °C: as last changed, else as planned."""
    return medium_c(stage_as_set(stage, index, events))


def stage_as_set(stage: st.Stage, index: int, events: Sequence[Event], until_s: float = math.inf) -> st.Stage:
    """A stage with its last setting after these events, up to a time."""
    for event in sorted(events, key=lambda e: e.s):
        if event.kind == "setting" and event.s <= until_s and event.c is not None and event.stage in (None, index):
            stage = with_medium(stage, event.c)
    return stage


def thermal_history(
    problem: Problem, planned_s: Sequence[float], events: Sequence[Event], now_s: float, as_told: bool = False
) -> tuple[ThermalHistory, list[StageInterval]]:
    """The course up to now and on to the plan's end, and its stage intervals.

    `planned_s`: planned duration of each stage.
    """
    plan = problem.plan
    stays = stage_intervals(plan, planned_s, events, now_s, as_told)
    cuts = _Cuts(events, now_s)
    stretches: list[Stretch] = []
    phase: Phase = "apart"
    for stay in stays:
        if stay.stage == OFF_HEAT:  # it belongs to the stage before: a piece peaks on the board too
            then: Phase = "after" if phase == "looked" else phase
            stretches.append(Stretch(off_heat(problem.settings[0]), stay.to_s - stay.from_s, NONE, then))
            continue
        phase = _phase(plan, stay.stage)
        stretches += _lived(problem, stay, cuts, phase)
    stretches += _ahead(problem, planned_s, stays, cuts, now_s)
    return ThermalHistory(problem, tuple(s for s in stretches if s.seconds > 1e-6)), stays


class _Cuts:
    """Events of single moments."""

    def __init__(self, events: Sequence[Event], now_s: float) -> None:
        self.off = spans(events, "interrupted", "resumed", now_s)
        self.open = spans(events, "opened", "closed", now_s)
        self.settings = [e for e in sorted(events, key=lambda e: e.s) if e.kind == "setting" and e.s <= now_s]
        self.turns = sorted(e.s for e in events if e.kind == "turned" and e.s <= now_s)

    def within(self, a: float, b: float) -> list[float]:
        """Times of changed conditions between two times, ends included."""
        times = [t for span in (*self.off, *self.open) for t in span]
        times += [span[1] + COMES_BACK_S for span in self.open]
        times += [event.s for event in self.settings]
        return sorted({a, b, *(t for t in times if a < t < b)})

    def stage_at(self, stage: st.Stage, index: int, s: float) -> st.Stage:
        """A stage with the setting that applied at a time."""
        return stage_as_set(stage, index, self.settings, s)


def _is_in(spans_s: list[tuple[float, float]], s: float) -> bool:
    return any(a <= s < b for a, b in spans_s)


def _group(plan: Plan, index: int) -> int:
    if plan.stages[index].kind not in st.HEATING:
        return NONE
    return PULLED if index == plan.pull_stage else OTHER


def _phase(plan: Plan, index: int) -> Phase:
    if plan.pull_stage is None:
        return "apart"
    return "apart" if index < plan.pull_stage else "looked" if index == plan.pull_stage else "after"


def off_heat(setting: Setting) -> Segment:
    """On a rack in the kitchen's air."""
    return Segment(both(air(media()["vessel"]["air_c"], media()["rest-open"])), rim=setting.rim)


def _lived(problem: Problem, stay: StageInterval, cuts: _Cuts, phase: Phase) -> Iterator[Stretch]:
    plan = problem.plan
    group = _group(plan, stay.stage)
    setting = problem.settings[stay.stage]
    turns = [t - stay.from_s for t in cuts.turns if stay.from_s < t <= stay.to_s]
    times = cuts.within(stay.from_s, stay.to_s)
    kappa = problem.kappa(stay.stage)
    for a, b in itertools.pairwise(times):
        stage = cuts.stage_at(plan.stages[stay.stage], stay.stage, a)
        if _is_in(cuts.off, a):
            yield Stretch(off_heat(setting), b - a, NONE, phase)
        elif isinstance(stage, st.Oven) and _is_in(cuts.open, a):
            yield Stretch(_with_door(stage, setting, True), b - a, group, phase, kappa)
        elif isinstance(stage, st.Oven) and _is_in([(c, c + COMES_BACK_S) for _, c in cuts.open], a):
            yield Stretch(_with_door(stage, setting, False), b - a, group, phase, kappa)
        else:
            for segment, seconds in conditions(stage, setting, a - stay.from_s, b - a, turns):
                yield Stretch(segment, seconds, group, phase, kappa)


def _with_door(stage: st.Oven, setting: Setting, is_open: bool) -> Segment:
    return replace(with_door(stage, setting, is_open, None, _air_c(stage) if is_open else None), rim=setting.rim)


def _air_c(stage: st.Oven) -> float:
    return stage.air_c + stage.offset_k


def _ahead(
    problem: Problem, planned_s: Sequence[float], stays: list[StageInterval], cuts: _Cuts, now_s: float
) -> Iterator[Stretch]:
    plan, pull = problem.plan, problem.plan.pull_stage
    last = stays[-1] if stays else StageInterval(0, 0.0, 0.0, False)
    here = last if not last.ended else None
    first = here.stage if here else max((s.stage for s in stays), default=-1) + 1
    for i in range(first, len(plan.stages)):
        elapsed = now_s - here.from_s if here and here.stage == i else 0.0
        stage = cuts.stage_at(plan.stages[i], i, now_s)
        if i == pull:
            seconds = min(LONGEST_SHARE * planned_s[i] + LONGEST_MORE_S, MAX_STAGE_S)
            phase: Phase = "onward"
            stage = _turning_on(stage)
        else:
            seconds = max(planned_s[i] - elapsed, 0.0)
            phase = _phase(plan, i)
        turns = [t - here.from_s for t in cuts.turns if here.from_s < t] if here and here.stage == i else []
        for segment, lasts in conditions(stage, problem.settings[i], elapsed, seconds, turns):
            yield Stretch(segment, lasts, _group(plan, i), phase, problem.kappa(i))


def _turning_on(stage: st.Stage) -> st.Stage:
    """A stage by sides, turned at the same pace without end."""
    if isinstance(stage, st.BY_SIDES) and stage.seconds_a_side is not None:
        return stage.model_copy(update={"seconds_a_side": None, "sides": None, "turn_every_s": stage.seconds_a_side})
    return stage


def conditions(
    stage: st.Stage, setting: Setting, elapsed_s: float, seconds: float, turns_s: Sequence[float] = ()
) -> Iterator[tuple[Segment, float]]:
    """The conditions of a stage from `elapsed_s` on for some seconds, each with its duration.

    `turns_s`: when it was turned, from the stage's start; after the last it continues at the stage's own pace.
    """
    if isinstance(stage, st.BY_SIDES):
        whole = _exposed(stage, setting, turns_s)
    else:
        whole = ((segment, segment.duration_s) for segment in segments(stage, setting))
    at, end = 0.0, elapsed_s + seconds
    for segment, lasts in whole:
        to = end if lasts is None else at + lasts
        a, b = max(at, elapsed_s), min(to, end)
        if b - a > 1e-6:
            begun = replace(segment, duration_s=None, around_start_c=None) if a > at else segment
            yield begun, b - a
        at = to
        if at >= end - 1e-9:
            return
    if at < end - 1e-6:  # its own conditions are over, the piece is still there
        yield replace(segment, duration_s=None, around_start_c=None), end - max(at, elapsed_s)


def _exposed(stage: st.BySides, setting: Setting, turns_s: Sequence[float]) -> Iterator[tuple[Segment, float | None]]:
    """Exposures as they were turned, and at its own pace afterwards."""
    first, other = ("under", "top") if stage.first == "under" else ("top", "under")
    begun = 0.0
    number = 0
    while True:
        if number < len(turns_s):
            lasts: float | None = turns_s[number] - begun
        else:
            lasts = stage.side_s
        down = first if number % 2 == 0 else other
        once: dict[str, Any] = {"first": down, "sides": 1, "seconds_a_side": lasts, "turn_every_s": None, "rim_s": None}
        if lasts is None:
            once |= {"sides": None}
        if isinstance(stage, st.Pan) and stage.baste is not None:
            once["baste"] = stage.baste.model_copy(update={"from_s": max(stage.baste.from_s - begun, 0.0)})
        for segment in segments(stage.model_copy(update=once), setting):
            keep = segment if number == 0 else replace(segment, around_start_c=None)
            yield keep, segment.duration_s
        if lasts is None:
            return
        begun += lasts
        number += 1
