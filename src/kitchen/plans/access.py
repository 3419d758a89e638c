"""Which plans a request may see, and what its kitchen holds them against."""

from __future__ import annotations

from typing import Any

from django.http import HttpRequest

from kitchen.web import is_uuid

from .models import Plan


def plans_of(request: HttpRequest) -> Any:
    """The kitchen's plans that are not in the bin."""
    return Plan.objects.of(request.kitchen).current()


def posted_plan(request: HttpRequest) -> Plan | None:
    """The kept plan that a posted bench is about; None for a new one."""
    key = request.POST.get("plan")
    return plans_of(request).filter(pk=key).first() if is_uuid(key) else None


def rules_of(request: HttpRequest) -> dict[str, Any]:
    """What this kitchen holds its plans against."""
    return {"standard": request.kitchen.standard, "house": request.kitchen.house or None}


def kept_of(request: HttpRequest, plan: Plan | None) -> dict[str, Any]:
    """What the bench has no fields for."""
    return {**(plan.document if plan else {}), **rules_of(request)}
