"""Debian packages: what is missing, and how it gets here."""

from __future__ import annotations

import os
import shutil
import subprocess
from glob import glob
from pathlib import Path

from .paths import LaunchError, say

# package -> a path (glob) that shows it is installed
FOR_SERVING = {
    "postgresql": "/usr/lib/postgresql/*/bin/initdb",
    # what weasyprint writes PDF with
    "libpango-1.0-0": "/usr/lib/*/libpango-1.0.so.0",
    "libpangoft2-1.0-0": "/usr/lib/*/libpangoft2-1.0.so.0",
    "libharfbuzz-subset0": "/usr/lib/*/libharfbuzz-subset.so.0",
}
FOR_A_BOX = {"nginx": "/usr/sbin/nginx"}
FOR_TESTS = {
    "chromium": "/usr/bin/chromium",
    "chromium-driver": "/usr/bin/chromedriver",
    "fonts-dejavu-core": "/usr/share/fonts/truetype/dejavu/DejaVuSans.ttf",
}


def missing(wanted: dict[str, str]) -> list[str]:
    """Names of the packages in `wanted` whose files are not on this machine."""
    return [name for name, path in wanted.items() if not glob(path)]


def ensure(wanted: dict[str, str]) -> None:
    """Install what is missing with apt-get, as root or through a passwordless sudo.

    Raises LaunchError with the command to run if neither is available.
    """
    names = missing(wanted)
    if not names:
        return
    command = ["apt-get", "install", "-y", "-qq", "--no-install-recommends", *names]
    prefix: list[str] = []
    if os.geteuid() != 0:
        sudo = shutil.which("sudo")
        if sudo is None or subprocess.run([sudo, "-n", "true"], capture_output=True).returncode != 0:
            raise LaunchError(f"Missing from this machine: {', '.join(names)}. Run: sudo {' '.join(command)}")
        prefix = [sudo, "-n"]
    say(f"Installing from Debian: {', '.join(names)} ...")
    quiet = {"stdout": subprocess.DEVNULL, "stdin": subprocess.DEVNULL}
    env_prefix = ["env", "DEBIAN_FRONTEND=noninteractive"]
    subprocess.run([*prefix, "apt-get", "update", "-qq"], check=False, **quiet)
    done = subprocess.run([*prefix, *env_prefix, *command], check=False, **quiet)
    if done.returncode != 0 or missing(wanted):
        raise LaunchError(f"Debian did not install {', '.join(missing(wanted) or names)}. Run: {' '.join(command)}")


def postgres_bin() -> Path:
    """Folder of the newest installed PostgreSQL's programs.

    Raises LaunchError if there is none.
    """
    installed = sorted(
        glob("/usr/lib/postgresql/*/bin/initdb"), key=lambda path: int(Path(path).parts[4]), reverse=True
    )
    if not installed:
        raise LaunchError("PostgreSQL is not installed. Run: ./ember setup")
    return Path(installed[0]).parent
