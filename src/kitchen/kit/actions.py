"""Every write about devices."""

from __future__ import annotations

import datetime as dt
from typing import Any

from django.db import IntegrityError, transaction
from django.utils import timezone

from kitchen.accounts.models import Kitchen, Person, hash_token
from kitchen.web import clean_text

from .models import Device, Equipment, KitCheck, Probe

MAX_PROBES = 8
SAME_START_S = 120.0  # clocks drift, and a post waits on its way; a device that starts anew is off by more


class DeviceError(Exception):
    """A device that cannot be added, in words."""


class EquipmentError(Exception):
    """Equipment that cannot be saved, in words."""


@transaction.atomic
def add_device(kitchen: Kitchen, name: str, probes: int, token: str | None = None) -> tuple[Device, str]:
    """Create a device with numbered probes, and its token, which is shown once and stored only as a hash."""
    longest = Device._meta.get_field("name").max_length or 0
    name = clean_text(name, 200)
    if len(name) > longest:
        raise DeviceError(f"A device's name has at most {longest} characters.")
    if not name:
        raise DeviceError("Give the device a name.")
    if not 1 <= probes <= MAX_PROBES:
        raise DeviceError(f"A device has 1 to {MAX_PROBES} probes.")
    token = token or Device.new_token()
    try:
        with transaction.atomic():
            device = Device.objects.create(kitchen=kitchen, name=name, token_hash=hash_token(token))
    except IntegrityError:
        raise DeviceError(f"There is already a device called {name}.") from None
    for number in range(1, probes + 1):
        Probe.objects.create(
            kitchen=kitchen, device=device, code=str(number), name=name if probes == 1 else f"{name} {number}"
        )
    return device, token


def revoke(device: Device) -> None:
    """Revoke a lost device's token; its readings stay."""
    if device.revoked_at is None:
        device.revoked_at = timezone.now()
        device.save(update_fields=["revoked_at"])


def boot_of(device: Device, name: str, off: dt.timedelta) -> str:
    """Which boot of a device its readings belong to: as it reports, else by the offset of its clock.

    A demonstration's clock may run at another rate, where the offset says nothing.
    """
    off_s = off.total_seconds()
    if name or abs(off_s) < SAME_START_S or device.kitchen.clock_rate != 1.0:
        return name
    with transaction.atomic():
        Device.objects.select_for_update().get(pk=device.pk)  # two posts at once make one clock
        near = [c for c in device.clocks.all() if abs(c.off_s - off_s) < SAME_START_S]
        clock = min(near, key=lambda c: abs(c.off_s - off_s)) if near else device.clocks.create(off_s=off_s)
    return f"clock {clock.pk}"


def note_behind(device: Device, behind_s: float | None) -> None:
    """Record that a device's newest reading arrived old: its clock is slow, or it was away."""
    if (behind_s is None) != (device.behind_s is None):
        Device.objects.filter(pk=device.pk).update(behind_s=behind_s)


def set_clock(kitchen: Kitchen, rate: float) -> None:
    """Run a demonstration kitchen's clock at another rate, from the time it shows now."""
    showed = kitchen.now()
    kitchen.clock_showed, kitchen.clock_set_at, kitchen.clock_rate = showed, timezone.now(), rate
    kitchen.save(update_fields=["clock_showed", "clock_set_at", "clock_rate"])


def keep_equipment(
    kitchen: Kitchen, equipment: Equipment | None, fields: dict[str, Any], person: Person | None = None
) -> Equipment:  # fmt: skip
    """Create or change a piece of equipment. Raises EquipmentError for a name that is taken."""
    equipment = equipment or Equipment(kitchen=kitchen)
    for key, value in fields.items():
        setattr(equipment, key, value)
    equipment.updated_by = person or equipment.updated_by
    try:
        with transaction.atomic():
            equipment.save()
    except IntegrityError:
        raise EquipmentError(f"There is already equipment called {equipment.name}.") from None
    return equipment


def remove_equipment(equipment: Equipment) -> None:
    """Remove a piece of equipment; its checks stay."""
    equipment.removed_at = equipment.kitchen.now()
    equipment.save(update_fields=["removed_at"])


def restore_equipment(equipment: Equipment) -> None:
    """Restore a piece of equipment. Raises EquipmentError if another has its name now."""
    keep_equipment(equipment.kitchen, equipment, {"removed_at": None})


def check_kit(thing: Equipment | Probe, person: Person, values: dict[str, Any]) -> KitCheck:
    """Record the result of a check."""
    what = {"equipment": thing} if isinstance(thing, Equipment) else {"probe": thing}
    return KitCheck.objects.create(kitchen=thing.kitchen, at=thing.kitchen.now(), by=person, **what, **values)
