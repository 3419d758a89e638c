"""`./ember restore FILE`, into an empty place."""

from __future__ import annotations

import time
from pathlib import Path
from typing import Any

from django.core.management import call_command
from django.core.management.base import BaseCommand, CommandError, CommandParser

from kitchen.backup.database import DatabaseToolError
from kitchen.backup.restoring import BackupError, restore_backup


class Command(BaseCommand):
    """Restore a backup, bring it to this version, set the rights."""

    help = "Restore a backup into an installation without a kitchen."

    def add_arguments(self, parser: CommandParser) -> None:
        """The file."""
        parser.add_argument("file", type=Path)
        parser.add_argument("--as-it-was", action="store_true", help="leave it at the version of the backup")

    def handle(self, *args: Any, **options: Any) -> None:
        """Do it, and say what was in the file."""
        began = time.monotonic()
        try:
            about = restore_backup(options["file"])
        except (BackupError, DatabaseToolError) as error:
            raise CommandError(str(error)) from None
        if not options["as_it_was"]:
            call_command("migrate", interactive=False, verbosity=0)
        call_command("grant")
        self.stdout.write(
            f"Restored the backup of {about['at']}: {sum(about['rows'].values())} rows, {len(about['heads'])} chains,"
            f" {len(about['files'])} files, in {time.monotonic() - began:.1f} s."
        )
