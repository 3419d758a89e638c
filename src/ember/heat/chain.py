"""The chain of stages: blocks of solver runs under constant conditions, and how a stage ends."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass, replace
from typing import Self

import numpy as np

from ..errors import BadInput, NeverReached
from ..files.base import MAX_STAGE_S
from ..files.stages import BY_SIDES, Medium, Stage
from . import terms
from .budget import spend, steps_left
from .faces import Segment
from .grid import FloatArray
from .media import hottest_c, segments
from .numerics import bracketed_root
from .problem import Problem
from .row_problem import RowPart
from .row_run import longest_step_s
from .row_run import run as run_row

MAX_STEPS = 60_000
MAX_SEGMENTS = 2_000
PEAK_TOLERANCE_K = 0.02
PEAK_TOLERANCE_S = 0.05
GAIN_TOLERANCE_K, GAIN_RUNS = 0.05, 6
SHORTEST_S = 1.0
AIR_C = 20.0
BETWEEN = np.linspace(0.0, 1.0, 11)[1:-1]
AROUND = 5  # column of a block's sums; those before it add up from block to block
ACROSS = 6  # of one body: heat from its line across, which adds up too, and then that line's temperatures
LINE = slice(7, 7 + terms.RIM_NODES)
NOT_BEGUN = (-999.0,) * terms.RIM_NODES


@dataclass(frozen=True)
class State:
    """State of the piece: `food[4, node]` (rows as in terms), of a row `food[4, N, node]`, the temperature of the body
    around, and those of the line across (rim.py).
    """

    food: FloatArray
    around_c: float = AIR_C
    across: tuple[float, ...] = NOT_BEGUN


@dataclass(frozen=True)
class Block:
    """One solver run: rows of one stage under constant conditions, times from the block's own start."""

    stage: int
    segment: Segment
    t_s: FloatArray
    history: FloatArray
    sums: FloatArray
    reached: bool

    def state(self, index: int) -> State:
        """The state at a row, to continue from."""
        return State(self.core_state(index), float(self.sums[index, AROUND]), tuple(self.sums[index, LINE].tolist()))

    def core_state(self, index: int) -> FloatArray:
        """The state [4, node] at a row; of sections that of the core's."""
        return np.asarray(self.history[index].reshape(5, -1)[[0, 2, 3, 4]])

    @property
    def end_s(self) -> float:
        """Duration, s."""
        return float(self.t_s[-1])

    def until(self, last: int) -> Self:
        """Its rows up to `last`."""
        return replace(
            self, t_s=self.t_s[: last + 1], history=self.history[: last + 1], sums=self.sums[: last + 1]
        )  # fmt: skip

    def joined(self, tail: Self) -> Self:
        """Continued by a run that began at its last row."""
        return replace(
            self,
            t_s=np.concatenate([self.t_s, self.t_s[-1] + tail.t_s[1:]]),
            history=np.concatenate([self.history, tail.history[1:]]),
            sums=_summed(self.sums, tail.sums),
        )  # fmt: skip


@dataclass(frozen=True)
class RowBlock(Block):
    """A run of a row of sections: history and sums are the core's; `rows[step, N, 5 * node]` and `row_sums[step, N + 1,
    6]` (as from row_kernel.run_row) those of all.
    """

    rows: FloatArray
    row_sums: FloatArray

    def state(self, index: int) -> State:
        """The state of all sections at a row."""
        rows = self.rows[index]
        food = rows.reshape(rows.shape[0], 5, -1).transpose(1, 0, 2)[[0, 2, 3, 4]]
        return State(np.asarray(food), float(self.sums[index, AROUND]))

    def until(self, last: int) -> Self:
        """Its rows up to `last`."""
        return replace(super().until(last), rows=self.rows[: last + 1], row_sums=self.row_sums[: last + 1])

    def joined(self, tail: Self) -> Self:
        """Continued by a run that began at its last row."""
        return replace(
            super().joined(tail),
            rows=np.concatenate([self.rows, tail.rows[1:]]), row_sums=_summed(self.row_sums, tail.row_sums),
        )  # fmt: skip


