"""Where the database is: from EMBER_DB_*, or DATABASE_URL; several hosts of one database, and a standby for reports."""

from __future__ import annotations

import re
from collections.abc import Mapping
from typing import Any

import dj_database_url

ENGINE = "kitchen.database"
# No statement, no wait for a lock and no idle transaction holds the others up for long; a long job sets its own.
STATEMENT_MS, LOCK_MS, IDLE_MS = 30_000, 10_000, 60_000
TIMEOUTS = (
    f"-c statement_timeout={STATEMENT_MS} -c lock_timeout={LOCK_MS} -c idle_in_transaction_session_timeout={IDLE_MS}"
)
# A host that vanished without a word is given up after seconds, not after the minutes of TCP.
GIVE_UP: dict[str, Any] = {
    "connect_timeout": 5, "keepalives_idle": 5, "keepalives_interval": 2, "keepalives_count": 3,
    "tcp_user_timeout": 10_000,
}  # fmt: skip
HOSTS = re.compile(r"(?P<before>\w+://(?:[^@/]*@)?)(?P<hosts>[^/?]+)(?P<after>.*)", re.DOTALL)
MAIN, STANDBY = "default", "standby"


def databases(environ: Mapping[str, str]) -> dict[str, dict[str, Any]]:
    """Django's DATABASES.

    With several hosts ("db-1,db-2") connections go to the one that writes, whichever that is at the moment. With
    EMBER_DB_STANDBY=1 there is a second connection, for reports, that prefers a host that only reads.
    """
    url = environ.get("DATABASE_URL")
    main = _of_url(url) if url else _of_parts(environ)
    # A migration and the first load of the demonstration take as long as they take.
    timeouts = "" if environ.get("EMBER_DB_PATIENT") == "1" else TIMEOUTS
    options = {**GIVE_UP, "options": timeouts, **main.get("OPTIONS", {})}
    main |= {"ENGINE": ENGINE, "CONN_MAX_AGE": 60, "CONN_HEALTH_CHECKS": True}
    if "," not in main["HOST"]:
        return {MAIN: main | {"OPTIONS": options}}
    both = {MAIN: main | {"OPTIONS": {**options, "target_session_attrs": "read-write"}}}
    if environ.get("EMBER_DB_STANDBY") == "1":
        both[STANDBY] = main | {
            "OPTIONS": {**options, "target_session_attrs": "prefer-standby"}, "TEST": {"MIRROR": MAIN},
        }  # fmt: skip
    return both


def _of_parts(environ: Mapping[str, str]) -> dict[str, Any]:
    return {
        "HOST": environ.get("EMBER_DB_HOST", "127.0.0.1"), "PORT": environ.get("EMBER_DB_PORT", "54320"),
        "NAME": environ.get("EMBER_DB_NAME", "ember"), "USER": environ.get("EMBER_DB_USER", "app"),
        "PASSWORD": environ.get("EMBER_DB_PASSWORD", ""),
    }  # fmt: skip


def _of_url(url: str) -> dict[str, Any]:
    """A URL may name several hosts, "postgres://app:…@db-1:5432,db-2:5432/ember", which no parser of URLs reads."""
    found = HOSTS.fullmatch(url)
    several = found["hosts"].split(",") if found else []
    parsed = dict(dj_database_url.parse(f"{found['before']}{several[0]}{found['after']}" if found else url))
    if len(several) > 1:
        named = [host.rpartition(":") if ":" in host else (host, "", "5432") for host in several]
        parsed |= {"HOST": ",".join(name for name, _, _ in named), "PORT": ",".join(port for _, _, port in named)}
    return parsed
