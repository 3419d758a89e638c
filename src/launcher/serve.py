"""`./ember start` and `./ember stop`: one supervisor that keeps the database, the web server and the worker up."""

from __future__ import annotations

import contextlib
import json
import os
import signal
import subprocess
import sys
import time
import urllib.error
import urllib.request
from pathlib import Path
from types import FrameType

from . import ownership, packages, prepare, rotation
from .cluster import Cluster, port_is_free
from .environment import application_environment
from .paths import LOCAL, ROOT, SERVER_STATE, LaunchError, say
from .roles import APP, OWNER

WATCH_EVERY_S = 2.0
FIRST_PAGE_WITHIN_S = 60.0
STOPS_WITHIN_S = 60.0
MAINTAINED = LOCAL / "maintained"  # its time is when that was done last
NIGHT_H, MISSED_H = 4, 30.0


def _port_said() -> int | None:
    """The port that the running supervisor wrote down."""
    try:
        return int(json.loads(SERVER_STATE.read_text())["port"])
    except (OSError, ValueError, KeyError, TypeError):
        return None


def _who_listens(port: int) -> str:
    done = subprocess.run(["ss", "-Hltnp", f"sport = :{port}"], capture_output=True, text=True, check=False)
    text = done.stdout
    if 'users:(("' in text:
        name, _, rest = text.split('users:(("')[1].partition('"')
        pid = rest.split("pid=")[1].split(",")[0]
        return f"{name} (pid {pid})"
    return "another program"


def _check_port(port: int) -> None:
    if port_is_free(port):
        return
    other = next((p for p in range(port + 1, port + 100) if port_is_free(p)), None)
    advice = f" Port {other} is free: ./ember start --port {other}" if other else ""
    raise LaunchError(f"Port {port} is taken by {_who_listens(port)}.{advice}")


def _answers(port: int) -> bool:
    try:
        with urllib.request.urlopen(f"http://127.0.0.1:{port}/healthz", timeout=2) as reply:
            return bool(reply.status == 200)
    except (urllib.error.URLError, OSError):
        return False


def _stop(process: subprocess.Popen[bytes] | None) -> None:
    """End a child and its processes, gently first."""
    if process is not None and process.poll() is None:
        process.terminate()
        try:
            process.wait(ownership.PATIENCE_S)
        except subprocess.TimeoutExpired:
            os.killpg(process.pid, signal.SIGKILL)
            process.wait()


