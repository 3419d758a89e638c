"""The compiled solver for a row of sections: each through its depth as in one dimension, and heat along the row.

All sections take one RODAS3 step together. Rates are whole, so that steady states and the pan's heat are exact; only
the matrix is factorised approximately, lateral times depth (AMF; Hundsdorfer & Verwer, Numerical Solution of
Time-Dependent Advection-Diffusion-Reaction Equations, section IV.5), and the pan by its diagonal.
"""

from __future__ import annotations

import math

import numpy as np

from .compiled import compiled
from .drying import clings, dry_off, evaporates
from .kernel import (
    CROSSED_K,
    DRIES_A_STEP,
    EXACT_K,
    LOST,
    MISSING,
    NO_NUMBER,
    RELAXED_A_K,
    RELAXED_FROM_C,
    SHORTEST_BOIL_S,
    SHORTEST_S,
    SLIGHT_J_M2,
    _between,
    _hottest_of,
    _passed,
)
from .moisture import (
    BOUND_WATER,
    LATENT_BOIL,
    RESIDUAL_WATER,
    boil_off,
    press,
    wet_again,
)
from .rodas3 import A31, A41, A43, C21, C31, C32, C41, C42, C43, GAMMA
from .row_rates import (
    ROOM_C,
    Nows,
    body_of,
    depth_slopes,
    end_wetness,
    food_of,
    lateral_slopes,
    now_of,
    rates_of,
    refresh_all,
)
from .surface import face_flux
from .terms import ENDED_REACHED, ENDED_STEPS, ENDED_TIME, RIM_VALUES, STOP_CORE, STOP_TIME


@compiled
def _factorise(h, lead, own, c, row, low, mid, up, left, right, across, mult, reciprocal):
    """Factors of (1 - hγ J_lateral) into `left`, `right` and `across`, of (1/hγ - J_depth) into the last two."""
    rows, n = c.shape
    a = h * GAMMA
    for i in range(rows):
        for j in range(n):
            r = a / (c[i, j] * row.cell[i, j])
            diagonal = 1.0 + r * own[i, j]
            if i > 0:
                left[i, j] = r * lead[i - 1, j]
                diagonal -= left[i, j] * right[i - 1, j]
            across[i, j] = 1.0 / diagonal
            right[i, j] = r * lead[i, j] / diagonal if i < rows - 1 else 0.0
    inverse = 1.0 / a
    for i in range(rows):
        reciprocal[i, 0] = 1.0 / (inverse - mid[i, 0])
        for j in range(1, n):
            mult[i, j] = -low[i, j] * reciprocal[i, j - 1]
            reciprocal[i, j] = 1.0 / (inverse - mid[i, j] + mult[i, j] * up[i, j - 1])


@compiled
def _solve(rhs, left, right, across, mult, reciprocal, up):
    """Solve with both factors, in place. The inner loops run along the depth or across it, whichever is vectorised."""
    rows, n = rhs.shape
    for j in range(n):
        rhs[0, j] *= across[0, j]
    for i in range(1, rows):
        for j in range(n):
            rhs[i, j] = (rhs[i, j] + left[i, j] * rhs[i - 1, j]) * across[i, j]
    for i in range(rows - 2, -1, -1):
        for j in range(n):
            rhs[i, j] += right[i, j] * rhs[i + 1, j]
    for i in range(rows):
        for j in range(1, n):
            rhs[i, j] -= mult[i, j] * rhs[i, j - 1]
        rhs[i, n - 1] *= reciprocal[i, n - 1]
        for j in range(n - 2, -1, -1):
            rhs[i, j] = (rhs[i, j] + up[i, j] * rhs[i, j + 1]) * reciprocal[i, j]


@compiled
def _watched(T, row, kind):
    if kind == STOP_CORE:
        return T[row.section, row.core]
    last = T.shape[1] - 1
    coldest = T[0, last]
    for i in range(T.shape[0]):
        coldest = min(coldest, T[i, last])
        if row.face_area[i, 0] > 0.0:
            coldest = min(coldest, T[i, 0])
    return coldest


