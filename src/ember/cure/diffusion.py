"""Diffusion of salt into flesh and out again, by the conduction solver on the same bodies.

u is salt in the water of brine and flesh, g in 100 g of water; it spreads by ∂u/∂t = D ∇²u. The solver's time runs with
its own diffusivity α: a time t here is t·D/α there. A brine that weakens is a body around the piece, as a pot is.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from ..heat import terms
from ..heat.faces import both, film
from ..heat.grid import FloatArray, Grid, make_grid
from ..heat.numerics import between

ALPHA_M2S, K_W_MK = 1.4e-7, 0.5
INTERVALS = 40
FINEST_M = 0.1e-3
TOLERANCE = 2e-3
STIRRED_H = 1e5  # the brine's own film is nothing beside the flesh
MAX_STEPS = 40_000
EVEN_SHARE = 0.95  # of the way there counts as even


@dataclass(frozen=True)
class Body:
    """A piece that takes up salt: its grid, and its area for one cubic metre."""

    grid: Grid
    body: terms.Body
    food: terms.Food

    @property
    def weights(self) -> FloatArray:
        """Weight of each node in the mean."""
        return np.asarray(self.grid.volume / self.grid.volume.sum())


@dataclass(frozen=True)
class Uptake:
    """Salt over time: `u[row, node]` in the water, and `brine[row]` around it."""

    body: Body
    t_s: FloatArray
    u: FloatArray
    slope: FloatArray
    brine: FloatArray

    def at(self, seconds: FloatArray | float) -> FloatArray:
        """Profiles [time, node]."""
        return between(self.t_s, self.u, self.slope, np.atleast_1d(np.asarray(seconds, dtype=float)))

    def centre(self, seconds: FloatArray | float) -> FloatArray:
        """Salt in the middle."""
        return np.asarray(self.at(seconds)[:, self.body.grid.core])

    def mean(self, seconds: FloatArray | float) -> FloatArray:
        """Mean over the piece."""
        return np.asarray(self.at(seconds) @ self.body.weights)


def make_body(size_mm: float, exponent: float) -> Body:
    """A piece by its deciding size and its exponent (slab 0, cylinder 1, sphere 2)."""
    grid = make_grid(1e-3 * size_mm, exponent, INTERVALS, FINEST_M)
    nodes = len(grid.x_m)
    one = np.array([1.0, 0.0, 0.0, 0.0])
    none = np.zeros(nodes)
    food = terms.Food(
        k=(K_W_MK * one)[None], c=(K_W_MK / ALPHA_M2S * one)[None], share=none[None], rho=np.full(nodes, 1000.0),
        water=none, press=none, loss_a=0.0, loss_tm_c=60.0, loss_w_k=7.0, loss_tau_s=900.0, water_d=0.0,
    )  # fmt: skip
    return Body(grid, terms.Body(grid.volume, grid.area / np.diff(grid.x_m), grid.face_area, grid.core), food)


def soak(
    body: Body, start: FloatArray | float, brine: float, seconds: float, d_m2s: float, ratio: float | None = None
) -> Uptake:
    """A piece in brine for a time.

    `start`: its salt, g in 100 g of its water, or by node; `ratio`: water of the brine over water of the meat, None for
    a brine that does not weaken.
    """
    from ..heat.kernel import run

    nodes = len(body.grid.x_m)
    state = np.zeros((terms.STATE_ROWS, nodes))
    state[:2] = start
    face, around = film(brine, STIRRED_H), terms.NOTHING_AROUND
    if ratio is not None:
        capacity = ratio * float(body.grid.volume.sum()) / float(body.grid.face_area.sum()) * K_W_MK / ALPHA_M2S
        # The solver counts the heat of a body around for one square metre of a face: of a slab, for both of its faces.
        around = terms.Around(capacity * float(body.grid.face_area.sum()), 0.0, 0.0, 0.0, 0.0)
        face[terms.FROM_AROUND] = terms.FILM
    scale = d_m2s / ALPHA_M2S
    t, history, sums, _ = run(
        state, brine, body.body, body.food, both(face), around, 150.0,
        terms.Stop(seconds * scale, terms.STOP_TIME, 0.0, True), TOLERANCE, max(seconds * scale / 80.0, 0.01),
        MAX_STEPS,
    )  # fmt: skip
    there = sums[:, 5] if ratio is not None else np.full(len(t), brine)
    return Uptake(body, t / scale, history[:, :nodes], history[:, nodes : 2 * nodes] * scale, there)


def hours_until(body: Body, brine: float, own: float, wanted: float, d_m2s: float, ratio: float | None) -> float | None:
    """Hours until the middle reaches `wanted`; None if it never does."""
    size = body.grid.half_m
    longest = 3.0 * size * size / d_m2s
    course = soak(body, own, brine, longest, d_m2s, ratio)
    times = np.linspace(0.0, longest, 2000)
    middle = course.centre(times)
    passed = np.flatnonzero(middle >= wanted if wanted > own else middle <= wanted)
    return float(times[passed[0]]) / 3600.0 if len(passed) else None


def hours_even(body: Body, brine: float, own: float, d_m2s: float, ratio: float | None) -> float:
    """Hours until the middle is 95 % of the way to equilibrium."""
    final = brine if ratio is None else (own + ratio * brine) / (1.0 + ratio)
    hours = hours_until(body, brine, own, own + EVEN_SHARE * (final - own), d_m2s, ratio)
    return hours if hours is not None else float("inf")
