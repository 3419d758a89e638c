"""A plan as the solver sees it: grid, food by node, and what each stage must know of the piece."""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import lru_cache
from typing import Literal

import numpy as np

from ..files.piece import Piece
from ..files.plan import Plan
from ..food.catalogue import Cut, cut
from ..food.composition import Composition, ThermalProperties
from ..food.geometry import body_size, face_area_m2, thigh_size
from ..food.water import LossCurve, loss_curves, loss_lag_s, water_diffusivity_m2s
from . import terms
from .faces import Setting
from .grid import FloatArray, Grid, make_grid
from .media import is_bagged

SLAB_HALF_INTERVALS = 30
ROUND_INTERVALS = 56
FINEST_M = 0.05e-3  # a crust dries in layers of this
FINEST_DRY_M = 0.15e-3  # where there is no water, a more even grid is more exact
# Subcutaneous fat and skin by mass: water, protein, fat; handbook tables from memory.
FAT_CAP = Composition(0.18, 0.06, 0.76)
SKIN = Composition(0.50, 0.20, 0.30)
SKIN_MM = 1.0  # under its own fat, which a fat cap says; common practice
STUFFING = Composition(0.62, 0.05, 0.09, 0.23, 0.01)  # bread, onion, butter, stock; common practice
# A shaft of bone with its marrow: compact bone 0.4 to 0.5 W/mK, 1900 kg/m³, 1300 J/kgK, its inside mostly fat; unsure.
BONE = ThermalProperties.constant(k_w_mk=0.4, rho_kg_m3=1500.0, cp_j_kgk=1700.0)

Part = Literal["trunk", "thigh"]


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


def _share_outside(grid: Grid, deep_m: float) -> FloatArray:
    """Share of each cell that lies within `deep_m` of the top face or the outside."""
    x = grid.x_m
    edges = np.concatenate([[x[0]], 0.5 * (x[1:] + x[:-1]), [x[-1]]])
    return np.asarray(np.clip((edges[1:] - (x[-1] - deep_m)) / np.diff(edges), 0.0, 1.0))


@dataclass(frozen=True)
class Layer:
    """A part of the piece that is not its flesh: how much of each cell it fills, and whether juice is pressed out."""

    properties: ThermalProperties
    share: FloatArray
    presses: bool


def _inside(piece: Piece, row: Cut) -> tuple[float, ThermalProperties]:
    """What is in the middle of a round piece, and its share of the radius."""
    if piece.properties is not None:
        return 0.0, BONE
    if piece.stuffed:
        return row.stuffing_share, ThermalProperties.of(STUFFING, piece.start_c)
    return (row.bone_share if piece.bone is not False else 0.0), BONE


def _layers(plan: Plan, row: Cut, grid: Grid, inside: ThermalProperties) -> list[Layer]:
    """What there is beside the flesh, from the middle outwards."""
    found: list[Layer] = []
    if grid.flesh > 0:
        outside_m = grid.half_m - float(grid.x_m[grid.flesh])
        found.append(Layer(inside, 1.0 - _share_outside(grid, outside_m), presses=False))
    cap_mm, cover = cover_mm(plan.piece, row)
    if cap_mm > 0:
        taken = found[0].share if found else 0.0
        share = np.minimum(_share_outside(grid, cap_mm * 1e-3), 1.0 - taken)
        found.append(Layer(ThermalProperties.of(cover, plan.piece.start_c), share, presses=True))
    return found


def make_problem(plan: Plan, tolerance_k: float, refine: float = 1.0, part: Part = "trunk") -> Problem:
    """Grid and food of a plan; `refine` divides the grid (below 1: a coarser one). `part`: of a whole bird.

    Raises BadInput for an unknown cut or a composition that does not add up.
    """
    piece = plan.piece
    row = cut(piece.cut)
    size = body_size(piece, row, density_of(plan))
    if part == "thigh":
        size = thigh_size(piece, row, density_of(plan))
        piece = piece.model_copy(update={"stuffed": False})
        plan = plan.model_copy(update={"piece": piece})
    intervals = max(round((SLAB_HALF_INTERVALS if size.exponent == 0.0 else ROUND_INTERVALS) * refine), 4)
    finest = FINEST_DRY_M if piece.properties is not None else FINEST_M
    inside_share, inside = _inside(piece, row)
    size_m = size.size_mm * 1e-3
    grid = make_grid(size_m, size.exponent, intervals, finest / refine, inside_share * size_m / 2)
    if not piece.stuffed:  # a stuffing has its own middle; of a piece on the bone the flesh beside it counts
        grid = replace(grid, core=grid.core or grid.flesh)
    layers: list[Layer] = []
    if piece.properties is not None:
        fixed = piece.properties
        flesh = ThermalProperties.constant(fixed.k_w_mk, fixed.rho_kg_m3, fixed.cp_j_kgk)
        loss, spreads = LossCurve(0.0, 60.0, 7.0), 0.0
    else:
        flesh = ThermalProperties.of(composition_of(plan), piece.start_c)
        loss, spreads = loss_curves()[row.loss], water_diffusivity_m2s()
        layers = _layers(plan, row, grid, inside)
    kinds = [flesh, *(layer.properties for layer in layers)]
    shares = np.array([np.zeros(len(grid.x_m)), *(layer.share for layer in layers)])

    def mixed(values: list[float]) -> FloatArray:
        return np.asarray(values[0] + shares.T @ (np.array(values) - values[0]))

    water = mixed([kind.water_kg_m3 for kind in kinds])
    press = water / flesh.water_kg_m3 if flesh.water_kg_m3 > 0 else np.ones(len(water))
    for layer in layers:
        press = press * (1.0 if layer.presses else 1.0 - layer.share)
    food = terms.Food(
        k=np.array([kind.k_w_mk for kind in kinds]),
        c=np.array([kind.c_j_m3k for kind in kinds]),
        share=shares, rho=mixed([kind.rho_kg_m3 for kind in kinds]), water=water, press=press,
        loss_a=loss.a, loss_tm_c=loss.tm, loss_w_k=loss.w, loss_tau_s=loss_lag_s(size.size_mm / 2), water_d=spreads,
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
