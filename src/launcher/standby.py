"""`./ember standby`: watches the primary from the standby's host, and makes the standby the primary when it is gone.

Two hosts cannot agree who is right when only the wire between them is cut. They need not: a primary that commits
nothing without its standby (synchronous_commit = remote_apply) has acknowledged nothing that the new primary lacks, and
acknowledges nothing more. It must not come back as a primary: its data directory is made anew as a standby.
"""

from __future__ import annotations

import argparse
import subprocess
import time
from pathlib import Path

from .paths import LaunchError, say

EVERY_S = 1.0
ANSWER_S = 2
ACCEPTS, STARTS = 0, 1  # what pg_isready returns


def watch(primary: str, data: Path, after_s: float) -> None:
    """Return once the standby in `data` was promoted, because the primary ("host:port") did not answer for `after_s`.

    Raises LaunchError if there is no standby, or it could not be promoted.
    """
    if not (data / "standby.signal").exists():
        raise LaunchError(f"{data} is not a standby.")
    tools = Path(f"/usr/lib/postgresql/{(data / 'PG_VERSION').read_text().strip()}/bin")
    say(f"Watching {primary}; after {after_s:g} s without an answer this standby becomes the primary.")
    seen = time.monotonic()
    while time.monotonic() - seen < after_s:
        if _answers(tools, primary):
            seen = time.monotonic()
        time.sleep(EVERY_S)
    done = subprocess.run([tools / "pg_ctl", "promote", "-D", data, "-w"], capture_output=True, text=True, check=False)
    if done.returncode != 0:
        raise LaunchError(f"The standby was not promoted: {(done.stderr or done.stdout).strip()}")
    say("The primary is gone; this is the primary now. Do not start the old one again: make it a standby of this.")


def _answers(tools: Path, primary: str) -> bool:
    """Whether a server accepts connections there, or is starting and will."""
    host, _, port = primary.partition(":")
    command = [tools / "pg_isready", "-q", "-h", host, "-p", port or "5432", "-t", str(ANSWER_S)]
    return subprocess.run(command, check=False).returncode in (ACCEPTS, STARTS)


def run(arguments: list[str]) -> None:
    """`./ember standby`, as the user who runs PostgreSQL."""
    parser = argparse.ArgumentParser(prog="./ember standby")
    parser.add_argument("--primary", required=True, help="its host, or host:port")
    parser.add_argument("--data", type=Path, required=True, help="the standby's data directory")
    parser.add_argument("--after", type=float, default=10.0, help="seconds without an answer")
    options = parser.parse_args(arguments)
    watch(options.primary, options.data, options.after)
