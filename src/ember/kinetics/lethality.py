"""Log reduction of microbes by the D and z model: L = ∫ dt / D(T), D(T) = D_ref · 10^((T_ref − T)/z).

No credit below 54.4 °C (130 °F), the floor of the published tables.
"""

from __future__ import annotations

import tomllib
from dataclasses import dataclass
from functools import cache
from importlib import resources

import numpy as np
from numpy.typing import NDArray

FloatArray = NDArray[np.float64]

FLOOR_C = (130.0 - 32.0) / 1.8


@dataclass(frozen=True)
class Organism:
    """D at a reference temperature, and z."""

    id: str
    name: str
    d_min: float
    t_ref_c: float
    z_k: float
    source: str
    confidence: str

    def d_minutes(self, temperature_c: float) -> float:
        """Decimal reduction time at °C, min.

        >>> round(organisms()["listeria"].d_minutes(70.0) * 6, 2)  # 70 °C for 2 min is 6 log
        2.0
        """
        return float(self.d_min * 10 ** ((self.t_ref_c - temperature_c) / self.z_k))


@cache
def organisms() -> dict[str, Organism]:
    """Organisms by id."""
    table = tomllib.loads(resources.files(__package__).joinpath("data/organisms.toml").read_text("utf-8"))
    return {key: Organism(id=key, **values) for key, values in table.items()}


def kill_rate(organism: Organism, temperature_c: FloatArray) -> FloatArray:
    """Log10 a minute at each temperature; 0 below the floor. Any shape in, same out."""
    T = np.asarray(temperature_c, dtype=float)
    # Above about 100 °C the number means nothing more, and must not overflow.
    rate = 10 ** ((np.minimum(T, 110.0) - organism.t_ref_c) / organism.z_k) / organism.d_min
    return np.where(T >= FLOOR_C - 1e-9, rate, 0.0)


def log_reduction(organism: Organism, time_s: FloatArray, temperature_c: FloatArray) -> FloatArray:
    """Log10 reduction over time at each place.

    `time_s[n]`, `temperature_c[n]` or `[n, place]`; returns a scalar array or `[place]`.
    """
    return np.asarray(log_steps(organism, time_s, temperature_c).sum(axis=0))


def log_steps(organism: Organism, time_s: FloatArray, temperature_c: FloatArray) -> FloatArray:
    """Log10 reduction within each interval, [n - 1] or [n - 1, place].

    Temperature is linear between samples, for which the integral is exact; only its part above the floor counts.
    """
    t = np.asarray(time_s, dtype=float)
    T = np.asarray(temperature_c, dtype=float)
    minutes = np.diff(t) / 60.0
    if T.ndim > 1:
        minutes = minutes[:, None]
    low = np.minimum(T[:-1], T[1:])
    high = np.maximum(T[:-1], T[1:])
    rate = kill_rate(organism, np.maximum(T, FLOOR_C))
    a, b = rate[:-1], rate[1:]  # the mean between them is the same either way round
    with np.errstate(divide="ignore", invalid="ignore"):
        counted = np.where(low >= FLOOR_C, 1.0, np.clip((high - FLOOR_C) / (high - low), 0.0, 1.0))
        ratio = np.log(b / a)
        mean = np.where(np.abs(ratio) > 1e-6, (b - a) / ratio, 0.5 * (a + b))
    counted = np.where(high >= FLOOR_C - 1e-9, counted, 0.0)
    return np.asarray(mean * counted * minutes)
