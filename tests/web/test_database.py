"""The connection to the database is looked at before it is used again, and asked only where there is reason to."""

from __future__ import annotations

import time

import pytest
from django.db import connection, connections
from django.test.utils import CaptureQueriesContext

pytestmark = pytest.mark.django_db(transaction=True)


def test_a_good_connection_costs_no_query():
    connection.ensure_connection()
    with CaptureQueriesContext(connection) as asked:
        assert connection.is_usable()
    assert len(asked) == 0


def test_a_connection_the_server_ended_is_opened_anew():
    """As when the database is restarted between two requests."""
    connection.ensure_connection()
    ended = connection.connection.info.backend_pid
    other = connections.create_connection("default")
    try:
        with other.cursor() as cursor:
            cursor.execute("SELECT pg_terminate_backend(%s)", [ended])
            deadline = time.monotonic() + 10.0
            while time.monotonic() < deadline:
                cursor.execute("SELECT count(*) FROM pg_stat_activity WHERE pid = %s", [ended])
                if cursor.fetchone()[0] == 0:
                    break
                time.sleep(0.05)
    finally:
        other.close()
    assert not connection.is_usable()
    connection.health_check_done = False
    connection.health_check_enabled = True
    with connection.cursor() as cursor:
        cursor.execute("SELECT 1")
        assert cursor.fetchone() == (1,)
    assert connection.connection.info.backend_pid != ended
