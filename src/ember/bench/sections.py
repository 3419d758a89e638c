"""Sections: how long their solver takes, and how much longer general-purpose solvers take for a bar with edges.

A bar of constant properties in a stirred medium is the product of two exact series (Carslaw & Jaeger 1959, section
1.15): through its thickness and across its width.
"""

from __future__ import annotations

import importlib.util
import time
from collections.abc import Callable
from functools import partial
from typing import Any

import numpy as np

from ..files.plan import Plan, parse_plan
from ..heat.grid import FloatArray
from ..heat.numerics import between
from ..heat.simulate import simulate
from .reference import CP, END_S, LOOKED_AT_S, MEDIUM_C, RHO, START_C, THICK_M, H, K, series

WIDE = 2.0  # times as wide as thick
# (nodes through half the thickness, relative tolerance), the cheapest first.
SCIPY_SETTINGS = tuple((nodes, rtol) for rtol in (1e-3, 1e-4) for nodes in (9, 13, 17, 21, 31))
PY_PDE_SETTINGS = ((10, 1e-3), (14, 1e-3), (20, 1e-3))


def _plan(size_mm: float, outline: dict[str, Any], stages: list[dict[str, Any]], **piece: Any) -> Plan:
    round_ = outline["family"] == "roll"
    shape = {"kind": "cylinder", "diameter_mm": size_mm} if round_ else {"kind": "slab", "thickness_mm": size_mm}
    data = {"cut": "beef/strip-loin", "shape": shape, "start_c": START_C, "outline": outline, **piece}
    return parse_plan({"format": "open-ember/plan", "version": 1, "piece": data, "stages": stages})


BATH_DAY = _plan(40.0, {"family": "steak", "row_mm": 100.0}, [{"kind": "bath", "water_c": 57.0, "minutes": 1440.0}])
ROAST = _plan(
    90.0, {"family": "roll", "row_mm": 220.0},
    [{"kind": "oven", "air_c": 160.0, "minutes": 120.0}, {"kind": "rest", "minutes": 20.0}],
)  # fmt: skip
PAN = _plan(
    25.0, {"family": "steak", "row_mm": 100.0},
    [{"kind": "pan", "pan_c": 220.0, "seconds_a_side": 60.0, "sides": 4}, {"kind": "rest", "minutes": 8.0}],
)  # fmt: skip
_BAR = _plan(
    1e3 * THICK_M, {"family": "steak", "row_mm": 1e3 * WIDE * THICK_M, "ends": ["cut", "square"]},
    [{"kind": "medium", "medium_c": MEDIUM_C, "h_w_m2k": H, "minutes": END_S / 60}],
    properties={"k_w_mk": K, "rho_kg_m3": RHO, "cp_j_kgk": CP},
)  # fmt: skip


def percentile_ms(act: Callable[[], Any], runs: int, share: float = 95.0) -> float:
    """A percentile of the time an action takes, ms, warm."""
    act()
    times = []
    for _ in range(runs):
        begin = time.perf_counter()
        act()
        times.append(time.perf_counter() - begin)
    return round(1e3 * float(np.percentile(times, share)), 1)


def times_ms() -> dict[str, float]:
    """95th percentile of the solver with its geometry cached, ms."""
    plans = {"bath_day": BATH_DAY, "roast_2h": ROAST, "pan_four_turns": PAN}
    return {name: percentile_ms(partial(simulate, plan), 20) for name, plan in plans.items()}


def exact() -> FloatArray:
    """Core and the middle of the edge by the two series, °C [time, 2]."""
    thick, wide = series(THICK_M / 2), series(WIDE * THICK_M / 2)
    theta = np.stack([thick[:, 0] * wide[:, 0], thick[:, 0] * wide[:, 1]], axis=1)
    return np.asarray(MEDIUM_C + (START_C - MEDIUM_C) * theta)


def ours() -> FloatArray:
    """The same by sections."""
    run = simulate(_BAR)
    if run.row is None:
        raise RuntimeError("the bar has no sections")
    core = run.row.part.body.core
    ends = run.row.temperature_c[:, [0, -1], core], run.row.slope_k_s[:, [0, -1], core]
    return between(run.t_s, *ends, LOOKED_AT_S)


