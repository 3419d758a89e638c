"""Recovery of an oven after its door, by a fixed probe, K a minute: each door, then all."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from scipy import stats

from ..heat.faces import media
from .pool import SURE

WINDOW_S = 900.0  # after a door in which it is looked at
LEAST_DROP_K = 4.0  # a smaller fall says nothing
BACK_SHARE = 0.85  # of the fall: from there on the thermostat decides, not the power
LEAST_READINGS = 4
LEAST_DOORS = 6
COMMON_LOG = 0.03  # what the rate is off in all doors alike: the air is no single body; fitted here


@dataclass(frozen=True)
class Door:
    """One door: the drop of the air, K, its recovery, K a minute, and how long that took, min."""

    fell_k: float
    rate_k_min: float
    minutes: float


@dataclass(frozen=True)
class Recovery:
    """All doors of an oven: the rate with its interval, K a minute; errors of the recovery time of held-out doors, min,
    as plans assumed it and by the other doors.
    """

    rate_k_min: float
    low: float
    high: float
    doors: int
    errors: tuple[tuple[float, float], ...]

    @property
    def before_min(self) -> float:
        """Mean error before, min."""
        return float(np.mean(np.abs([pair[0] for pair in self.errors])))

    @property
    def after_min(self) -> float:
        """Mean error after, min."""
        return float(np.mean(np.abs([pair[1] for pair in self.errors])))


def door_of(air: Sequence[tuple[float, float]], at_s: float) -> Door | None:
    """The door opened at a time, from the air's (s, °C) in order; None if the readings are too few."""
    before = [c for s, c in air if at_s - 180.0 <= s <= at_s]
    after = np.array([(s, c) for s, c in air if at_s < s <= at_s + WINDOW_S])
    if not before or len(after) < LEAST_READINGS:
        return None
    level = float(np.median(before))
    low = int(np.argmin(after[:, 1]))
    fell = level - float(after[low, 1])
    if fell < LEAST_DROP_K:
        return None
    rising = after[low:]
    goal = level - (1.0 - BACK_SHARE) * fell
    back = np.flatnonzero(rising[:, 1] >= goal)
    if not len(back) or back[0] + 1 < LEAST_READINGS:
        return None
    part = rising[: back[0] + 1]
    rate = 60.0 * float(stats.theilslopes(part[:, 1], part[:, 0]).slope)
    if rate <= 0.0:
        return None
    return Door(fell, rate, float(part[-1, 0] - part[0, 0]) / 60.0)


def usual_rate_k_min(setting_c: float) -> float:
    """Recovery of the model's own oven at a setting, K a minute: power less losses, by heat capacity."""
    oven, power_w = media()["oven"], media()["load"]["oven"]["power_w"]
    return float(60.0 * (power_w - oven["loss_w_k"] * (setting_c - oven["room_c"])) / oven["heat_j_k"])


def recovery_of(doors: Sequence[tuple[Door, float]]) -> Recovery | None:
    """All doors, each with the rate that plans assumed; None for fewer than LEAST_DOORS. Interval: Student's, of
    logarithms.
    """
    if len(doors) < LEAST_DOORS:
        return None
    logs = np.log([door.rate_k_min for door, _ in doors])
    wide = float(stats.t.ppf(0.5 + SURE / 2, len(logs) - 1) * np.hypot(stats.sem(logs), COMMON_LOG))
    middle = float(logs.mean())
    errors = []
    for i, (door, expected_rate) in enumerate(doors):
        others = float(np.exp(np.delete(logs, i).mean()))
        rises = BACK_SHARE * door.fell_k
        errors.append((door.minutes - rises / expected_rate, door.minutes - rises / others))
    return Recovery(float(np.exp(middle)), float(np.exp(middle - wide)), float(np.exp(middle + wide)), len(doors),
                    tuple(errors))  # fmt: skip
