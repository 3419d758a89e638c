"""Which plans a request may see, and what its kitchen holds them against."""

from __future__ import annotations

from typing import Any

from kitchen.web import KitchenRequest, is_uuid

from .models import Plan


def plans_of(request: KitchenRequest) -> Any:
    """The kitchen's plans that are not in the bin."""
    return Plan.objects.of(request.kitchen).current()


def posted_plan(request: KitchenRequest) -> Plan | None:
    """The kept plan that a posted bench is about; None for a new one."""
    key = request.POST.get("plan")
    return plans_of(request).filter(pk=key).first() if is_uuid(key) else None


def rules_of(request: KitchenRequest) -> dict[str, Any]:
    """What this kitchen holds its plans against."""
    return {"standard": request.kitchen.standard, "house": request.kitchen.house or None}


def kept_of(request: KitchenRequest, plan: Plan | None) -> dict[str, Any]:
    """What the bench has no fields for."""
    return {**(plan.document if plan else {}), **rules_of(request)}
