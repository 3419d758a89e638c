"""The compiled solver: implicit finite volumes in one dimension, with water that is pressed out, dries and boils.

Space: vertex-centred finite volumes on a stretched grid (second order). Time: RODAS3 (rodas3.py), with steps as long as
its error estimate allows: one tridiagonal factorisation and four substitutions each. A body around the piece (pan, pot,
board) is one more unknown, coupled to the faces it touches: a bordered matrix, one substitution more.
"""

from __future__ import annotations

import math

import numpy as np

from .compiled import compiled, opened
from .drying import clings, dry_off, evaporates
from .frost import MOST_OFF_K, SHORTEST_FROST_S, hold_capacity, settle
from .moisture import (
    LATENT_BOIL,
    begin_now,
    boil_off,
    press,
    refresh,
    spare_boiling,
    wet_again,
)
from .properties import properties
from .rates import jacobian, rate_of, rate_once
from .rim import begin, begin_step, end_step, foresee, longest_of
from .rodas3 import A31, A41, A43, C21, C31, C32, C41, C42, C43, GAMMA
from .surface import face_flux
from .terms import ENDED_REACHED, ENDED_STEPS, ENDED_TIME, RIM_NODES, STOP_CORE, STOP_TIME, Rim

NO_NUMBER = 1e9  # the error of a step that has none, K
LOST = 1e8  # times the tolerance, which no step that has one reaches
DRIES_A_STEP = 0.2  # of its bound water a cell may lose in one step, more where less is asked for than EXACT_K
EXACT_K = 0.1
# Share of a step's heat that may have boiled water that was gone already, and where halving ends, s.
MISSING, SHORTEST_BOIL_S = 0.025, 0.05
SLIGHT_J_M2 = 10.0  # heat that is nothing to any piece
SHORTEST_S = 1e-3  # ahead a line across looks at least so far
CROSSED_K = 1e-4  # how close a stop is hit
# A step may err more where it is hot: a searing face at 150 °C ten times as much as a core.
RELAXED_FROM_C = 55.0
RELAXED_A_K = 0.10


@compiled
def _substitute(mult, reciprocal, up, rhs):
    """Solve with the factorised tridiagonal matrix, in place."""
    n = rhs.size
    for i in range(1, n):
        rhs[i] -= mult[i] * rhs[i - 1]
    rhs[n - 1] *= reciprocal[n - 1]
    for i in range(n - 2, -1, -1):
        rhs[i] = (rhs[i] + up[i] * rhs[i + 1]) * reciprocal[i]


@compiled
def _solve(work, up, rhs, rhs_around, border, corner):
    """Solve with the whole matrix, in place; returns the unknown of the body around.

    work[0] and work[1] hold the factors, work[6] the response of the piece to one kelvin of the body around.
    """
    _substitute(work[1], work[0], up, rhs)
    if corner == 0.0:
        return 0.0
    n = rhs.size
    unknown = (rhs_around + border[2] * rhs[0] + border[3] * rhs[n - 1]) / corner
    for i in range(n):
        rhs[i] += unknown * work[6, i]
    return unknown


