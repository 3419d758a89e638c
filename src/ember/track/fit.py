"""The unknowns that best explain the readings, and their uncertainty: a posterior around its mode.

Damped Gauss-Newton on the readings and the prior, with Student's t for noise so that a few bad readings count little
(Lange, Little & Taylor 1989, J Am Stat Assoc 84:881; from memory); the covariance is Laplace's.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from ..heat.ensemble_runner import ThermalHistory
from ..heat.grid import FloatArray, IntArray
from .unknowns import TRANSFER, Unknowns

BINS = 60
NOISE_K = 0.3  # of one reading; common practice for a kitchen's wires
MODEL_K = 0.15  # what the coarse grid and the model itself are off, of every bin
FREEDOM = 4.0  # degrees of freedom of Student's t
STEP = 0.2  # of a difference quotient, in deviations of the prior
LONGEST_STEP = 1.5
LONGEST_BACK = 1.0
WATCHED_SHARE = 1.4  # so that the probe is among the watched nodes of a piece that is thinner than planned
ITERATIONS, STILL = 6, 0.08  # a forecast has no time for more: what is left is small beside its spread
MORE_ITERATIONS, STILLER = 15, 0.0005  # of what many cooks are to teach: there it would add up
NOWHERE_C = 999.0  # of a member too violent to follow: no reading bears it out
TRIED = np.array([1.0, 0.35])
START_PLACES = (-0.8, 0.8)
START_TRANSFERS = (-1.5, 1.5)
POOR = 0.7  # of misfit a bin: then other beginnings are tried
AS_POOR = 1.2  # of the misfit that the last search left: readings no plan explains are not searched at every look
FAR = 2.5  # deviations of the prior: readings since found wrong may have led an earlier mode so far out


@dataclass(frozen=True)
class Binned:
    """Readings averaged in bins: time s, °C, standard deviation K, and the position of the probe for each."""

    s: FloatArray
    celsius: FloatArray
    sigma_k: FloatArray
    place: IntArray

    @property
    def count(self) -> int:
        """Number of bins."""
        return len(self.s)


def binned(readings: Sequence[tuple[float, float]], cuts_s: Sequence[float], places_s: Sequence[float]) -> Binned:
    """Average readings in at most BINS bins of equal time that contain no moment of `cuts_s`.

    `places_s`: when the probe was inserted anew.
    """
    if not readings:
        nothing = np.empty(0)
        return Binned(nothing, nothing, nothing, np.empty(0, dtype=int))
    s, c = np.array(readings, dtype=float).T
    edges = np.unique(np.concatenate([np.linspace(s[0], s[-1] + 1e-6, BINS + 1), cuts_s, places_s]))
    which = np.searchsorted(edges, s, side="right")
    rows = [np.flatnonzero(which == i) for i in np.unique(which)]
    at = np.array([s[r].mean() for r in rows])
    mean = np.array([c[r].mean() for r in rows])
    count = np.array([len(r) for r in rows])
    place = np.searchsorted(np.sort(np.asarray(places_s, dtype=float)), at, side="right")
    return Binned(at, mean, np.sqrt(NOISE_K**2 / count + MODEL_K**2), place)


def _parabola(x: FloatArray, i: IntArray, at: FloatArray) -> list[tuple[IntArray, FloatArray]]:
    """Nodes and weights of the parabola through the nodes around `i`, at `at`: coarse nodes are far apart."""
    a, b, c = x[i - 1], x[i], x[i + 1]
    return [
        (i - 1, (at - b) * (at - c) / ((a - b) * (a - c))),
        (i, (at - a) * (at - c) / ((b - a) * (b - c))),
        (i + 1, (at - a) * (at - b) / ((c - a) * (c - b))),
    ]


@dataclass(frozen=True)
class Prior:
    """Another prior than the plan's own N(0, 1): mean and standard deviation of every unknown."""

    middle: FloatArray
    deviation: FloatArray