def _summed(sums: FloatArray, more: FloatArray) -> FloatArray:
    """Sums of a run and of the one that continues it; the body around is no sum."""
    added = more[1:].copy()
    added[..., :AROUND] += sums[-1, ..., :AROUND]
    added[..., ACROSS : ACROSS + 1] += sums[-1, ..., ACROSS : ACROSS + 1]
    return np.concatenate([sums, added])


def call(problem: Problem, stage: int, state: State, segment: Segment, stop: terms.Stop) -> Block:
    """One solver run. Raises BadInput if it would take too many steps."""
    if problem.row is not None:
        return _call_row(problem, problem.row, stage, state, segment, stop)
    # The compiler loads with the first simulation, not with the first import.
    from .kernel import run_rimmed

    around, around_c = _around(segment, state)
    t, history, sums, ended = run_rimmed(
        state.food, around_c, problem.body_in(stage), problem.food, segment.faces, around, segment.rim,
        np.array(state.across), segment.boil_c, stop, problem.tolerance_k, longest_step_s(stop),
        steps_left(MAX_STEPS),
    )  # fmt: skip
    spend(len(t))
    if ended == terms.ENDED_STEPS:
        spend(1)  # where it was the budget that ended it
        raise BadInput("This stage changes too fast to calculate. Check its numbers.", f"stages[{stage}]")
    return Block(stage, segment, t, history, sums, ended == terms.ENDED_REACHED)


def _around(segment: Segment, state: State) -> tuple[terms.Around, float]:
    """The body around and its temperature, as floats: for whole numbers all is compiled anew, for most of a minute."""
    around_c = segment.around_start_c if segment.around_start_c is not None else state.around_c
    return terms.Around(*(float(value) for value in segment.around)), float(around_c)


def _call_row(
    problem: Problem, row: RowPart, stage: int, state: State, segment: Segment, stop: terms.Stop
) -> RowBlock:  # fmt: skip
    faces, ends = row.conditions(problem.plan.stages[stage], segment)
    around, around_c = _around(segment, state)
    done = run_row(
        row.body, row.foods, state.food, faces, ends, stop, problem.tolerance_k, around, around_c,
        segment.boil_c, steps_left(MAX_STEPS),
    )  # fmt: skip
    spend(len(done.t_s) * done.history.shape[1])
    if done.gave_up:
        spend(1)
        raise BadInput("This stage changes too fast to calculate. Check its numbers.", f"stages[{stage}]")
    i = row.body.section
    return RowBlock(
        stage, segment, done.t_s, done.history[:, i], done.sums[:, i], done.reached, done.history, done.sums
    )  # fmt: skip


def _watched(problem: Problem, state: State, kind: int) -> float:
    T = state.food[0]
    if kind == terms.STOP_CORE:
        return float(T[problem.row.body.section, problem.grid.core] if problem.row else T[problem.grid.core])
    return float(min(T[..., 0].min(), T[..., -1].min()) if problem.grid.two_faces else T[..., -1].min())


def limit_of(stage: Stage) -> float:
    """Longest duration of a stage, s; for a stage by seconds a side without end that of its sides."""
    if stage.until is not None:
        return 60.0 * stage.until.max_minutes if stage.until.max_minutes else MAX_STAGE_S
    if isinstance(stage, BY_SIDES) and stage.exposures is not None:
        return math.inf
    return 60.0 * float(stage.minutes or 0.0)


def _stop_for(problem: Problem, stage: Stage, state: State) -> terms.Stop:
    limit, until = limit_of(stage), stage.until
    if until is None or until.peak_c is not None:
        return terms.Stop(limit, terms.STOP_TIME, 0.0, True)
    if until.core_c is not None:
        kind, value = terms.STOP_CORE, until.core_c
    elif until.surface_c is not None:
        kind, value = terms.STOP_SURFACE, until.surface_c
    else:
        raise ValueError("an end by log reduction is turned into minutes first, by solve.log_ends")
    return terms.Stop(limit, kind, value, _watched(problem, state, kind) < value)


