"""What every page knows: the kitchen, its clock, the person's units and theme."""

from __future__ import annotations

from typing import Any

from django.http import HttpRequest

from ember.quantities import Units


def kitchen(request: HttpRequest) -> dict[str, Any]:
    """Context for all templates."""
    here = getattr(request, "kitchen", None)
    person = getattr(request, "user", None)
    signed_in = person is not None and person.is_authenticated
    return {
        "kitchen": here,
        "membership": getattr(request, "membership", None),
        "kitchen_now": here.now() if here else None,
        "units": person.units if signed_in else Units(),
        "theme": person.theme if signed_in else "day",
    }
