"""An ensemble: a piece with a sequence of conditions, and members that vary slightly."""

from __future__ import annotations

import os
from collections.abc import Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, field, replace
from typing import Any, Literal

import numpy as np

from ..files.plan import Plan
from ..files.stages import HEATING
from .chain import MAX_STEPS, Block, State, run_from
from .faces import Segment
from .grid import FloatArray, IntArray
from .kappa import problem_to_follow
from .problem import Problem, as_cooked, make_row_problem
from .terms import NO_RIM, Rim

Phase = Literal["apart", "looked", "onward", "after"]
PHASES: dict[Phase, int] = {"apart": 0, "looked": 1, "onward": 2, "after": 3}


@dataclass(frozen=True)
class Stretch:
    """Constant conditions for a time. `group`: which of a member's media and transfers applies (0: none).

    `phase`, relative to the target core: "apart" from it; "looked" at for it; gone "onward" with until it is reached or
    the time is over; "after" it. `kappa`: factor on the piece's heat flow (kappa.py).
    """

    segment: Segment
    seconds: float
    group: int
    phase: Phase
    kappa: float = 1.0


@dataclass(frozen=True)
class Members:
    """One row a member: factors of `size` and `shape`, `start_c`; `medium_k`, K, and `transfer` (factor) by [member,
    group], of which group 0 is unchanged.
    """

    size: FloatArray
    shape: FloatArray
    start_c: FloatArray
    medium_k: FloatArray
    transfer: FloatArray

    def part(self, rows: IntArray) -> Members:
        """Some of the members."""
        return Members(self.size[rows], self.shape[rows], self.start_c[rows], self.medium_k[rows], self.transfer[rows])


@dataclass(frozen=True)
class Followed:
    """`temperature_c[member, time, node]` of watched nodes; by member `crossed_s` (NaN: never), `peak_c`."""

    temperature_c: FloatArray
    crossed_s: FloatArray
    peak_c: FloatArray


@dataclass(frozen=True)
class ThermalHistory:
    """What a piece goes through: `problem` for the piece, `stretches` in order."""

    problem: Problem
    stretches: tuple[Stretch, ...]
    _packed: list[tuple[FloatArray, ...]] = field(default_factory=list, compare=False, repr=False)

    def until(self, end_s: float) -> ThermalHistory:
        """Its first `end_s` seconds, none of them with phase "onward"."""
        stretches: list[Stretch] = []
        for stretch in self.stretches:
            if end_s <= 0.0:
                break
            phase: Phase = "looked" if stretch.phase == "onward" else stretch.phase
            stretches.append(replace(stretch, seconds=min(stretch.seconds, end_s), phase=phase))
            end_s -= stretch.seconds
        return ThermalHistory(self.problem, tuple(stretches))

    def _arrays(self) -> tuple[FloatArray, ...]:
        if not self._packed:
            segments: Sequence[Segment] = [stretch.segment for stretch in self.stretches]
            starts = [np.nan if s.around_start_c is None else s.around_start_c for s in segments]
            self._packed.append(
                (
                    np.array([s.faces for s in segments]), np.array([tuple(s.around) for s in segments]),
                    np.array([(s.rim.area, s.rim.h, s.rim.medium_c, s.rim.of_around) for s in segments]),
                    np.array(starts), np.array([s.boil_c for s in segments]),
                    np.array([stretch.seconds for stretch in self.stretches]),
                    np.array([stretch.group for stretch in self.stretches]),
                    np.array([PHASES[stretch.phase] for stretch in self.stretches]),
                    np.array([stretch.kappa for stretch in self.stretches]),
                )
            )  # fmt: skip
        return self._packed[0]

    @property
    def _rim(self) -> Rim:
        """The line across, with nothing around its rim yet."""
        return next((s.segment.rim for s in self.stretches if s.segment.rim.area > 0.0), NO_RIM)

    def follow(
        self, members: Members, at_s: FloatArray, watched: IntArray, want_c: float | None = None, rising: bool = True,
        workers: int = 1,
    ) -> Followed:  # fmt: skip
        """Simulate all members: `watched` nodes at ascending times `at_s`, s; when the core reaches `want_c`; its
        peak.
        """
        # The compiler loads with the first simulation, not with the first import.
        from .ensemble_kernel import CROSSED_S, PEAK_C, follow_members

        count = len(members.size)
        temperatures = np.empty((count, len(at_s), len(watched)))
        ends = np.empty((count, 3))
        wanted = want_c if want_c is not None else np.inf
        problem = self.problem

        def some(rows: IntArray) -> None:
            own = members.part(rows)
            given: tuple[Any, ...] = (
                own.size, own.shape, own.start_c, own.medium_k, own.transfer, problem.body, problem.food, self._rim,
                *self._arrays(), wanted, rising or want_c is None, problem.tolerance_k, MAX_STEPS,
                np.asarray(at_s, dtype=float), np.asarray(watched),
                temperatures[rows[0] : rows[-1] + 1], ends[rows[0] : rows[-1] + 1],
            )  # fmt: skip
            follow_members(*given)

        rows = [part for part in np.array_split(np.arange(count), min(workers, count)) if len(part)]
        if len(rows) == 1:
            some(rows[0])
        else:
            self._arrays()
            with ThreadPoolExecutor(workers) as pool:
                list(pool.map(some, rows))
        return Followed(temperatures, ends[:, CROSSED_S], ends[:, PEAK_C])


def processors() -> int:
    """Number of processors."""
    return os.cpu_count() or 1


COARSE = 0.5  # of the grid's intervals: within 0.2 °C at the core, checked in the tests
COARSE_TOLERANCE_K = 0.1


def members_of(size: FloatArray, start_c: FloatArray, medium_k: FloatArray, transfer: FloatArray) -> Members:
    """Members whose media differ alike in all heating stages; one entry a member each."""
    nothing, one = np.zeros(len(size)), np.ones(len(size))
    return Members(size, one, start_c, np.stack([nothing, medium_k], 1), np.stack([one, transfer], 1))


def _whole(plan: Plan, problem: Problem, block: Block) -> Stretch:
    """A block as a stretch."""
    group = 1 if plan.stages[block.stage].kind in HEATING else 0
    return Stretch(block.segment, block.end_s, group, "apart", problem.kappa(block.stage))


def ensemble(plan: Plan, members: Members, at_s: FloatArray) -> FloatArray:
    """Core temperature [member, time] at the ascending times `at_s`, s from the start.

    Every member goes through the stages as long as the plan itself. Uses all processors. Raises NeverReached if the
    plan itself cannot reach an end.
    """
    plan = as_cooked(plan)
    problem = problem_to_follow(plan, COARSE_TOLERANCE_K, COARSE)
    itself = problem if plan.piece.outline is None else make_row_problem(plan)
    start = np.zeros((4, *itself.shape))
    start[:2] = plan.piece.start_c
    blocks = run_from(itself, 0, State(start))
    course = ThermalHistory(problem, tuple(_whole(plan, problem, block) for block in blocks))
    watched = np.array([problem.grid.core])
    return course.follow(members, at_s, watched, workers=processors()).temperature_c[:, :, 0]
