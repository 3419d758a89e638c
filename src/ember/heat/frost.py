"""Ice in the flesh, compiled: its share, and heat capacity and conductivity with it; enthalpy is what is followed.

Ice a cubic metre below the freezing point T_f (°C): x_i = (x_w - x_b)(1 - T_f/T), by Raoult's law with bound water x_b
(Schwartzberg 1976, J Food Sci 41:152; Pham 1987, J Food Sci 52:210; from memory). Enthalpy H = C T + x_i (c_i - c_w) T
- L x_i, C that of the unfrozen food; its slope jumps sixty-fold at T_f, so that a step with the capacity it began with
is put right afterwards: T = H⁻¹(H(before) + c ΔT).
"""

from __future__ import annotations

from .compiled import compiled

LATENT_J_KG = 333.6e3
ICE_J_KGK, WATER_J_KGK = 2062.0, 4180.0
ICE_KG_M3 = 917.0
ACROSS = 0.96  # of the parallel rule, as of unfrozen muscle (food/composition.py)
WATER_K = 0.571  # W/mK, as it freezes
NEAR_K = 1e-6
MOST_OFF_K = 0.25
SHORTEST_FROST_S = 0.1


@compiled
def ice_of(ice, freezes_c, celsius):
    """Ice, kg/m³, of a cell that has `ice` freezable."""
    return ice * (1.0 - freezes_c / celsius) if celsius < freezes_c else 0.0


@compiled
def enthalpy(heat, ice, freezes_c, celsius):
    """Enthalpy of a cubic metre from 0 °C unfrozen, J/m³; `heat`: capacity of the unfrozen food, J/m³K."""
    frozen = ice_of(ice, freezes_c, celsius)
    return heat * celsius + frozen * (ICE_J_KGK - WATER_J_KGK) * celsius - LATENT_J_KG * frozen


@compiled
def _capacity(heat, ice, freezes_c, celsius):
    if celsius >= freezes_c:
        return heat
    frozen = ice_of(ice, freezes_c, celsius)
    latent = LATENT_J_KG + (WATER_J_KGK - ICE_J_KGK) * celsius
    return heat - frozen * (WATER_J_KGK - ICE_J_KGK) + ice * -freezes_c / (celsius * celsius) * latent


@compiled
def temperature(heat, ice, freezes_c, joules, guess_c):
    """The temperature of an enthalpy, °C: Newton's steps, which a bracket holds."""
    if joules >= heat * freezes_c:
        return joules / heat
    low, high = -80.0, freezes_c
    celsius = min(max(guess_c, low), high)
    for _ in range(60):
        off = enthalpy(heat, ice, freezes_c, celsius) - joules
        if off > 0.0:
            high = celsius
        else:
            low = celsius
        step = off / _capacity(heat, ice, freezes_c, min(celsius, freezes_c - NEAR_K))
        celsius -= step
        if not low <= celsius <= high:
            celsius = 0.5 * (low + high)
        if abs(step) < NEAR_K:
            break
    return celsius


@compiled
def hold_capacity(T, food, now):
    """Note the heat capacity that holds for a step, of every cell that has ice."""
    for i in range(food.ice.size):
        now.frost[i] = 0.0
        if food.ice[i] > 0.0 and T[i] < food.freezes_c:
            now.frost[i] = _capacity(now.c_thawed[i], food.ice[i], food.freezes_c, T[i])


@compiled
def with_ice(T, k, c, food, now):
    """Conductivity and capacity of the cells with ice, after those of the unfrozen food."""
    for i in range(food.ice.size):
        now.c_thawed[i] = c[i]
        if food.ice[i] > 0.0 and T[i] < food.freezes_c:
            t = max(T[i], -60.0)
            ice_k = 2.2196 + t * (-6.2489e-3 + t * 1.0154e-4)  # Choi & Okos 1986
            k[i] += ACROSS * ice_of(food.ice[i], food.freezes_c, T[i]) / ICE_KG_M3 * (ice_k - WATER_K)
        if now.frost[i] > 0.0:
            c[i] = now.frost[i]


@compiled
def settle(T, new, food, now):
    """Put the temperatures after a step right by their enthalpy; returns by how much at most, K."""
    most = 0.0
    for i in range(food.ice.size):
        if food.ice[i] > 0.0 and (T[i] < food.freezes_c or new[i] < food.freezes_c):
            heat = now.c_thawed[i]
            held = now.frost[i] if now.frost[i] > 0.0 else heat
            joules = enthalpy(heat, food.ice[i], food.freezes_c, T[i]) + held * (new[i] - T[i])
            right = temperature(heat, food.ice[i], food.freezes_c, joules, new[i])
            most = max(most, abs(right - new[i]))
            new[i] = right
    return most
