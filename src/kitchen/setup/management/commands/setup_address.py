"""`./ember manage setup_address`: where the first kitchen is set up."""

from __future__ import annotations

from typing import Any

from django.core.management.base import BaseCommand, CommandParser
from django.urls import reverse

from kitchen.setup.actions import is_open, setup_secret


class Command(BaseCommand):
    """Prints the one-time address as long as there is no kitchen, and nothing afterwards."""

    help = "Print the address at which the first kitchen is set up, as long as there is none."

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("--base", default="http://127.0.0.1:8000", help="where the application is reached")

    def handle(self, *args: Any, **options: Any) -> None:
        """Print it."""
        if is_open():
            self.stdout.write(options["base"].rstrip("/") + reverse("setup:begin", args=[setup_secret()]))
