"""Services put their next actions on the line."""

from __future__ import annotations

from django.apps import AppConfig


class ServicesConfig(AppConfig):
    """Registers the source of next actions once all models are there."""

    name = "kitchen.services"

    def ready(self) -> None:
        """Hands of running services come onto the line."""
        from kitchen.line.sources import add_source

        from .next_actions import service_actions

        add_source(service_actions)
