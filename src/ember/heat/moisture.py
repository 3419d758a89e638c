"""Water in the piece, compiled: juice pressed out, boiled at the crust's front, and wetting the face again."""

from __future__ import annotations

import math
from typing import NamedTuple

import numpy as np

from .compiled import compiled, opened
from .terms import RIM_VALUES, Around

LATENT_BOIL = 2.26e6  # J/kg at 100 °C
WATER_J_KGK = 4180.0
# Conductivity that pressed-out water takes with it, a kg a kg raw: the parallel mixing rule for lean meat. The piece
# shrinks about as much in its faces as in its depth, which leaves area over distance nearly as it was.
LOST_K = 0.32
BOIL_RATE = 10.0  # 1/s: how hard boiling holds a wet cell down; a seared face stands 1 to 2 K above 100 °C
RESIDUAL_WATER = 0.05  # kg water a kg raw food that does not boil off
# Over the last of its water a cell boils ever less hard (bound water boils hotter), so that a front of cells dries
# without jumps; kg a kg raw food.
BOUND_WATER = 0.10
CRUST_HOLDS = 0.8  # of its raw water a crust takes up again from the juice that passes it
WETS_M = 0.3e-3  # how deep juice wets a crust that no longer boils it off; so much clings, the rest drips


class Now(NamedTuple):
    """Values fixed within a step: wetness of the faces; by node: dryness of the crust, 0 to 1; effect of water loss on
    conductivity (factor) and heat capacity (J/m³K); intensity of boiling. `rim`: what the line across gives
    the core, W/m³, by how much less for each kelvin gained since `rim_from`, and what holds for it (names in rim.py).
    `frost`: heat capacity held over the step where there is ice, 0 elsewhere; `c_thawed`: without its ice, J/m³K.
    """

    wet: np.ndarray
    dry: np.ndarray
    k_left: np.ndarray
    c_gone: np.ndarray
    boil: np.ndarray
    boil_c: float
    around: Around
    rim: np.ndarray
    rim_from: np.ndarray
    frost: np.ndarray
    c_thawed: np.ndarray


@compiled
def begin_now(nodes, boil_c, around):
    """Those of a raw piece of so many nodes."""
    return Now(
        np.ones(2), np.zeros(nodes), np.ones(nodes), np.zeros(nodes), np.zeros(nodes), boil_c, around,
        np.zeros(RIM_VALUES), np.zeros(nodes), np.zeros(nodes), np.zeros(nodes),
    )  # fmt: skip


@compiled
def above_boiling(temperature_c, boil_c):
    """Excess above the boiling point with a rounded foot (so that its slope is continuous), and its slope."""
    d = temperature_c - boil_c
    if d <= 0.0:
        return 0.0, 0.0
    if d < 1.0:
        return 0.5 * d * d, d
    return d - 0.5, 1.0


@opened
def wetness(left, rho):
    """How wet a cell is, 0 to 1, by what is left of its water, kg/m³."""
    return min(max((left / rho - RESIDUAL_WATER) / BOUND_WATER, 0.0), 1.0)


@opened
def refresh(pressed, boiled, food, now):
    """Update how wet each cell and face still is, before a step."""
    n = pressed.size
    for i in range(n):
        if food.water[i] <= 0.0:
            continue
        left = food.water[i] - pressed[i] - boiled[i]
        now.boil[i] = wetness(left, food.rho[i])
        half = 0.5 * food.water[i]
        now.dry[i] = (half - left) / half if boiled[i] > 0.0 and left < half else 0.0
        now.k_left[i] = 1.0 - LOST_K * pressed[i] / food.rho[i]
        now.c_gone[i] = WATER_J_KGK * (pressed[i] + boiled[i])
    now.wet[0] = now.boil[0]
    now.wet[1] = now.boil[n - 1]


@compiled
def most_boiling(celsius, left, heat_j_m3k, h, boil_c):
    """How hard a cell may boil, so that it takes no more heat in a step than its water, `left` kg/m³, can use."""
    return LATENT_BOIL * left / (heat_j_m3k * BOIL_RATE * above_boiling(celsius, boil_c)[0] * h)


