"""Every write of a kitchen's rules."""

from __future__ import annotations

from typing import Any

from kitchen.accounts.models import Kitchen


def choose_standard(kitchen: Kitchen, standard_id: str) -> None:
    """Judge plans and records by another standard from now on; signed records stay as they were."""
    kitchen.standard = standard_id
    kitchen.save(update_fields=["standard"])


def set_house(kitchen: Kitchen, house: dict[str, Any]) -> None:
    """Set the kitchen's own stricter limits."""
    kitchen.house = house
    kitchen.save(update_fields=["house"])
