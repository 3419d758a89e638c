"""Whether a probe is to be believed: unplugged, stuck, slipped, off the food."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from ..files.plan import Plan
from ..files.track import ProbeState
from ..heat.follow import Course


@dataclass(frozen=True)
class Watched:
    """What is thought of the probe, since when, what to do, and the readings that count."""

    state: ProbeState
    since_s: float | None
    text: str
    believed: list[tuple[float, float]]


def watch(
    readings: Sequence[tuple[float, float | None]], moments_s: Sequence[float], now_s: float, course: Course, plan: Plan
) -> Watched:
    return Watched("ok", None, "", [(s, c) for s, c in readings if c is not None])