def _scipy(nodes: int, rtol: float) -> FloatArray:
    """SciPy's BDF on an even grid over a quarter of the bar."""
    from scipy.integrate import solve_ivp
    from scipy.sparse import diags, identity, kron

    across = round(WIDE * (nodes - 1)) + 1
    dx = THICK_M / 2 / (nodes - 1)
    share = np.ones((across, nodes))
    share[[0, -1], :] /= 2
    share[:, [0, -1]] /= 2

    def rates(_t: float, flat: FloatArray) -> FloatArray:
        T = flat.reshape(across, nodes)
        out = np.zeros_like(T)
        through = K * (T[:, 1:] - T[:, :-1]) * np.where(np.arange(across) % (across - 1) == 0, 0.5, 1.0)[:, None]
        along = K * (T[1:] - T[:-1]) * np.where(np.arange(nodes) % (nodes - 1) == 0, 0.5, 1.0)[None]
        out[:, :-1] += through
        out[:, 1:] -= through
        out[:-1] += along
        out[1:] -= along
        out[:, -1] += H * dx * (MEDIUM_C - T[:, -1]) * np.where(np.arange(across) % (across - 1) == 0, 0.5, 1.0)
        out[-1] += H * dx * (MEDIUM_C - T[-1]) * np.where(np.arange(nodes) % (nodes - 1) == 0, 0.5, 1.0)
        return np.asarray((out / (RHO * CP * dx * dx * share)).ravel())

    def band(n: int) -> Any:
        return diags([np.ones(n - 1), np.ones(n), np.ones(n - 1)], [-1, 0, 1])

    sparsity = kron(band(across), identity(nodes)) + kron(identity(across), band(nodes))
    solve: Any = solve_ivp
    solution = solve(
        rates, (0.0, END_S), np.full(across * nodes, START_C), method="BDF", t_eval=LOOKED_AT_S, rtol=rtol, atol=rtol,
        jac_sparsity=sparsity,
    )  # fmt: skip
    found: FloatArray = solution.y.reshape(across, nodes, -1)
    return np.stack([found[0, 0], found[-1, 0]], axis=1)


def _py_pde(nodes: int, rtol: float) -> FloatArray:
    """py-pde on a quarter of the bar; core and edge by the cells beside them."""
    import pde

    half, wide = THICK_M / 2, WIDE * THICK_M / 2
    grid = pde.CartesianGrid([[0.0, wide], [0.0, half]], [round(WIDE * nodes), nodes])
    film = {"type": "mixed", "value": H / K, "const": H / K * MEDIUM_C}
    mirror = {"derivative": 0}
    equation = pde.DiffusionPDE(diffusivity=K / (RHO * CP), bc={"x-": mirror, "x+": film, "y-": mirror, "y+": film})
    storage = pde.MemoryStorage()
    equation.solve(
        pde.ScalarField(grid, START_C), t_range=END_S, dt=1e-2, adaptive=True, tolerance=rtol,
        tracker=[storage.tracker(pde.FixedInterrupts(LOOKED_AT_S))],
    )  # fmt: skip
    cells = np.array(storage.data)[-len(LOOKED_AT_S) :]
    half_cell = half / nodes / 2
    edge = (K / half_cell * cells[:, -1, 0] + H * MEDIUM_C) / (K / half_cell + H)
    return np.stack([cells[:, 0, 0], edge], axis=1)


def ratio(other: Callable[[int, float], FloatArray], settings: tuple[tuple[int, float], ...]) -> float | None:
    """How many times longer another solver takes with the cheapest setting whose error is not above ours; None if none
    is as accurate.
    """
    wanted = exact()
    error = float(np.abs(ours() - wanted).max())
    mine = percentile_ms(ours, 20, 50.0)
    for nodes, rtol in settings:
        if float(np.abs(other(nodes, rtol) - wanted).max()) <= error:
            return round(percentile_ms(partial(other, nodes, rtol), 3, 50.0) / mine, 1)
    return None


def ratios() -> dict[str, float | None]:
    """How many times longer SciPy's BDF and py-pde take; None for one that is not installed or never as accurate."""
    has_pde = importlib.util.find_spec("pde") is not None
    return {"scipy_bdf": ratio(_scipy, SCIPY_SETTINGS), "py_pde": ratio(_py_pde, PY_PDE_SETTINGS) if has_pde else None}
