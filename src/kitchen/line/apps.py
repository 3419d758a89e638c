"""The app of the line; it registers how plans are sent to it."""

from __future__ import annotations

from django.apps import AppConfig


class LineConfig(AppConfig):
    """Connects the line with plans and boards once all models are loaded."""

    name = "kitchen.line"

    def ready(self) -> None:
        """Register “Send to the line”, and outdate boards when a cook begins."""
        from django.db.models.signals import post_save

        from kitchen.plans import hooks

        from . import shared_board
        from .models import Cook
        from .starting import settle_first
        from .views import send_plan

        hooks.register(send_to_line=send_plan, settle=settle_first)
        post_save.connect(shared_board.forget_before, sender=Cook)
