"""`manage maintain`: the night's work, as the owner of the tables: old readings go, heads are signed, a backup."""

from __future__ import annotations

import os
from typing import Any

from django.core.management import call_command
from django.core.management.base import BaseCommand

from kitchen.accounts.models import Claim, Kitchen
from kitchen.book.anchor import anchor_all
from kitchen.book.retention import compact, keep_months, retire
from kitchen.faces.actions import retire as retire_photos
from kitchen.faces.store import sweep
from kitchen.worker.beats import beat
from kitchen.worker.models import Beat

KEPT = 14


class Command(BaseCommand):
    """Do the night's work, and say what was done."""

    help = "Thin and delete readings past their time, sign heads, back up."

    def handle(self, *args: Any, **options: Any) -> None:
        """Do it."""
        Claim.forget_old()
        keep_months()
        for taken in retire():
            self.stdout.write(f"{taken.kitchen}: {taken}.")
        compact()
        for kitchen in Kitchen.objects.all():
            if count := retire_photos(kitchen):
                self.stdout.write(f"{kitchen}: {count} photographs past their time were removed.")
            sweep(kitchen)
        anchor_all()
        backups_kept = int(os.environ.get("EMBER_BACKUPS_KEPT", KEPT))
        call_command("backup", why="nightly", keep=backups_kept, stdout=self.stdout)
        beat(Beat.MAINTENANCE)
