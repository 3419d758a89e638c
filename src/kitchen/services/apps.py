"""The app of services; it puts their next actions on the line."""

from __future__ import annotations

from django.apps import AppConfig


class ServicesConfig(AppConfig):
    """Connects services with the line once all models are loaded."""

    name = "kitchen.services"

    def ready(self) -> None:
        """Register running services as a source of next actions."""
        from kitchen.line.sources import add_source

        from .next_actions import service_actions

        add_source(service_actions)
