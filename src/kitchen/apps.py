"""The project itself as an app, for its base templates and static files."""

from django.apps import AppConfig


class KitchenConfig(AppConfig):
    """The app of base templates, styles and scripts."""

    name = "kitchen"
    label = "kitchen"