@compiled
def spare_boiling(T, h, pressed, boiled, food, now):
    """Let no cell above boiling take more heat in the next step, of h, than its water can use: juice that trickles into
    a hot crust is gone at once.
    """
    for i in range(T.size):
        if T[i] > now.boil_c and now.boil[i] > 0.0:
            left = food.water[i] - RESIDUAL_WATER * food.rho[i] - pressed[i] - boiled[i]
            heat_j_m3k = food.c[0, 0] - now.c_gone[i]
            now.boil[i] = min(now.boil[i], most_boiling(T[i], max(left, 0.0), heat_j_m3k, h, now.boil_c))


@compiled
def _loss(food, temperature_c):
    """The loss curve, kg for a kg raw, before its value at 20 °C is subtracted."""
    return food.loss_a / (1.0 + math.exp(-(temperature_c - food.loss_tm_c) / food.loss_w_k))


@opened
def press(hottest, new, h, final, pressed, boiled, body, food, supply):
    """Press juice out of every cell towards its final value; `supply[side]`: what reaches each face, kg/m².

    `final` caches the final value by node between calls; -1 if unknown.
    """
    lag = 1.0 - math.exp(-h / food.loss_tau_s)
    at_20 = _loss(food, 20.0)
    supply[:] = 0.0
    for i in range(new.size):
        if new[i] > hottest[i]:
            hottest[i] = new[i]
            final[i] = -1.0
        if food.water[i] <= 0.0:
            continue
        if final[i] < 0.0:
            final[i] = food.press[i] * food.rho[i] * (_loss(food, hottest[i]) - at_20) if hottest[i] > 20.0 else 0.0
        end = min(final[i], max(food.water[i] - RESIDUAL_WATER * food.rho[i] - boiled[i], 0.0))
        if end > pressed[i]:
            out = (end - pressed[i]) * lag
            pressed[i] += out
            supply[0 if i < body.core else 1] += out * body.volume[i]


@opened
def wet_again(new, side, kg, pressed, boiled, body, food, now):
    """Distribute juice on its way out, kg/m². While the crust is hot it fills the front, then the zone outside of it,
    and boils there; a cooler crust it wets from the face to WETS_M. The excess drips.
    """
    face = 0 if side == 0 else new.size - 1
    inward = 1 if side == 0 else -1
    i = last = face
    step = -inward
    share = 1.0  # of the last cell that is wetted
    if new[face] > now.boil_c:
        j = face
        while new[j] > now.boil_c and j != body.core:
            if now.boil[j] < 1.0:
                i = j  # the innermost cell that is drying
            j += inward
    else:
        step = inward
        depth = body.volume[face]
        while depth < WETS_M and last != body.core:
            last += inward
            depth += body.volume[last]
        share = min(1.0 - (depth - WETS_M) / body.volume[last], 1.0)
    while kg > 0.0:
        held = CRUST_HOLDS * (share if i == last else 1.0)
        room = (pressed[i] + boiled[i] - (1.0 - held) * food.water[i]) * body.volume[i]
        if room > 0.0:
            taken = min(kg, room)
            boiled[i] -= taken / body.volume[i]
            kg -= taken
        if i == last:
            break
        i += step


@opened
def boil_off(T, rate, c, new, new_rate, new_c, h, pressed, boiled, body, food, now):
    """Boil water in a step: heat that entered a cell at the boiling point without warming it.

    Returns it, kg/m² of the face; the largest change of a cell's hold on its last water, which limits the next step;
    and what the heat could have boiled of water that was not there any more, kg/m².
    """
    total = 0.0
    change = 0.0
    missing = 0.0
    for i in range(T.size):
        if now.boil[i] > 0.0 and (T[i] > now.boil_c or new[i] > now.boil_c):
            before = rate[i] + BOIL_RATE * now.boil[i] * above_boiling(T[i], now.boil_c)[0]
            after = new_rate[i] + BOIL_RATE * now.boil[i] * above_boiling(new[i], now.boil_c)[0]
            came = 0.5 * h * (c[i] * before + new_c[i] * after)
            warmed = 0.5 * (c[i] + new_c[i]) * (new[i] - T[i])
            held = food.water[i] - RESIDUAL_WATER * food.rho[i]
            could = max((came - warmed) / LATENT_BOIL, 0.0)
            gone = min(could, max(held - pressed[i] - boiled[i], 0.0))
            missing += (could - gone) * body.volume[i]
            boiled[i] += gone
            total += gone * body.volume[i]
            left = food.water[i] - pressed[i] - boiled[i]
            if left < (RESIDUAL_WATER + 2.0 * BOUND_WATER) * food.rho[i]:
                change = max(change, gone / (BOUND_WATER * food.rho[i]))
    return total, change, missing
