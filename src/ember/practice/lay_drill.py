"""Pan discipline: several pieces are laid clockwise from the handle and turned in the same order, so that each lies as
long as the others. Scored by evenness of times and by order.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..errors import BadInput

FloatArray = NDArray[np.float64]

LEAST, MOST = 3, 8
A_SECOND, AN_ORDER, OFF_SHARE = 2.0, 12.0, 80.0
WANTED_S = 60.0


@dataclass(frozen=True)
class Taps:
    """When each piece (0 is next to the handle, then clockwise) was laid, turned and taken out, s."""

    laid: tuple[float, ...]
    turned: tuple[float, ...]
    out: tuple[float, ...]


@dataclass(frozen=True)
class LayOutcome:
    """Each piece's time on the first and second side, s; the order they were laid, turned and taken out in."""

    first_s: tuple[float, ...]
    second_s: tuple[float, ...]
    orders: tuple[tuple[int, ...], tuple[int, ...], tuple[int, ...]]
    spread_s: float
    off_s: float
    out_of_order: int
    score: int


def _order(times: FloatArray) -> tuple[int, ...]:
    return tuple(int(i) for i in np.argsort(times, kind="stable"))


def lay_finish(taps: Taps, wanted_s: float = WANTED_S) -> LayOutcome:
    """The score of a drill; `wanted_s`: how long a side should lie.

    Raises BadInput if a piece was turned before it was laid, or is missing.

    >>> taps = Taps((0, 3, 6), (60, 63, 66), (120, 123, 126))
    >>> lay_finish(taps).score
    100
    """
    count = len(taps.laid)
    if not LEAST <= count <= MOST or len(taps.turned) != count or len(taps.out) != count:
        raise BadInput(f"{LEAST} to {MOST} pieces, each laid, turned and taken out", "taps")
    laid, turned, out = (np.asarray(times, dtype=float) for times in (taps.laid, taps.turned, taps.out))
    if not np.isfinite([laid, turned, out]).all() or (turned < laid).any() or (out < turned).any():
        raise BadInput("a piece is laid, then turned, then taken out", "taps")
    first, second = turned - laid, out - turned
    spread = float(np.mean([first.std(), second.std()]))
    off = float(np.mean(np.abs(np.concatenate([first, second]) - wanted_s)))
    orders = (_order(laid), _order(turned), _order(out))
    clockwise = tuple(range(count))
    wrong = sum(a != b for order in orders for a, b in zip(order, clockwise, strict=True))
    lost = A_SECOND * spread + OFF_SHARE * off / wanted_s + AN_ORDER * (wrong > 0) * min(wrong / 2, 3)
    return LayOutcome(
        tuple(first.round(1).tolist()), tuple(second.round(1).tolist()), orders, round(spread, 2), round(off, 2), wrong,
        max(round(100.0 - lost), 0),
    )  # fmt: skip
