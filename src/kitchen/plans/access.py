"""Access to plans by kitchen, and the limits its plans are judged by."""

from __future__ import annotations

from typing import Any

from kitchen.web import KitchenRequest, is_uuid

from .models import Plan


def plans_of(request: KitchenRequest) -> Any:
    """The kitchen's plans that are not archived."""
    return Plan.objects.of(request.kitchen).current()


def posted_plan(request: KitchenRequest) -> Plan | None:
    """The saved plan of a posted bench; None for a new one."""
    key = request.POST.get("plan")
    return plans_of(request).filter(pk=key).first() if is_uuid(key) else None


def rules_of(request: KitchenRequest) -> dict[str, Any]:
    """The standard and limits that this kitchen's plans are judged by."""
    return {"standard": request.kitchen.standard, "house": request.kitchen.house or None}


def kept_of(request: KitchenRequest, plan: Plan | None) -> dict[str, Any]:
    """Parts of the plan that the bench has no fields for."""
    return {**(plan.document if plan else {}), **rules_of(request)}
