"""One script for PostgreSQL's own client."""

from __future__ import annotations

import subprocess
from collections.abc import Mapping, Sequence

from .packages import postgres_bin
from .paths import LaunchError


def run(sql: str, target: Sequence[str], prefix: Sequence[str] = (), env: Mapping[str, str] | None = None) -> str:
    """What a script answers, a row a line. `target`: psql's own arguments for where; `prefix`: a command that runs it
    as somebody else. Raises LaunchError with the server's words.
    """
    command = [*prefix, str(postgres_bin() / "psql"), *target, "-XAtq", "-v", "ON_ERROR_STOP=1"]
    done = subprocess.run(command, input=sql, env=env, capture_output=True, text=True, check=False, cwd="/")
    if done.returncode != 0:
        raise LaunchError(f"The database refused: {done.stderr.strip()}")
    return done.stdout.strip()
