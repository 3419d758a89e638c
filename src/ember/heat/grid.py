"""The one-dimensional grid through a piece: nodes on the faces and the centre, finest where heat enters."""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

FloatArray = NDArray[np.float64]
IntArray = NDArray[np.int_]


@dataclass(frozen=True)
class Grid:
    """Nodes of a body whose area grows as r^exponent.

    `x_m[i]`: a slab (`two_faces`) runs from its underside, 0, to its top; a round body from its centre to its outside.
    `volume[i]` and `area[i]` (between node i and i+1) are for one square metre of the slab's face or of the round
    body's outside; `face_area`: which faces exist. `core`: the node that counts as the core, `flesh`: the first one
    outside of a bone or stuffing.
    """

    x_m: FloatArray
    volume: FloatArray
    area: FloatArray
    face_area: FloatArray
    core: int
    two_faces: bool
    flesh: int = 0

    @property
    def eaten_from(self) -> int:
        """The first edible node: the others are bone."""
        return self.core if self.core == self.flesh else 0

    @property
    def half_m(self) -> float:
        """Half the thickness, or the radius, m."""
        return float(self.x_m[-1] / 2 if self.two_faces else self.x_m[-1])


def stretched(half_m: float, intervals: int, finest_m: float) -> FloatArray:
    """Positions from 0 (centre) to half_m (face), stretched smoothly so that the last interval is `finest_m`.

    x(s) = half · sinh-graded; the smooth map keeps the vertex scheme second order.
    """
    even = half_m / intervals
    s = np.linspace(0.0, 1.0, intervals + 1)
    if finest_m >= even:
        return half_m * s
    low, high = 1e-6, 20.0
    for _ in range(60):
        strength = 0.5 * (low + high)
        last = half_m * (1.0 - math.tanh(strength * (1.0 - 1.0 / intervals)) / math.tanh(strength))
        low, high = (strength, high) if last > finest_m else (low, strength)
    return half_m * np.tanh(strength * s) / math.tanh(strength)


@lru_cache(maxsize=256)
def make_grid(
    size_m: float, exponent: float, intervals: int = 26, finest_m: float = 0.2e-3, inside_m: float = 0.0,
    hollow: float = 0.0,
) -> Grid:  # fmt: skip
    """Grid of a body of thickness or diameter `size_m` whose area grows as r^exponent (0 to 2).

    Exponent 0 gives a slab with two faces, else a round body with one; it may contain a bone or a stuffing of radius
    `inside_m`, with a node on its edge. `hollow`: the share of the radius that a round body's wall begins at.
    """
    half = size_m / 2
    if hollow > 0.0:
        return _wall(half, exponent, intervals, finest_m, hollow)
    right = stretched(half, intervals, min(finest_m, half / intervals))
    two_faces = exponent == 0.0
    x = np.concatenate([half - right[::-1], half + right[1:]]) if two_faces else right
    flesh = 0
    if inside_m > 0.0 and not two_faces:
        flesh = max(int(np.argmin(np.abs(x - inside_m))), 1)
        old = x[flesh]
        x = np.where(x <= old, x * inside_m / old, inside_m + (x - old) * (half - inside_m) / (half - old))
    middles = 0.5 * (x[1:] + x[:-1])
    if two_faces:
        edges = np.concatenate([[0.0], middles, [size_m]])
        return Grid(x, np.diff(edges), np.ones(len(middles)), np.array([1.0, 1.0]), intervals, True)
    edges = np.concatenate([[0.0], middles, [half]])
    power = exponent + 1.0
    # Scaled by half^exponent so that the outside has area 1.
    volume = np.diff((edges / half) ** power) * half / power
    return Grid(x, volume, (middles / half) ** exponent, np.array([0.0, 1.0]), 0, False, flesh)


def _wall(half: float, exponent: float, intervals: int, finest_m: float, hollow: float) -> Grid:
    """The outer part of a wall that is heated from both of its sides: from its coldest radius to its outside."""
    inner = hollow * half
    x = stretched(half - inner, intervals, min(finest_m, (half - inner) / intervals))
    middles = inner + 0.5 * (x[1:] + x[:-1])
    edges = np.concatenate([[inner], middles, [half]])
    power = exponent + 1.0
    volume = np.diff((edges / half) ** power) * half / power
    return Grid(x, volume, (middles / half) ** exponent, np.array([0.0, 1.0]), 0, False)
