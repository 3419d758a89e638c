"""Pieces in a pan in the order they were laid: when each is laid, turned and lifted, so that each gets the same
time.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np

from ..heat.grid import FloatArray
from ..heat.lay_down import LayDown, pan_temperatures

Did = Literal["lay", "turn", "lift"]
USUAL_GAP_S = 12.0  # from one piece to the next (common practice)
SEARS_FROM_C = 165.0  # below it a wet face goes grey instead of brown (common practice)
LOOK_S, LOOK_STEP_S, LONGEST_WAIT_S = 45.0, 5.0, 180.0


@dataclass(frozen=True)
class PieceInPan:
    """One piece: when each of its sides was laid down, s, when it was lifted, and its next action with its time."""

    number: int
    downs_s: tuple[float, ...]
    up_s: float | None
    next: Did | None
    due_s: float

    def side_s(self, side: int, now_s: float) -> float:
        """How long a side (0, 1 …) has been down, s."""
        if side >= len(self.downs_s):
            return 0.0
        ends = [*self.downs_s[1:], self.up_s if self.up_s is not None else now_s]
        return max(min(ends[side], now_s) - self.downs_s[side], 0.0)


@dataclass(frozen=True)
class PanMap:
    """The pan now: its pieces, past and future temperature (time, °C), and whether the next piece may go in.

    `wait_s`: how long to wait with the next piece so that the pan still sears; None if it never would. `ahead_now`: the
    pan if it is laid now.
    """

    pieces: tuple[PieceInPan, ...]
    pan_c: float
    past: tuple[FloatArray, FloatArray]
    ahead_now: tuple[FloatArray, FloatArray] | None
    ahead_wait: tuple[FloatArray, FloatArray] | None
    wait_s: float | None
    lowest_now_c: float | None
    crowded_from: int

    @property
    def next(self) -> PieceInPan | None:
        """The piece that is due next."""
        waiting = [piece for piece in self.pieces if piece.next is not None]
        return min(waiting, key=lambda piece: (piece.due_s, piece.number), default=None)

    @property
    def laid(self) -> int:
        """Number of pieces laid."""
        return sum(1 for piece in self.pieces if piece.downs_s)


def pan_map(
    job: LayDown, count: int, side_s: float, sides: int, did: Sequence[tuple[int, Did, float]], now_s: float
) -> PanMap:
    """The map from what was done: (piece from 1, action, s), in order. Times from the pan's own start."""
    downs: dict[int, list[float]] = {}
    ups: dict[int, float] = {}
    for piece, what, at in did:
        if what == "lift":
            ups[piece] = at
        else:
            downs.setdefault(piece, []).append(at)
    faces = [
        (down, after)
        for piece, times in downs.items()
        for down, after in zip(times, [*times[1:], ups.get(piece, np.inf)], strict=True)
    ]
    past = pan_temperatures(job, faces, now_s)
    pan_c = float(past[1][-1])
    unlaid = [n for n in range(1, count + 1) if n not in downs]
    lowest, ahead_now, ahead_wait = None, None, None
    looked: float | None = 0.0
    if unlaid:
        looked, lowest, ahead_now, ahead_wait = _look(job, faces, now_s, pan_c)
    last = max((times[0] for times in downs.values()), default=now_s - USUAL_GAP_S)
    pieces = []
    for number in range(1, count + 1):
        times = tuple(downs.get(number, ()))
        if number in ups:
            pieces.append(PieceInPan(number, times, ups[number], None, ups[number]))
        elif times:
            following: Did = "turn" if len(times) < sides else "lift"
            pieces.append(PieceInPan(number, times, None, following, times[-1] + side_s))
        else:
            place = unlaid.index(number)
            wait = looked if looked is not None else LONGEST_WAIT_S
            due = max(last + USUAL_GAP_S * (place + 1), now_s + wait + USUAL_GAP_S * place)
            pieces.append(PieceInPan(number, (), None, "lay", due))
    return PanMap(tuple(pieces), pan_c, past, ahead_now, ahead_wait, looked, lowest, job.crowded_from)


Look = tuple[float | None, float, tuple[FloatArray, FloatArray], tuple[FloatArray, FloatArray] | None]


def _look(job: LayDown, faces: Sequence[tuple[float, float]], now_s: float, pan_c: float) -> Look:
    """How long to wait with one more piece, the pan's lowest temperature if it is laid now, and the pan in both
    cases.
    """

    def ahead(wait: float) -> tuple[FloatArray, FloatArray]:
        return pan_temperatures(job, [*faces, (now_s + wait, np.inf)], now_s + wait + LOOK_S, pan_c, now_s)

    now = ahead(0.0)
    lowest = float(now[1].min())
    if lowest >= SEARS_FROM_C or not faces:
        return 0.0, lowest, now, None
    for wait in np.arange(LOOK_STEP_S, LONGEST_WAIT_S + 1, LOOK_STEP_S):
        later = ahead(float(wait))
        if float(later[1][later[0] >= now_s + wait].min()) >= SEARS_FROM_C:
            return float(wait), lowest, now, later
    return None, lowest, now, None