@compiled
def _step(T, around_c, rate, rate_around, h, new, low, mid, up, border, work, k, c, body, food, faces, now):
    """One RODAS3 step of length h from T (whose rate is known) into `new`.

    Returns its error estimate, K (hot places count less), and the new temperature of the body around.
    """
    n = T.size
    reciprocal = work[0]
    mult = work[1]
    K1 = work[2]
    K2 = work[3]
    K3 = work[4]
    K4 = work[5]
    answer = work[6]
    inverse = 1.0 / (h * GAMMA)
    reciprocal[0] = 1.0 / (inverse - mid[0])
    for i in range(1, n):
        mult[i] = -low[i] * reciprocal[i - 1]
        reciprocal[i] = 1.0 / (inverse - mid[i] + mult[i] * up[i - 1])
    corner = 0.0
    if now.around.heat_j_m2k > 0.0:
        answer[:] = 0.0
        answer[0] = border[0]
        answer[n - 1] += border[1]
        _substitute(mult, reciprocal, up, answer)
        corner = inverse - border[4] - border[2] * answer[0] - border[3] * answer[n - 1]
    for i in range(n):
        K1[i] = rate[i]
    a1 = _solve(work, up, K1, rate_around, border, corner)
    for i in range(n):
        K2[i] = rate[i] + C21 / h * K1[i]
    a2 = _solve(work, up, K2, rate_around + C21 / h * a1, border, corner)
    for i in range(n):
        new[i] = T[i] + A31 * K1[i]
    f3 = rate_of(new, around_c + A31 * a1, K3, k, c, body, food, faces, now)
    for i in range(n):
        K3[i] += (C31 * K1[i] + C32 * K2[i]) / h
    a3 = _solve(work, up, K3, f3 + (C31 * a1 + C32 * a2) / h, border, corner)
    for i in range(n):
        new[i] = T[i] + A41 * K1[i] + A43 * K3[i]
    f4 = rate_of(new, around_c + A41 * a1 + A43 * a3, K4, k, c, body, food, faces, now)
    for i in range(n):
        K4[i] += (C41 * K1[i] + C42 * K2[i] + C43 * K3[i]) / h
    a4 = _solve(work, up, K4, f4 + (C41 * a1 + C42 * a2 + C43 * a3) / h, border, corner)
    worst = 0.25 * abs(a4)
    told = 0.0  # not a number if any of them is none: the largest of some does not show it
    for i in range(n):  # the weights are those of the last stage, and K4: stiffly accurate
        new[i] += K4[i]
        told += K4[i]
        worst = max(worst, abs(K4[i]) / (1.0 + RELAXED_A_K * max(new[i] - RELAXED_FROM_C, 0.0)))
    return (worst if math.isfinite(told) else NO_NUMBER), around_c + 2.0 * a1 + a3 + a4


@compiled
def _watched(T, body, kind):
    if kind == STOP_CORE:
        return T[body.core]
    return min(T[0], T[T.size - 1]) if body.face_area[0] > 0.0 else T[T.size - 1]


@compiled
def _passed(value, stop):
    return value >= stop.value_c if stop.rising else value <= stop.value_c


@opened
def _between(before, after):
    """Mean of a flux over a step: that of an exponential where it keeps its sign, as a face nears its medium."""
    if before * after <= 0.0 or abs(before - after) < 1e-3 * abs(before):
        return 0.5 * (before + after)
    return (after - before) / math.log(after / before)


@compiled
def _hottest_of(T):
    hot = T[0]
    for i in range(T.size):
        hot = T[i] if T[i] > hot else hot
    return hot


@compiled
def run(start, around_start_c, body, food, faces, around, boil_c, stop, tolerance_k, longest_s, max_steps):
    """run_rimmed without a rim."""
    none = Rim(np.ones(RIM_NODES), np.ones(RIM_NODES - 1), 0.0, 0.0, 0.0, 0.0, 0.0)
    return run_rimmed(
        start, around_start_c, body, food, faces, around, none, np.zeros(RIM_NODES), boil_c, stop, tolerance_k,
        longest_s, max_steps,
    )  # fmt: skip


@compiled
def _longer(array, count):
    bigger = np.empty((array.shape[0] * 2, array.shape[1]))
    bigger[:count] = array
    return bigger


