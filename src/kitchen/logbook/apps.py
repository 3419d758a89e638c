"""The app of the log; it lists a plan's cooks."""

from __future__ import annotations

from django.apps import AppConfig


class LogbookConfig(AppConfig):
    """Connects plans with their past cooks once all models are loaded."""

    name = "kitchen.logbook"

    def ready(self) -> None:
        """Register the list of a plan's cooks."""
        from kitchen.plans import hooks

        from .queries import cooks_of_plan

        hooks.register(past_cooks=cooks_of_plan)