@compiled
def _longer(array, count):
    bigger = np.empty((array.shape[0] * 2, array.shape[1], array.shape[2]))
    bigger[:count] = array
    return bigger


# One function, however long, as in kernel.py.
@compiled
def run_row(  # noqa: C901
    start, around_start_c, row, foods, faces, ends, around, boil_c, stop, tolerance_k, longest_s, max_steps
):
    """Integrate a row of sections under constant conditions.

    `start[4, N, node]`: rows of a state (terms). `faces[N, 2, FACE_COLUMNS]`, `ends[2, FACE_COLUMNS]`: conditions of
    each section's faces and of the square ends. Returns times[step] s from 0, history[step, N, 5 * node] and
    sums[step, N + 1, 6], of each section as in kernel.run; the last line of `sums` is that of the end faces, for one
    metre of the row: heat J/m and water kg/m of the two ends, nothing, nothing. And how it ended.
    """
    rows, n = start.shape[1], start.shape[2]
    T, hottest, pressed, boiled = start[0].copy(), start[1].copy(), start[2].copy(), start[3].copy()
    around_c = around_start_c
    shape = (rows, n)
    new, rate, new_rate = np.empty(shape), np.empty(shape), np.empty(shape)
    k, c, k_between, c_between = np.empty(shape), np.empty(shape), np.empty(shape), np.empty(shape)
    K1, K2, K3, K4 = np.empty(shape), np.empty(shape), np.empty(shape), np.empty(shape)
    low, mid, up = np.zeros(shape), np.zeros(shape), np.zeros(shape)
    mult, reciprocal = np.zeros(shape), np.zeros(shape)
    left, right, across, own = np.zeros(shape), np.zeros(shape), np.zeros(shape), np.zeros(shape)
    lead, lead_between = np.zeros(shape), np.zeros(shape)
    final = np.full(shape, -1.0)
    wet, off, drifts = np.ones((rows, 2)), np.zeros((rows, 2)), np.zeros((rows, 2))
    juice, boils, kept = np.zeros(rows), np.zeros(rows), np.zeros(shape)
    no_rim, nowhere = np.zeros(RIM_VALUES), np.zeros(n)
    supply, scratch = np.zeros((rows, 2)), np.zeros((7, n))
    now = Nows(np.ones((rows, 2)), np.zeros(shape), np.ones(shape), np.zeros(shape), np.zeros(shape))
    nows = [now_of(now, i, boil_c, around, no_rim, nowhere) for i in range(rows)]
    drying = boiled.max() > 0.0
    for i in range(rows):
        drying = drying or evaporates(faces[i, 0]) or evaporates(faces[i, 1])
    dries = DRIES_A_STEP * max(1.0, tolerance_k / EXACT_K)
    size = 64
    times = np.empty(size)
    history = np.empty((size, rows, 5 * n))
    sums = np.empty((size, rows + 1, 6))
    total = np.zeros((rows + 1, 6))
    t = 0.0
    h = min(0.02, stop.duration_s)
    count = 0
    ended = ENDED_TIME
    if stop.kind != STOP_TIME and _passed(_watched(T, row, stop.kind), stop):
        ended = ENDED_REACHED
    while True:
        refresh_all(T, max(min(h, longest_s, stop.duration_s - t), SHORTEST_S), pressed, boiled, foods, now, boil_c)
        for i in range(rows):
            for side in range(2):
                wet[i, side] = now.wet[i, side]
                now.wet[i, side] = min(max(wet[i, side] + 0.5 * h * drifts[i, side], 0.0), 1.0)
        of_around = rates_of(
            T, around_c, rate, k, c, lead, row, foods, faces, ends, now, around, boil_c, pressed, boiled
        )
        if count == size:
            longer = np.empty(2 * count)
            longer[:count] = times
            times, history, sums = longer, _longer(history, count), _longer(sums, count)
            size *= 2
        times[count] = t
        for i in range(rows):
            history[count, i, :n] = T[i]
            history[count, i, n : 2 * n] = rate[i]
            history[count, i, 2 * n : 3 * n] = hottest[i]
            history[count, i, 3 * n : 4 * n] = pressed[i]
            history[count, i, 4 * n :] = boiled[i]
        total[:, 5] = around_c
        sums[count] = total
        count += 1
        if ended == ENDED_REACHED or stop.duration_s - t <= 1e-9 * stop.duration_s:
            break
        if count >= max_steps:
            ended = ENDED_STEPS
            break
        k_between[:] = k
        c_between[:] = c
        slope_around = depth_slopes(T, around_c, low, mid, up, k_between, c_between, row, faces, now, around, boil_c)
        lateral_slopes(T, lead, own, row, foods, ends, pressed, boiled)
        tries = 0
        while True:
            h = min(h, longest_s, stop.duration_s - t)
            _factorise(h, lead, own, c, row, low, mid, up, left, right, across, mult, reciprocal)
            corner = 1.0 / (1.0 / (h * GAMMA) - slope_around)
            K1[:] = rate
            _solve(K1, left, right, across, mult, reciprocal, up)
            a1 = of_around * corner
            for i in range(rows):
                for j in range(n):
                    K2[i, j] = rate[i, j] + C21 / h * K1[i, j]
                    new[i, j] = T[i, j] + A31 * K1[i, j]
            _solve(K2, left, right, across, mult, reciprocal, up)
            a2 = (of_around + C21 / h * a1) * corner
            f3 = rates_of(
                new, around_c + A31 * a1, K3, k_between, c_between, lead_between, row, foods, faces, ends, now, around,
                boil_c, pressed, boiled,
            )  # fmt: skip
            for i in range(rows):
                for j in range(n):
                    K3[i, j] += (C31 * K1[i, j] + C32 * K2[i, j]) / h
            _solve(K3, left, right, across, mult, reciprocal, up)
            a3 = (f3 + (C31 * a1 + C32 * a2) / h) * corner
            for i in range(rows):
                for j in range(n):
                    new[i, j] = T[i, j] + A41 * K1[i, j] + A43 * K3[i, j]
            f4 = rates_of(
                new, around_c + A41 * a1 + A43 * a3, K4, k_between, c_between, lead_between, row, foods, faces, ends,
                now, around, boil_c, pressed, boiled,
            )  # fmt: skip
            for i in range(rows):
                for j in range(n):
                    K4[i, j] += (C41 * K1[i, j] + C42 * K2[i, j] + C43 * K3[i, j]) / h
            _solve(K4, left, right, across, mult, reciprocal, up)
            a4 = (f4 + (C41 * a1 + C42 * a2 + C43 * a3) / h) * corner
            worst = 0.25 * abs(a4)
            told = 0.0  # not a number if any of them is none: the largest of some does not show it
            for i in range(rows):
                for j in range(n):
                    new[i, j] += K4[i, j]
                    told += K4[i, j]
                    relaxed = 1.0 + RELAXED_A_K * max(new[i, j] - RELAXED_FROM_C, 0.0)
                    worst = max(worst, abs(K4[i, j]) / relaxed)
            error = (worst if math.isfinite(told) else NO_NUMBER) / tolerance_k
            if error <= 1.0 or h < 1e-7:
                if stop.kind == STOP_TIME:
                    break
                at = _watched(new, row, stop.kind)
                if not _passed(at, stop):
                    break
                before = _watched(T, row, stop.kind)
                beyond = abs(at - stop.value_c)
                if beyond < CROSSED_K or tries >= 30 or h < 1e-6:
                    ended = ENDED_REACHED
                    break
                # A little less than the secant, so that it closes in from this side too.
                h *= min(max((stop.value_c - before) / (at - before), 0.02), 0.999)
                tries += 1
                continue
            h *= max(0.2, 0.9 * error ** (-1.0 / 3.0))
        if error >= LOST:
            ended = ENDED_STEPS
            break
        new_around_c = around_c + 2.0 * a1 + a3 + a4
        change = 0.0
        hot = False
        for i in range(rows):
            hot = hot or max(_hottest_of(T[i]), _hottest_of(new[i])) > boil_c
        if hot:
            rates_of(
                new, new_around_c, new_rate, k_between, c_between, lead_between, row, foods, faces, ends, now, around,
                boil_c, pressed, boiled,
            )  # fmt: skip
            kept[:] = boiled
            of_all = missing = 0.0
            for i in range(rows):
                boils[i], most, too_much = boil_off(
                    T[i], rate[i], c[i], new[i], new_rate[i], c_between[i], h, pressed[i], boiled[i], body_of(row, i),
                    food_of(foods, i), nows[i],
                )  # fmt: skip
                change = max(change, most)
                of_all += row.foot[i] * boils[i]
                missing += row.foot[i] * too_much
            heat_j = LATENT_BOIL * (of_all + missing)
            for i in range(rows):
                for j in range(n):
                    heat_j += row.foot[i] * row.volume[i, j] * c[i, j] * abs(new[i, j] - T[i, j])
            if missing * LATENT_BOIL > MISSING * heat_j + SLIGHT_J_M2 and h > SHORTEST_BOIL_S:
                boiled[:] = kept  # a cell ran dry within the step: again, with half of it
                count -= 1
                h *= 0.5
                ended = ENDED_TIME
                continue
            total[:rows, 4] += boils
            drying = drying or of_all > 0.0
        for i in range(rows):
            food, body = food_of(foods, i), body_of(row, i)
            press(hottest[i], new[i], h, final[i], pressed[i], boiled[i], body, food, supply[i])
            juice[i] = 0.5 * (supply[i, 0] + supply[i, 1])  # as much reaches a square metre of its end
            if drying and foods.water_d > 0.0:
                change = max(change, dry_off(
                    new[i], h, new_around_c, supply[i], pressed[i], boiled[i], scratch, body, food, faces[i], nows[i],
                    wet[i], off[i], drifts[i],
                ))  # fmt: skip
            for side in range(2):
                if body.face_area[side] > 0.0:
                    if supply[i, side] > 0.0:
                        clinging = supply[i, side] * clings(faces[i, side])
                        wet_again(new[i], side, clinging, pressed[i], boiled[i], body, food, nows[i])
                    node = side * (n - 1)
                    q0 = face_flux(faces[i, side], T[i, node], now.wet[i, side], around_c)[0]
                    q1 = face_flux(faces[i, side], new[i, node], now.wet[i, side], new_around_c)[0]
                    total[i, side] += _between(q0, q1) * h
                    total[i, 2 + side] += off[i, side] * h
        for end in range(2):
            if row.has_end[end]:
                i, face = end * (rows - 1), ends[end]
                for j in range(n):
                    dry = end_wetness(foods.water[i, j], foods.rho[i, j], pressed[i, j] + boiled[i, j])
                    q0, water = face_flux(face, T[i, j], dry, ROOM_C)
                    q1 = face_flux(face, new[i, j], dry, ROOM_C)[0]
                    total[rows, end] += _between(q0, q1) * h * row.end_area[end, j]
                    room = foods.water[i, j] - pressed[i, j] - RESIDUAL_WATER * foods.rho[i, j]
                    if water != 0.0 and room > 0.0:
                        own_water = h * water - juice[i] if new[i, j] < boil_c else max(h * water - juice[i], 0.0)
                        gone = own_water * row.end_area[end, j] / row.cell[i, j]
                        gone = min(max(gone, -boiled[i, j]), room - boiled[i, j])
                        boiled[i, j] += gone
                        total[rows, 2 + end] += gone * row.cell[i, j]
                        change = max(change, abs(gone) / (BOUND_WATER * foods.rho[i, j]))
        T[:] = new
        around_c = new_around_c
        t += h
        h *= min(5.0, 0.9 * max(error, 1e-6) ** (-1.0 / 3.0), dries / max(change, 0.01))
    return times[:count], history[:count], sums[:count], ended
