"""The devices that send readings, and their tokens."""

from __future__ import annotations

from typing import Any

from django.contrib import messages
from django.http import HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.http import require_POST

from kitchen.accounts.access import chef_required
from kitchen.accounts.models import IDLE_CHOICES
from kitchen.web import KitchenRequest, parse_count

from . import actions
from .models import Device


def devices_page(request: KitchenRequest, **more: Any) -> HttpResponse:
    """Render the page; `more` adds a new token that is shown once."""
    rows = Device.objects.of(request.kitchen).prefetch_related("probes").order_by("revoked_at", "name")
    context = {
        "devices": rows,
        "tablets": request.kitchen.tablets.filter(revoked_at=None).order_by("name"),
        "idle_choices": IDLE_CHOICES,
        **more,
    }
    return render(request, "kit/devices.html", context)


def devices(request: KitchenRequest) -> HttpResponse:
    """The devices of the kitchen and when each was last heard from."""
    return devices_page(request)


@require_POST
@chef_required
def add(request: KitchenRequest) -> HttpResponse:
    """Create a device; the response shows its token once, and only its hash is stored."""
    try:
        device, token = actions.add_device(
            request.kitchen, request.POST.get("name", ""), parse_count(request.POST.get("probes", "1")) or 0
        )
    except actions.DeviceError as error:
        messages.error(request, str(error))
        return redirect("kit:devices")
    return devices_page(request, new_token=(device.name, token))


@require_POST
@chef_required
def revoke(request: KitchenRequest, pk: int) -> HttpResponse:
    """Revoke a device's token."""
    device = get_object_or_404(Device.objects.of(request.kitchen), pk=pk)
    actions.revoke(device)
    messages.success(request, f"{device.name} revoked. Its past readings stay.")
    return redirect("kit:devices")
