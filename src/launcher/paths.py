"""Paths of a checkout. Everything made at run time is under `.local/`, or in EMBER_LOCAL."""

from __future__ import annotations

import contextlib
import os
import sys
from pathlib import Path

ROOT = Path(os.environ.get("EMBER_ROOT", Path(__file__).resolve().parents[2]))
LOCAL = Path(os.environ.get("EMBER_LOCAL", ROOT / ".local"))
STATIC_ROOT = LOCAL / "static"
SERVER_STATE = LOCAL / "server.json"


class LaunchError(Exception):
    """Something the person at the keyboard can act on; shown without a traceback."""


def say(text: str) -> None:
    """Print one line to standard error at once, so that pipes show it in order."""
    with contextlib.suppress(OSError):  # the terminal may be closed
        print(text, file=sys.stderr, flush=True)
