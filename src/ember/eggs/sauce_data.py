"""The rows of sauces.toml."""

from __future__ import annotations

import tomllib
from functools import cache
from importlib import resources

from pydantic import BaseModel, ConfigDict


class _Row(BaseModel):
    model_config = ConfigDict(extra="forbid", frozen=True)


class YolkRow(_Row):
    """Yolk as the base of a warm sauce: its window, what raises it, and the butter one yolk holds."""

    thickens_c: float
    works_to_c: float
    curdles_c: float
    acid_lifts_k: float
    acid_full_g: float
    sugar_lifts_k: float
    breaks_cold_c: float
    hold_c: tuple[float, float]
    yolk_g: float
    water_g: float
    solids_g: float
    fat_g: float
    phi_best: float
    phi_most: float
    butter_fat: float
    butter_water: float
    ribbon_c: tuple[float, float]
    foam_c: tuple[float, float]


class SauceSchool(_Row):
    """A method for warm sauces: heat input, W/m², and the form of the butter."""

    name: str
    line: str
    w_m2: float
    butter_at_c: float
    steps: tuple[str, ...]
    risk: str


class CustardRow(_Row):
    """A custard: setting point, its range, and curdling point, °C."""

    name: str
    set_c: float
    low_c: float
    high_c: float
    curdles_c: float


class BathRow(_Row):
    """A tray of water in an oven, and the dish in it."""

    still_h: float
    fan_h: float
    vapour_pa: float
    emissivity: float
    covered_c: float
    dish_m2k_w: float
    water_h: float
    sugar_lifts_k: float
    source: str


class StirredRow(_Row):
    """A stirred custard's window, and the limit of tempering."""

    nappe_c: tuple[float, float]
    curdles_c: float
    starch_holds_g_l: float
    tempered_from_c: float
    shock_c: float


class PastaRow(_Row):
    """Egg-bound pasta: its window, and heat capacities of its parts, J/gK."""

    thickens_c: float
    curdles_c: float
    starch_lifts_k: float
    j_gk: dict[str, float]


class SauceData(_Row):
    """All of sauces.toml."""

    yolk: YolkRow
    schools: dict[str, SauceSchool]
    rescue: dict[str, str]
    custards: dict[str, CustardRow]
    bath: BathRow
    stirred: StirredRow
    pasta: PastaRow


@cache
def sauce_data() -> SauceData:
    """The rows, read once."""
    return SauceData.model_validate(
        tomllib.loads(resources.files(__package__).joinpath("data/sauces.toml").read_text("utf-8"))
    )
