"""Devices that send readings, and their probes."""

from __future__ import annotations

import secrets

from django.db import models

from kitchen.accounts.models import KitchenOwned


class Device(KitchenOwned):
    """A device that posts readings with a token; only the token's hash is stored."""

    name = models.CharField(max_length=60)
    token_hash = models.CharField(max_length=64, unique=True)
    created_at = models.DateTimeField(auto_now_add=True)
    revoked_at = models.DateTimeField(null=True, blank=True)
    last_seen_at = models.DateTimeField(null=True, blank=True)
    behind_s = models.FloatField(null=True, blank=True)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["kitchen", "name"], name="device_name_once_a_kitchen")]

    def __str__(self) -> str:
        return self.name

    @staticmethod
    def new_token() -> str:
        """Create a token, to be handed to the device once."""
        return secrets.token_urlsafe(32)


class DeviceClock(models.Model):
    """The offset of a device's clock during one boot. A device without a clock starts at the same time again and again:
    this tells its readings apart.
    """

    device = models.ForeignKey(Device, on_delete=models.CASCADE, related_name="clocks")
    off_s = models.FloatField()

    def __str__(self) -> str:
        return f"{self.device}, {self.off_s:.0f} s off"


class Probe(KitchenOwned):
    """One probe of a device; `code` is the device's name for it. Some stay in a bath or an oven."""

    device = models.ForeignKey(Device, on_delete=models.PROTECT, related_name="probes")
    code = models.CharField(max_length=20)
    name = models.CharField(max_length=40)
    check_days = models.PositiveSmallIntegerField(default=28)
    fixed_in = models.ForeignKey(
        "kit.Equipment", null=True, blank=True, on_delete=models.SET_NULL, related_name="fixed_probes"
    )

    class Meta:
        constraints = [models.UniqueConstraint(fields=["device", "code"], name="probe_code_once_a_device")]
        ordering = ["name"]

    def __str__(self) -> str:
        return self.name
