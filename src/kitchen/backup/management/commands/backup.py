"""`./ember backup [FILE]` and `./ember backup --verify FILE`."""

from __future__ import annotations

import time
from pathlib import Path
from typing import Any

from django.conf import settings
from django.core.management.base import BaseCommand, CommandError, CommandParser

from kitchen.backup import make
from kitchen.backup.database import DatabaseToolError
from kitchen.backup.restoring import BackupError, verify_backup


class Command(BaseCommand):
    """Write a backup, or check one."""

    help = "Back everything up into one file, while people work; or check such a file by restoring it beside."

    def add_arguments(self, parser: CommandParser) -> None:
        """The file, what it is for, how many are kept."""
        parser.add_argument("file", nargs="?", type=Path)
        parser.add_argument("--verify", action="store_true", help="check the file instead of writing it")
        parser.add_argument("--why", default="by-hand")
        parser.add_argument("--keep", type=int, help="delete all but so many of this occasion in the usual folder")

    def handle(self, *args: Any, **options: Any) -> None:
        """Do it, and say what is in the file."""
        began, path = time.monotonic(), options["file"]
        try:
            if options["verify"]:
                if path is None:
                    raise CommandError("Say which file: ./ember backup --verify FILE")
                about = verify_backup(path)
            else:
                path = path or Path(settings.BACKUPS) / make.name_now(options["why"])
                about = make.make_backup(path)
        except (BackupError, DatabaseToolError) as error:
            raise CommandError(str(error)) from None
        if options["keep"]:
            make.keep_newest(Path(settings.BACKUPS), options["why"], options["keep"])
        did = "holds" if options["verify"] else "written:"
        rows, size_mb = about["rows"], path.stat().st_size / 1e6
        self.stdout.write(
            f"{path} {did} {sum(rows.values())} rows in {len(rows)} tables, {len(about['heads'])} chains,"
            f" {len(about['files'])} files; {size_mb:.1f} MB, {time.monotonic() - began:.1f} s."
        )
