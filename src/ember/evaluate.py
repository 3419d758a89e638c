"""From a plan to its result: simulate, integrate the kinetics, judge, and collect what a cook needs."""

from __future__ import annotations

from concurrent.futures import ThreadPoolExecutor
from functools import partial

import numpy as np

from .errors import BadInput
from .files.plan import Plan
from .files.result import AdviceOut, BatchEndOut, Result
from .files.stages import BY_SIDES
from .food.catalogue import Cut, cut
from .food.geometry import body_size, mass_of, with_size
from .heat.media import hottest_c
from .heat.problem import as_cooked, density_of
from .heat.simulate import simulate, simulate_roughly
from .judge.doneness import Word, named, scale_of, word_for
from .judge.standards import Standard, standard
from .report.assumed import width_warning
from .report.brines import brine_warnings, brines_of
from .report.cautions import cautions_of
from .report.curves import curves_of, depth_map_of, pull_of, rounded, stages_of
from .report.flesh import cut_face_of, firmness_of, tenderness_of
from .report.holds import hold_warnings, holds_of
from .report.outcome import Outcome, browning_of, core_out, doneness_out, outcome_of, safety_out
from .report.parts import parts_of
from .report.phases import phases_of
from .report.places import evenness_pct, places_of, section_of
from .report.rubs import rubs_of
from .report.serves import hands_on_min, serves_of
from .report.warnings import warnings_of
from .solve.log_ends import with_log_ends
from .solve.pull import for_peak, timed, window_s


def scale_for(plan: Plan) -> tuple[Word, ...]:
    """The doneness scale of the plan's piece."""
    own = plan.piece.own_cut
    return scale_of(cut(plan.piece.cut).doneness, own.doneness if own else ())


def target_of(plan: Plan) -> Word | None:
    """The plan's target as a range of peak core temperatures, °C."""
    if plan.target is None:
        return None
    scale = scale_for(plan)
    if plan.target.doneness is not None:
        return named(scale, plan.target.doneness)
    wanted = plan.target.core_c or 0.0
    return Word(word_for(scale, wanted).word, wanted - 1.0, wanted + 1.0)


def _advice(plan: Plan, target: Word | None, outcome: Outcome) -> AdviceOut | None:
    """How to end the pull stage if the plan misses its target."""
    peak_c = outcome.peak_c
    if target is None or (target.low_c - 0.05 <= peak_c and (peak_c <= target.high_c or target.last)):
        return None
    index = plan.pull_stage
    better = for_peak(plan, target.aim_c, outcome.trajectory)
    if index is None or better is None:
        return None
    stage = better.stage
    by_sides = isinstance(stage, BY_SIDES) and stage.exposures is not None
    return AdviceOut(
        stage=index,
        reading_c=None if by_sides else round(better.reading_c, 1),
        minutes=round(better.seconds / 60.0, 2),
        seconds_a_side=stage.seconds_a_side if isinstance(stage, BY_SIDES) else None,
        peak_c=round(better.peak_c, 2),
    )


def _end_of_batch(
    fixed: Plan, cut_entry: Cut, rules: Standard, target: Word | None, times_s: list[float], size_mm: float
) -> BatchEndOut:
    """The same times with a piece of another size."""
    piece = with_size(fixed.piece, cut_entry, density_of(fixed), size_mm)
    run = simulate if piece.outline is None else simulate_roughly
    outcome = outcome_of(fixed, cut_entry, rules, run(fixed.model_copy(update={"piece": piece})))
    pull = pull_of(outcome.trajectory, fixed.pull_stage)
    return BatchEndOut(
        size_mm=round(size_mm, 2), peak_c=round(outcome.peak_c, 2), word=outcome.word.word,
        safety_met=outcome.verdict.met, safety_words=outcome.verdict.words,
        pull=pull, core=core_out(outcome, pull.s if pull else 0.0), doneness=doneness_out(outcome, target, None),
        lethality=outcome.lethality, safety=[safety_out(rules, outcome.verdict)],
        yield_pct=round(100.0 * (1.0 - outcome.trajectory.water_lost_share), 2),
        curve_c=rounded(outcome.trajectory.node_c(np.array(times_s), outcome.trajectory.grid.core), 3),
    )  # fmt: skip