# One function, however long: numba shares no arrays on the stack between calls, and this is the innermost loop.
@compiled
def run_rimmed(  # noqa: C901
    start, around_start_c, body, food, faces, around, rim, rim_start, boil_c, stop, tolerance_k, longest_s, max_steps
):
    """Integrate under constant conditions.

    `start[4, node]`: rows of a state (terms). `faces[2, FACE_COLUMNS]`: conditions of the underside (or nothing) and
    top (or outside). `rim_start[RIM_NODES]`: the line across. Returns times[step] s from 0, history[step, 5 * node]
    (temperature, slope K/s, hottest, pressed, boiled), sums[step, 7 + RIM_NODES] (heat in J/m² and water off kg/m² of
    the two faces, water boiled inside kg/m², temperature of the body around; heat from the line across J/m², and its
    temperatures), and how it ended.
    """
    n = start.shape[1]
    T = start[0].copy()
    hottest = start[1].copy()
    pressed = start[2].copy()
    boiled = start[3].copy()
    around_c = around_start_c
    final = np.full(n, -1.0)
    supply = np.zeros(2)
    off = np.zeros(2)
    drifts = np.zeros(2)
    wet = np.ones(2)
    drying = boiled.max() > 0.0 or evaporates(faces[0]) or evaporates(faces[1])
    vapour = 0.0
    new = np.empty(n)
    rate = np.empty(n)
    new_rate = np.empty(n)
    low = np.zeros(n)
    mid = np.zeros(n)
    up = np.zeros(n)
    k = np.empty(n)
    c = np.empty(n)
    k_between = np.empty(n)
    c_between = np.empty(n)
    border = np.zeros(5)
    kept = np.zeros(n)
    work = np.zeros((7, n))
    now = begin_now(n, boil_c, around)
    has_rim = rim.area > 0.0
    across = begin(rim_start, T[body.core]) if has_rim else rim_start.copy()
    rim_work = np.zeros((7, across.size))
    rim_heat = 0.0
    dries = DRIES_A_STEP * max(1.0, tolerance_k / EXACT_K)
    size = 64
    times = np.empty((size, 1))
    history = np.empty((size, 5 * n))
    sums = np.empty((size, 7 + across.size))
    heat = np.zeros(2)
    dried = np.zeros(2)
    t = 0.0
    h = min(0.02, stop.duration_s)
    count = 0
    ended = ENDED_TIME
    if stop.kind != STOP_TIME and _passed(_watched(T, body, stop.kind), stop):
        ended = ENDED_REACHED
    while True:
        refresh(pressed, boiled, food, now)
        spare_boiling(T, max(min(h, longest_s, stop.duration_s - t), SHORTEST_S), pressed, boiled, food, now)
        for side in range(2):
            wet[side] = now.wet[side]
            now.wet[side] = min(max(wet[side] + 0.5 * h * drifts[side], 0.0), 1.0)
        if has_rim:
            ahead_s = max(min(h, longest_s, stop.duration_s - t), SHORTEST_S)
            begin_step(now, rim, across, T, food, faces[1], around_c, ahead_s)
            h = min(h, longest_of(now, rim))
            ahead_s = min(ahead_s, max(h, SHORTEST_S))
            foresee(now, rim, across, ahead_s, rim_work)
        if food.ice.size > 0:
            properties(T, k, c, food, now)
            hold_capacity(T, food, now)
        rate_around = rate_once(T, around_c, rate, k, c, body, food, faces, now)
        if count == size:
            times, history, sums = _longer(times, count), _longer(history, count), _longer(sums, count)
            size *= 2
        times[count, 0] = t
        history[count, :n] = T
        history[count, n : 2 * n] = rate
        history[count, 2 * n : 3 * n] = hottest
        history[count, 3 * n : 4 * n] = pressed
        history[count, 4 * n :] = boiled
        sums[count, :2] = heat
        sums[count, 2:4] = dried
        sums[count, 4] = vapour
        sums[count, 5] = around_c
        sums[count, 6] = rim_heat
        sums[count, 7:] = across
        count += 1
        if ended == ENDED_REACHED or stop.duration_s - t <= 1e-9 * stop.duration_s:
            break
        if count >= max_steps:
            ended = ENDED_STEPS
            break
        for i in range(n):
            k_between[i] = k[i]
            c_between[i] = c[i]
        jacobian(T, around_c, low, mid, up, border, k_between, c_between, body, faces, now)
        while True:
            h = min(h, longest_s, stop.duration_s - t)
            error, new_around_c = _step(
                T, around_c, rate, rate_around, h, new, low, mid, up, border, work, k_between, c_between,
                body, food, faces, now,
            )  # fmt: skip
            error /= tolerance_k
            if error <= 1.0 or h < 1e-7:
                break
            h *= max(0.2, 0.9 * error ** (-1.0 / 3.0))
            if has_rim:
                foresee(now, rim, across, h, rim_work)
                rate_around = rate_once(T, around_c, rate, k_between, c_between, body, food, faces, now)
                jacobian(T, around_c, low, mid, up, border, k_between, c_between, body, faces, now)
        if error >= LOST:
            ended = ENDED_STEPS
            break
        if stop.kind != STOP_TIME and _passed(_watched(new, body, stop.kind), stop):
            ended = ENDED_REACHED
            before, after = 0.0, h
            for _ in range(50):
                if abs(_watched(new, body, stop.kind) - stop.value_c) < CROSSED_K or after - before < 1e-7:
                    break
                h = 0.5 * (before + after)
                _, new_around_c = _step(
                    T, around_c, rate, rate_around, h, new, low, mid, up, border, work, k_between, c_between,
                    body, food, faces, now,
                )  # fmt: skip
                if _passed(_watched(new, body, stop.kind), stop):
                    after = h
                else:
                    before = h
        change = 0.0
        if food.ice.size > 0:
            off_k = settle(T, new, food, now)
            if off_k > MOST_OFF_K and h > SHORTEST_FROST_S:
                count -= 1
                h *= 0.5
                ended = ENDED_TIME
                continue
            change = dries * off_k / MOST_OFF_K
            if ended == ENDED_REACHED and not _passed(_watched(new, body, stop.kind), stop):
                ended = ENDED_TIME
        if max(_hottest_of(T), _hottest_of(new)) > boil_c:
            rate_once(new, new_around_c, new_rate, k_between, c_between, body, food, faces, now)
            kept[:] = boiled
            boiled_off, boil_change, missing = boil_off(
                T, rate, c, new, new_rate, c_between, h, pressed, boiled, body, food, now
            )  # fmt: skip
            heat_j = LATENT_BOIL * (boiled_off + missing)
            for i in range(n):
                heat_j += body.volume[i] * c[i] * abs(new[i] - T[i])
            if missing * LATENT_BOIL > MISSING * heat_j + SLIGHT_J_M2 and h > SHORTEST_BOIL_S:
                boiled[:] = kept  # a cell ran dry within the step: again, with half of it
                count -= 1
                h *= 0.5
                ended = ENDED_TIME
                for side in range(2):
                    drifts[side] = 0.0
                continue
            change = max(change, boil_change)
            vapour += boiled_off
            drying = drying or boiled_off > 0.0
        press(hottest, new, h, final, pressed, boiled, body, food, supply)
        if drying and food.water_d > 0.0:
            change = max(change, dry_off(
                new, h, new_around_c, supply, pressed, boiled, work, body, food, faces, now, wet, off, drifts
            ))  # fmt: skip
        for side in range(2):
            node = side * (n - 1)
            if body.face_area[side] > 0.0:
                if supply[side] > 0.0:
                    wet_again(new, side, supply[side] * clings(faces[side]), pressed, boiled, body, food, now)
                q0 = face_flux(faces[side], T[node], now.wet[side], around_c)[0]
                q1 = face_flux(faces[side], new[node], now.wet[side], new_around_c)[0]
                heat[side] += _between(q0, q1) * h
                dried[side] += off[side] * h
        if has_rim:
            rim_heat += end_step(now, rim, across, T, new, body, h, rim_work)
        T[:] = new
        around_c = new_around_c
        t += h
        h *= min(5.0, 0.9 * max(error, 1e-6) ** (-1.0 / 3.0), dries / max(change, 0.01))
    return times[:count, 0], history[:count], sums[:count], ended
