"""What holds in every section of a row: its state as one body's, its properties, rates of change and their slopes.
Compiled.
"""

from __future__ import annotations

from typing import NamedTuple

import numpy as np

from .compiled import compiled, opened
from .moisture import (
    BOIL_RATE,
    LOST_K,
    RESIDUAL_WATER,
    WATER_J_KGK,
    Now,
    above_boiling,
    most_boiling,
    wetness,
)
from .properties import COLDEST_C, DRY_K, HOTTEST_C
from .rates import burner
from .surface import face_flux, from_around
from .terms import Body, Food

ROOM_C = 20.0  # an end face touches no body around


class Nows(NamedTuple):
    """As moisture.Now, for every section: what is fixed within a step."""

    wet: np.ndarray
    dry: np.ndarray
    k_left: np.ndarray
    c_gone: np.ndarray
    boil: np.ndarray


@opened
def now_of(now, i, boil_c, around, no_rim, nowhere):
    return Now(
        now.wet[i], now.dry[i], now.k_left[i], now.c_gone[i], now.boil[i], boil_c, around, no_rim, nowhere, nowhere,
        nowhere,
    )  # fmt: skip


@opened
def body_of(row, i):
    return Body(row.volume[i], row.conduct[i], row.face_area[i], row.core)


@opened
def food_of(foods, i):
    return Food(
        foods.k, foods.c, foods.share[i], foods.rho[i], foods.water[i], foods.press[i], foods.loss_a, foods.loss_tm_c,
        foods.loss_w_k, foods.loss_tau_s[i], foods.water_d, foods.ice, -1.0,
    )  # fmt: skip


@opened
def end_wetness(water, rho, gone):
    """The same of an end face; one that has no water is as wet as it was."""
    return wetness(water - gone, rho) if water > 0.0 else 1.0


@compiled
def properties(T, k, c, foods, now):
    """As properties.properties, for every section."""
    rows, n = T.shape
    k0, k1, k2, k3 = foods.k[0, 0], foods.k[0, 1], foods.k[0, 2], foods.k[0, 3]
    c0, c1, c2, c3 = foods.c[0, 0], foods.c[0, 1], foods.c[0, 2], foods.c[0, 3]
    for i in range(rows):
        for j in range(n):
            t = min(max(T[i, j], COLDEST_C), HOTTEST_C)
            k[i, j] = k0 + t * (k1 + t * (k2 + t * k3))
            c[i, j] = c0 + t * (c1 + t * (c2 + t * c3))
    for layer in range(1, foods.k.shape[0]):
        a0, a1, a2, a3 = foods.k[layer, 0], foods.k[layer, 1], foods.k[layer, 2], foods.k[layer, 3]
        b0, b1, b2, b3 = foods.c[layer, 0], foods.c[layer, 1], foods.c[layer, 2], foods.c[layer, 3]
        for i in range(rows):
            for j in range(n):
                share = foods.share[i, layer, j]
                if share > 0.0:
                    t = min(max(T[i, j], COLDEST_C), HOTTEST_C)
                    other = a0 + t * (a1 + t * (a2 + t * a3))
                    k[i, j] = k[i, j] * other / (other + share * (k[i, j] - other))
                    c[i, j] += share * (b0 + t * (b1 + t * (b2 + t * b3)) - c[i, j])
    for i in range(rows):
        for j in range(n):
            left = k[i, j] * now.k_left[i, j]
            k[i, j] = 0.5 / (left + now.dry[i, j] * (DRY_K - left))
            c[i, j] -= now.c_gone[i, j]


@compiled
def refresh_all(T, h, pressed, boiled, foods, now, boil_c):
    """As moisture.refresh and spare_boiling, for every section."""
    rows, n = pressed.shape
    for i in range(rows):
        for j in range(n):
            if foods.water[i, j] <= 0.0:
                continue
            rho, left = foods.rho[i, j], foods.water[i, j] - pressed[i, j] - boiled[i, j]
            now.boil[i, j] = wetness(left, rho)
            half = 0.5 * foods.water[i, j]
            now.dry[i, j] = (half - left) / half if boiled[i, j] > 0.0 and left < half else 0.0
            now.k_left[i, j] = 1.0 - LOST_K * pressed[i, j] / rho
            now.c_gone[i, j] = WATER_J_KGK * (pressed[i, j] + boiled[i, j])
        now.wet[i, 0], now.wet[i, 1] = now.boil[i, 0], now.boil[i, n - 1]
        for j in range(n):
            if T[i, j] > boil_c and now.boil[i, j] > 0.0:
                left = foods.water[i, j] - RESIDUAL_WATER * foods.rho[i, j] - pressed[i, j] - boiled[i, j]
                heat_j_m3k = foods.c[0, 0] - now.c_gone[i, j]
                now.boil[i, j] = min(now.boil[i, j], most_boiling(T[i, j], max(left, 0.0), heat_j_m3k, h, boil_c))


