"""A backup: the database as of one moment, the files beside it, the heads of all chains, and a list of it all.

The file is a tar: about.json, database.dump, heads.jsonl, files/…; encrypted as a whole where there is a passphrase.
The key that signs heads goes along only then.
"""

from __future__ import annotations

import datetime as dt
import hashlib
import json
import os
import tarfile
import tempfile
from pathlib import Path
from typing import Any

from django.conf import settings
from django.utils import timezone

from kitchen.book.anchor import anchor_all, as_row
from kitchen.health.readiness import applied, unapplied

from . import database, sealed

FORMAT = "open-ember/backup"
ENDING = ".ember-backup"
FILES = "files"  # folder beside the database whose contents belong to records


def passphrase() -> str:
    """The passphrase from EMBER_BACKUP_PASSPHRASE; empty without one."""
    return os.environ.get("EMBER_BACKUP_PASSPHRASE", "")


def digest_of(path: Path) -> str:
    """SHA-256 of a file."""
    with path.open("rb") as file:
        return hashlib.file_digest(file, "sha256").hexdigest()


def make_backup(into: Path) -> dict[str, Any]:
    """Write a backup, all of it or nothing; returns what is in it. People may work meanwhile, and the database may be
    of an earlier version.
    """
    is_older = bool(unapplied())  # then no model can be asked
    anchors = [] if is_older else [as_row(made) for made in anchor_all()]
    into.parent.mkdir(parents=True, exist_ok=True)
    with tempfile.TemporaryDirectory(dir=into.parent, prefix=".backup-") as folder:
        place = Path(folder)
        dumped, lines, about_file = place / "database.dump", place / "heads.jsonl", place / "about.json"
        with database.snapshot() as moment:
            database.dump(dumped, moment)
            about: dict[str, Any] = {
                "format": FORMAT, "version": 1, "at": timezone.now().isoformat(timespec="seconds"),
                "migrations": applied(), "rows": database.tables(), "heads": database.heads(),
            }  # fmt: skip
        lines.write_text("".join(json.dumps(row) + "\n" for row in anchors), encoding="utf-8")
        files = _files()
        about["files"] = {name: digest_of(path) for name, path in files.items()}
        about["sha256"] = {path.name: digest_of(path) for path in (dumped, lines)}
        about_file.write_text(json.dumps(about, indent=1), encoding="utf-8")
        whole = place / "whole.tar"
        with tarfile.open(whole, "w") as archive:
            for path in (about_file, dumped, lines):
                archive.add(path, path.name)
            for name, path in files.items():
                archive.add(path, f"{FILES}/{name}")
        _finish(whole, into)
    return about


def _files() -> dict[str, Path]:
    """Files that belong to records, by their path below the folder of files; and keys, where they are encrypted."""
    folder = Path(settings.FILES)
    of_records = {str(path.relative_to(folder)): path for path in sorted(folder.rglob("*")) if path.is_file()}
    trusted, key = Path(settings.ANCHOR_KEYS), Path(settings.ANCHOR_KEY)
    beside = {"keys/" + trusted.name: trusted} | ({"keys/" + key.name: key} if passphrase() else {})
    return of_records | {name: path for name, path in beside.items() if path.exists()}


def _finish(whole: Path, into: Path) -> None:
    """Encrypt if there is a passphrase; put the file in its place, which holds it whole or not at all."""
    last = whole
    if passphrase():
        last = whole.with_suffix(".sealed")
        with whole.open("rb") as plain, last.open("wb") as file:
            sealed.seal(plain, file, passphrase())
    last.chmod(0o600)
    with last.open("rb") as file:
        os.fsync(file.fileno())
    last.replace(into)


def keep_newest(folder: Path, why: str, count: int) -> None:
    """Delete all but the newest backups of one occasion; those of other occasions stay."""
    newest_first = sorted(folder.glob(f"*-{why}{ENDING}"), key=lambda path: path.stat().st_mtime, reverse=True)
    for old in newest_first[count:]:
        old.unlink()


def name_now(why: str) -> str:
    """A file name by time and occasion."""
    return f"{dt.datetime.now(dt.UTC):%Y-%m-%dT%H%M%S}-{why}{ENDING}"
