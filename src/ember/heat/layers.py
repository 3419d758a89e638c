"""What a piece consists of from its middle outwards: stuffing or bone, flesh, and fat cap or skin."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from ..files.piece import Piece, Properties
from ..food.catalogue import Cut
from ..food.composition import (
    Composition,
    ThermalProperties,
    freezable_water,
    loss_curves,
    loss_lag_s,
    water_diffusivity_m2s,
)
from . import terms
from .grid import FloatArray, Grid

# Subcutaneous fat and skin by mass: water, protein, fat; handbook tables from memory.
FAT_CAP = Composition(0.18, 0.06, 0.76)
SKIN = Composition(0.50, 0.20, 0.30)
SKIN_MM = 1.0  # under its own fat, which a fat cap says; common practice
STUFFING = Composition(0.62, 0.05, 0.09, 0.23, 0.01)  # bread, onion, butter, stock; common practice
# A shaft of bone with its marrow: compact bone 0.4 to 0.5 W/mK, 1900 kg/m³, 1300 J/kgK, its inside mostly fat; unsure.
BONE = ThermalProperties.constant(k_w_mk=0.4, rho_kg_m3=1500.0, cp_j_kgk=1700.0)


def cover_mm(piece: Piece, cut_entry: Cut) -> tuple[float, Composition]:
    """Thickness and composition of the layer on the piece's top (or all around): fat cap, else skin, else none."""
    if piece.properties is not None:
        return 0.0, FAT_CAP
    cap = piece.fat_cap_mm if piece.fat_cap_mm is not None else cut_entry.fat_cap_mm
    if cap > 0:
        return cap, FAT_CAP
    return (SKIN_MM if (piece.skin if piece.skin is not None else cut_entry.skin) else 0.0), SKIN


def _share_outside(grid: Grid, deep_m: float) -> FloatArray:
    """Share of each cell that lies within `deep_m` of the top face or the outside."""
    x = grid.x_m
    edges = np.concatenate([[x[0]], 0.5 * (x[1:] + x[:-1]), [x[-1]]])
    return np.asarray(np.clip((edges[1:] - (x[-1] - deep_m)) / np.diff(edges), 0.0, 1.0))


@dataclass(frozen=True)
class Layer:
    """A part of the piece that is not flesh: the share of each cell it fills, and whether juice is pressed out of
    it.
    """

    properties: ThermalProperties
    share: FloatArray
    presses: bool


def inside_share(piece: Piece, cut_entry: Cut) -> float:
    """Radius of a round piece's bone or stuffing, as a share of its own."""
    if piece.properties is not None:
        return 0.0
    if piece.stuffed:
        return cut_entry.stuffing_share
    return cut_entry.bone_share if piece.bone is not False else 0.0


def _layers(piece: Piece, cut_entry: Cut, grid: Grid) -> list[Layer]:
    """Layers besides the flesh, from the middle outwards."""
    layers: list[Layer] = []
    taken: FloatArray | float = 0.0
    if grid.flesh > 0:
        inside = ThermalProperties.of(STUFFING, piece.start_c) if piece.stuffed else BONE
        taken = 1.0 - _share_outside(grid, grid.half_m - float(grid.x_m[grid.flesh]))
        layers.append(Layer(inside, taken, presses=False))
    cap_mm, cover = cover_mm(piece, cut_entry)
    if cap_mm > 0:
        share = np.minimum(_share_outside(grid, cap_mm * 1e-3), 1.0 - taken)
        layers.append(Layer(ThermalProperties.of(cover, piece.start_c), share, presses=True))
    return layers


def _dry_food(fixed: Properties, nodes: int) -> terms.Food:
    """Food of constant properties, for verification."""
    flesh = ThermalProperties.constant(fixed.k_w_mk, fixed.rho_kg_m3, fixed.cp_j_kgk)
    none, whole = np.zeros(nodes), np.full(nodes, flesh.rho_kg_m3)
    return terms.Food(
        k=flesh.k_w_mk[None], c=flesh.c_j_m3k[None], share=none[None], rho=whole, water=none, press=none,
        loss_a=0.0, loss_tm_c=60.0, loss_w_k=7.0, loss_tau_s=900.0, water_d=0.0,
    )  # fmt: skip


# Where flesh begins to freeze, °C: lean beef -1.0, fish -1.1 to -2.2 (handbook tables, from memory).
FREEZES_C, FISH_FREEZES_C = -1.0, -1.5


def freezes_c(cut_entry: Cut) -> float:
    """Where the flesh of a cut begins to freeze, °C."""
    return FISH_FREEZES_C if cut_entry.loss in ("salmon", "cod") else FREEZES_C


def food_of(
    piece: Piece, cut_entry: Cut, composition: Composition, grid: Grid, with_ice: bool = False
) -> terms.Food:  # fmt: skip
    """The piece's food by node: flesh and other layers; `with_ice`: what freezes is followed too."""
    if piece.properties is not None:
        return _dry_food(piece.properties, len(grid.x_m))
    flesh = ThermalProperties.of(composition, piece.start_c)
    layers = _layers(piece, cut_entry, grid)
    kinds = [flesh, *(layer.properties for layer in layers)]
    shares = np.array([np.zeros(len(grid.x_m)), *(layer.share for layer in layers)])

    def mixed(values: list[float]) -> FloatArray:
        return np.asarray(values[0] + shares.T @ (np.array(values) - values[0]))

    water = mixed([kind.water_kg_m3 for kind in kinds])
    press = water / flesh.water_kg_m3 if flesh.water_kg_m3 > 0 else np.ones(len(water))
    for layer in layers:
        press = press * (1.0 if layer.presses else 1.0 - layer.share)
    loss = loss_curves()[cut_entry.loss]
    return terms.Food(
        k=np.array([kind.k_w_mk for kind in kinds]),
        c=np.array([kind.c_j_m3k for kind in kinds]),
        share=shares, rho=mixed([kind.rho_kg_m3 for kind in kinds]), water=water, press=press,
        loss_a=loss.a, loss_tm_c=loss.tm, loss_w_k=loss.w, loss_tau_s=loss_lag_s(1e3 * grid.half_m),
        water_d=water_diffusivity_m2s(), ice=_ice(composition, water, flesh, layers) if with_ice else terms.NO_ICE,
        freezes_c=freezes_c(cut_entry),
    )  # fmt: skip


def _ice(composition: Composition, water: FloatArray, flesh: ThermalProperties, layers: list[Layer]) -> FloatArray:
    """Water that freezes by node, kg/m³; none in bone, of fat and skin the same share of their water as of flesh."""
    ice = water * (freezable_water(composition) / composition.water if composition.water > 0 else 0.0)
    for layer in layers:
        if layer.properties is BONE:
            ice = ice * (1.0 - layer.share)
    return np.asarray(ice)