# Section by section with kernel._rate would cost three times as much: each call hands over records of many arrays.
@compiled
def rates_of(T, around_c, out, k, c, lead, row, foods, faces, ends, now, around, boil_c, pressed, boiled):
    """dT/dt of every cell into `out`, K/s; returns that of the body around. Leaves the properties in `k` and `c`, the
    lateral conductances in `lead`.
    """
    rows, n = T.shape
    last = n - 1
    properties(T, k, c, foods, now)
    for i in range(rows):
        area, came = row.face_area[i, 0], 0.0
        if area > 0.0:
            came = area * face_flux(faces[i, 0], T[i, 0], now.wet[i, 0], around_c)[0]
        for j in range(last):
            flux = row.conduct[i, j] * (T[i, j] - T[i, j + 1]) / (k[i, j] + k[i, j + 1])
            out[i, j] = came - flux
            came = flux
        out[i, last] = came + row.face_area[i, 1] * face_flux(faces[i, 1], T[i, last], now.wet[i, 1], around_c)[0]
        for j in range(n):
            out[i, j] /= c[i, j] * row.volume[i, j]
        for j in range(n):
            if T[i, j] > boil_c:
                out[i, j] -= BOIL_RATE * now.boil[i, j] * above_boiling(T[i, j], boil_c)[0]
    for i in range(rows - 1):
        for j in range(n):
            g = row.lateral[i, j] / (k[i, j] + k[i + 1, j])
            flux = g * (T[i, j] - T[i + 1, j])
            lead[i, j] = g
            out[i, j] -= flux / (c[i, j] * row.cell[i, j])
            out[i + 1, j] += flux / (c[i + 1, j] * row.cell[i + 1, j])
    for end in range(2):
        if row.has_end[end]:
            i, face = end * (rows - 1), ends[end]
            for j in range(n):
                wet = end_wetness(foods.water[i, j], foods.rho[i, j], pressed[i, j] + boiled[i, j])
                flux = face_flux(face, T[i, j], wet, ROOM_C)[0]
                out[i, j] += flux * row.end_area[end, j] / (c[i, j] * row.cell[i, j])
    return rate_around(T, around_c, row, faces, now, around)


@compiled
def rate_around(T, around_c, row, faces, now, around):
    """dT/dt of the body around, K/s."""
    if around.heat_j_m2k <= 0.0:
        return 0.0
    given = around.loss_w_m2k * (around_c - around.ambient_c) - burner(around, around_c)[0]
    for i in range(T.shape[0]):
        for side in range(2):
            to_it = row.foot[i] * row.face_area[i, side]
            if to_it > 0.0:
                j = side * (T.shape[1] - 1)
                given += to_it * from_around(faces[i, side], T[i, j], now.wet[i, side], around_c)[0]
    return -given / around.heat_j_m2k


@compiled
def depth_slopes(T, around_c, low, mid, up, k, c, row, faces, now, around, boil_c):
    """Tridiagonal Jacobians through the depth, as kernel._jacobian; leaves the capacities of `c` times the volumes.
    Returns the slope of the body around by itself.
    """
    rows, n = T.shape
    own = 0.0
    if around.heat_j_m2k > 0.0:
        own = (burner(around, around_c)[1] - around.loss_w_m2k) / around.heat_j_m2k
    for i in range(rows):
        for j in range(n):
            mid[i, j] = 0.0
            if T[i, j] > boil_c:
                mid[i, j] = -BOIL_RATE * now.boil[i, j] * above_boiling(T[i, j], boil_c)[1]
            c[i, j] *= row.volume[i, j]
        for j in range(1, n):
            g = row.conduct[i, j - 1] / (k[i, j - 1] + k[i, j])
            up[i, j - 1] = g / c[i, j - 1]
            low[i, j] = g / c[i, j]
        for j in range(n - 1):
            mid[i, j] -= up[i, j]
        for j in range(1, n):
            mid[i, j] -= low[i, j]
        for side in range(2):
            area = row.face_area[i, side]
            if area > 0.0:
                j, face = side * (n - 1), faces[i, side]
                slope = face_flux(face, T[i, j] + 0.01, now.wet[i, side], around_c)[0]
                slope -= face_flux(face, T[i, j] - 0.01, now.wet[i, side], around_c)[0]
                mid[i, j] += area * slope / 0.02 / c[i, j]
                if around.heat_j_m2k > 0.0:
                    h = from_around(face, T[i, j], now.wet[i, side], around_c)[1]
                    own -= row.foot[i] * area * h / around.heat_j_m2k
    return own


@compiled
def lateral_slopes(T, lead, out, row, foods, ends, pressed, boiled):
    """How much heat each cell loses along the row for a kelvin of its own, W/K."""
    rows, n = T.shape
    for i in range(rows):
        for j in range(n):
            out[i, j] = (lead[i - 1, j] if i > 0 else 0.0) + (lead[i, j] if i < rows - 1 else 0.0)
    for end in range(2):
        if row.has_end[end]:
            i, face = end * (rows - 1), ends[end]
            for j in range(n):
                wet = end_wetness(foods.water[i, j], foods.rho[i, j], pressed[i, j] + boiled[i, j])
                slope = face_flux(face, T[i, j] + 0.01, wet, ROOM_C)[0]
                slope -= face_flux(face, T[i, j] - 0.01, wet, ROOM_C)[0]
                out[i, j] -= slope / 0.02 * row.end_area[end, j]