def check_target_and_media(plan: Plan) -> None:
    """Reject a first stage that waits for a core its medium cannot give, before anything is computed.

    Raises BadInput with the stage.
    """
    stage = plan.stages[0]
    wanted = stage.until.core_c if stage.until else None
    if wanted is not None and wanted > plan.piece.start_c and hottest_c(stage) <= wanted:
        raise BadInput(
            f"The core cannot pass {hottest_c(stage):g} °C in this {stage.kind}. "
            "Lower the target or use a hotter medium.",
            "stages[0].until.core_c",
        )


def evaluate(plan: Plan) -> Result:
    """Everything that follows from a plan.

    Raises BadInput and NeverReached with the place in the plan.
    """
    cut_entry = cut(plan.piece.cut)
    rules = standard(plan.standard)
    target = target_of(plan)
    check_target_and_media(plan)
    wanted, plan = plan, with_log_ends(as_cooked(plan))
    told = plan.model_copy(update={"prep": wanted.prep})  # the piece as it cooks, with every step that was done to it
    trajectory = simulate(plan)
    outcome = outcome_of(plan, cut_entry, rules, trajectory)
    mass = mass_of(plan.piece, cut_entry, density_of(plan))
    yield_share = 1.0 - trajectory.water_lost_share
    pull = pull_of(trajectory, plan.pull_stage)
    curves = curves_of(trajectory)
    thin = thick = None
    if plan.piece.spread_mm > 0:
        size = body_size(plan.piece, cut_entry, density_of(plan)).size_mm
        half = min(plan.piece.spread_mm / 2, size - 1.0)
        fixed = timed(plan, trajectory)
        with ThreadPoolExecutor(2) as both:  # the solver leaves the interpreter to the other one
            one = partial(_end_of_batch, fixed, cut_entry, rules, target, curves.t_s)
            thin, thick = both.map(one, (size - half, size + half))
    rubs = rubs_of(told, trajectory)
    brines = brines_of(plan, mass)
    holds = holds_of(plan, rules, trajectory, scale_for(plan))
    stages = [
        run if stage.until is None or stage.until.log10 is None else run.model_copy(update={"ended_by": "log10"})
        for run, stage in zip(stages_of(wanted, trajectory), wanted.stages, strict=True)
    ]
    return Result(
        stages=stages,
        pull=pull,
        core=core_out(outcome, pull.s if pull else 0.0),
        curves=curves,
        depth_map=depth_map_of(trajectory) if plan.depth_map else None,
        cut_face=cut_face_of(cut_entry, trajectory) if plan.depth_map else None,
        section=section_of(cut_entry, trajectory) if plan.depth_map else None,
        places=places_of(plan, cut_entry, trajectory),
        evenness_pct=evenness_pct(trajectory),
        doneness=doneness_out(outcome, target, window_s(plan, trajectory, outcome.word.high_c)),
        advice=_advice(plan, target, outcome),
        parts=parts_of(plan, cut_entry, rules, trajectory),
        thin=thin,
        thick=thick,
        tenderness=tenderness_of(cut_entry, trajectory),
        firmness=firmness_of(cut_entry, trajectory),
        lethality=outcome.lethality,
        safety=[safety_out(rules, outcome.verdict), *phases_of(plan, rules, trajectory, outcome.category)],
        yield_pct=round(100.0 * yield_share, 2),
        mass_g=round(mass, 1),
        mass_after_g=round(mass * yield_share, 1),
        serves=serves_of(plan.piece, cut_entry, mass, yield_share),
        rubs=rubs,
        holds=holds,
        brines=brines,
        browning=browning_of(trajectory),
        hands_on_min=hands_on_min(told, [(run.end_s - run.start_s) / 60.0 for run in trajectory.stages]),
        warnings=[
            *width_warning(plan, cut_entry, rules, outcome),
            *warnings_of(told, target, outcome, rubs, cut_entry),
            *hold_warnings(holds),
            *brine_warnings(brines),
        ],
        cautions=cautions_of(told, cut_entry),
    )
