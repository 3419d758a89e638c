"""The line takes plans."""

from __future__ import annotations

from django.apps import AppConfig


class LineConfig(AppConfig):
    """Gives the plans' pages their way to the line once all models are there."""

    name = "kitchen.line"

    def ready(self) -> None:
        """“Send to the line” leads here; a cook that began is on every board at once."""
        from django.db.models.signals import post_save

        from kitchen.plans import hooks

        from . import shared_board
        from .models import Cook
        from .views import send_plan

        hooks.register(send_to_line=send_plan)
        post_save.connect(shared_board.forget_before, sender=Cook)
