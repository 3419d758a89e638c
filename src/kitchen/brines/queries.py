"""Which brines a kitchen keeps, and what a plan may do with them."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from kitchen.accounts.models import Kitchen

from .models import BrinePlan, Confirmation, fingerprint_of


def kept_brines(kitchen: Kitchen) -> list[BrinePlan]:
    """Those that are not in the bin, by name."""
    return list(BrinePlan.objects.of(kitchen).current())


def confirmation_of(kitchen: Kitchen, recipe: Mapping[str, Any]) -> Confirmation | None:
    """A second person's confirmation of this recipe to the gram, under any name."""
    return (
        Confirmation.objects.filter(plan__kitchen=kitchen, fingerprint=fingerprint_of(dict(recipe)))
        .select_related("by")
        .order_by("-at")
        .first()
    )
