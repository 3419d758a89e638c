"""`./ember manage export_kitchen NAME FILE`: everything a kitchen has, as one archive."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from django.core.management.base import BaseCommand, CommandError, CommandParser

from kitchen.accounts.models import Kitchen
from kitchen.book.export import write_export


class Command(BaseCommand):
    """Writes the archive and prints how many rows are in it."""

    help = "Everything a kitchen has, as one archive."

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("kitchen", help="its name, or its number")
        parser.add_argument("file", type=Path)

    def handle(self, *args: Any, **options: Any) -> None:
        """Find the kitchen and write its file."""
        wanted = options["kitchen"]
        rows = Kitchen.objects.filter(pk=int(wanted)) if wanted.isdecimal() else Kitchen.objects.filter(name=wanted)
        if rows.count() != 1:
            names = ", ".join(f"{each.pk} {each}" for each in Kitchen.objects.order_by("pk"))
            raise CommandError(f"Which kitchen? There is: {names}")
        with options["file"].open("wb") as file:
            counts = write_export(rows.get(), file)
        self.stdout.write(f"{sum(counts.values())} rows of {len(counts)} tables in {options['file']}")
