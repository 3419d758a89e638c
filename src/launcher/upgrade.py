"""`./ember upgrade`: a backup, the migrations, a check of every record; or back to what was there."""

from __future__ import annotations

from pathlib import Path

from .cluster import Cluster
from .environment import application_environment, run_django
from .paths import LOCAL, LaunchError, say
from .roles import ADMIN, OWNER

BACKUPS = LOCAL / "backups"


def backup_first(cluster: Cluster, why: str) -> Path | None:
    """A backup of what is there; None where there is nothing yet. Raises LaunchError if it fails."""
    if cluster.psql("SELECT to_regclass('public.accounts_kitchen') IS NOT NULL", cluster.database) != "t":
        return None
    BACKUPS.mkdir(parents=True, exist_ok=True)
    done = run_django(application_environment(cluster, ADMIN), "backup", "--why", why)
    if done.returncode != 0:
        raise LaunchError(f"No backup could be made, so nothing was changed: {done.stderr.strip()[-400:]}")
    say(done.stdout.strip())
    return Path(done.stdout.split(" written:")[0])


def bring_up_to_date(cluster: Cluster) -> None:
    """Migrate and set the rights. Raises LaunchError with the last words of what failed."""
    env = application_environment(cluster, OWNER)
    for arguments in (("migrate", "--no-input"), ("grant",), ("verify_log",)):
        done = run_django(env, *arguments)
        if done.returncode != 0:
            raise LaunchError(f"{arguments[0]}: {(done.stderr or done.stdout).strip()[-400:]}")


def upgrade() -> None:
    """Upgrade the database to this version of the program. Raises LaunchError if it could not be, and is as before."""
    cluster = Cluster()
    started = cluster.start()
    try:
        before = backup_first(cluster, "before-upgrade")
        try:
            bring_up_to_date(cluster)
        except LaunchError as error:
            if before is None:
                raise
            say(f"The upgrade failed: {error}")
            go_back(cluster, before)
            raise LaunchError(f"Everything is as it was before, from {before}.") from None
        say("Up to date; every record holds.")
    finally:
        if started:
            cluster.stop()


def go_back(cluster: Cluster, backup: Path) -> None:
    """Put a backup in the place of what is there. Raises LaunchError if that fails; the backup stays."""
    cluster.make_anew()
    restore(cluster, backup, is_migrated=False)


def restore(cluster: Cluster, backup: Path, is_migrated: bool = True) -> None:
    """Restore a backup into this installation's empty database. Raises LaunchError."""
    as_it_was = [] if is_migrated else ["--as-it-was"]
    env = application_environment(cluster, ADMIN)
    done = run_django(env, "restore", str(backup.resolve()), *as_it_was)
    if done.returncode != 0:
        raise LaunchError(done.stderr.strip().removeprefix("CommandError: "))
    cluster.hand_over()
    say(done.stdout.strip())
