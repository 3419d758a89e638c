"""Made-up services of any size that have a plan, for timing the planner and testing it."""

from __future__ import annotations

import datetime as dt
from typing import Any

import numpy as np

OVEN_C, BATH_C = (120.0, 160.0, 180.0, 200.0), (54.0, 57.0, 60.0, 64.0)
UTC = dt.timezone(dt.timedelta(hours=1))
NOW = dt.datetime(2031, 5, 7, 8, 0, tzinfo=UTC)


def made_service(dishes: int, seed: int = 1, days: int = 3, spread_min: int = 90) -> dict[str, Any]:
    """A service of that many dishes with five tasks each, plated within `spread_min` on its last day.

    Equipment grows with it, so that the evening is busy but feasible.
    """
    random = np.random.default_rng(seed)
    per = max(dishes // 6, 1)
    evening = NOW.replace(hour=19) + dt.timedelta(days=days - 1)
    opens, closes = NOW.replace(hour=9), NOW.replace(hour=23)
    shifts = [[(at + dt.timedelta(days=d)).isoformat() for at in (opens, closes)] for d in range(days)]
    equipment: list[dict[str, Any]] = []
    rates: dict[str, float]
    for k in range(per + 1):
        rates = {"start_c": 20, "heat_c_per_min": 12, "cool_c_per_min": 4}
        equipment.append({"id": f"oven-{k + 1}", "kind": "oven", "capacity": 4, **rates})
        rates = {"start_c": 18, "heat_c_per_min": 1.5, "cool_c_per_min": 0.5}
        equipment.append({"id": f"bath-{k + 1}", "kind": "bath", "capacity": 12, **rates})
    equipment += [
        {"id": "hob", "kind": "hob", "capacity": 4 * per},
        {"id": "cold", "kind": "fridge", "capacity": 40 * per},
        {"id": "hands", "kind": "hands", "capacity": 2 * per + 1, "shifts": shifts},
    ]
    return {
        "format": "open-ember/service", "version": 1, "now": NOW.isoformat(), "equipment": equipment,
        "dishes": [_dish(i, random, per, evening, spread_min) for i in range(dishes)],
    }  # fmt: skip


def _dish(i: int, random: np.random.Generator, per: int, evening: dt.datetime, spread_min: int) -> dict[str, Any]:
    plate = evening + dt.timedelta(minutes=int(random.integers(0, spread_min // 5 + 1)) * 5)
    make = (_roasted, _bathed, _ahead)[i % 3]
    return {"id": f"dish-{i + 1}", "plate_up": plate.isoformat(), "tasks": make(random, per, i)}


def _hands(minutes: int | None = None) -> dict[str, Any]:
    return {"equipment": "hands", "amount": 1} | ({"first_min": minutes} if minutes else {})


def _plate(random: np.random.Generator) -> dict[str, Any]:
    return {"id": "plate", "minutes": int(random.integers(3, 8)), "uses": [_hands()], "max_wait_min": 10}


def _roasted(random: np.random.Generator, per: int, i: int) -> list[dict[str, Any]]:
    oven = f"oven-{i // 3 % (per + 1) + 1}"
    setting = float(OVEN_C[i // 3 // (per + 1) % len(OVEN_C)])
    minutes = int(random.integers(6, 30)) * 5
    return [
        {"id": "trim", "minutes": 15, "uses": [_hands()], "chilled_wait_max_min": 1440, "freshness": 0.05},
        {"id": "roast", "minutes": minutes, "after": ["trim"],
         "uses": [{"equipment": oven, "amount": 1, "setting_c": setting}, _hands(3)]},
        {"id": "baste", "minutes": 2, "during": {"task": "roast", "every_min": 40, "slack_min": 6}, "uses": [_hands()]},
        {"id": "rest", "minutes": int(random.integers(10, 30)), "after": ["roast"], "max_gap_min": 0,
         "max_wait_min": 240},
        {**_plate(random), "after": ["rest"]},
    ]  # fmt: skip


def _bathed(random: np.random.Generator, per: int, i: int) -> list[dict[str, Any]]:
    bath = f"bath-{i // 3 % (per + 1) + 1}"
    return [
        {"id": "bag", "minutes": 12, "uses": [_hands()], "chilled_wait_max_min": 2880, "freshness": 0.05},
        {"id": "bath", "minutes": int(random.integers(9, 40)) * 5, "after": ["bag"], "max_wait_min": 90,
         "uses": [{"equipment": bath, "amount": 2, "setting_c": float(BATH_C[i // 3 % len(BATH_C)])}, _hands(2)]},
        {"id": "sear", "minutes": 6, "after": ["bath"], "max_gap_min": 90,
         "uses": [{"equipment": "hob", "amount": 1}, _hands()]},
        {"id": "sauce", "minutes": 25, "uses": [{"equipment": "hob", "amount": 1}, _hands(4)], "max_wait_min": 60,
         "freshness": 0.3},
        {**_plate(random), "after": ["sear", "sauce"]},
    ]  # fmt: skip


def _ahead(random: np.random.Generator, per: int, i: int) -> list[dict[str, Any]]:
    bath = f"bath-{(i // 3 + 1) % (per + 1) + 1}"
    return [
        {"id": "brine", "minutes": 720, "uses": [{"equipment": "cold", "amount": 1}], "freshness": 0.05,
         "chilled_wait_max_min": 1440},
        {"id": "long", "minutes": int(random.integers(8, 14)) * 60, "after": ["brine"], "max_gap_min": 600,
         "uses": [{"equipment": bath, "amount": 3, "setting_c": 75.0}], "chilled_wait_max_min": 1440,
         "freshness": 0.05},
        {"id": "press", "minutes": 120, "after": ["long"], "uses": [{"equipment": "cold", "amount": 1}, _hands(8)],
         "chilled_wait_max_min": 2880, "freshness": 0.02},
        {"id": "back", "minutes": 25, "after": ["press"], "max_wait_min": 20,
         "uses": [{"equipment": "hob", "amount": 1}, _hands(5)]},
        {**_plate(random), "after": ["back"]},
    ]  # fmt: skip
