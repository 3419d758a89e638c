"""Effects of a hot hold: doneness drifts, water loss continues, and below the rule's temperature a time limit runs."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

import numpy as np

from ..files.plan import Plan
from ..files.result import HoldOut, HoldPoint, WarningOut
from ..files.stages import Hold
from ..heat.media import medium_c
from ..heat.trajectory import StageRun, Trajectory
from ..judge.doneness import Word, word_for
from ..judge.standards import Standard
from .phases import HOT_FROM_C

POINTS, SAMPLES = 9, 801
TELLS_PCT = 1.0  # a loss nobody sees is not told; common practice
TELLS_MIN = 1.0


def holds_of(plan: Plan, rules: Standard, trajectory: Trajectory, scale: Sequence[Word]) -> list[HoldOut]:
    """One for each hot hold of the plan, in order."""
    holds = []
    for index, (stage, run) in enumerate(zip(plan.stages, trajectory.stages, strict=True)):
        if isinstance(stage, Hold) and medium_c(stage) > HOT_FROM_C and run.end_s > run.start_s:
            holds.append(_hold(index, medium_c(stage), run, rules, trajectory, scale))
    return holds


def _hold(
    index: int, setting_c: float, run: StageRun, rules: Standard, trajectory: Trajectory, scale: Sequence[Word]
) -> HoldOut:
    rows = np.arange(run.first, run.last + 1)
    t = np.linspace(run.start_s, run.end_s, SAMPLES)
    core = trajectory.node_c(t, trajectory.grid.core)
    hottest = np.maximum(np.maximum.accumulate(core), float(trajectory.core_c[: run.first + 1].max()))
    mass = float((trajectory.rho_kg_m3 * trajectory.grid.volume).sum())
    by_row = 100.0 * (trajectory.lost_kg_m3[rows] @ trajectory.grid.volume) / mass
    lost_pct = np.interp(t, trajectory.t_s[rows], by_row)
    words = [word_for(scale, float(c)).word for c in hottest]
    passed = next((i for i, word in enumerate(words) if word != words[0]), None)
    minutes = (t - run.start_s) / 60.0
    return HoldOut(
        stage=index, setting_c=setting_c, minutes=round(float(minutes[-1]), 2), word=words[0], word_after=words[-1],
        stays_min=None if passed is None else round(float(minutes[passed]), 1),
        lost_pct=round(float(lost_pct[-1] - lost_pct[0]), 2), clock_min=_clock_min(rules, setting_c),
        points=[
            HoldPoint(
                minutes=round(float(minutes[i]), 2), core_c=round(float(core[i]), 2), word=words[i],
                yield_pct=round(100.0 - float(lost_pct[i]), 2),
            )
            for i in range(0, SAMPLES, SAMPLES // (POINTS - 1))
        ],
    )  # fmt: skip


def _clock_min(rules: Standard, setting_c: float) -> float | None:
    """Minutes allowed by time as the control if the hold is below the rule's temperature; None if heat is the
    control.
    """
    hot = rules.phases.get("hold-hot")
    if hot is None or hot.limit is None or setting_c >= hot.least_c(hot.limit):
        return None
    clock = rules.phases.get("time-control")
    allowed = hot.allowed_h if hot.allowed_h else (clock.hours if clock and clock.hours else 0.0)
    return 60.0 * allowed


def hold_warnings(holds: Sequence[HoldOut]) -> Iterator[WarningOut]:
    """Warnings about holds."""
    for hold in holds:
        if hold.stays_min is not None and hold.stays_min >= TELLS_MIN:
            text = f"Held at {hold.setting_c:.1f} °C it is {hold.word} for {hold.stays_min:.0f} min, then it goes on."
            yield WarningOut(code="hold-drifts", text=f"{text} It ends {hold.word_after}.")
        if hold.lost_pct >= TELLS_PCT:
            yield WarningOut(code="hold-dries", text=f"Held, it loses another {hold.lost_pct:.1f} % of its mass.")
        if hold.clock_min is not None and hold.minutes > hold.clock_min:
            over = hold.minutes - hold.clock_min
            text = f"Held at {hold.setting_c:.1f} °C time is the control: {hold.clock_min:.0f} min, {over:.0f} over."
            yield WarningOut(code="hold-clock", text=text)
