"""The app of photographs; it shows them with their cooks."""

from __future__ import annotations

from django.apps import AppConfig


class FacesConfig(AppConfig):
    """Connects photographs with cooks and records once all models are loaded."""

    name = "kitchen.faces"

    def ready(self) -> None:
        """Register the photographs of a cook."""
        from kitchen.line.cook_faces import register

        from .presenters import faces_of, rows_of

        register(faces_of, rows_of)
