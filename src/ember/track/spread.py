"""From the posterior of the unknowns to a forecast: members along its axes, weighted by fit."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from ..heat.ensemble_runner import Followed, ThermalHistory
from ..heat.grid import FloatArray
from .fit import MODEL_K, NOISE_K, Fit, Fitting

SHARES = (10.0, 25.0, 40.0, 50.0, 60.0, 75.0, 90.0)
FAN_TIMES, FAN_DRAWS, FAN_LEAST_S, FAN_LONGER = 24, 300, 240.0, 2.0
NEAR_S = np.arange(0.0, 151.0, 30.0)  # ahead: close enough for readings to be held against it, see `confirm`
REACH = 1.2  # deviations out along each axis
DRAWS = 1500
MODEL_SHARE = 0.012  # how far off the coarse model is itself, of the time
WIDEST, NARROWEST = 3.0, 0.3
SETTLED = 0.01  # an axis with less variance moves nothing
_rng = np.random.default_rng(20261125)
NORMAL = _rng.standard_normal((DRAWS, 16))


@dataclass(frozen=True)
class Draws:
    """Draws of the forecast: when the core reaches its target, s (infinite: never), its peak, and the core now.

    `probe_c[time]`: the expected probe reading at `fan.t_s` by the mode, °C.
    """

    crossed_s: FloatArray
    peak_c: FloatArray
    core_now_c: FloatArray
    fan: Fan
    probe_c: FloatArray


@dataclass(frozen=True)
class Fan:
    """The core from now until it reaches its target: `core_c[share, time]`, with the SHARES of draws below each."""

    t_s: FloatArray
    core_c: FloatArray


def draws_of(
    course: ThermalHistory, fitting: Fitting, fit: Fit, now_s: float, want_c: float | None, rising: bool, left_s: float
) -> Draws:  # fmt: skip
    """Simulate the mode and two members an axis to the end; a draw moves along every axis, and the effects add up.

    `left_s`: planned time left, for the fan. The size of a draw is scaled on each side of each axis until the readings
    allow as much as the axis says.
    """
    variance, axes = np.linalg.eigh(fit.covariance)
    loose = np.flatnonzero(variance > SETTLED)
    n = len(loose)
    reach = (REACH * np.sqrt(variance) * axes)[:, loose].T
    z = np.concatenate([fit.z + reach, fit.z - reach])
    data = fitting.data
    if data.count:
        z = fitting.led_back(fit, z, variance, axes, np.tile(loose, 2))
    z = np.concatenate([fit.z[None], z])
    far_s = np.linspace(0.0, max(FAN_LONGER * left_s, FAN_LEAST_S), FAN_TIMES)
    ahead = now_s + np.union1d(far_s, NEAR_S)
    at = np.concatenate([fitting.at_s, ahead])
    watched = fitting.watched
    followed = course.follow(fitting.unknowns.members(z), at, watched, want_c, rising)
    core = int(np.flatnonzero(watched == course.problem.grid.core)[0])
    stretch = np.ones((2, n))
    if data.count:
        shown = fitting.readings(z, followed.temperature_c[:, : data.count])
        over = fitting.misfit(z, shown) - fit.misfit
        stretch = np.clip(REACH / np.sqrt(2.0 * np.maximum(over[1:].reshape(2, n), 1e-6)), NARROWEST, WIDEST)
    out = NORMAL[:, :n]
    out = np.where(out > 0, out * stretch[0], out * stretch[1]) / REACH
    paths = followed.temperature_c[:, data.count :, core]
    own = np.exp(MODEL_SHARE * NORMAL[:, -1])
    return Draws(
        _crossed(followed, out, n, data.count > 0) * own, _sum(followed.peak_c, out, n), _sum(paths[:, 0], out, n),
        _fan(paths, followed.crossed_s, ahead, want_c, out, n),
        fitting.probe_path(fit.z, followed.temperature_c[0, data.count :]),
    )  # fmt: skip


def _sum(values: FloatArray, out: FloatArray, n: int) -> FloatArray:
    """A parabola through the three members of every axis, summed over the axes."""
    values = np.where(np.isfinite(values), values, values[0])
    up, down = values[1 : n + 1] - values[0], values[n + 1 :] - values[0]
    far = np.clip(out, -WIDEST, WIDEST)
    bend = np.clip(0.5 * (up + down), -0.5 * np.abs(up - down), 0.5 * np.abs(up - down))
    return np.asarray(values[0] + (far * 0.5 * (up - down) + far**2 * bend).sum(1))


def _fan(
    paths: FloatArray, crossed_s: FloatArray, ahead_s: FloatArray, want_c: float | None, out: FloatArray, n: int
) -> Fan:
    """Quantiles of the paths, each held at the target once reached."""
    if want_c is not None:
        paths = np.where(ahead_s >= np.where(np.isnan(crossed_s), np.inf, crossed_s)[:, None], want_c, paths)
    drawn = np.stack([_sum(paths[:, j], out[:FAN_DRAWS], n) for j in range(len(ahead_s))])
    levels = np.percentile(drawn, SHARES, axis=1)
    return Fan(ahead_s, np.minimum(levels, want_c) if want_c is not None and paths[0, 0] <= want_c else levels)


def _crossed(followed: Followed, out: FloatArray, n: int, measured: bool) -> FloatArray:
    """In the logarithm of the time, which stays positive; an axis on which the target is never reached counts as very
    late.
    """
    s = followed.crossed_s
    if np.isnan(s[0]):
        return np.full(len(out), np.inf)
    logs = np.log(np.maximum(np.where(np.isnan(s), 4.0 * s[0], s), 1.0))
    draws = np.exp(_sum(logs, out, n))
    # Without readings the middle is the plan itself; the parabolas alone would move it.
    return np.asarray(draws if measured else draws * (s[0] / np.median(draws)))


DEVIATIONS = 2.0  # of the mean of the readings from what was foretold
ONE_READING = 4.0  # deviations of a single reading: beyond it something happened to the probe or the piece


def confirms(
    t_s: Sequence[float], probe_c: Sequence[float], readings: Sequence[tuple[float, float]], lag_s: float = 5.0
) -> bool:
    """Whether readings (s, °C) since a forecast agree with its prediction `probe_c` at `t_s`.

    They do if none lies beyond the predicted times, none is off by more than four standard deviations of a reading's
    noise, and their mean is off by no more than two standard deviations of the noise of so many and of the model. A
    posterior that predicted its next readings is hardly changed by them.
    """
    if not readings or not len(t_s):
        return False
    at, celsius = np.array(readings, dtype=float).T
    if at.max() > t_s[-1] or at.min() < t_s[0] - lag_s:
        return False
    off = celsius - np.interp(at - lag_s, t_s, probe_c)
    sigma = np.sqrt(NOISE_K**2 / len(off) + MODEL_K**2)
    return bool(np.abs(off).max() <= ONE_READING * NOISE_K and abs(off.mean()) <= DEVIATIONS * sigma)
