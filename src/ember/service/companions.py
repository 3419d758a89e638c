"""Companions of a piece: sides, sauces and stuffings, with duration, amount and equipment."""

from __future__ import annotations

import math
import tomllib
from functools import cache
from importlib import resources
from typing import Literal

from pydantic import BaseModel, ConfigDict, Field

Takes = Literal["reduce", "batches", "roast", "fixed"]

LATENT_J_KG = 2.257e6  # of boiling water at 100 °C; steam tables (IAPWS), from memory
WATER_J_KGK = 4180.0
FROM_COLD_K = 80.0  # a stock out of the fridge or the sink up to the boil; common practice
BURNER_SHARE = 0.5  # of a gas ring's power that reaches the pot: 40 to 55 %; common practice
MOST_W_M2 = 25_000.0  # of a pan's base at a rolling boil that does not leave the pan; common practice
ROAST_MM, ROAST_C, ROAST_MIN = 30.0, 200.0, 45.0  # pieces of root of 30 mm at 200 °C; common practice
ROAST_POWER = 1.4  # between a face that limits (1) and a middle that limits (2)
BROWN_Q10_K = 45.0  # so much hotter halves the time until it is brown; common practice


class CompanionKind(BaseModel):
    """A row of companions.toml."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    id: str
    name: str
    takes: Takes
    uses: str = ""
    setting_c: float | None = None
    minutes: float = 0.0
    hands_min: float = 0.0
    all_hands: bool = False
    waits_min: float | None = None
    chilled_days: float | None = None
    freshness: float = 1.0
    last_of: str = ""
    after: str = ""
    per_cover_g: float | None = None
    per_kg_g: float | None = None
    keeps_share: float = Field(0.5, gt=0, lt=1)
    width_mm: float = 260.0
    burner_kw: float = 3.0
    batch_g: float = 1000.0
    batch_min: float = 3.0
    heat_up_min: float = 10.0
    size_mm: float = 30.0

    def amount_g(self, covers: int, piece_g: float) -> float:
        """Amount to make, finished, for the covers or the mass of meat."""
        if self.per_kg_g is not None:
            return self.per_kg_g * piece_g / 1000.0
        return (self.per_cover_g or 0.0) * covers

    def minutes_for(self, amount_g: float, setting_c: float | None = None) -> float:
        """Duration, whole minutes and at least one."""
        match self.takes:
            case "reduce":
                minutes = reduction_min(amount_g / self.keeps_share, self.keeps_share, self.width_mm, self.burner_kw)
            case "batches":
                minutes = self.heat_up_min + self.batch_min * math.ceil(amount_g / self.batch_g)
            case "roast":
                minutes = roast_min(self.size_mm, setting_c or self.setting_c or ROAST_C)
            case "fixed":
                minutes = self.minutes
        return float(max(math.ceil(minutes), 1))


def reduction_min(start_g: float, keeps_share: float, width_mm: float, burner_kw: float) -> float:
    """Minutes to boil `start_g` down to a share of it in a pan of that width over a burner.

    t = (m c ΔT + m (1 − keeps) L) / P, P the lesser of the burner's power and the highest boiling rate of the base.

    >>> round(reduction_min(2000, 0.5, 260, 3.0))
    37
    >>> round(reduction_min(2000, 0.1, 260, 3.0))
    59
    """
    base_m2 = math.pi / 4.0 * (width_mm / 1000.0) ** 2
    power_w = min(1000.0 * burner_kw * BURNER_SHARE, MOST_W_M2 * base_m2)
    mass_kg = start_g / 1000.0
    joules = mass_kg * (WATER_J_KGK * FROM_COLD_K + (1.0 - keeps_share) * LATENT_J_KG)
    return joules / power_w / 60.0


def roast_min(size_mm: float, setting_c: float) -> float:
    """Minutes for roots of a size in an oven: by a power of the size, and twice as long for each 45 K less.

    >>> roast_min(30, 200)
    45.0
    >>> round(roast_min(30, 170))
    71
    """
    by_size = (size_mm / ROAST_MM) ** ROAST_POWER
    return float(ROAST_MIN * by_size * 2.0 ** ((ROAST_C - setting_c) / BROWN_Q10_K))


@cache
def companion_kinds() -> dict[str, CompanionKind]:
    """Every row by its id."""
    text = resources.files(__package__).joinpath("data/companions.toml").read_text("utf-8")
    return {key: CompanionKind(id=key, **values) for key, values in tomllib.loads(text).items()}
