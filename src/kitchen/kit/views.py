"""Adding and revoking devices."""

from __future__ import annotations

from django.contrib import messages
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect
from django.views.decorators.http import require_POST

from kitchen.accounts.access import chef_required
from kitchen.accounts.views import more_page

from . import actions
from .models import Device


@require_POST
@chef_required
def add_device(request: HttpRequest) -> HttpResponse:
    """A new device; its token is shown in this answer, once, and only its hash is kept."""
    probes = request.POST.get("probes", "1")
    try:
        device, token = actions.add_device(
            request.kitchen, request.POST.get("name", ""), int(probes) if probes.isdigit() else 0
        )
    except actions.DeviceError as error:
        messages.error(request, str(error))
        return redirect("accounts:more")
    return more_page(request, new_token=(device.name, token))


@require_POST
@chef_required
def revoke(request: HttpRequest, pk: int) -> HttpResponse:
    """Take a device's token away."""
    device = get_object_or_404(Device.objects.of(request.kitchen), pk=pk)
    actions.revoke(device)
    messages.success(request, f"{device.name} can no longer send. What it sent stays.")
    return redirect("accounts:more")
