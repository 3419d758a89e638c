"""What each role of the database may do with each table, set after every migration by the role that owns them.

The application reads everything, writes what changes, and only adds to what stands: records and the chain. The reader
reads all but passwords and tokens.
"""

from __future__ import annotations

import os

from django.db import connection

APP, READER = os.environ.get("EMBER_DB_APP", "app"), os.environ.get("EMBER_DB_READER", "ember_reader")
# What stands once it is written, by table.
ONLY_ADDED_TO = (
    "line_cookevent", "line_reading", "logbook_signoff", "batches_batch", "batches_batchevent", "services_taskevent",
    "kit_kitcheck", "plans_planversion", "brines_confirmation", "book_entry", "book_link",
    "book_anchor", "book_retirement", "logbook_signedreadings", "faces_facephoto", "faces_facemeasure",
    "faces_faceruler", "faces_faceremoval",
)  # fmt: skip
SECRET = {
    "accounts_person": ("password", "pin_hash"),
    "accounts_passwordlink": ("secret_hash",),
    "accounts_tablet": ("secret_hash",),
    "groups_joincode": ("code_hash",),
    "kit_device": ("token_hash",),
    "django_session": ("session_key", "session_data"),
}
MIGRATIONS = "django_migrations"
# A month of readings is reached through the whole table only, whose grants and triggers hold for it.
MONTHS = "SELECT c.relname FROM pg_class c WHERE c.relispartition AND c.relkind = 'r'"


def grant() -> list[str]:
    """Grant, and revoke what was granted before; returns the roles that there are. A database without them, as in a
    first trial, is left alone.
    """
    with connection.cursor() as cursor:
        cursor.execute("SELECT rolname FROM pg_roles WHERE rolname = ANY(%s)", [[APP, READER]])
        there = [row[0] for row in cursor.fetchall()]
        for statement in _statements(there):
            cursor.execute(statement)
    return there


def _statements(roles: list[str]) -> list[str]:
    quoted = connection.ops.quote_name
    statements = []
    tables = connection.introspection.table_names()
    if APP in roles:
        statements += [
            f"REVOKE ALL ON ALL TABLES IN SCHEMA public FROM {quoted(APP)}",
            f"GRANT SELECT, INSERT, UPDATE, DELETE ON ALL TABLES IN SCHEMA public TO {quoted(APP)}",
            f"GRANT USAGE, SELECT ON ALL SEQUENCES IN SCHEMA public TO {quoted(APP)}",
            f"REVOKE INSERT, UPDATE, DELETE ON {quoted(MIGRATIONS)} FROM {quoted(APP)}",
        ]
        statements += [
            f"REVOKE UPDATE, DELETE, TRUNCATE ON {quoted(table)} FROM {quoted(APP)}" for table in ONLY_ADDED_TO
        ]
        statements += [f"REVOKE ALL ON {quoted(month)} FROM {quoted(APP)}" for month in _months()]
    if READER in roles:
        statements += [
            f"REVOKE ALL ON ALL TABLES IN SCHEMA public FROM {quoted(READER)}",
            f"GRANT SELECT ON ALL TABLES IN SCHEMA public TO {quoted(READER)}",
        ]
        for table in sorted(set(SECRET) & set(tables)):
            columns = ", ".join(quoted(name) for name in _columns(table) if name not in SECRET[table])
            statements.append(f"REVOKE SELECT ON {quoted(table)} FROM {quoted(READER)}")  # noqa: S608
            if columns:
                statements.append(f"GRANT SELECT ({columns}) ON {quoted(table)} TO {quoted(READER)}")
    return statements


def _months() -> list[str]:
    with connection.cursor() as cursor:
        cursor.execute(MONTHS)
        return [row[0] for row in cursor.fetchall()]


def _columns(table: str) -> list[str]:
    with connection.cursor() as cursor:
        return [column.name for column in connection.introspection.get_table_description(cursor, table)]
