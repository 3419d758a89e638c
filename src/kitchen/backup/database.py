"""PostgreSQL's own tools on the application's database: what is dumped, restored, and how much is in it."""

from __future__ import annotations

import os
import shutil
import subprocess
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from glob import glob
from pathlib import Path
from typing import Any

import psycopg
from django.conf import settings
from django.db import connection
from psycopg import sql


class DatabaseToolError(Exception):
    """A tool of PostgreSQL that failed, with its words."""


def tool(name: str) -> str:
    """The path of a tool of the newest PostgreSQL here."""
    installed = sorted(glob(f"/usr/lib/postgresql/*/bin/{name}"), key=lambda path: int(Path(path).parts[4]))
    path = installed[-1] if installed else shutil.which(name)
    if path is None:
        raise DatabaseToolError(f"{name} is not installed. Install Debian's postgresql-client.")
    return path


def _known() -> dict[str, Any]:
    return dict(settings.DATABASES["default"])


def _environment() -> dict[str, str]:
    known = _known()
    own = {
        "PGHOST": str(known["HOST"]), "PGPORT": str(known["PORT"]), "PGUSER": str(known["USER"]),
        "PGPASSWORD": str(known["PASSWORD"]),
    }  # fmt: skip
    options = known.get("OPTIONS", {})
    told = {"PGSSLMODE": "sslmode", "PGSSLROOTCERT": "sslrootcert", "PGTARGETSESSIONATTRS": "target_session_attrs"}
    own |= {name: str(options[key]) for name, key in told.items() if key in options}
    return {**os.environ, **own}


def _run(*command: str) -> str:
    done = subprocess.run(command, env=_environment(), capture_output=True, text=True, check=False)  # noqa: S603
    if done.returncode != 0:
        raise DatabaseToolError(done.stderr.strip()[-2000:] or f"{command[0]} failed")
    return done.stdout


def name_here() -> str:
    """The name of the database in use."""
    return str(connection.settings_dict["NAME"])


@contextmanager
def snapshot() -> Iterator[str]:
    """One moment of the database: what is read inside, and what is dumped by this name, is the same state."""
    with connection.cursor() as cursor:
        cursor.execute("BEGIN ISOLATION LEVEL REPEATABLE READ READ ONLY")
        try:
            cursor.execute("SET LOCAL statement_timeout = 0")
            cursor.execute("SET LOCAL idle_in_transaction_session_timeout = 0")
            cursor.execute("SELECT pg_export_snapshot()")
            yield str(cursor.fetchone()[0])
        finally:
            cursor.execute("ROLLBACK")


def dump(into: Path, moment: str) -> None:
    """Write the whole database as of a snapshot, compressed, without owners or grants."""
    _run(
        tool("pg_dump"), "--format=custom", "--compress=6", "--no-owner", "--no-privileges", "--no-comments",
        f"--snapshot={moment}", f"--file={into}", name_here(),
    )  # fmt: skip


def restore(dumped: Path, database: str) -> None:
    """Restore a dump into an empty database, all of it or nothing."""
    _run(
        tool("pg_restore"), "--no-owner", "--no-privileges", "--no-comments", "--exit-on-error", "--single-transaction",
        f"--dbname={database}", str(dumped),
    )  # fmt: skip


TABLES = """
SELECT c.relname FROM pg_class c
WHERE c.relnamespace = 'public'::regnamespace AND c.relkind IN ('r', 'p') AND NOT c.relispartition ORDER BY 1
"""
HEADS = """
SELECT DISTINCT ON (kitchen_id) kitchen_id::text, number, digest FROM book_link ORDER BY kitchen_id, number DESC
"""
Ask = Callable[[Any], list[tuple[Any, ...]]]


def _ask_here(question: Any) -> list[tuple[Any, ...]]:
    with connection.cursor() as cursor:
        cursor.execute(question)
        rows: list[tuple[Any, ...]] = cursor.fetchall()
        return rows


def tables(ask: Ask = _ask_here) -> dict[str, int]:
    """Rows of each table, by name."""
    names = [row[0] for row in ask(TABLES)]
    count = sql.SQL("SELECT count(*) FROM {}")
    return {name: int(ask(count.format(sql.Identifier(name)))[0][0]) for name in names}


def heads(ask: Ask = _ask_here) -> dict[str, dict[str, Any]]:
    """The head of each kitchen's chain, its number and digest; empty in a database without chains."""
    if ask("SELECT to_regclass('public.book_link')")[0][0] is None:
        return {}
    return {kitchen: {"number": number, "digest": digest} for kitchen, number, digest in ask(HEADS)}


@contextmanager
def scratch() -> Iterator[str]:
    """A database of its own beside the real one, dropped again afterwards."""
    name = f"ember_check_{os.getpid()}"
    _run(tool("createdb"), name)
    try:
        yield name
    finally:
        _run(tool("dropdb"), "--force", name)


@contextmanager
def asked(database: str) -> Iterator[Ask]:
    """Questions to another database of the same server."""
    known = _known()
    with psycopg.connect(
        host=known["HOST"], port=known["PORT"], user=known["USER"], password=known["PASSWORD"], dbname=database,
        autocommit=True,
    ) as other:  # fmt: skip
        yield lambda question: other.execute(question).fetchall()
