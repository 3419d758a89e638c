"""The same slab by general-purpose solvers: how much longer they take for the same error.

A slab of constant properties in a stirred medium has an exact series (Carslaw & Jaeger 1959, section 3.11). Each solver
runs with the coarsest grid and tolerance whose error is not above ours.
"""

from __future__ import annotations

import importlib.util
import statistics
import time
from collections.abc import Callable
from functools import partial
from typing import Any

import numpy as np

from ..files.plan import parse_plan
from ..heat.grid import FloatArray
from ..heat.simulate import simulate

THICK_M, K, RHO, CP, H = 0.03, 0.5, 1050.0, 3500.0, 100.0
START_C, MEDIUM_C, END_S = 5.0, 60.0, 5400.0
LOOKED_AT_S = np.linspace(300.0, END_S, 18)
TERMS = 60
Solver = Callable[[int, float], FloatArray]
# (nodes, relative tolerance), the cheapest first.
SCIPY_SETTINGS = tuple((nodes, rtol) for rtol in (1e-3, 1e-4, 1e-5) for nodes in (21, 31, 41, 61, 81))
PY_PDE_SETTINGS = ((25, 1e-3), (31, 1e-3), (41, 1e-4))


def exact() -> FloatArray:
    """Core and face by the series, °C [time, 2]."""
    return np.asarray(MEDIUM_C + (START_C - MEDIUM_C) * series(THICK_M / 2))


def series(half: float) -> FloatArray:
    """Share of the first difference left in the middle and on the face of a wall `half` m to its middle, [time, 2]."""
    bi, fo = H * half / K, K / (RHO * CP) * LOOKED_AT_S / half**2
    roots = []
    for i in range(TERMS):
        low, high = i * np.pi, i * np.pi + np.pi / 2 - 1e-12
        for _ in range(80):
            middle = 0.5 * (low + high)
            low, high = (middle, high) if middle * np.tan(middle) < bi else (low, middle)
        roots.append(0.5 * (low + high))
    z = np.array(roots)
    weight = 4 * np.sin(z) / (2 * z + np.sin(2 * z)) * np.exp(-np.outer(fo, z**2))
    return np.stack([weight.sum(axis=1), (weight * np.cos(z)).sum(axis=1)], axis=1)


def _ours() -> FloatArray:
    run = simulate(_PLAN)
    return np.stack([run.node_c(LOOKED_AT_S, run.grid.core), run.node_c(LOOKED_AT_S, -1)], axis=1)


_PLAN = parse_plan(
    {
        "format": "open-ember/plan", "version": 1,
        "piece": {
            "cut": "beef/strip-loin", "shape": {"kind": "slab", "thickness_mm": THICK_M * 1e3}, "start_c": START_C,
            "properties": {"k_w_mk": K, "rho_kg_m3": RHO, "cp_j_kgk": CP},
        },
        "stages": [{"kind": "medium", "medium_c": MEDIUM_C, "h_w_m2k": H, "minutes": END_S / 60}],
    }
)  # fmt: skip


def _timed(act: Callable[[], FloatArray], repeats: int) -> tuple[float, float]:
    """(largest error from the series, °C; median time, s), warm."""
    error = float(np.abs(act() - exact()).max())
    times = []
    for _ in range(repeats):
        begin = time.perf_counter()
        act()
        times.append(time.perf_counter() - begin)
    return error, statistics.median(times)


def _scipy(nodes: int, rtol: float) -> FloatArray:
    from scipy.integrate import solve_ivp
    from scipy.sparse import diags

    dx = THICK_M / (nodes - 1)
    volume = np.full(nodes, RHO * CP * dx)
    volume[[0, -1]] /= 2

    def rates(_t: float, T: FloatArray) -> FloatArray:
        flux = K * (T[1:] - T[:-1]) / dx
        out = np.zeros(nodes)
        out[:-1] += flux
        out[1:] -= flux
        out[0] += H * (MEDIUM_C - T[0])
        out[-1] += H * (MEDIUM_C - T[-1])
        return np.asarray(out / volume)

    band = diags([np.ones(nodes - 1), np.ones(nodes), np.ones(nodes - 1)], [-1, 0, 1])
    solve: Any = solve_ivp
    solution = solve(
        rates, (0.0, END_S), np.full(nodes, START_C), method="BDF", t_eval=LOOKED_AT_S, rtol=rtol, atol=rtol,
        jac_sparsity=band,
    )  # fmt: skip
    core_and_face: FloatArray = np.asarray([solution.y[nodes // 2], solution.y[-1]]).T
    return core_and_face


def _py_pde(nodes: int, rtol: float) -> FloatArray:
    import pde

    # Cell-centred: an odd number of cells has one in the middle; the face follows from the last cell and the film.
    grid = pde.CartesianGrid([[0.0, THICK_M]], nodes)
    film = {"type": "mixed", "value": H / K, "const": H / K * MEDIUM_C}
    equation = pde.DiffusionPDE(diffusivity=K / (RHO * CP), bc={"x-": film, "x+": film})
    storage = pde.MemoryStorage()
    interrupts = pde.FixedInterrupts(LOOKED_AT_S)
    equation.solve(
        pde.ScalarField(grid, START_C), t_range=END_S, dt=1e-2, adaptive=True, tolerance=rtol,
        tracker=[storage.tracker(interrupts)],
    )  # fmt: skip
    cells = np.array(storage.data)[-len(LOOKED_AT_S) :]
    half_cell = THICK_M / nodes / 2
    face = (K / half_cell * cells[:, -1] + H * MEDIUM_C) / (K / half_cell + H)
    return np.stack([cells[:, nodes // 2], face], axis=1)


def _ratio(other: Solver, settings: tuple[tuple[int, float], ...], repeats: int) -> float | None:
    error, ours_s = _timed(_ours, 50)
    for nodes, rtol in settings:
        act = partial(other, nodes, rtol)
        if float(np.abs(act() - exact()).max()) <= error:
            return round(_timed(act, repeats)[1] / ours_s, 1)
    return None


def scipy_ratio() -> float | None:
    """How many times longer SciPy's BDF takes; None if no setting in the list is as accurate."""
    return _ratio(_scipy, SCIPY_SETTINGS, 9)


def py_pde_ratio() -> float | None:
    """How many times longer py-pde takes; None if it is not installed or never as accurate."""
    return _ratio(_py_pde, PY_PDE_SETTINGS, 1) if importlib.util.find_spec("pde") else None
