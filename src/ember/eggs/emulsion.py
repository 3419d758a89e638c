"""Warm sauces of yolk, acid and butter: how much butter the yolks hold, and where they thicken and curdle."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Literal

from ..kinetics.egg_gels import YOLK
from .sauce_data import YolkRow, sauce_data

FAT_G_ML, SOLIDS_G_ML = 0.91, 1.3
THICK_X, GRAINS_X = 0.002, 0.25  # set fractions of a whisked yolk; fitted to the kitchen's windows
NOTHING_BELOW_C = 55.0
EVAPORATES_J_G, WATER_J_GK = 2257.0, 4.18
HARD_BOIL_W_M2 = 40_000.0  # more than that leaves a pan by spitting; common practice, unsure
BASE_J_GK = 3.5
COVER_G = 35.0

State = Literal["thin", "thick", "curdled"]


def fat_share(yolks_g: float, liquid_g: float, butter_g: float, clarified: bool) -> float:
    """Volume fraction of fat in the sauce, φ.

    >>> round(fat_share(17.0, 10.0, 58.0, True), 2)
    0.76
    """
    yolk = sauce_data().yolk
    n = yolks_g / yolk.yolk_g
    fat = n * yolk.fat_g + butter_g * (1.0 if clarified else yolk.butter_fat)
    water = n * yolk.water_g + liquid_g + (0.0 if clarified else butter_g * yolk.butter_water)
    watery = water + n * yolk.solids_g / SOLIDS_G_ML
    return fat / FAT_G_ML / (fat / FAT_G_ML + watery)


def most_butter_g(yolks_g: float, liquid_g: float, clarified: bool, phi: float) -> float:
    """Butter that these yolks hold at a fat fraction φ, g."""
    yolk = sauce_data().yolk
    n = yolks_g / yolk.yolk_g
    watery = n * (yolk.water_g + yolk.solids_g / SOLIDS_G_ML) + liquid_g
    odds = phi / (1.0 - phi)
    fat, water = (1.0, 0.0) if clarified else (yolk.butter_fat, yolk.butter_water)
    room = fat / FAT_G_ML - odds * water
    wanted = odds * watery - n * yolk.fat_g / FAT_G_ML
    return math.inf if room <= 0 else max(wanted / room, 0.0)


def water_to_thin_g(yolks_g: float, liquid_g: float, butter_g: float, clarified: bool) -> float:
    """Warm water that brings the fat fraction back to a stable value, g."""
    phi = fat_share(yolks_g, liquid_g, butter_g, clarified)
    best = sauce_data().yolk.phi_best
    if phi <= best:
        return 0.0
    low, high = 0.0, 10.0 * (butter_g + liquid_g + yolks_g)
    for _ in range(60):
        middle = 0.5 * (low + high)
        over = fat_share(yolks_g, liquid_g + middle, butter_g, clarified) > best
        low, high = (middle, high) if over else (low, middle)
    return high


def lift_k(yolk: YolkRow, yolks_g: float, liquid_g: float, acid: bool, sugar_g: float) -> float:
    """How much acid and sugar raise the curdling point of yolk, K."""
    per_yolk = liquid_g * yolk.yolk_g / yolks_g
    by_acid = yolk.acid_lifts_k * min(per_yolk / yolk.acid_full_g, 1.0) if acid else 0.0
    return by_acid + yolk.sugar_lifts_k * min(sugar_g / yolks_g, 1.0)


def state_of(yolks_g: float, liquid_g: float, acid: bool, sugar_g: float, yolk_c: float, minutes: float) -> State:
    """State of a whisked base after `minutes` at a temperature."""
    yolk = sauce_data().yolk
    lifted = lift_k(yolk, yolks_g, liquid_g, acid, sugar_g)
    grains = 1.0 - math.exp(-60.0 * minutes * float(YOLK.rate(yolk_c - lifted)))
    if yolk_c > yolk.curdles_c + lifted or grains >= GRAINS_X:
        return "curdled"
    thick = 1.0 - math.exp(-60.0 * minutes * float(YOLK.rate(yolk_c)))
    return "thick" if yolk_c >= NOTHING_BELOW_C and thick >= THICK_X else "thin"


@dataclass(frozen=True)
class Window:
    """The working range of a base: thickens from, works to, curdles above, °C; and minutes at its temperature."""

    thickens_c: float
    works_to_c: float
    curdles_c: float
    thick_after_min: float
    curdles_after_min: float


def window_of(yolks_g: float, liquid_g: float, acid: bool, sugar_g: float, yolk_c: float) -> Window:
    """The window of a base, and how long it takes and tolerates at its temperature."""
    yolk = sauce_data().yolk
    lifted = lift_k(yolk, yolks_g, liquid_g, acid, sugar_g)
    thick = -math.log(1.0 - THICK_X) / float(YOLK.rate(yolk_c)) / 60.0
    grains = -math.log(1.0 - GRAINS_X) / float(YOLK.rate(yolk_c - lifted)) / 60.0
    if yolk_c > yolk.curdles_c + lifted:
        grains = 0.0
    return Window(yolk.thickens_c, yolk.works_to_c + lifted, yolk.curdles_c + lifted, thick, grains)


def reduction_min(volume_ml: float, to_share: float, pan_mm: float, power_w: float, start_c: float = 20.0) -> float:
    """Minutes to reduce a liquid to a share of its volume, by the burner's power and the pan's width.

    Raises ValueError for a share outside of (0, 1) or a power that is not positive.
    """
    if not 0.0 < to_share < 1.0 or power_w <= 0.0:
        raise ValueError("the share must be between 0 and 1, the power above 0")
    area = math.pi * (pan_mm / 2000.0) ** 2
    boiling_w = min(power_w, HARD_BOIL_W_M2 * area)
    heated = volume_ml * WATER_J_GK * (100.0 - start_c) / power_w
    return (heated + volume_ml * (1.0 - to_share) * EVAPORATES_J_G / boiling_w) / 60.0


def minutes_to_thick(base_g: float, start_c: float, to_c: float, school: str, bowl_mm: float) -> float:
    """Minutes of whisking until the base is warm, by the method's heat input."""
    watts = sauce_data().schools[school].w_m2 * math.pi * (bowl_mm / 2000.0) ** 2
    return base_g * BASE_J_GK * max(to_c - start_c, 0.0) / watts / 60.0


def bowl_mm(base_g: float) -> float:
    """Diameter of a bowl for this much base, mm: it should be about 15 mm deep; common practice."""
    return max(160.0, 2e3 * math.sqrt(base_g / 1e6 / 0.015 / math.pi))


@dataclass(frozen=True)
class Scaled:
    """Amounts of a sauce for a number of covers."""

    covers: int
    yolks: int
    yolks_g: float
    liquid_g: float
    butter_g: float


def scaled(covers: int, yolks_g: float, liquid_g: float, butter_g: float, each_g: float = COVER_G) -> Scaled:
    """The same sauce for a number of covers of `each_g`: whole yolks, the rest in proportion."""
    yolk = sauce_data().yolk
    share = covers * each_g / (yolks_g + liquid_g + butter_g)
    yolks = max(math.ceil(share * yolks_g / yolk.yolk_g - 0.05), 1)
    by = yolks * yolk.yolk_g / yolks_g
    return Scaled(covers, yolks, yolks * yolk.yolk_g, by * liquid_g, by * butter_g)
