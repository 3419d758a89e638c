"""A private PostgreSQL cluster under `.local/db`, on loopback only, started and stopped by us.

initdb and postgres refuse to run as root. As root we become Debian's `postgres` user, or, where that user
cannot reach the folder (a clone inside a root-only folder), a plain user inside a user namespace.
"""

from __future__ import annotations

import os
import secrets
import shutil
import signal
import socket
import subprocess
import time
from dataclasses import dataclass, field
from pathlib import Path

from .packages import postgres_bin
from .paths import LOCAL, LaunchError, say

USER = "app"
DATABASE = "ember"
FIRST_PORT = 54320


def port_is_free(port: int) -> bool:
    """Whether nothing listens on 127.0.0.1:port."""
    with socket.socket() as probe:
        probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            probe.bind(("127.0.0.1", port))
        except OSError:
            return False
    return True


@dataclass
class Cluster:
    """The cluster of one checkout."""

    home: Path = LOCAL / "db"
    bin: Path = field(default_factory=postgres_bin)
    is_lasting: bool = True  # False: nothing is forced to the disk, for tests

    @property
    def data(self) -> Path:
        return self.home / "data"

    @property
    def log(self) -> Path:
        return self.home / "postgres.log"

    @property
    def _port_file(self) -> Path:
        return self.home / "port"

    @property
    def port(self) -> int:
        return int(self._port_file.read_text())

    @property
    def known_port(self) -> int | None:
        """The port it used last; None before its first start."""
        return self.port if self._port_file.exists() else None

    @property
    def password(self) -> str:
        return (LOCAL / "db-password").read_text().strip()

    # -- who runs it ---------------------------------------------------------------------------------

    def _prefix(self) -> list[str]:
        if os.geteuid() != 0:
            return []
        as_postgres = ["setpriv", "--reuid=postgres", "--regid=postgres", "--init-groups"]
        reach = subprocess.run([*as_postgres, "test", "-x", str(self.home)], cwd="/", capture_output=True)
        if reach.returncode == 0:
            return as_postgres
        namespace = ["unshare", "--user", "--map-user=1000", "--map-group=1000"]
        if subprocess.run([*namespace, "true"], cwd="/", capture_output=True).returncode == 0:
            return namespace
        raise LaunchError(
            f"PostgreSQL may not run as root, and its own user cannot reach {self.home}. "
            "Move the clone to a folder others may enter (chmod o+x on its parents)."
        )

    def _own_files(self, prefix: list[str]) -> None:
        """Give the cluster's files to the user who runs it."""
        if os.geteuid() != 0:
            return
        owner = "postgres" if prefix and prefix[0] == "setpriv" else "root"
        if self.home.owner() != owner or (self.data.exists() and self.data.owner() != owner):
            subprocess.run(["chown", "-R", f"{owner}:{owner}", str(self.home)], check=True)

    def _run(self, *command: str, check: bool = True) -> subprocess.CompletedProcess[str]:
        prefix = self._prefix()
        self._own_files(prefix)
        done = subprocess.run(
            [*prefix, *command],
            cwd="/",
            stdin=subprocess.DEVNULL,
            capture_output=True,
            text=True,
            check=False,
        )
        if check and done.returncode != 0:
            raise LaunchError(f"{Path(command[0]).name} failed: {(done.stderr or done.stdout).strip()}")
        return done

    # -- life ----------------------------------------------------------------------------------------

    def create(self) -> None:
        """Create the data folder: password sign-in, loopback only, no socket (so no limit of path length)."""
        if (self.data / "PG_VERSION").exists():
            return
        LOCAL.mkdir(exist_ok=True)
        self.home.mkdir(exist_ok=True)
        if self.data.exists():  # a first set-up that was interrupted
            shutil.rmtree(self.data)
        password_file = LOCAL / "db-password"
        if not password_file.exists():
            password_file.touch(mode=0o600)
            password_file.write_text(secrets.token_urlsafe(24))
        handed = self.home / "pw"
        handed.touch(mode=0o600)
        handed.write_text(self.password)
        try:
            prefix = self._prefix()
            if os.geteuid() == 0:
                owner = "postgres" if prefix and prefix[0] == "setpriv" else "root"
                subprocess.run(["chown", "-R", f"{owner}:{owner}", str(self.home)], check=True)
            self._run(
                str(self.bin / "initdb"), "-D", str(self.data), "-U", USER, "-A", "scram-sha-256",
                f"--pwfile={handed}", "-E", "UTF8", "--locale=C.UTF-8", "--no-instructions",
            )  # fmt: skip
        finally:
            handed.unlink(missing_ok=True)
        with (self.data / "postgresql.conf").open("a") as conf:
            conf.write("\nlisten_addresses = '127.0.0.1'\nunix_socket_directories = ''\nlog_min_messages = warning\n")
            if not self.is_lasting:
                conf.write("fsync = off\nsynchronous_commit = off\nfull_page_writes = off\n")

    def _processes(self) -> list[int]:
        """Live processes whose working directory is the data folder, since a pid file may name a stranger."""
        processes = []
        data = str(self.data.resolve())
        for entry in Path("/proc").iterdir():
            if entry.name.isdigit():
                try:
                    if os.readlink(entry / "cwd") == data and (entry / "stat").read_text().split(") ")[1][0] != "Z":
                        processes.append(int(entry.name))
                except OSError:
                    continue
        return processes

    def is_ready(self) -> bool:
        """Whether the server answers and is ours."""
        if not self._port_file.exists() or not self._processes():
            return False
        done = subprocess.run(
            [self.bin / "pg_isready", "-q", "-h", "127.0.0.1", "-p", str(self.port)],
            capture_output=True, check=False,
        )  # fmt: skip
        return done.returncode == 0

    def _clear_stale(self) -> None:
        pid_file = self.data / "postmaster.pid"
        deadline = time.monotonic() + 10
        while self._processes() and time.monotonic() < deadline:
            if self.is_ready():
                return
            time.sleep(0.2)
        for pid in self._processes():  # orphans of a killed postmaster that did not notice
            os.kill(pid, signal.SIGKILL)
        pid_file.unlink(missing_ok=True)

    def start(self) -> bool:
        """Bring the server up. Returns whether it was this call that started it."""
        self.create()
        if self.is_ready():
            return False
        if (self.data / "postmaster.pid").exists():
            self._clear_stale()
            if self.is_ready():
                return False
        first = self.port if self._port_file.exists() else FIRST_PORT
        for port in [first, *range(FIRST_PORT, FIRST_PORT + 200)]:
            if not port_is_free(port):
                continue
            started = self._run(
                str(self.bin / "pg_ctl"), "-D", str(self.data), "-l", str(self.log), "-w", "-s",
                "-o", f"-p {port}", "start", check=False,
            )  # fmt: skip
            if started.returncode == 0:
                self._port_file.write_text(str(port))
                self._ensure_database()
                return True
            if port_is_free(port):
                tail = self.log.read_text(errors="replace")[-800:] if self.log.exists() else ""
                raise LaunchError(f"PostgreSQL did not start: {started.stderr.strip()}\n{tail}")
        raise LaunchError("No free port for PostgreSQL between 54320 and 54519.")

    def stop(self) -> None:
        """Stop the server if it runs; fast, so that open connections do not hold it."""
        if self._processes():
            self._run(str(self.bin / "pg_ctl"), "-D", str(self.data), "-m", "fast", "-w", "-s", "stop", check=False)

    def environment(self) -> dict[str, str]:
        """Environment variables for the connection."""
        return {
            "EMBER_DB_HOST": "127.0.0.1",
            "EMBER_DB_PORT": str(self.port),
            "EMBER_DB_NAME": DATABASE,
            "EMBER_DB_USER": USER,
            "EMBER_DB_PASSWORD": self.password,
        }

    def _ensure_database(self) -> None:
        env = {**os.environ, "PGPASSWORD": self.password}
        base = ["-h", "127.0.0.1", "-p", str(self.port), "-U", USER]
        query = f"select 1 from pg_database where datname='{DATABASE}'"
        seen = subprocess.run(
            [self.bin / "psql", *base, "-d", "postgres", "-Atc", query],
            env=env, capture_output=True, text=True, check=True,
        )  # fmt: skip
        if seen.stdout.strip() != "1":
            say("Making the database ...")
            subprocess.run([self.bin / "createdb", *base, DATABASE], env=env, check=True, capture_output=True)
