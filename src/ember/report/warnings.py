"""What a cook should know before starting: codes for programs, texts for people."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

import numpy as np

from ..files.plan import Plan
from ..files.result import RubOut, WarningOut
from ..files.stages import BY_SIDES, CAN_BE_LOADED, Bath, Pan, Stage
from ..food.catalogue import Cut
from ..food.geometry import body_size
from ..heat.load import at_once
from ..heat.pan import covered_share
from ..heat.problem import density_of, settings_of
from ..judge.doneness import Word
from ..kinetics.lethality import FLOOR_C
from .outcome import Outcome

STILL_RISING_K_MIN = 0.5
DANGER_C = (5.0, 57.0)  # US Food Code holding limits, 41 and 135 °F
DANGER_MAX_S = 4 * 3600.0  # US Food Code 3-501.19(B), time as a control
BROWNS_FROM_C, OIL_BEARS_C = 130.0, 290.0  # common practice
CURLS_UNDER_MM = 32.0  # common practice
LOADED_NAMES = {"bath": "bath", "fry": "oil", "oven": "oven"}
CROWDED_SHARE, TOO_COOL_TO_BROWN_C = 0.7, 170.0  # common practice


def warnings_of(
    plan: Plan, target: Word | None, outcome: Outcome, rubs: Sequence[RubOut], cut_entry: Cut
) -> list[WarningOut]:
    """All warnings, the most important first."""
    warnings = [
        *_target(target, outcome),
        *_never(plan, target, outcome),
        *_rub(plan, rubs),
        *_curl(plan, cut_entry, outcome),
        *_still_rising(plan, outcome),
        *_danger(outcome),
        *_stages(plan, outcome),
    ]
    return [WarningOut(code=code, text=text) for code, text in warnings]


def _target(target: Word | None, outcome: Outcome) -> Iterator[tuple[str, str]]:
    if target is None:
        return
    peak_c = outcome.peak_c
    if peak_c > target.high_c + 0.05 and not target.last:
        over = peak_c - target.high_c
        yield "over-target", f"The core peaks at {peak_c:.1f} °C, {over:.1f} over {target.word}."
    elif peak_c < target.low_c - 0.05:
        under = target.low_c - peak_c
        yield "under-target", f"The core peaks at {peak_c:.1f} °C, {under:.1f} under {target.word}."


def _never(plan: Plan, target: Word | None, outcome: Outcome) -> Iterator[tuple[str, str]]:
    """A doneness that never meets the rule at its temperature, and the usual alternative."""
    lowest = outcome.coldest_rule_c
    if target is None or lowest is None or target.last or target.high_c >= lowest or outcome.verdict.met:
        return
    instead = f"Usual instead: longer at {lowest:.0f} °C or hotter, or another cut"
    if plan.guests == "general" and outcome.verdict.advisory_allowed:
        instead = f"Usual instead: longer at {lowest:.0f} °C or hotter, its advisory on the menu, or another cut"
    yield "never-meets", f"{target.word.capitalize()} cannot meet the rule at any time. {instead}."


def _rub(plan: Plan, rubs: Sequence[RubOut]) -> Iterator[tuple[str, str]]:
    """Spices on a face that gets too hot for them."""
    for rub in rubs:
        if rub.burns:
            names = " and ".join(rub.burns[:2])
            what = "rub" if plan.prep[rub.step].kind == "rub" else "seasoning"
            remedy = "put it on after browning" if not rub.other_burns else "leave it out"
            yield "rub-burns", f"A {what} put on before stage {rub.before + 1} burns ({names}): {remedy}."


def _curl(plan: Plan, cut_entry: Cut, outcome: Outcome) -> Iterator[tuple[str, str]]:
    """A rim of fat, sinew or skin that shrinks more than the flesh lifts a thin piece off its pan."""
    flat = outcome.trajectory.grid.two_faces
    done = {step.kind for step in plan.prep}
    pans = [i for i, stage in enumerate(plan.stages) if isinstance(stage, BY_SIDES)]
    if not (cut_entry.curls and flat and pans) or done & {"snip", "score"}:
        return
    if body_size(plan.piece, cut_entry, density_of(plan)).size_mm <= CURLS_UNDER_MM:
        what = "The skin shrinks and it curls: score it, or press it flat" if cut_entry.curls == "skin" else (
            "The rim shrinks and it curls off the pan: snip it every 3 cm"
        )  # fmt: skip
        yield "curls", f"Stage {pans[0] + 1}: {what}."


def _still_rising(plan: Plan, outcome: Outcome) -> Iterator[tuple[str, str]]:
    rate = float(outcome.trajectory.slope_k_s[-1, outcome.trajectory.grid.core]) * 60.0
    at_its_peak = outcome.peak_c - float(outcome.trajectory.core_c[-1]) < STILL_RISING_K_MIN
    if plan.pull_stage is not None and at_its_peak and rate > STILL_RISING_K_MIN:
        yield "still-rising", "The core is still rising when the plan ends. Rest it longer."


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
        if isinstance(stage, Bath) and stage.lies == "against":
            yield "touching", f"Stage {i + 1}: pieces that touch are coldest where they touch. Probe there."
        if isinstance(stage, CAN_BE_LOADED) and stage.load is not None:
            yield from _load(stage, stage.load.pieces or plan.piece.count, i, outcome)
        if isinstance(stage, Pan):
            run = outcome.trajectory.stages[i]
            coldest = float(np.nanmin(outcome.trajectory.around_c[run.first : run.last + 1]))
            for code, text in _pan(stage, covered_share(stage, settings[i]), coldest):
                yield code, f"Stage {i + 1}: {text}"


def _load(stage: Stage, pieces: int, i: int, outcome: Outcome) -> Iterator[tuple[str, str]]:
    """A load that cools what holds it by more than it bears, and how many go in at once instead."""
    run = outcome.trajectory.stages[i]
    around = outcome.trajectory.around_c[run.first : run.last + 1]
    fit = at_once(stage, pieces, float(around[0] - around.min()))
    if fit is None:
        return
    split = (
        f"at most {fit} at once, each batch once it is hot again" if fit else "put in less at once, or use more of it"
    )
    name = LOADED_NAMES.get(stage.kind, "water")
    yield "load-cools", f"Stage {i + 1}: the {name} falls to {around.min():.1f} °C under this load; {split}."


def _pan(stage: Pan, covered: float, coldest: float) -> Iterator[tuple[str, str]]:
    """Warnings of a pan by its temperature, the share of it under food, and the lowest it falls to, °C."""
    hot = stage.pan_c if stage.pan_c is not None else stage.starts_at_c
    if hot < BROWNS_FROM_C and stage.start == "hot":
        yield "pan-heat", f"a pan at {hot:g} °C is too cool to brown."
    if hot > OIL_BEARS_C:
        yield "pan-heat", f"a pan at {hot:g} °C is hotter than most oils can take."
    if stage.pan is not None and covered > 1.0:
        yield "crowded", f"the pieces do not fit this pan; they would cover {covered:.1f} of it."
    elif stage.pan is not None and covered > CROWDED_SHARE:
        yield "crowded", f"the pan is {100 * covered:.0f} % covered; they will steam, not brown."
    if hot >= TOO_COOL_TO_BROWN_C > coldest and stage.start == "hot":
        yield "pan-falls", f"the pan falls to {coldest:.0f} °C, too cool to brown."
