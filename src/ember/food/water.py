"""How much juice muscle presses out when heated: the loss curves by species."""

from __future__ import annotations

import tomllib
from dataclasses import dataclass
from functools import cache
from importlib import resources
from typing import Any


@dataclass(frozen=True)
class LossCurve:
    """Water lost in the end, kg a kg raw, of the hottest temperature: a/(1+exp(-(T-tm)/w)) less its value at 20 °C."""

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
    """How far behind the temperature the juice of a piece of this half-thickness runs, s."""
    table = _table()
    return float(min(max(table["lag_s_mm"] * half_mm, table["lag_s_least"]), table["lag_s_most"]))


def water_diffusivity_m2s() -> float:
    """How fast water spreads through muscle to where it has dried, m²/s."""
    return float(_table()["diffusivity_m2s"])
