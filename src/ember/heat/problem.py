"""A plan as the solver sees it: grid, food by node, and what each stage must know of the piece."""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from ..files.piece import Piece
from ..files.plan import Plan
from ..food.catalogue import Cut, cut
from ..food.composition import Composition, ThermalProperties
from ..food.geometry import body_size, face_area_m2
from ..food.water import LossCurve, loss_curves, loss_lag_s, water_diffusivity_m2s
from . import terms
from .grid import FloatArray, Grid, make_grid
from .media import Setting, is_bagged

SLAB_HALF_INTERVALS = 30
ROUND_INTERVALS = 56
FINEST_M = 0.05e-3  # a crust dries in layers of this
FINEST_DRY_M = 0.15e-3  # where there is no water, a more even grid is more exact
# Subcutaneous fat and skin by mass: water, protein, fat; handbook tables from memory.
FAT_CAP = Composition(0.18, 0.06, 0.76)
SKIN = Composition(0.50, 0.20, 0.30)
SKIN_MM = 1.0  # under its own fat, which a fat cap says; common practice


@dataclass(frozen=True)
class Problem:
    """What stays the same along the chain; `settings[i]` belongs to stage i."""

    plan: Plan
    grid: Grid
    body: terms.Body
    food: terms.Food
    rho_kg_m3: float
    settings: tuple[Setting, ...]
    tolerance_k: float

    @property
    def water_kg_m3(self) -> FloatArray:
        """Water of the raw food by node."""
        return np.asarray(self.food.water)


def composition_of(plan: Plan) -> Composition:
    """The plan's own composition, or its cut's."""
    own = plan.piece.composition
    return Composition.from_fractions(own) if own is not None else cut(plan.piece.cut).mass_fractions


@lru_cache(maxsize=256)
def _density(composition: Composition) -> float:
    return float(composition.density(20.0))


def density_of(plan: Plan) -> float:
    """Density of the raw flesh, kg/m³ at 20 °C, or the plan's own constant one."""
    if plan.piece.properties is not None:
        return plan.piece.properties.rho_kg_m3
    return _density(composition_of(plan))


def cover_mm(piece: Piece, row: Cut) -> tuple[float, Composition]:
    """Thickness and composition of the layer on the piece's top (or all around): fat cap, else skin, else nothing."""
    if piece.properties is not None:
        return 0.0, FAT_CAP
    cap = piece.fat_cap_mm if piece.fat_cap_mm is not None else row.fat_cap_mm
    if cap > 0:
        return cap, FAT_CAP
    return (SKIN_MM if (piece.skin if piece.skin is not None else row.skin) else 0.0), SKIN


def _cover_share(grid: Grid, cap_m: float) -> FloatArray:
    """Share of each cell that lies within `cap_m` of the top face or the outside."""
    x = grid.x_m
    edges = np.concatenate([[x[0]], 0.5 * (x[1:] + x[:-1]), [x[-1]]])
    return np.asarray(np.clip((edges[1:] - (x[-1] - cap_m)) / np.diff(edges), 0.0, 1.0))


def make_problem(plan: Plan, tolerance_k: float, refine: float = 1.0) -> Problem:
    """Grid and food of a plan; `refine` divides the grid (below 1: a coarser one).

    Raises BadInput for an unknown cut or a composition that does not add up.
    """
    piece = plan.piece
    row = cut(piece.cut)
    size = body_size(piece, row, density_of(plan))
    intervals = max(round((SLAB_HALF_INTERVALS if size.exponent == 0.0 else ROUND_INTERVALS) * refine), 4)
    finest = FINEST_DRY_M if piece.properties is not None else FINEST_M
    grid = make_grid(size.size_mm * 1e-3, size.exponent, intervals, finest / refine)
    nodes = len(grid.x_m)
    share = np.zeros(nodes)
    if piece.properties is not None:
        fixed = piece.properties
        layers = [ThermalProperties.constant(fixed.k_w_mk, fixed.rho_kg_m3, fixed.cp_j_kgk)]
        loss = LossCurve(0.0, 60.0, 7.0)
    else:
        layers = [ThermalProperties.of(composition_of(plan), piece.start_c)]
        loss = loss_curves()[row.loss]
        cap_mm, cover = cover_mm(piece, row)
        if cap_mm > 0:
            layers.append(ThermalProperties.of(cover, piece.start_c))
            share = _cover_share(grid, cap_mm * 1e-3)
    flesh, cap = layers[0], layers[-1]
    water = flesh.water_kg_m3 + share * (cap.water_kg_m3 - flesh.water_kg_m3)
    food = terms.Food(
        k=np.array([layer.k_w_mk for layer in layers]),
        c=np.array([layer.c_j_m3k for layer in layers]),
        cap=share,
        rho=flesh.rho_kg_m3 + share * (cap.rho_kg_m3 - flesh.rho_kg_m3),
        water=water,
        press=water / flesh.water_kg_m3 if flesh.water_kg_m3 > 0 else np.ones(nodes),
        loss_a=loss.a, loss_tm_c=loss.tm, loss_w_k=loss.w, loss_tau_s=loss_lag_s(size.size_mm / 2),
        water_d=water_diffusivity_m2s() if piece.properties is None else 0.0,
    )  # fmt: skip
    body = terms.Body(grid.volume, grid.area / np.diff(grid.x_m), grid.face_area, grid.core)
    return Problem(plan, grid, body, food, flesh.rho_kg_m3, settings_of(plan), tolerance_k)


def settings_of(plan: Plan) -> tuple[Setting, ...]:
    """What each stage must know of the piece."""
    piece = plan.piece
    row = cut(piece.cut)
    density = density_of(plan)
    two_faces = body_size(piece, row, density).exponent == 0.0
    area = face_area_m2(piece, row, density)
    covered = cover_mm(piece, row)[0] > 0
    found, bagged = [], False
    for stage in plan.stages:
        found.append(Setting(two_faces, area, piece.count, covered, bagged))
        bagged = is_bagged(stage, bagged)
    return tuple(found)
