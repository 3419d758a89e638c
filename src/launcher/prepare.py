"""Bring database, demo data and static files up to date, once for each state of the sources.

The work runs inside Django (`python -m launcher.prepare`), which takes seconds to load; so the launcher first checks a
stamp beside the database, and skips what was done already.
"""

from __future__ import annotations

import hashlib
import os
import subprocess
import sys
import time
from collections.abc import Callable

from .cluster import Cluster
from .environment import application_environment, run_django
from .ownership import dies_with_parent, end, marked
from .paths import ROOT, STATIC_ROOT, LaunchError
from .roles import OWNER

WATCHED = (
    "kitchen/*/migrations/*.py", "kitchen/*/models.py", "kitchen/*/models/*.py", "kitchen/settings/*.py",
    "kitchen/static/**/*", "kitchen/demo/*.py", "ember/heat/*.py",
)  # fmt: skip


def is_quiet() -> bool:
    """Whether the demonstration is its plans alone, nothing on the line or in the log: EMBER_DEMO=quiet."""
    return os.environ.get("EMBER_DEMO") == "quiet"


def _stamp(with_demo: bool) -> str:
    """What the prepared state depends on: names, sizes and times of migrations, static files, demo data
    and the compiled solver's sources."""
    seen = hashlib.sha256(f"{with_demo} {is_quiet()}".encode())
    for pattern in WATCHED:
        for path in sorted((ROOT / "src").glob(pattern)):
            if path.is_file():
                stat = path.stat()
                seen.update(f"{path} {stat.st_size} {stat.st_mtime_ns}".encode())
    return seen.hexdigest()


def is_current(cluster: Cluster, with_demo: bool) -> bool:
    """Whether nothing changed since the last time."""
    stamp_file = cluster.home / "prepared"
    return STATIC_ROOT.exists() and stamp_file.exists() and stamp_file.read_text() == _stamp(with_demo)


def ensure(cluster: Cluster, with_demo: bool, should_stop: Callable[[], bool] = lambda: False) -> bool:
    """Prepare if something changed since the last time; whether it is done, and not stopped before. Raises LaunchError
    if it fails.
    """
    if is_current(cluster, with_demo):
        return True
    stamp = _stamp(with_demo)
    env = marked(application_environment(cluster, OWNER))
    command = [sys.executable, "-m", "launcher.prepare", *([] if with_demo else ["--no-demo"])]
    # The solver is compiled meanwhile, so that no click waits for it.
    commands = (command, [sys.executable, "-m", "ember.warm"])
    running = [subprocess.Popen(dies_with_parent("TERM", each), env=env, cwd=ROOT) for each in commands]
    while any(each.poll() is None for each in running):
        if should_stop():
            end([each.pid for each in running])
            return False
        time.sleep(0.1)
    if should_stop():
        return False
    if any(each.returncode != 0 for each in running):
        raise LaunchError("The database could not be brought up to date (see above).")
    (cluster.home / "prepared").write_text(stamp)
    return True


def sign_ins() -> list[str]:
    """Lines that list who can sign in to the demonstration."""
    from kitchen.demo.kitchen import PASSWORD, PEOPLE

    return [f"  sign in as {username} / {PASSWORD}   ({name}, {role})" for username, name, role in PEOPLE]


def setup_address(cluster: Cluster, port: int) -> str:
    """The address at which the first kitchen is set up; empty once there is one."""
    done = run_django(application_environment(cluster), "setup_address", "--base", f"http://127.0.0.1:{port}")
    if done.returncode != 0:
        raise LaunchError(f"The address for a new kitchen could not be found: {done.stderr.strip()[-300:]}")
    return done.stdout.strip()


def main(with_demo: bool) -> None:
    """Back up and migrate if there is something to migrate, load the demo if the database is empty, collect static
    files.
    """
    import django
    from django.core.management import call_command

    django.setup()
    from kitchen.backup.restoring import is_empty
    from kitchen.health.readiness import unapplied

    if not is_empty() and unapplied():
        call_command("backup", why="before-migration")
    call_command("migrate", interactive=False, verbosity=0)
    call_command("grant")
    call_command("collectstatic", interactive=False, clear=True, verbosity=0)
    if with_demo:
        call_command("load_demo", if_empty=True, quiet=is_quiet())


if __name__ == "__main__":
    main(with_demo="--no-demo" not in sys.argv)
