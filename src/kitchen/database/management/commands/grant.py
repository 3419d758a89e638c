"""`manage grant`: set what the roles of the database may do; run by the owner after each migration."""

from __future__ import annotations

from typing import Any

from django.core.management.base import BaseCommand

from kitchen.database.grants import grant


class Command(BaseCommand):
    """Grant, and say to whom."""

    help = "Set what each role of the database may do with each table."

    def handle(self, *args: Any, **options: Any) -> None:
        """Do it."""
        roles = grant()
        if options["verbosity"] > 1:
            self.stdout.write(f"Granted to {', '.join(roles) or 'nobody: there are no roles'}.")
