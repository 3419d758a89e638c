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
from collections.abc import Callable
from dataclasses import dataclass, field
from pathlib import Path

from . import psql, roles
from .ownership import dies_with_parent
from .packages import postgres_bin
from .paths import LOCAL, LaunchError, say
from .roles import password_of

DATABASE = "ember"
FIRST_PORT = 54320
ORPHANS_NOTICE_S = 10.0
STARTS_WITHIN_S = 5.0  # what takes longer is recovering
STOPS_WITHIN_S = 120.0


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
    _child: subprocess.Popen[bytes] | None = field(default=None, init=False, repr=False)

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
    def database(self) -> str:
        """The name of the application's database."""
        return DATABASE

    @property
    def known_port(self) -> int | None:
        """The port it used last; None before its first start."""
        return self.port if self._port_file.exists() else None

    @property
    def _checksums_file(self) -> Path:
        return self.home / "checksums"

    @property
    def _roles_file(self) -> Path:
        return self.home / "roles"

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
        """Create the data folder: password sign-in, loopback only, no socket (its path may be too long), checksums."""
        if (self.data / "PG_VERSION").exists() and (self.is_lasting or self._roles_file.exists()):
            return
        LOCAL.mkdir(parents=True, exist_ok=True)
        self.home.mkdir(parents=True, exist_ok=True)
        if self.data.exists():  # a first set-up that was interrupted
            shutil.rmtree(self.data)
        handed = self.home / "pw"
        handed.touch(mode=0o600)
        handed.write_text(password_of(roles.ADMIN))
        try:
            prefix = self._prefix()
            if os.geteuid() == 0:
                owner = "postgres" if prefix and prefix[0] == "setpriv" else "root"
                subprocess.run(["chown", "-R", f"{owner}:{owner}", str(self.home)], check=True)
            self._run(
                str(self.bin / "initdb"), "-D", str(self.data), "-U", roles.ADMIN, "-A", "scram-sha-256",
                f"--pwfile={handed}", "--data-checksums", "-E", "UTF8", "--locale=C.UTF-8", "--no-instructions",
            )  # fmt: skip
        finally:
            handed.unlink(missing_ok=True)
        self._roles_file.write_text("with roles\n")
        self._checksums_file.touch()
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

    def _postmaster(self) -> int | None:
        """The live postmaster of this data folder, ready or still recovering; None if there is none."""
        try:
            pid = int((self.data / "postmaster.pid").read_text().split()[0])
        except (OSError, ValueError, IndexError):
            return None
        return pid if pid in self._processes() else None

    def _clear_stale(self) -> None:
        """Clear what a killed postmaster left: processes that did not notice, and its pid file."""
        deadline = time.monotonic() + ORPHANS_NOTICE_S
        while self._processes() and time.monotonic() < deadline:
            time.sleep(0.2)
        for pid in self._processes():
            os.kill(pid, signal.SIGKILL)
        (self.data / "postmaster.pid").unlink(missing_ok=True)

    def start(self, as_child: bool = False, should_stop: Callable[[], bool] = lambda: False) -> bool:
        """Bring the server up, and wait as long as it takes to recover. Returns whether it was this call that started
        it. `as_child`: it ends with this process, however that ends.
        """
        self.create()
        if self.is_ready() or (self._postmaster() is not None and self._wait_until_ready(should_stop)):
            self._ensure_database()  # it may be from before the roles
            return False
        if should_stop():
            return False
        self._clear_stale()
        self._ensure_checksums()
        first = self.port if self._port_file.exists() else FIRST_PORT
        for port in [first, *range(FIRST_PORT, FIRST_PORT + 200)]:
            if not port_is_free(port):
                continue
            self._launch(port, as_child)
            self._port_file.write_text(str(port))
            if self._wait_until_ready(should_stop):
                self._ensure_database()
                return True
            if should_stop():
                return True
            if port_is_free(port):
                tail = self.log.read_text(errors="replace")[-800:] if self.log.exists() else ""
                raise LaunchError(f"PostgreSQL did not start.\n{tail}")
        raise LaunchError("No free port for PostgreSQL between 54320 and 54519.")

    def _ensure_checksums(self) -> None:
        """Turn checksums on in a cluster from before they were; one that was not shut down in order has to wait."""
        if not self.is_lasting or self._checksums_file.exists():
            return
        tool = str(self.bin / "pg_checksums")
        checked = self._run(tool, "--check", "-D", str(self.data), check=False)
        if checked.returncode == 0 or self._run(tool, "--enable", "-D", str(self.data), check=False).returncode == 0:
            self._checksums_file.touch()

    def _launch(self, port: int, as_child: bool) -> None:
        """Start a postmaster, without waiting until it answers."""
        prefix = self._prefix()
        self._own_files(prefix)
        postgres = [str(self.bin / "postgres"), "-D", str(self.data), "-p", str(port)]
        # The signal is asked for after the change of user, which would take it away.
        command = [*prefix, *(dies_with_parent("INT", postgres) if as_child else postgres)]
        with self.log.open("ab") as log:
            self._child = subprocess.Popen(
                command, cwd="/", stdin=subprocess.DEVNULL, stdout=log, stderr=log, start_new_session=True
            )

    def _wait_until_ready(self, should_stop: Callable[[], bool]) -> bool:
        """Wait while a postmaster lives; whether it answers. It may recover for long, which is said."""
        began, was_told = time.monotonic(), False
        while not should_stop():
            if self.is_ready():
                return True
            passed = time.monotonic() - began
            gone = self._child is not None and self._child.poll() is not None
            if gone or (passed > STARTS_WITHIN_S and self._postmaster() is None):
                return False
            if passed > STARTS_WITHIN_S and not was_told:
                say("The database is recovering; waiting for it ...")
                was_told = True
            time.sleep(0.1)
        return False

    def stop(self) -> bool:
        """Stop the server if it runs, fast, so that open connections do not hold it. Returns whether it ran."""
        pid = self._postmaster()
        if pid is None:
            ran = bool(self._processes())
            if ran:
                self._clear_stale()
            return ran
        os.kill(pid, signal.SIGINT)
        deadline = time.monotonic() + STOPS_WITHIN_S
        while self._processes() and time.monotonic() < deadline:
            if self._child is not None:
                self._child.poll()
            time.sleep(0.05)
        if self._processes():
            raise LaunchError(f"The database does not stop (pid {pid}); see {self.log}")
        return True

    def environment(self, role: str = roles.APP) -> dict[str, str]:
        """Environment variables for a connection as one of the roles."""
        return {
            "EMBER_DB_HOST": "127.0.0.1",
            "EMBER_DB_PORT": str(self.port),
            "EMBER_DB_NAME": DATABASE,
            "EMBER_DB_USER": role,
            "EMBER_DB_PASSWORD": password_of(role),
        }

    def psql(self, sql: str, database: str = "postgres", role: str = roles.ADMIN, password: str | None = None) -> str:
        """What one script answers, a row a line. Raises LaunchError with the server's words."""
        env = {**os.environ, "PGPASSWORD": password or password_of(role)}
        return psql.run(sql, ["-h", "127.0.0.1", "-p", str(self.port), "-U", role, "-d", database], env=env)

    def _ensure_database(self) -> None:
        """The roles and the database, which belongs to the owner."""
        if not self._roles_file.exists():
            self._give_it_roles()
        handed_over = f"handed over in format {roles.FORMAT}\n"
        if self._roles_file.read_text() == handed_over:
            return
        passwords = {role: password_of(role) for role in roles.PASSWORD_FILES}
        roles.set_up(lambda sql, database: self.psql(sql, database), DATABASE, passwords)
        self._roles_file.write_text(handed_over)

    def hand_over(self) -> None:
        """Give the database, and what is in it, to its owner."""
        self.psql(roles.hand_over(DATABASE), DATABASE)

    def make_anew(self) -> None:
        """An empty database in the place of the one there is."""
        self.psql(f"DROP DATABASE IF EXISTS {DATABASE} WITH (FORCE)")
        self.psql(f"CREATE DATABASE {DATABASE} OWNER {roles.OWNER}")
        self.hand_over()

    def _give_it_roles(self) -> None:
        """Turn a cluster from before the roles, whose application was its administrator, into one with them."""
        say("The database gets an owner of its own ...")
        first, stand_in = password_of(roles.APP), secrets.token_urlsafe(24)
        self.psql(roles.MAKE_A_STAND_IN.format(password=stand_in), role=roles.APP, password=first)
        admin = password_of(roles.ADMIN)
        self.psql(roles.RENAME_THE_FIRST.format(password=admin), role=roles.STAND_IN, password=stand_in)
        self.psql(roles.DROP_THE_STAND_IN)
        self._roles_file.write_text("with roles\n")
