"""A row of sections for the solver, and one run of it."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from ..shape.sections import Sections
from . import terms
from .grid import FloatArray
from .terms import NOTHING_AROUND, Foods, Row, Stop


def row_of(sections: Sections, section: int = 0) -> Row:
    """The body of a row, its core in one of the sections."""
    faces = [1.0, 1.0] if sections.two_faces else [0.0, 1.0]
    return Row(
        volume=sections.volume / sections.face[:, None],
        conduct=sections.conduct / sections.face[:, None],
        face_area=np.tile(faces, (sections.count, 1)),
        cell=sections.volume, lateral=sections.lateral, end_area=sections.end_area,
        has_end=sections.end_area.max(axis=1) > 0.0,
        foot=sections.face / sections.face.sum(), core=sections.core, section=section,
    )  # fmt: skip


def longest_step_s(stop: Stop) -> float:
    """Longest step of a run, s, so that its curve is drawn by a dozen points at least."""
    return max(30.0, min(stop.duration_s / 12.0, 7200.0))


@dataclass(frozen=True)
class RowRun:
    """One solver run of a row: times from its start, rows and sums by section; whether it reached its end, or gave up
    for taking too many steps.
    """

    t_s: FloatArray
    history: FloatArray
    sums: FloatArray
    reached: bool
    gave_up: bool

    @property
    def temperature_c(self) -> FloatArray:
        """Temperatures [time, N, node]."""
        return self.history[:, :, : self.history.shape[2] // 5]


def run(
    row: Row, foods: Foods, start: FloatArray, faces: FloatArray, ends: FloatArray, stop: Stop, tolerance_k: float,
    around: terms.Around = NOTHING_AROUND, around_c: float = 20.0, boil_c: float = 100.0, max_steps: int = 20_000,
) -> RowRun:  # fmt: skip
    """Run a row under constant conditions: `faces[N, 2, column]`, `ends[2, column]`."""
    from .row_kernel import run_row  # the compiler loads with the first simulation, not with the first import

    t, history, sums, ended = run_row(
        np.ascontiguousarray(start), around_c, row, foods, np.ascontiguousarray(faces), np.ascontiguousarray(ends),
        around, boil_c, stop, tolerance_k, longest_step_s(stop), max_steps,
    )  # fmt: skip
    return RowRun(t, history, sums, ended == terms.ENDED_REACHED, ended == terms.ENDED_STEPS)
