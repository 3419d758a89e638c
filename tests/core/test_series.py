"""The solver against the exact series: Carslaw & Jaeger 1959 (see series.py)."""

from __future__ import annotations

import numpy as np
import pytest

from ember.heat.simulate import simulate

from .plans import CP, RHO, K, exact
from .series import BODIES

BIOTS = [0.05, 0.1, 0.3, 1.0, 3.0, 10.0, 30.0, 100.0, 200.0]
R = 0.02
ALPHA = K / (RHO * CP)
LIMIT = 0.001  # of the temperature step


def heating_fo(kind: str, Bi: float) -> float:
    """Fourier number at which the centre is within 1 % of the medium: the heating time."""
    Fo = np.geomspace(0.05, 200, 4000)
    return float(Fo[np.argmax(BODIES[kind](Bi, Fo, 0.0) < 0.01)])


def worst_error(kind: str, Bi: float, after: float = 0.01) -> dict[str, float]:
    """Largest error at centre and surface as a share of the step, from `after` of the heating time on."""
    last = heating_fo(kind, Bi)
    ran = simulate(exact(kind, Bi, last * R**2 / ALPHA / 60))
    Fo = np.geomspace(after * last, last, 300)
    theta = (ran.profile(Fo * R**2 / ALPHA) - 80.0) / (10.0 - 80.0)
    exact_at = BODIES[kind]
    return {
        "centre": float(np.abs(theta[:, ran.grid.core] - exact_at(Bi, Fo, 0.0)).max()),
        "surface": float(np.abs(theta[:, -1] - exact_at(Bi, Fo, 1.0)).max()),
    }


@pytest.mark.parametrize("Bi", BIOTS)
@pytest.mark.parametrize("kind", list(BODIES))
def test_heating_follows_the_exact_series(kind, Bi):
    errors = worst_error(kind, Bi)
    assert errors["centre"] < LIMIT
    assert errors["surface"] < LIMIT


def test_the_series_themselves_give_the_textbook_centre():
    # Incropera, one-term coefficients at Bi = 1: slab ζ1 0.8603, C1 1.1191; at Fo = 1 the centre is C1 exp(-ζ1²).
    one_term = 1.1191 * np.exp(-(0.8603**2))
    assert BODIES["slab"](1.0, np.array([1.0]), 0.0)[0] == pytest.approx(one_term, rel=2e-3)
    assert BODIES["sphere"](1.0, np.array([1.0]), 0.0)[0] == pytest.approx(1.2732 * np.exp(-(1.5708**2)), rel=2e-3)
