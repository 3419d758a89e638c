"""Composition, thermal properties and the catalogue."""

from __future__ import annotations

import numpy as np
import pytest

from ember.errors import BadInput
from ember.food.catalogue import cut, cuts
from ember.food.composition import COMPONENTS, Composition, component_property, loss_curves
from ember.food.geometry import typical_mass_g
from ember.heat.surface import latent_heat, vapour_pressure
from ember.judge.doneness import scales
from ember.judge.standards import standards


@pytest.mark.parametrize("component", COMPONENTS)
@pytest.mark.parametrize("celsius", [20.0, 60.0])
def test_published_diffusivity_agrees_with_k_over_rho_cp(component, celsius):
    # Choi & Okos 1986 publish k, rho, cp and alpha as separate fits: they agree within their own scatter.
    k, rho, cp, alpha = (component_property(component, name, celsius) for name in ("k", "rho", "cp", "alpha"))
    assert k / (rho * cp) == pytest.approx(alpha, rel=0.035)


@pytest.mark.parametrize(
    ("fractions", "celsius", "k", "rho", "cp"),
    [
        # Worked out by hand from Choi & Okos 1986 with the mixing rules.
        ((0.715, 0.220, 0.050, 0.0, 0.011), 20, 0.507, 1055, 3561),
        ((0.745, 0.225, 0.026, 0.0, 0.011), 60, 0.563, 1045, 3630),
        ((0.650, 0.204, 0.134, 0.0, 0.011), 20, 0.472, 1043, 3415),
        ((0.812, 0.178, 0.007, 0.0, 0.012), 20, 0.543, 1048, 3747),
    ],
)
def test_mixtures(fractions, celsius, k, rho, cp):
    found = Composition.from_fractions(dict(zip(COMPONENTS, fractions, strict=True)))
    assert float(found.conductivity(celsius)) == pytest.approx(k, rel=0.01)
    assert float(found.density(celsius)) == pytest.approx(rho, rel=0.005)
    assert float(found.heat_capacity(celsius)) == pytest.approx(cp, rel=0.01)


def test_fractions_must_make_a_whole():
    with pytest.raises(BadInput, match="add up"):
        Composition.from_fractions({"water": 0.5, "protein": 0.2})
    with pytest.raises(BadInput, match="Unknown"):
        Composition.from_fractions({"water": 0.9, "sand": 0.1})


@pytest.mark.parametrize(("celsius", "pascal"), [(0, 611.2), (20, 2339), (60, 19946), (90, 70182), (100, 101420)])
def test_vapour_pressure_against_steam_tables(celsius, pascal):
    # IAPWS steam tables, from memory.
    assert vapour_pressure(float(celsius)) == pytest.approx(pascal, rel=0.003)


def test_latent_heat_against_steam_tables():
    assert latent_heat(0.0) == pytest.approx(2.501e6, rel=0.001)
    assert latent_heat(100.0) == pytest.approx(2.257e6, rel=0.005)


def test_every_cut_is_whole():
    assert len(cuts()) >= 20
    for row in cuts().values():
        assert row.doneness in scales(), row.id
        assert row.loss in loss_curves(), row.id
        assert sum(row.composition) == pytest.approx(100, abs=3), row.id
        assert row.source
        for standard in standards().values():
            assert row.category in standard.categories, row.id


def test_typical_pieces_weigh_what_cooks_expect():
    # Common practice: a strip steak about 300 g, a chicken breast about 200 to 350 g, a cod portion about 150 to 200 g.
    for cut_id, low, high in [
        ("beef/strip-loin", 230, 400), ("chicken/breast", 180, 380), ("cod/fillet", 130, 230),
        ("beef/rump-roast", 1000, 1800),
    ]:  # fmt: skip
        row = cut(cut_id)
        assert low < typical_mass_g(row.form, float(row.mass_fractions.density(20.0))) < high


def test_an_unknown_cut_suggests_its_neighbours():
    with pytest.raises(BadInput, match="beef/strip-loin"):
        cut("beef/striploin")


def test_water_is_lost_more_the_hotter():
    for curve in loss_curves().values():
        T = np.arange(20, 100)
        assert np.all(np.diff(curve.a / (1 + np.exp(-(T - curve.tm) / curve.w))) > 0)
