"""A backup checked and restored: every file by its digest, every table by its rows, every chain by its head."""

from __future__ import annotations

import json
import shutil
import tarfile
import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

from django.conf import settings
from django.db import connection

from . import database, sealed
from .make import FILES, FORMAT, digest_of, passphrase


class BackupError(Exception):
    """A backup that cannot be used, or a place that is not empty, in words."""


@contextmanager
def unpacked(path: Path) -> Iterator[tuple[Path, dict[str, Any]]]:
    """A backup's contents in a folder for the time being, and its own list of them, with every digest checked.

    Raises BackupError for a file that is none, is damaged, or needs another passphrase.
    """
    with tempfile.TemporaryDirectory(prefix="ember-restore-") as folder:
        place = Path(folder)
        try:
            with tarfile.open(_plain(path, place)) as archive:
                _extract(archive, place / "in")
            about = json.loads((place / "in" / "about.json").read_text("utf-8"))
        except (OSError, tarfile.TarError, ValueError) as error:
            raise BackupError(f"{path} is no backup, or it is damaged: {error}") from None
        if about.get("format") != FORMAT or about.get("version") != 1:
            raise BackupError(f"{path} is no backup that this version reads.")
        digests_agree(place / "in", about)
        yield place / "in", about


def _extract(archive: tarfile.TarFile, place: Path) -> None:
    """Extract plain files into a folder, and nothing outside it (Debian's Python knows no filter for that yet)."""
    for member in archive:
        target = (place / member.name).resolve()
        if not member.isfile() or place.resolve() not in target.parents:
            raise tarfile.TarError(f"{member.name} does not belong into a backup")
        target.parent.mkdir(parents=True, exist_ok=True)
        content = archive.extractfile(member)
        if content is not None:
            with target.open("wb") as file:
                shutil.copyfileobj(content, file)


def _plain(path: Path, place: Path) -> Path:
    if not path.exists():
        raise BackupError(f"There is no {path}.")
    with path.open("rb") as file:
        if not sealed.is_sealed(file.read(len(sealed.MAGIC))):
            return path
        if not passphrase():
            raise BackupError("This backup is encrypted. Set EMBER_BACKUP_PASSPHRASE.")
        file.seek(0)
        plain = place / "whole.tar"
        try:
            with plain.open("wb") as into:
                for chunk in sealed.opened(file, passphrase()):
                    into.write(chunk)
        except sealed.SealError as error:
            raise BackupError(str(error)) from None
        return plain


def digests_agree(place: Path, about: dict[str, Any]) -> None:
    """Raise BackupError where a file that a backup names is not in its folder as it was packed."""
    expected = {**about["sha256"], **{f"{FILES}/{name}": digest for name, digest in about["files"].items()}}
    for name, digest in expected.items():
        path = (place / name).resolve()
        if place.resolve() not in path.parents or not path.is_file() or digest_of(path) != digest:
            raise BackupError(f"The backup is damaged: {name} is missing or was changed.")


def differences(about: dict[str, Any], database_name: str) -> list[str]:
    """How a restored database differs from what the backup says of itself."""
    with database.asked(database_name) as ask:
        rows, heads = database.tables(ask), database.heads(ask)
    wrong = [
        f"{table}: {rows.get(table, 0)} rows instead of {count}"
        for table, count in about["rows"].items()
        if rows.get(table, 0) != count
    ]
    return wrong + [
        f"the chain of kitchen {key} ends elsewhere" for key in about["heads"] if heads.get(key) != about["heads"][key]
    ]


def verify_backup(path: Path) -> dict[str, Any]:
    """Check a backup by restoring it into a database of its own; returns what is in it. Raises BackupError."""
    with unpacked(path) as (place, about), database.scratch() as name:
        database.restore(place / "database.dump", name)
        if wrong := differences(about, name):
            raise BackupError("The backup does not hold what it says: " + "; ".join(wrong[:5]))
        return about


def is_empty() -> bool:
    """Whether this installation's database has no tables yet, or only ones without a kitchen."""
    with connection.cursor() as cursor:
        cursor.execute("SELECT to_regclass('public.accounts_kitchen')")
        if cursor.fetchone()[0] is None:
            return True
        cursor.execute("SELECT EXISTS (SELECT FROM accounts_kitchen)")
        return not cursor.fetchone()[0]


def restore_backup(path: Path) -> dict[str, Any]:
    """Restore a backup into this installation, which must be empty; returns what was in it. Raises BackupError."""
    if not is_empty():
        raise BackupError("There is a kitchen here already. A backup is restored into an empty place only.")
    with unpacked(path) as (place, about):
        _clear()
        database.restore(place / "database.dump", database.name_here())
        if wrong := differences(about, database.name_here()):
            raise BackupError("Restored, but it differs: " + "; ".join(wrong[:5]))
        _put_files(place / FILES, list(about["files"]))
        return about


def _clear() -> None:
    """Drop what an installation without a kitchen has: its empty tables and functions."""
    with connection.cursor() as cursor:
        cursor.execute("SELECT current_user")
        owner = connection.ops.quote_name(cursor.fetchone()[0])
        cursor.execute(f"DROP SCHEMA public CASCADE; CREATE SCHEMA public AUTHORIZATION {owner}")
        cursor.execute("SELECT rolname FROM pg_roles WHERE rolname IN ('app', 'ember_reader')")
        for (role,) in cursor.fetchall():
            cursor.execute(f"GRANT USAGE ON SCHEMA public TO {connection.ops.quote_name(role)}")
    connection.close()


def _put_files(place: Path, names: list[str]) -> None:
    """Put each file in its place. Public keys that are trusted here already stay trusted."""
    keys = {f"keys/{Path(path).name}": Path(path) for path in (settings.ANCHOR_KEY, settings.ANCHOR_KEYS)}
    for name in names:
        target = keys.get(name, Path(settings.FILES) / name)
        target.parent.mkdir(parents=True, exist_ok=True)
        if target == Path(settings.ANCHOR_KEYS) and target.exists():
            lines = dict.fromkeys([*target.read_text().split(), *(place / name).read_text().split()])
            target.write_text("\n".join(lines) + "\n")
        else:
            shutil.copyfile(place / name, target)
            target.chmod(0o600)
