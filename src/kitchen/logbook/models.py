"""Sign-offs, which freeze records, and the readings copied into them."""

from __future__ import annotations

from django.conf import settings
from django.db import models

from kitchen.line.models import Cook


class SignOff(models.Model):
    """A chef's signature on a cook, with the record as of then. The database refuses changes afterwards."""

    cook = models.OneToOneField(Cook, on_delete=models.PROTECT, related_name="sign_off")
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    at = models.DateTimeField()
    record = models.JSONField()
    evidence = models.JSONField(default=dict, blank=True)  # digests of documents and readings; see evidence.py
    how = models.CharField(max_length=8, blank=True)  # by PIN or password; empty where it was not asked yet

    def __str__(self) -> str:
        return f"{self.cook} signed by {self.by}"


class SignedReadings(models.Model):
    """The readings of a signed cook, copied as it was signed: `packed` is compressed JSON, see evidence.py."""

    sign_off = models.OneToOneField(SignOff, on_delete=models.PROTECT, related_name="readings")
    packed = models.BinaryField()

    def __str__(self) -> str:
        return f"readings of {self.sign_off}"