def run_stage(problem: Problem, index: int, state: State, stop: terms.Stop) -> list[Block]:
    """All blocks of one stage, segment by segment, until its stop or its last segment."""
    blocks: list[Block] = []
    left_s = stop.duration_s
    for number, segment in enumerate(segments(problem.plan.stages[index], problem.settings[index])):
        if number >= MAX_SEGMENTS:
            raise BadInput("This stage has too many turns to calculate. Check its numbers.", f"stages[{index}]")
        lasts = left_s if segment.duration_s is None else min(segment.duration_s, left_s)
        block = call(problem, index, state, segment, stop._replace(duration_s=lasts))
        blocks.append(block)
        state = block.state(-1)
        left_s -= block.end_s
        if block.reached or left_s <= 1e-6:
            break
    return blocks


def cut_at(problem: Problem, blocks: list[Block], end_s: float) -> list[Block]:
    """The blocks of one stage as if it had ended at `end_s`."""
    kept: list[Block] = []
    for block in blocks:
        if end_s > block.end_s + 1e-9 and block is not blocks[-1]:
            kept.append(block)
            end_s -= block.end_s
            continue
        last = max(int(np.searchsorted(block.t_s, end_s, side="right")) - 1, 0)
        rest = end_s - block.t_s[last]
        head = block.until(last)
        if rest > 1e-9:
            onward = replace(block.segment, around_start_c=None)
            stop = terms.Stop(rest, terms.STOP_TIME, 0.0, True)
            head = head.joined(call(problem, block.stage, block.state(last), onward, stop))
        return [*kept, head]
    return kept


def _name(stage: Stage, index: int) -> str:
    return f"Stage {index + 1} ({stage.kind.replace('_', ' ')} at {hottest_c(stage):g} °C)"


def _never(problem: Problem, index: int, blocks: list[Block], stop: terms.Stop) -> NeverReached:
    stage = problem.plan.stages[index]
    seen = np.concatenate([block.history for block in blocks])
    n = len(problem.grid.x_m)
    if stop.kind == terms.STOP_CORE:
        part, values = "core", seen[:, problem.grid.core]
    else:
        part, values = "surface", (np.minimum(seen[:, 0], seen[:, n - 1]) if problem.grid.two_faces else seen[:, n - 1])
    best = float(values.max() if stop.rising else values.min())
    return NeverReached(
        f"{_name(stage, index)} never brings the {part} to {stop.value_c:g} °C: it comes to {best:.1f} °C. "
        f"{_what_would(stage, stop.value_c, stop.rising)}",
        f"stages[{index}].until", best,
    )  # fmt: skip


def _what_would(stage: Stage, wanted_c: float, rising: bool) -> str:
    medium = hottest_c(stage)
    if (medium <= wanted_c) if rising else (medium >= wanted_c):
        return f"The medium must be {'hotter' if rising else 'colder'} than {wanted_c:g} °C."
    if stage.until is not None and stage.until.max_minutes:
        return f"It needs more than the {stage.until.max_minutes:g} min allowed."
    if isinstance(stage, Medium):
        return "It needs more heat transfer." if rising else "It needs more cooling."
    return "Use a hotter medium or a thinner piece." if rising else "Use a colder medium or a thinner piece."


