"""Flux through a face of the piece: convection, contact, radiation, evaporation and condensation. Compiled.

A face's condition is a row of numbers for compiled code; terms.py names its columns.
"""

from __future__ import annotations

import math

from .compiled import compiled
from .terms import (
    CONTACT,
    CONTACT_C,
    EMISSIVITY,
    FILM,
    FROM_AROUND,
    H_CONTACT,
    H_DRY,
    HC,
    HELD,
    KELVIN,
    MEDIUM_C,
    RADIANT_C,
    SIGMA,
    SKIN,
    SKIN_SLOPE,
    VAPOUR_PA,
    WETNESS,
    H,
)

PRESSURE_PA = 101325.0
CP_AIR = 1030.0  # J/kgK, moist air near 80 °C
LEWIS_FACTOR = 0.90  # Le^(2/3) of water vapour in air
BOILS_C, FADES_K = 100.0, 1.0  # around boiling evaporation fades
SKIN_AT_C = 75.0  # where the skin's conductance is stated


@compiled
def vapour_pressure(temperature_c):
    """Saturation pressure of water, Pa; Buck 1981 (J Appl Meteorol 20:1527), for 0 to 100 °C.

    >>> round(float(vapour_pressure(20.0)))  # steam tables: 2339 Pa
    2338
    """
    return 611.21 * math.exp((18.678 - temperature_c / 234.5) * (temperature_c / (257.14 + temperature_c)))


@compiled
def latent_heat(temperature_c):
    """Heat of evaporation of water, J/kg; linear fit for 0 to 100 °C.

    >>> round(float(latent_heat(25.0)) / 1e6, 3)  # steam tables: 2.442 MJ/kg
    2.442
    """
    return 2.501e6 - 2370.0 * temperature_c


@compiled
def contact_h(face, wet):
    """Contact conductance, W/m²K: the film of fat and juice closes the gap while the face is wet."""
    return face[H_DRY] + wet * (face[H_CONTACT] - face[H_DRY])


@compiled
def from_around(face, surface_c, wet, around_c):
    """Heat into a face from the body around, W/m², and its conductance, W/m²K."""
    if face[FROM_AROUND] == HELD:
        return 0.0, 0.0
    h = face[H] if face[FROM_AROUND] == FILM else contact_h(face, wet)
    return h * (around_c - surface_c), h


@compiled
def face_flux(face, surface_c, wet, around_c):
    """Heat into a face, W/m², and water off it, kg/m²s (negative if it condenses).

    `wet`, 0 to 1: remaining wetness of the surface; `around_c`: temperature of the body around. Evaporation by Lewis's
    analogy with Stefan flow: m = β hc / (cp Le^(2/3)) · ln(1 + B), B = (Ys - Ya)/(1 - Ys). A skin of dried fibres lies
    in series with the film of air: β s/(s + hc), s = s75 exp(γ (T - 75)).
    """
    medium = around_c if face[FROM_AROUND] == FILM else face[MEDIUM_C]
    q = face[H] * (medium - surface_c)
    if face[H_CONTACT] > 0.0:
        contact = around_c if face[FROM_AROUND] == CONTACT else face[CONTACT_C]
        q += contact_h(face, wet) * (contact - surface_c)
    if face[EMISSIVITY] > 0.0:
        hot = face[RADIANT_C] + KELVIN
        cold = surface_c + KELVIN
        q += face[EMISSIVITY] * SIGMA * (hot * hot * hot * hot - cold * cold * cold * cold)
    water = 0.0
    if face[WETNESS] > 0.0 and face[HC] > 0.0:
        p_s = vapour_pressure(min(surface_c, 99.0))  # above, the boiling of the cell itself takes over
        y_s = 0.622 * p_s / (PRESSURE_PA - 0.378 * p_s)
        p_a = face[VAPOUR_PA]
        y_a = 0.622 * p_a / (PRESSURE_PA - 0.378 * p_a)
        driving = (y_s - y_a) / (1.0 - y_s)
        share = face[WETNESS] * wet if driving > 0.0 else 1.0
        if surface_c > BOILS_C - FADES_K and driving > 0.0:  # a boiling cell gives its water off by itself
            share *= min(max(0.5 * (BOILS_C + FADES_K - surface_c) / FADES_K, 0.0), 1.0)
        if face[SKIN] > 0.0 and driving > 0.0:
            skin = face[SKIN] * math.exp(face[SKIN_SLOPE] * (min(surface_c, 99.0) - SKIN_AT_C))
            share *= skin / (skin + face[HC])
        water = share * face[HC] / (CP_AIR * LEWIS_FACTOR) * math.log(1.0 + driving)
        q -= water * latent_heat(surface_c)
    return q, water
