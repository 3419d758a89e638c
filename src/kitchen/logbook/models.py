"""Sign-offs, which freeze records."""

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
    how = models.CharField(max_length=8, blank=True)  # by PIN or password; empty where it was not asked yet

    def __str__(self) -> str:
        return f"{self.cook} signed by {self.by}"
