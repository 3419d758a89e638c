"""The interface between the chain of stages and the compiled solver.

Separate from the solver, so that a page or command that simulates nothing does not wait for the compiler to load.
"""

from __future__ import annotations

from typing import NamedTuple

import numpy as np

# Columns of a face's condition. Film (or free air): MEDIUM_C, H. Radiation: RADIANT_C, EMISSIVITY. Evaporation:
# WETNESS, VAPOUR_PA, HC. Contact (pan, plate, oil): CONTACT_C, H_CONTACT while the face is wet, H_DRY once it is dry.
# FROM_AROUND: which of the two temperatures is that of the body around. SKIN, SKIN_SLOPE: conductance of the dried
# outermost fibres at 75 °C, as a film W/m²K (0: none), and its growth, 1/K. JUICE: share of pressed-out juice that
# wets the face.
(
    MEDIUM_C, H, RADIANT_C, EMISSIVITY, WETNESS, VAPOUR_PA, HC, CONTACT_C, H_CONTACT, H_DRY, FROM_AROUND, SKIN,
    SKIN_SLOPE, JUICE,
) = range(14)  # fmt: skip
FACE_COLUMNS = 14
HELD, FILM, CONTACT = 0.0, 1.0, 2.0

SIGMA = 5.670374e-8  # Stefan-Boltzmann, W/m²K⁴
KELVIN = 273.15

STOP_TIME, STOP_CORE, STOP_SURFACE = 0, 1, 2
ENDED_TIME, ENDED_REACHED, ENDED_STEPS = 0, 1, 2

# Rows of a state: temperature and hottest so far °C, water pressed out and boiled off kg/m³.
TEMPERATURE, HOTTEST, PRESSED, BOILED = range(4)
STATE_ROWS = 4


class Body(NamedTuple):
    """The grid: volume of each cell, area over distance between neighbours, area of the two faces, node of the core."""

    volume: np.ndarray
    conduct: np.ndarray
    face_area: np.ndarray
    core: int


NO_ICE = np.zeros(0)


class Food(NamedTuple):
    """Thermal properties as cubics in °C (`k[layer, 4]` W/mK, `c[layer, 4]` J/m³K; layer 0 is the flesh).

    By node: `share[layer, node]`, how much of the cell a cap, bone or stuffing fills (row 0 is unused); `rho`, `water`
    kg/m³ raw; `press`, the share of the loss curve that applies. The loss curve: a/(1+exp(-(T-tm)/w)) kg for a kg raw,
    reached with a lag of `tau` s. `water_d` m²/s: diffusivity of water to a dried zone. `ice` by node, kg/m³: water
    that can freeze, below `freezes_c`; of no nodes where nothing does.
    """

    k: np.ndarray
    c: np.ndarray
    share: np.ndarray
    rho: np.ndarray
    water: np.ndarray
    press: np.ndarray
    loss_a: float
    loss_tm_c: float
    loss_w_k: float
    loss_tau_s: float
    water_d: float
    ice: np.ndarray = NO_ICE
    freezes_c: float = -1.0


class Row(NamedTuple):
    """A row of N sections. By section, for one square metre of its face, as in Body: `volume[N, n]`, `conduct[N, n-1]`,
    `face_area[N, 2]`. `cell[N, n]`, `lateral[N-1, n]`, `end_area[2, n]`: volumes, area over distance along the row and
    areas of the square ends, all for one metre across; `has_end[2]`: which ends are faces. `foot[N]`: share of the
    whole face, in all 1. `core`: node, `section`: section of the core.
    """

    volume: np.ndarray
    conduct: np.ndarray
    face_area: np.ndarray
    cell: np.ndarray
    lateral: np.ndarray
    end_area: np.ndarray
    has_end: np.ndarray
    foot: np.ndarray
    core: int
    section: int


class Foods(NamedTuple):
    """Food of a row: as Food, with `share[N, layer, n]`, `rho`, `water`, `press` [N, n] and `loss_tau_s[N]`."""

    k: np.ndarray
    c: np.ndarray
    share: np.ndarray
    rho: np.ndarray
    water: np.ndarray
    press: np.ndarray
    loss_a: float
    loss_tm_c: float
    loss_w_k: float
    loss_tau_s: np.ndarray
    water_d: float
    ice: np.ndarray = NO_ICE


class Around(NamedTuple):
    """A body besides the piece (pan, pot of water, board), for one square metre of the grid's face.

    `heat_j_m2k`: its heat capacity, 0 if there is none; it loses `loss_w_m2k` to `ambient_c`. Its burner holds `set_c`,
    with at most `power_w_m2`, which it reaches BAND_K below.
    """

    heat_j_m2k: float
    loss_w_m2k: float
    ambient_c: float
    set_c: float
    power_w_m2: float


NOTHING_AROUND = Around(0.0, 0.0, 20.0, 0.0, 0.0)
BAND_K = 5.0


class Rim(NamedTuple):
    """The line across a piece and what is around its rim (rim.py), for one square metre of rim: `volume[m]`,
    `conduct[m-1]` (area over distance) and the rim's `area`, 0 where none is followed; `half_m` long. Around it a film
    `h` W/m²K of `medium_c`, and a share `of_around` of the way from there to the body around; with an `h` of 0 the same
    as its top.
    """

    volume: np.ndarray
    conduct: np.ndarray
    area: float
    half_m: float
    h: float
    medium_c: float
    of_around: float


RIM_NODES = 9
RIM_VALUES = 10  # of a step, named in rim.py
NO_RIM = Rim(np.ones(RIM_NODES), np.ones(RIM_NODES - 1), 0.0, 0.0, 0.0, 0.0, 0.0)


class Stop(NamedTuple):
    """The end of a run: after `duration_s`, or when core or coldest face crosses `value_c`."""

    duration_s: float
    kind: int
    value_c: float
    rising: bool