class Supervisor:
    """Runs database, web server, worker and probes as children, restarts what dies, and stops what it started.

    Children die with it, even by kill -9.
    """

    def __init__(self, port: int, with_demo: bool) -> None:
        self.port = port
        self.with_demo = with_demo
        self.cluster = Cluster()
        self.web: subprocess.Popen[bytes] | None = None
        self.worker: subprocess.Popen[bytes] | None = None
        self.galley: subprocess.Popen[bytes] | None = None
        self.nightly: subprocess.Popen[bytes] | None = None
        self.stopping = False

    def _stop_signal(self, number: int, frame: FrameType | None) -> None:
        self.stopping = True

    def _is_stopping(self) -> bool:
        return self.stopping

    def _spawn(self, command: list[str], log: Path, role: str = APP) -> subprocess.Popen[bytes]:
        """Start a child in a session of its own: Ctrl-C in the terminal reaches only the supervisor, which stops things
        in order. What it writes besides its own log goes to the same file.
        """
        env = ownership.marked(application_environment(self.cluster, role)) | {"EMBER_LOG_FILE": str(log)}
        # Without supervisor and database there is nothing left that could be finished.
        with log.open("ab") as file:
            return subprocess.Popen(
                ownership.dies_with_parent("KILL", command), env=env, cwd=ROOT, start_new_session=True, stdout=file,
                stderr=file,
            )  # fmt: skip

    def _spawn_web(self) -> None:
        command = [
            sys.executable, "-m", "gunicorn", "kitchen.wsgi:application", "--config", "python:kitchen.web_server",
            "--bind", f"127.0.0.1:{self.port}",
        ]  # fmt: skip
        self.web = self._spawn(command, LOCAL / "web.log")

    def _spawn_worker(self) -> None:
        # Forecasts may wait a moment, people at a screen may not.
        command = ["nice", "-n", "10", sys.executable, "-m", "django", "worker"]
        self.worker = self._spawn(command, LOCAL / "worker.log")

    def _spawn_galley(self) -> None:
        """The demonstration's probes; they stop with the rest."""
        url = f"http://127.0.0.1:{self.port}"
        own = ["-m", "kitchen.demo.galley", "--url", url, "--tokens", str(LOCAL)]
        self.galley = self._spawn(["nice", "-n", "10", sys.executable, *own], LOCAL / "galley.log")

    def _wait_for_first_page(self) -> None:
        deadline = time.monotonic() + FIRST_PAGE_WITHIN_S
        while not self.stopping and time.monotonic() < deadline:
            if _answers(self.port):
                return
            if self.web is not None and self.web.poll() is not None:
                raise LaunchError(f"The web server did not start; see {LOCAL / 'web.log'}")
            time.sleep(0.1)
        if not self.stopping:
            raise LaunchError(f"The web server did not answer within 60 s; see {LOCAL / 'web.log'}")

    def _watch(self) -> None:
        while not self.stopping:
            time.sleep(WATCH_EVERY_S)
            if self.stopping:
                return
            if not self.cluster.is_ready():
                say("The database stopped; starting it again ...")
                try:
                    self.cluster.start(as_child=True, should_stop=self._is_stopping)
                except LaunchError as error:
                    say(str(error))
            if self.web is not None and self.web.poll() is not None:
                say("The web server stopped; starting it again ...")
                self._spawn_web()
            if self.worker is not None and self.worker.poll() is not None:
                say("The worker stopped; starting it again ...")
                self._spawn_worker()
            if self.galley is not None and self.galley.poll() is not None:
                self._spawn_galley()
            rotation.rotate_large()
            self._maintain()

    def _maintain(self) -> None:
        """Every night, or once it was missed: old readings go, heads are signed, a backup is made."""
        if self.nightly is not None and self.nightly.poll() is None:
            return
        if not MAINTAINED.exists():
            MAINTAINED.touch()
        ago_h = (time.time() - MAINTAINED.stat().st_mtime) / 3600.0
        if ago_h > MISSED_H or (ago_h > 2.0 and time.localtime().tm_hour == NIGHT_H):
            MAINTAINED.touch()
            command = ["nice", "-n", "10", sys.executable, "-m", "django", "maintain"]
            self.nightly = self._spawn(command, LOCAL / "maintain.log", OWNER)

    def _shut_down(self) -> None:
        for child in (self.nightly, self.galley, self.worker, self.web):
            _stop(child)
        self.cluster.stop()
        SERVER_STATE.unlink(missing_ok=True)

    def run(self) -> None:
        """Serve until told to stop."""
        for number in (signal.SIGTERM, signal.SIGINT, signal.SIGHUP):
            signal.signal(number, self._stop_signal)
        SERVER_STATE.write_text(json.dumps({"pid": os.getpid(), "port": self.port}))
        ownership.end(ownership.children())  # of a supervisor that was killed a moment ago
        try:
            self._bring_up()
            if not self.stopping:
                self._wait_for_first_page()
            if not self.stopping:
                self._spawn_worker()
                if self.with_demo and not prepare.is_quiet():
                    self._spawn_galley()
                self._greet()
            self._watch()
        finally:
            self._shut_down()
            say("Stopped.")

    def _bring_up(self) -> None:
        """Start database and web server; both at once if everything is prepared already."""
        port = self.cluster.known_port
        if port is not None and prepare.is_current(self.cluster, self.with_demo):
            self._spawn_web()
            self.cluster.start(as_child=True, should_stop=self._is_stopping)
            if self.cluster.port != port:
                _stop(self.web)
                self._spawn_web()
            return
        self.cluster.start(as_child=True, should_stop=self._is_stopping)
        if not self.stopping and prepare.ensure(self.cluster, self.with_demo, self._is_stopping):
            self._spawn_web()

    def _greet(self) -> None:
        lines = [f"Open Ember is at http://127.0.0.1:{self.port}"]
        if self.with_demo:
            lines += prepare.sign_ins()
        elif address := prepare.setup_address(self.cluster, self.port):
            lines.append(f"Set up your kitchen (once) at {address}")
        with contextlib.suppress(OSError):  # the terminal may be closed
            print("\n".join([*lines, "Stop with Ctrl-C or ./ember stop"]), flush=True)


def start(port: int, with_demo: bool) -> None:
    """Set up and serve on 127.0.0.1:port until stopped."""
    lock = ownership.claim()
    if lock is None:
        where = f" at http://127.0.0.1:{port_used}" if (port_used := _port_said()) else ""
        print(f"Open Ember already runs{where} (pid {ownership.holder()}).")
        return
    with lock:
        _check_port(port)
        packages.ensure(packages.FOR_SERVING)
        Supervisor(port, with_demo).run()


def stop() -> None:
    """Stop what belongs to this checkout, whoever started it, and nothing else."""
    stopped = False
    if (pid := ownership.holder()) is not None:
        os.kill(pid, signal.SIGTERM)
        if not ownership.wait_until_gone(pid, STOPS_WITHIN_S):
            os.kill(pid, signal.SIGKILL)
        stopped = True
    if left := ownership.children():
        ownership.end(left)
        stopped = True
    if not packages.missing(packages.FOR_SERVING) and Cluster().stop():
        stopped = True
    SERVER_STATE.unlink(missing_ok=True)
    say("Stopped." if stopped else "Nothing was running.")
