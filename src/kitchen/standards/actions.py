"""Every write about a kitchen's rules."""

from __future__ import annotations

from typing import Any

from kitchen.accounts.models import Kitchen


def choose_standard(kitchen: Kitchen, standard_id: str) -> None:
    """Hold plans and records against another standard from now on; signed records stay as they were signed."""
    kitchen.standard = standard_id
    kitchen.save(update_fields=["standard"])


def set_house(kitchen: Kitchen, house: dict[str, Any]) -> None:
    """The kitchen's own stricter limits."""
    kitchen.house = house
    kitchen.save(update_fields=["house"])