@dataclass(frozen=True)
class Fit:
    """The mode `z`, its covariance, the misfit there (half the squares of the prior plus that of the readings), the
    residuals, and their Jacobian, K [bin, unknown]. `is_searched`: whether it is the best of several starting points,
    not only of an earlier mode.
    """

    z: FloatArray
    covariance: FloatArray
    misfit: float
    residual_k: FloatArray
    slope: FloatArray
    is_searched: bool = True

    @property
    def misfit_a_bin(self) -> float:
        """Misfit divided by the number of bins; 0 without readings."""
        return self.misfit / len(self.residual_k) if len(self.residual_k) else 0.0


class Fitting:
    """One set of readings and the course in which they were taken."""

    def __init__(
        self, course: ThermalHistory, unknowns: Unknowns, data: Binned, lag_s: float, prior: Prior | None = None,
        to_teach: bool = False,
    ) -> None:  # fmt: skip
        self.unknowns, self.data = unknowns, data
        self._iterations, self._still = (MORE_ITERATIONS, STILLER) if to_teach else (ITERATIONS, STILL)
        self.prior = prior or Prior(np.zeros(unknowns.count), np.ones(unknowns.count))
        grid = course.problem.grid
        self._x = grid.x_m - grid.x_m[grid.core]
        self.watched = np.flatnonzero(np.abs(self._x) <= unknowns.farthest_m * WATCHED_SHARE)
        self._x = self._x[self.watched]
        self.at_s = np.maximum(data.s - lag_s, 0.0)
        end = float(self.at_s[-1]) if data.count else 0.0
        self._lived = course.until(end + 1.0)

    def temperatures(self, z: FloatArray) -> FloatArray:
        """[member, bin, node] at the readings' times."""
        temperatures = self._lived.follow(self.unknowns.members(z), self.at_s, self.watched).temperature_c
        return np.nan_to_num(temperatures, nan=NOWHERE_C, posinf=NOWHERE_C, neginf=NOWHERE_C)

    def readings(self, z: FloatArray, temperature_c: FloatArray) -> FloatArray:
        """[member, bin]: probe readings at each member's position in its temperatures."""
        shown_c = np.zeros(temperature_c.shape[:2])
        size = self.unknowns.members(z).size
        bins = np.arange(self.data.count)
        for m in range(len(z)):
            off = self.unknowns.off_centre_m(z[m, self.unknowns.of_members :])[self.data.place] / size[m]
            for node, weight in self._nodes_at(off):
                shown_c[m] += temperature_c[m, bins, node] * weight
        return shown_c

    def probe_path(self, z: FloatArray, temperature_c: FloatArray) -> FloatArray:
        """Probe readings at its present position by one member: °C [time] from `temperature_c` [time, node]."""
        place = self.data.place[-1] if self.data.count else -1
        off = self.unknowns.off_centre_m(z[self.unknowns.of_members :])[place] / self.unknowns.members(z[None]).size[0]
        return np.asarray(sum(temperature_c[:, node] * weight for node, weight in self._nodes_at(off)))

    def _nodes_at(self, off: FloatArray) -> list[tuple[IntArray, FloatArray]]:
        """Watched nodes and their weights for positions off centre, m."""
        return _parabola(self._x, np.clip(np.searchsorted(self._x, off), 1, len(self._x) - 2), off)

    def misfit(self, z: FloatArray, shown: FloatArray) -> FloatArray:
        """Negative logarithm of the posterior, up to a constant; by member."""
        r = (self.data.celsius - shown) / self.data.sigma_k
        from_middle = (z - self.prior.middle) / self.prior.deviation
        return np.asarray(0.5 * (from_middle**2).sum(1) + 0.5 * (FREEDOM + 1) * np.log1p(r**2 / FREEDOM).sum(1))

    def fit(self, start: FloatArray | None = None, searched_misfit: float | None = None) -> Fit:
        """The posterior, from a first guess (that of an earlier fit, or the prior's mean).

        If a probe above the middle reads differently from one below it, both are tried. `searched_misfit`: misfit per
        bin of the best of all starting points found recently; no other starting point is tried while it is not
        exceeded.
        """
        n, own = self.unknowns.count, self.unknowns.of_members
        if not self.data.count:
            return Fit(self.prior.middle, np.diag(self.prior.deviation**2), 0.0, np.empty(0), np.empty((0, n)))
        z = self.prior.middle.copy()
        fits = []
        if start is not None:
            fits.append(self._from(start.copy()))
            known_poor = searched_misfit is not None and fits[0].misfit_a_bin <= max(POOR, AS_POOR * searched_misfit)
            if known_poor or (fits[0].misfit_a_bin <= POOR and np.abs(fits[0].z).max() <= FAR):
                return replace(fits[0], is_searched=False)
        for place in START_PLACES if self.unknowns.signed else (0.0,):
            z[own:] = place
            fits.append(self._from(z.copy()))
        if min(fit.misfit for fit in fits) > POOR * self.data.count:
            z[own:] = 0.0
            for transfer in START_TRANSFERS:
                z[TRANSFER] = transfer
                fits.append(self._from(z.copy()))
        return min(fits, key=lambda fit: fit.misfit)

    def _from(self, z: FloatArray) -> Fit:
        n, own = self.unknowns.count, self.unknowns.of_members
        base: FloatArray | None = None
        for number in range(self._iterations):
            moved = np.repeat(z[None], n, 0)
            moved[np.arange(n), np.arange(n)] += STEP
            if base is None:
                both = self.temperatures(np.concatenate([z[None], moved[:own]]))
                base, others = both[0], both[1:]
            else:
                others = self.temperatures(moved[:own])
            all_others = np.concatenate([others, np.repeat(base[None], n - own, 0)])
            shown = self.readings(z[None], base[None])[0]
            slope = (self.readings(moved, all_others) - shown).T / STEP
            residual = self.data.celsius - shown
            r = residual / self.data.sigma_k
            # Far from the mode nearly every reading looks bad: until most of them fit, none is taken for a bad one.
            scale = max(1.0, float(np.median(np.abs(r))))
            weight = (FREEDOM + 1) / (FREEDOM + (r / scale) ** 2) / self.data.sigma_k**2
            information = slope.T @ (weight[:, None] * slope) + np.diag(self.prior.deviation**-2)
            now = float(self.misfit(z[None], shown[None])[0])
            back = (z - self.prior.middle) / self.prior.deviation**2
            step = np.linalg.solve(information, slope.T @ (weight * residual) - back)
            step *= min(1.0, LONGEST_STEP / np.abs(step).max()) if np.abs(step).max() > 0 else 1.0
            covariance = np.linalg.inv(information)
            if number == self._iterations - 1 or float(step @ information @ step) < self._still * n:
                break
            tried = z + TRIED[:, None] * step
            temperature = self.temperatures(tried)
            misfits = self.misfit(tried, self.readings(tried, temperature))
            best = int(np.argmin(misfits))
            if misfits[best] >= now:
                break
            z, base = tried[best], temperature[best]
        return Fit(z, covariance, now, residual, slope)

    def led_back(
        self, fit: Fit, z: FloatArray, variance: FloatArray, axes: FloatArray, along: FloatArray
    ) -> FloatArray:
        """Members displaced from the mode along one axis each, corrected to fit the readings.

        One Gauss-Newton step in all directions but the displaced axis (`along[member]`), with the mode's own Jacobian:
        so a member follows a curved ridge.
        """
        shown = self.readings(z, self.temperatures(z))
        residual = self.data.celsius - shown
        r = residual / self.data.sigma_k
        weight = (FREEDOM + 1) / (FREEDOM + r**2) / self.data.sigma_k**2
        pull = (weight * residual) @ fit.slope - (z - self.prior.middle) / self.prior.deviation**2
        step = (pull @ axes) * variance
        step[np.arange(len(z)), along] = 0.0
        longest = np.maximum(np.abs(step @ axes.T).max(1), 1e-9)
        return np.asarray(z + (step @ axes.T) * np.minimum(1.0, LONGEST_BACK / longest)[:, None])