def highest_core_c(blocks: list[Block], core: int) -> float:
    """Highest core of some blocks, also between their rows (by their slopes), °C."""
    best = -math.inf
    for block in blocks:
        T, slope = block.history[:, core], block.history[:, core + block.history.shape[1] // 5]
        i = int(np.argmax(T))
        best = max(best, float(T[i]))
        for a in (i - 1, i):
            if 0 <= a < len(T) - 1:
                h = block.t_s[a + 1] - block.t_s[a]
                s = BETWEEN
                best = max(best, float(np.max(
                    T[a] * (1 + 2 * s) * (1 - s) ** 2 + slope[a] * h * s * (1 - s) ** 2
                    + T[a + 1] * s**2 * (3 - 2 * s) + slope[a + 1] * h * s**2 * (s - 1)
                )))  # fmt: skip
    return best


def _run_to_peak(problem: Problem, index: int, state: State, peak_c: float) -> list[Block]:
    """End a stage so that the highest core before the plan's end is `peak_c`, and continue to the end."""
    stage = problem.plan.stages[index]
    core = problem.grid.core
    # The core itself need never pass the wanted peak, so look no further than that.
    whole = run_stage(problem, index, state, terms.Stop(limit_of(stage), terms.STOP_CORE, peak_c, True))

    ended: dict[float, list[Block]] = {}

    def chain(end_s: float) -> list[Block]:
        if end_s not in ended:
            first = cut_at(problem, whole, end_s)
            ended[end_s] = [*first, *run_from(problem, index + 1, first[-1].state(-1))]
        return ended[end_s]

    def miss(end_s: float) -> float:
        return highest_core_c(chain(end_s), core) - peak_c

    longest = sum(block.end_s for block in whole)
    over = miss(longest)
    if over < -PEAK_TOLERANCE_K:
        highest = peak_c + over
        came = f"{_name(stage, index)} never carries the core to {peak_c:g} °C: it comes to {highest:.1f} °C."
        raise NeverReached(f"{came} {_what_would(stage, peak_c, True)}", f"stages[{index}].until", highest)
    if longest <= SHORTEST_S:
        return chain(longest)
    if problem.row is not None and (end_s := _by_gain(whole, core, peak_c, over, miss)) is not None:
        return chain(end_s)
    # Carryover hardly depends on when: end where the core is short of the peak by what it still gained at the longest.
    late, early = longest, _when_core(whole, core, peak_c - over)
    while early > SHORTEST_S and (under := miss(early)) > 0:
        back = under * (late - early) / max(over - under, 0.1 * under)
        late, over, early = early, under, early - 1.3 * max(back, PEAK_TOLERANCE_S)
    if early <= SHORTEST_S and miss(early := SHORTEST_S) >= 0:
        return chain(SHORTEST_S)
    return chain(bracketed_root(miss, early, late, PEAK_TOLERANCE_K, PEAK_TOLERANCE_S))


def _by_gain(
    whole: list[Block], core: int, peak_c: float, over: float, miss: Callable[[float], float]
) -> float | None:  # fmt: skip
    """When to end a stage for a peak, s, from what the core still gains after it, which hardly depends on when: few
    runs, where each is dear. `over`: of the peak, if it ends when the core itself is there. None if that finds no end.
    """
    gain = over
    for _ in range(GAIN_RUNS):
        end_s = max(_when_core(whole, core, peak_c - gain), SHORTEST_S)
        off = miss(end_s)
        if abs(off) <= GAIN_TOLERANCE_K:
            return end_s
        gain += off
    return None


def _when_core(blocks: list[Block], core: int, celsius: float) -> float:
    """When the core last passed a temperature on its way up, s; 0 if it began above it."""
    starts = np.cumsum([0.0, *(block.end_s for block in blocks[:-1])])
    t = np.concatenate([block.t_s + start for block, start in zip(blocks, starts, strict=True)])
    T = np.concatenate([block.history[:, core] for block in blocks])
    below = np.flatnonzero(celsius >= T)
    if not below.size:
        return 0.0
    i = min(int(below[-1]), len(T) - 2)
    rise = T[i + 1] - T[i]
    return float(t[i] + (t[i + 1] - t[i]) * (np.clip((celsius - T[i]) / rise, 0.0, 1.0) if rise > 0 else 0.0))


def run_from(problem: Problem, index: int, state: State) -> list[Block]:
    """Blocks of the stages from `index` on.

    Raises NeverReached for a stage that cannot reach its end, with how far it got.
    """
    blocks: list[Block] = []
    for i in range(index, len(problem.plan.stages)):
        stage = problem.plan.stages[i]
        if stage.until is not None and stage.until.peak_c is not None:
            return [*blocks, *_run_to_peak(problem, i, state, stage.until.peak_c)]
        stop = _stop_for(problem, stage, state)
        done = run_stage(problem, i, state, stop)
        if stop.kind != terms.STOP_TIME and not done[-1].reached:
            raise _never(problem, i, done, stop)
        blocks += done
        state = done[-1].state(-1)
    return blocks
