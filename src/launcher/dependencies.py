"""What is known of the dependencies' holes: asked of pip-audit where it is installed and reaches a list. Else the age
of the lock file is said, so that somebody renews it.
"""

from __future__ import annotations

import datetime as dt
import shutil
import subprocess
import sys
from pathlib import Path

from .paths import ROOT, say

LOCK = ROOT / "requirements.lock"
ANSWERS_WITHIN_S = 60
OLD_DAYS = 120


def age_of(lock: Path = LOCK) -> dt.timedelta:
    """How long ago the lock file was last changed: by the history of the checkout, else by its own time."""
    command = ["git", "-C", str(lock.parent), "log", "-1", "--format=%ct", "--", lock.name]
    done = subprocess.run(command, capture_output=True, text=True, check=False) if shutil.which("git") else None
    stamp = done.stdout.strip() if done is not None else ""
    changed = float(stamp) if stamp else lock.stat().st_mtime
    return dt.datetime.now(dt.UTC) - dt.datetime.fromtimestamp(changed, dt.UTC)


def audit() -> int:
    """Say what is known; 1 if a hole is."""
    program = shutil.which("pip-audit")
    if program is not None:
        command = [program, "--no-deps", "--require-hashes", "--progress-spinner=off", "-r", str(LOCK)]
        try:
            done = subprocess.run(command, capture_output=True, text=True, timeout=ANSWERS_WITHIN_S, check=False)
        except subprocess.TimeoutExpired:
            done = None
        if done is not None and "No known vulnerabilities" in done.stdout + done.stderr:
            say("No known holes in the locked packages.")
            return 0
        if done is not None and "known vulnerabilit" in done.stdout + done.stderr:
            say(done.stdout)
            return 1
    days = age_of().days
    say(f"No list of known holes is to be had here; the lock file is {days} days old.")
    if days > OLD_DAYS:
        say(f"It is older than {OLD_DAYS} days: renew it (see CONTRIBUTING).")
    return 0


if __name__ == "__main__":
    sys.exit(audit())
