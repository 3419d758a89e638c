"""Load the demonstration kitchen."""

from __future__ import annotations

from typing import Any

from django.conf import settings
from django.core.management.base import BaseCommand, CommandParser

from kitchen.accounts.models import Kitchen
from kitchen.demo.build import load


class Command(BaseCommand):
    """`./ember manage load_demo`: MV Tern Island in the middle of its evening."""

    help = "Load the demonstration kitchen (MV Tern Island)."

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("--if-empty", action="store_true", help="do nothing when there is a kitchen already")
        parser.add_argument("--quiet", action="store_true", help="its plans alone, on the clock outside")

    def handle(self, *args: Any, **options: Any) -> None:
        if options["if_empty"] and Kitchen.objects.exists():
            return
        load(settings.LOCAL, quiet=options["quiet"])
