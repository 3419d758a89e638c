"""The line takes plans."""

from __future__ import annotations

from django.apps import AppConfig


class LineConfig(AppConfig):
    """Gives the plans' pages their way to the line once all models are there."""

    name = "kitchen.line"

    def ready(self) -> None:
        """“Send to the line” leads here."""
        from kitchen.plans import hooks

        from .views import send_plan

        hooks.register(send_to_line=send_plan)
