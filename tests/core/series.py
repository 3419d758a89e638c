"""Exact solutions of heating a body from a uniform temperature in a medium with a heat-transfer coefficient.

Carslaw & Jaeger, Conduction of Heat in Solids, 2nd ed. (1959): slab section 3.11, cylinder 7.7, sphere 9.4. Also in
every heat-transfer textbook (Incropera, chapter 5). θ = (T - T∞)/(T0 - T∞), Fo = α t/R², Bi = h R/k.
"""

from __future__ import annotations

from itertools import pairwise

import numpy as np
from scipy.optimize import brentq
from scipy.special import j0, j1, jn_zeros

TERMS = 400


def _roots(f, edges: np.ndarray) -> np.ndarray:
    return np.array([brentq(f, a + 1e-10, b - 1e-10, xtol=1e-14) for a, b in pairwise(edges)])


def slab(Bi: float, Fo: np.ndarray, x: float) -> np.ndarray:
    """θ at x (0 centre, 1 face): ζ tan ζ = Bi."""
    z = np.array(
        [brentq(lambda s: s * np.sin(s) - Bi * np.cos(s), n * np.pi, n * np.pi + np.pi / 2) for n in range(TERMS)]
    )
    C = 4 * np.sin(z) / (2 * z + np.sin(2 * z))
    return (C[:, None] * np.exp(-np.outer(z**2, Fo)) * np.cos(z * x)[:, None]).sum(axis=0)


def cylinder(Bi: float, Fo: np.ndarray, x: float) -> np.ndarray:
    """θ at r/R = x: ζ J1(ζ) = Bi J0(ζ)."""
    edges = np.concatenate([[0.0], jn_zeros(1, TERMS)])
    z = _roots(lambda s: s * j1(s) - Bi * j0(s), edges)
    C = 2 / z * j1(z) / (j0(z) ** 2 + j1(z) ** 2)
    return (C[:, None] * np.exp(-np.outer(z**2, Fo)) * j0(z * x)[:, None]).sum(axis=0)


def sphere(Bi: float, Fo: np.ndarray, x: float) -> np.ndarray:
    """θ at r/R = x: 1 - ζ cot ζ = Bi."""
    z = _roots(lambda s: np.sin(s) - s * np.cos(s) - Bi * np.sin(s), np.pi * np.arange(TERMS + 1))
    C = 4 * (np.sin(z) - z * np.cos(z)) / (2 * z - np.sin(2 * z))
    shape = np.ones_like(z) if x == 0 else np.sin(z * x) / (z * x)
    return (C[:, None] * np.exp(-np.outer(z**2, Fo)) * shape[:, None]).sum(axis=0)


BODIES = {"slab": slab, "cylinder": cylinder, "sphere": sphere}
