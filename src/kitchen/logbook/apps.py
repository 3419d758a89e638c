"""The log knows what was cooked by a plan."""

from __future__ import annotations

from django.apps import AppConfig


class LogbookConfig(AppConfig):
    """Gives the plans' pages the cooks of the past once all models are there."""

    name = "kitchen.logbook"

    def ready(self) -> None:
        """A plan's versions are listed with its cooks."""
        from kitchen.plans import hooks

        from .queries import cooks_of_plan

        hooks.register(past_cooks=cooks_of_plan)
