"""Figures that were written down from memory, against packages that carry the published ones.

Water and ice: `iapws` (IAPWS-IF97, IAPWS 2009). Air's saturation: `psychrolib` (ASHRAE Handbook of Fundamentals).
Convection: `ht` (McAdams; flat plate, Baehr & Stephan; cylinder, Churchill & Bernstein). Colour: `colorspacious` (CIE,
IEC 61966-2-1). RODAS3: its order conditions (Hairer & Wanner, Solving ODEs II, section IV.7).
"""

from __future__ import annotations

import colorspacious
import iapws
import numpy as np
import psychrolib
import pytest
from ht import Nu_external_cylinder, Nu_external_horizontal_plate
from ht.conv_free_immersed import Nu_horizontal_plate_McAdams
from iapws import IAPWS97

from ember.chill.answer import ICE_MELTS_J_KG
from ember.food.composition import component_property
from ember.heat import rodas3
from ember.heat.faces import media, vapour_pressure_pa
from ember.heat.surface import latent_heat
from ember.kinetics.colour import TO_RGB, WHITE
from ember.service.companions import LATENT_J_KG

KELVIN = 273.15
BAR_MPA = 0.101325


def water(celsius):
    return IAPWS97(T=celsius + KELVIN, P=BAR_MPA)


def boiling(celsius):
    """Water and steam in equilibrium."""
    return IAPWS97(T=celsius + KELVIN, x=0), IAPWS97(T=celsius + KELVIN, x=1)


# Water ----------------------------------------------------------------------------------------------------------


@pytest.mark.parametrize("celsius", [1, 20, 40, 60, 80, 100])
def test_saturation_and_heat_of_evaporation_are_those_of_steam(celsius):
    liquid, steam = boiling(celsius)
    assert vapour_pressure_pa(celsius, 1.0) == pytest.approx(liquid.P * 1e6, rel=0.003)
    assert latent_heat(float(celsius)) == pytest.approx((steam.h - liquid.h) * 1e3, rel=0.004)


@pytest.mark.parametrize("celsius", [0, 25, 50, 75, 99])
def test_saturation_is_that_of_the_psychrometric_tables(celsius):
    psychrolib.SetUnitSystem(psychrolib.SI)
    assert vapour_pressure_pa(celsius, 1.0) == pytest.approx(psychrolib.GetSatVapPres(celsius), rel=0.002)


def test_water_that_boils_and_ice_that_melts_take_this_much_heat():
    liquid, steam = boiling(100)
    assert pytest.approx((steam.h - liquid.h) * 1e3, rel=0.001) == LATENT_J_KG
    ice, melted = iapws._Ice(KELVIN, BAR_MPA), water(0.01)
    assert pytest.approx((melted.h - ice["h"]) * 1e3, rel=0.003) == ICE_MELTS_J_KG


@pytest.mark.parametrize("celsius", [5, 20, 40, 60, 80, 95])
def test_the_water_of_choi_and_okos_is_water(celsius):
    real = water(celsius)
    assert component_property("water", "k", celsius) == pytest.approx(real.k, rel=0.025)
    assert component_property("water", "cp", celsius) == pytest.approx(real.cp * 1e3, rel=0.01)
    assert component_property("water", "rho", celsius) == pytest.approx(real.rho, rel=0.005)


# Faces ----------------------------------------------------------------------------------------------------------


def dry_air(celsius):
    """Conductivity, W/mK, and kinematic viscosity, m²/s (Sutherland's formula)."""
    kelvin = celsius + KELVIN
    viscosity = 1.716e-5 * (kelvin / KELVIN) ** 1.5 * (KELVIN + 110.4) / (kelvin + 110.4)
    return 0.0241 * (kelvin / KELVIN) ** 0.81, viscosity / (101_325.0 / (287.05 * kelvin))


def blown(celsius, m_s, length_m=0.1):
    """Film of air along a piece 100 mm long, W/m²K."""
    conductivity, viscosity = dry_air(celsius)
    return Nu_external_horizontal_plate(m_s * length_m / viscosity, 0.7, length_m, length_m) * conductivity / length_m


def still(film_c, difference_k, length_m=0.03):
    """Film of air that rises by itself: the mean of a piece's two sides, area over edge 30 mm, W/m²K."""
    conductivity, viscosity = dry_air(film_c)
    grashof = 9.81 * difference_k / (film_c + KELVIN) * length_m**3 / viscosity**2
    sides = [Nu_horizontal_plate_McAdams(0.7, grashof, buoyant) for buoyant in (True, False)]
    return sum(sides) / 2 * conductivity / length_m


@pytest.mark.parametrize(("face", "celsius", "m_s"), [("oven-fan", 120, (2, 4)), ("chill-blast", 5, (3, 6))])
def test_moving_air_is_a_fans_air(face, celsius, m_s):
    # Air in fan ovens moves at 1 to 4 m/s, in blast chillers at 3 to 6 (common practice).
    slow, fast = (blown(celsius, speed) for speed in m_s)
    assert slow < media()[face]["hc"] < fast


@pytest.mark.parametrize(("face", "film_c", "difference_k"), [("oven-still", 110, 120), ("chill-fridge", 10, 10)])
def test_still_air_is_free_convection(face, film_c, difference_k):
    assert media()[face]["hc"] == pytest.approx(still(film_c, difference_k), rel=0.25)


def test_a_bare_piece_in_a_bath_is_held_back_by_the_water_that_hardly_moves():
    # Water at a millimetre a second along a piece 30 mm thick: what a bath that is not stirred has (common practice).
    real = water(60)
    film = Nu_external_cylinder(0.001 * 0.03 * real.rho / real.mu, real.Prandt) * real.k / 0.03
    assert film == pytest.approx(media()["bath-still"]["h_bare"], rel=0.25)


# Colour ----------------------------------------------------------------------------------------------------------


def test_daylight_and_the_screens_primaries():
    assert pytest.approx(np.array([95.047, 100.0, 108.883]) / 100, abs=1e-5) == WHITE
    xyz = colorspacious.cspace_convert(np.eye(3), "sRGB1-linear", "XYZ1").T  # one primary a column
    assert pytest.approx(np.eye(3), abs=2e-3) == TO_RGB @ xyz


# The solver ----------------------------------------------------------------------------------------------------------


def tableau():
    """RODAS3 as a Rosenbrock method: its α and β matrices and weights, from the form that saves products."""
    c = np.array(rodas3.C_MATRIX)
    big = np.linalg.inv(np.eye(4) / rodas3.GAMMA - c)
    alpha = np.array(rodas3.A_MATRIX) @ big
    return alpha, alpha + big, np.array(rodas3.WEIGHTS) @ big


def test_rodas3_is_of_the_third_order():
    alpha, beta, b = tableau()
    assert b.sum() == pytest.approx(1)
    assert b @ beta.sum(axis=1) == pytest.approx(1 / 2)
    assert b @ alpha.sum(axis=1) ** 2 == pytest.approx(1 / 3)
    assert b @ beta @ beta.sum(axis=1) == pytest.approx(1 / 6)


def test_rodas3_is_stable_however_stiff():
    """L-stable: |R(iy)| ≤ 1, and R(∞) = 0."""
    _, beta, b = tableau()

    def grows(z):
        return 1 + z * b @ np.linalg.solve(np.eye(4) - z * beta, np.ones(4))

    assert max(abs(grows(1j * y)) for y in np.geomspace(1e-3, 1e6, 400)) <= 1 + 1e-9
    assert abs(grows(-1e9)) < 1e-6
