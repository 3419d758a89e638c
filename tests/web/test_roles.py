"""The roles of the database: the application adds to records and takes none back, the reader sees no secrets."""

from __future__ import annotations

import pytest
from django.db import DatabaseError, connection, transaction

from kitchen.database.grants import ONLY_ADDED_TO, SECRET, grant
from kitchen.line.starting import start

pytestmark = pytest.mark.django_db

MADE = """
DO $$ BEGIN
  IF NOT EXISTS (SELECT FROM pg_roles WHERE rolname = 'app') THEN CREATE ROLE app; END IF;
  IF NOT EXISTS (SELECT FROM pg_roles WHERE rolname = 'ember_reader') THEN CREATE ROLE ember_reader; END IF;
END $$
"""


@pytest.fixture
def roles(db):
    with connection.cursor() as cursor:
        cursor.execute(MADE)
        cursor.execute("GRANT USAGE ON SCHEMA public TO app, ember_reader")
    assert set(grant()) == {"app", "ember_reader"}


def ask(statement, role=None):
    with transaction.atomic(), connection.cursor() as cursor:
        if role is not None:
            cursor.execute(f"SET LOCAL ROLE {role}")
        cursor.execute(statement)


def tried(role, statement):
    """What the database says to a statement by a role."""
    with pytest.raises(DatabaseError) as refused:
        ask(statement, role)
    return str(refused.value)


@pytest.mark.parametrize("table", ONLY_ADDED_TO)
@pytest.mark.parametrize("statement", ["UPDATE {} SET id = id", "DELETE FROM {}", "TRUNCATE {} CASCADE"])
def test_the_application_takes_no_record_back(roles, table, statement):
    assert "permission denied" in tried("app", statement.format(table))


@pytest.mark.parametrize("table", ONLY_ADDED_TO)
def test_not_even_the_owner_empties_a_table_of_records(table):
    with pytest.raises(DatabaseError, match="never changed or deleted"):
        ask(f"TRUNCATE {table} CASCADE")


@pytest.mark.parametrize(
    "statement",
    [
        "CREATE TABLE mine (id int)", "ALTER TABLE line_cook ADD COLUMN x int",
        "DROP TRIGGER events_append_only ON line_cookevent", "ALTER TABLE line_cookevent DISABLE TRIGGER ALL",
        "SET session_replication_role = replica", "DELETE FROM django_migrations",
    ],
)  # fmt: skip
def test_the_application_changes_nothing_of_the_structure(roles, statement):
    assert "denied" in tried("app", statement) or "must be owner" in tried("app", statement)


def test_the_application_works_as_its_role(roles, plan, chef):
    """A cook is started, and linked into the chain, by nothing but what the application may do."""
    with transaction.atomic(), connection.cursor() as cursor:
        cursor.execute("SET LOCAL ROLE app")
        cook = start(plan, chef)
        cursor.execute("SELECT count(*) FROM book_link WHERE row_key IN (SELECT id::text FROM line_cookevent)")
        assert cursor.fetchone()[0] >= 1
        cursor.execute("RESET ROLE")
    assert cook.events.count() == 1


@pytest.mark.parametrize(("table", "column"), [(table, columns[0]) for table, columns in SECRET.items()])
def test_the_reader_sees_no_secret(roles, table, column):
    assert "permission denied" in tried("ember_reader", f"SELECT {column} FROM {table}")


def test_the_reader_reads_and_writes_nothing(roles):
    with transaction.atomic(), connection.cursor() as cursor:
        cursor.execute("SET LOCAL ROLE ember_reader")
        cursor.execute("SELECT count(*) FROM line_cookevent")
        cursor.execute("SELECT name, username FROM accounts_person")
        cursor.execute("RESET ROLE")
    assert "permission denied" in tried("ember_reader", "INSERT INTO worker_beat VALUES ('x', now())")


def test_every_table_that_is_only_added_to_is_known():
    with connection.cursor() as cursor:
        cursor.execute(
            "SELECT DISTINCT tgrelid::regclass::text FROM pg_trigger t JOIN pg_proc p ON p.oid = t.tgfoid"
            " JOIN pg_class c ON c.oid = t.tgrelid WHERE NOT tgisinternal AND tgtype & 32 > 0 AND NOT c.relispartition"
        )
        guarded = {row[0] for row in cursor.fetchall()}
    assert guarded == set(ONLY_ADDED_TO)
