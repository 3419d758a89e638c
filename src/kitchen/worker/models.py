"""Signs of life of what runs beside the web server."""

from __future__ import annotations

from django.db import models


class Beat(models.Model):
    """When something was last done, by name: a sweep of forecasts, a nightly backup."""

    SWEEP, MAINTENANCE = "sweep", "maintenance"

    name = models.CharField(max_length=40, primary_key=True)
    at = models.DateTimeField()

    def __str__(self) -> str:
        return f"{self.name} at {self.at:%H:%M:%S}"
