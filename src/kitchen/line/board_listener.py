"""What one host changes on a kitchen's board, told to the web processes of all others through PostgreSQL's NOTIFY.

Processes of one host share a folder (see shared_board); hosts share only the database. A notice goes out with the
transaction that it is about. A process that lost its connection may have missed some: it forgets all it has.
"""

from __future__ import annotations

import logging
import socket
import threading
from collections.abc import Callable
from typing import Any

from django.conf import settings
from django.db import connection
from psycopg import Connection, OperationalError

log = logging.getLogger(__name__)

CHANNEL = "ember_boards"
AGAIN_S = 1.0  # after a lost connection
LOOK_UP_S = 3.0


def _host() -> str:
    """This host's name among those that share a database: processes with one folder are one host."""
    return f"{socket.gethostname()} {settings.LOCAL}"


def tell(kitchen_id: int) -> None:
    """Tell the other hosts, once the transaction is committed, that a kitchen's boards are outdated."""
    with connection.cursor() as cursor:
        cursor.execute("SELECT pg_notify(%s, %s)", [CHANNEL, f"{kitchen_id} {_host()}"])


def changed_elsewhere(payload: str) -> int | None:
    """The kitchen that a notice is about; None if it is this host's own."""
    kitchen_id, _, host = payload.partition(" ")
    return int(kitchen_id) if host != _host() else None


class BoardListener(threading.Thread):
    """Listens in the background: `on_change` gets the kitchen that changed elsewhere; `on_missed` is called when some
    changes may not have been heard.
    """

    def __init__(self, on_change: Callable[[int], None], on_missed: Callable[[], None]) -> None:
        super().__init__(name="board listener", daemon=True)
        self.on_change, self.on_missed, self.ends = on_change, on_missed, threading.Event()

    def run(self) -> None:
        """Listen, and again after a lost connection, until told to stop."""
        while not self.ends.is_set():
            try:
                with Connection.connect(**_parameters(), autocommit=True) as listener:
                    listener.execute(f"LISTEN {CHANNEL}")
                    self.on_missed()
                    self._hear(listener)
            except OperationalError as error:
                log.warning("not hearing other hosts: %s", str(error).strip())
                self.ends.wait(AGAIN_S)

    def _hear(self, listener: Connection[Any]) -> None:
        while not self.ends.is_set():
            for notice in listener.notifies(timeout=LOOK_UP_S):
                if (kitchen_id := changed_elsewhere(notice.payload)) is not None:
                    self.on_change(kitchen_id)
            listener.execute("SELECT 1")  # a host that vanished is noticed

    def stop(self) -> None:
        """End within LOOK_UP_S."""
        self.ends.set()


def _parameters() -> dict[str, Any]:
    known = connection.get_connection_params()
    return {key: value for key, value in known.items() if key not in ("context", "cursor_factory", "prepare_threshold")}
