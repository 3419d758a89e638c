"""What stands beside the dishes of a service, as pages say it."""

from __future__ import annotations

from typing import Any

from .models import Dish
from .schedule_request import companion_amount_g, companion_kind, dish_meat_g


def side_dishes_of(dish: Dish) -> list[dict[str, Any]]:
    """What stands beside a dish, with how much is made and how long it takes."""
    mass_g = dish_meat_g(dish)
    rows = []
    for side in dish.companions:
        kind = companion_kind(side)
        amount = companion_amount_g(side, dish.portions, mass_g)
        minutes = float(side.get("minutes") or kind.minutes_for(amount, kind.setting_c))
        rows.append({"row": side, "name": side.get("name") or kind.name, "amount_g": amount, "minutes": minutes,
                     "setting_c": kind.setting_c})  # fmt: skip
    return rows
