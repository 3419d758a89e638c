"""Composition to thermal properties by the Choi & Okos mixing rules; and the juice that muscle loses when heated."""

from __future__ import annotations

import tomllib
from collections.abc import Mapping
from dataclasses import dataclass
from functools import cache, lru_cache
from importlib import resources
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..errors import BadInput

COMPONENTS = ("water", "protein", "fat", "carbohydrate", "ash")
FloatArray = NDArray[np.float64]
# The parallel rule is an upper bound; muscle measures 0 to 8 % less across its fibres (from memory).
MUSCLE_SHARE = 0.96


@cache
def _coefficients() -> dict[str, dict[str, tuple[float, float, float]]]:
    table = tomllib.loads(resources.files(__package__).joinpath("data/components.toml").read_text("utf-8"))
    return {name: {key: tuple(coefficients) for key, coefficients in table[name].items()} for name in COMPONENTS}


def component_property(component: str, name: str, temperature_c: FloatArray | float) -> FloatArray:
    """One property (`k` W/mK, `rho` kg/m³, `cp` J/kgK or `alpha` m²/s) of one pure component at a temperature in °C."""
    a, b, c = _coefficients()[component][name]
    T = np.asarray(temperature_c, dtype=float)
    return np.asarray(a + b * T + c * T * T)


@dataclass(frozen=True)
class Composition:
    """Mass fractions of water, protein, fat, carbohydrate and ash; normalised to one."""

    water: float
    protein: float
    fat: float
    carbohydrate: float = 0.0
    ash: float = 0.0

    @classmethod
    def from_fractions(cls, fractions: Mapping[str, float]) -> Composition:
        """From mass fractions that add up to one within 3 %, as in food tables.

        Raises BadInput if they do not, or if one is negative.
        """
        unknown = set(fractions) - set(COMPONENTS)
        if unknown:
            raise BadInput(f"Unknown component {sorted(unknown)[0]}.", "piece.composition")
        total = sum(fractions.values())
        if any(value < 0 for value in fractions.values()) or not 0.97 <= total <= 1.03:
            raise BadInput(f"The mass fractions add up to {total:.3f}; they must make 1.", "piece.composition")
        return cls(**{name: fractions.get(name, 0.0) / total for name in COMPONENTS})

    def density(self, temperature_c: FloatArray | float) -> FloatArray:
        """Density, kg/m³: ρ = 1 / Σ(x/ρᵢ)."""
        return np.asarray(1.0 / sum(getattr(self, n) / component_property(n, "rho", temperature_c) for n in COMPONENTS))

    def heat_capacity(self, temperature_c: FloatArray | float) -> FloatArray:
        """Heat capacity, J/kgK: cp = Σ x cpᵢ."""
        return np.asarray(sum(getattr(self, n) * component_property(n, "cp", temperature_c) for n in COMPONENTS))

    def conductivity(self, temperature_c: FloatArray | float) -> FloatArray:
        """Conductivity, W/mK, parallel model: k = Σ vᵢ kᵢ with vᵢ = xᵢ ρ/ρᵢ. An upper bound; muscle measures 0–8 %
        less.
        """
        rho = self.density(temperature_c)
        parts = (
            getattr(self, n) * rho / component_property(n, "rho", temperature_c)
            * component_property(n, "k", temperature_c)
            for n in COMPONENTS
        )  # fmt: skip
        return np.asarray(sum(parts))


@dataclass(frozen=True)
class ThermalProperties:
    """Thermal properties of raw food as cubics in °C, a + bT + cT² + dT³, for the solver.

    `k_w_mk[4]` and `c_j_m3k[4]` (heat capacity of a cubic metre), fitted over RANGE_C; `water_kg_m3`: mass of water in
    a cubic metre.
    """

    RANGE_C = (-5.0, 150.0)

    k_w_mk: FloatArray
    c_j_m3k: FloatArray
    rho_kg_m3: float
    water_kg_m3: float

    @classmethod
    @lru_cache(maxsize=256)
    def of(cls, composition: Composition, start_c: float, across: float = MUSCLE_SHARE) -> ThermalProperties:
        """Cubics for a composition; the mass stays that at `start_c`, whatever the volume does.

        `across`: conductivity relative to the parallel rule; 1 for food without fibres.
        """
        T = np.linspace(*cls.RANGE_C, 63)
        rho = float(composition.density(start_c))
        conductivity = across * composition.conductivity(T)
        powers = np.vander(T, 4, increasing=True)
        k, *_ = np.linalg.lstsq(powers, conductivity, rcond=None)
        c, *_ = np.linalg.lstsq(powers, rho * composition.heat_capacity(T), rcond=None)
        return cls(np.asarray(k, float), np.asarray(c, float), rho, rho * composition.water)

    @classmethod
    def constant(cls, k_w_mk: float, rho_kg_m3: float, cp_j_kgk: float, water: float = 0.0) -> ThermalProperties:
        """Constant properties, for verification."""
        one = np.array([1.0, 0.0, 0.0, 0.0])
        return cls(k_w_mk * one, rho_kg_m3 * cp_j_kgk * one, rho_kg_m3, rho_kg_m3 * water)


# Water that does not freeze, kg a kg of protein: 0.3 to 0.45 (from memory); with 0.3 as much ice as Riedel measured.
BOUND_A_PROTEIN = 0.3


def freezable_water(composition: Composition) -> float:
    """Share of the mass that is water which freezes, kg a kg."""
    return max(composition.water - BOUND_A_PROTEIN * composition.protein, 0.0)


@dataclass(frozen=True)
class LossCurve:
    """Final loss of water by the hottest temperature, kg for a kg raw: a/(1+exp(-(T-tm)/w)) less its value at 20 °C."""

    a: float
    tm: float
    w: float


@cache
def _table() -> dict[str, Any]:
    return tomllib.loads(resources.files(__package__).joinpath("data/water.toml").read_text("utf-8"))


@cache
def loss_curves() -> dict[str, LossCurve]:
    """Loss curves by name."""
    return {name: LossCurve(**values) for name, values in _table()["curves"].items()}


def loss_lag_s(half_mm: float) -> float:
    """Lag of juice loss behind temperature in a piece of this half-thickness, s."""
    table = _table()
    return float(min(max(table["lag_s_mm"] * half_mm, table["lag_s_least"]), table["lag_s_most"]))


def water_diffusivity_m2s() -> float:
    """Diffusivity of water through muscle to a dried zone, m²/s."""
    return float(_table()["diffusivity_m2s"])
