"""What a cook should know before starting: codes for programs, texts for people."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from ..files.plan import Plan
from ..files.result import WarningOut
from ..files.stages import Bath, Pan
from ..heat.pan import covered_share
from ..heat.problem import settings_of
from ..judge.doneness import Word
from ..kinetics.lethality import FLOOR_C
from ..kinetics.scorch import burnt
from .outcome import Outcome

STILL_RISING_K_MIN = 0.5
DANGER_C = (5.0, 57.0)  # US Food Code holding limits, 41 and 135 °F
DANGER_MAX_S = 4 * 3600.0  # US Food Code 3-501.19(B), time as a control
BROWNS_FROM_C, OIL_BEARS_C = 130.0, 290.0  # common practice
CROWDED_SHARE, TOO_COOL_TO_BROWN_C = 0.7, 170.0  # common practice


def warnings_of(plan: Plan, target: Word | None, outcome: Outcome) -> list[WarningOut]:
    """All warnings, the most telling first."""
    found = [
        *_target(target, outcome),
        *_never(plan, target, outcome),
        *_rub(plan, outcome),
        *_still_rising(plan, outcome),
        *_danger(outcome),
        *_stages(plan, outcome),
    ]
    return [WarningOut(code=code, text=text) for code, text in found]


def _target(target: Word | None, outcome: Outcome) -> Iterator[tuple[str, str]]:
    if target is None:
        return
    peak_c = outcome.peak_c
    if peak_c > target.high_c and not target.last:
        over = peak_c - target.high_c
        yield "over-target", f"The core peaks at {peak_c:.1f} °C, {over:.1f} over {target.word}."
    elif peak_c < target.low_c - 0.05:
        under = target.low_c - peak_c
        yield "under-target", f"The core peaks at {peak_c:.1f} °C, {under:.1f} under {target.word}."


def _never(plan: Plan, target: Word | None, outcome: Outcome) -> Iterator[tuple[str, str]]:
    """A doneness that no time at its temperature makes meet the rule, and what is usual instead."""
    lowest = outcome.coldest_rule_c
    if target is None or lowest is None or target.last or target.high_c >= lowest or outcome.verdict.met:
        return
    instead = f"Usual instead: longer at {lowest:.0f} °C or hotter, or another cut"
    if plan.guests == "general" and outcome.verdict.advisory_allowed:
        instead = f"Usual instead: longer at {lowest:.0f} °C or hotter, its advisory on the menu, or another cut"
    yield "never-meets", f"{target.word.capitalize()} cannot meet the rule at any time. {instead}."


def _rub(plan: Plan, outcome: Outcome) -> Iterator[tuple[str, str]]:
    """Spices on a face that gets too hot for them."""
    run = outcome.trajectory
    for step in plan.prep:
        if step.kind != "rub" or step.before >= len(run.stages):
            continue
        rows = slice(run.stages[step.before].first, None)
        for side in (0, 1) if run.grid.two_faces else (1,):
            gone = burnt(run.t_s[rows], run.browning_c[rows, side])
            if gone:
                names = " and ".join(sorted(gone, key=lambda name: -gone[name])[:2])
                yield (
                    "rub-burns",
                    f"A rub put on before stage {step.before + 1} burns ({names}): rub it after the sear.",
                )
                return


def _still_rising(plan: Plan, outcome: Outcome) -> Iterator[tuple[str, str]]:
    rate = float(outcome.trajectory.slope_k_s[-1, outcome.trajectory.grid.core]) * 60.0
    if plan.pull_stage is not None and rate > STILL_RISING_K_MIN:
        yield "still-rising", "The core is still rising when the plan ends: rest it longer."


def _danger(outcome: Outcome) -> Iterator[tuple[str, str]]:
    between = (outcome.coldest_c > DANGER_C[0]) & (outcome.coldest_c < DANGER_C[1])
    spent = float((np.diff(outcome.time_s) * (between[1:] & between[:-1])).sum())
    if spent > DANGER_MAX_S:
        text = f"The core spends {spent / 3600:.1f} h between 5 °C and 57 °C; 4 h is the usual limit."
        yield "danger-zone", text


def _stages(plan: Plan, outcome: Outcome) -> Iterator[tuple[str, str]]:
    settings = settings_of(plan)
    for i, stage in enumerate(plan.stages):
        if isinstance(stage, Bath) and stage.water_c < FLOOR_C and (stage.minutes or 0) > 4 * 60:
            text = f"Stage {i + 1}: water under 54.4 °C does not pasteurise; 4 h is the usual limit."
            yield "cold-bath", text
        if not isinstance(stage, Pan):
            continue
        hot = stage.pan_c if stage.pan_c is not None else stage.starts_at_c
        if hot < BROWNS_FROM_C and stage.start == "hot":
            yield "pan-heat", f"Stage {i + 1}: a pan at {hot:g} °C is too cool to brown."
        if hot > OIL_BEARS_C:
            yield "pan-heat", f"Stage {i + 1}: a pan at {hot:g} °C is hotter than most oils bear."
        covered = covered_share(stage, settings[i])
        run = outcome.trajectory.stages[i]
        coldest = float(np.nanmin(outcome.trajectory.around_c[run.first : run.last + 1]))
        if covered > 1.0 and stage.pan is not None:
            yield "crowded", f"Stage {i + 1}: the pieces do not fit this pan; they would cover {covered:.1f} of it."
        elif stage.pan is not None and covered > CROWDED_SHARE:
            yield "crowded", f"Stage {i + 1}: the pan is {100 * covered:.0f} % covered; they will steam, not brown."
        if hot >= TOO_COOL_TO_BROWN_C > coldest and stage.start == "hot":
            yield "pan-falls", f"Stage {i + 1}: the pan falls to {coldest:.0f} °C, too cool to brown."
