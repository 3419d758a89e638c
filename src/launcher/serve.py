"""`./ember start` and `./ember stop`: one supervisor that keeps the database, the web server and the worker up."""

from __future__ import annotations

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

from . import packages, prepare
from .cluster import Cluster, port_is_free
from .environment import application_environment
from .paths import LOCAL, ROOT, SERVER_STATE, LaunchError, say

WATCH_EVERY_S = 2.0


def running() -> dict[str, int] | None:
    """`{"pid", "port"}` of this checkout's supervisor when it is alive, else None."""
    try:
        state = json.loads(SERVER_STATE.read_text())
        command = Path(f"/proc/{state['pid']}/cmdline").read_bytes().split(b"\0")
    except (OSError, ValueError, KeyError):
        return None
    return state if b"launcher" in command and b"start" in command else None


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
            process.wait(15)
        except subprocess.TimeoutExpired:
            os.killpg(process.pid, signal.SIGKILL)


class Supervisor:
    """Runs gunicorn as a child, restarts what dies, and stops what it started."""

    def __init__(self, port: int, with_demo: bool) -> None:
        self.port = port
        self.with_demo = with_demo
        self.cluster = Cluster()
        self.started_cluster = False
        self.web: subprocess.Popen[bytes] | None = None
        self.worker: subprocess.Popen[bytes] | None = None
        self.galley: subprocess.Popen[bytes] | None = None
        self.stopping = False

    def _stop_signal(self, number: int, frame: FrameType | None) -> None:
        self.stopping = True

    def _spawn_web(self) -> None:
        command = [
            sys.executable, "-m", "gunicorn", "kitchen.wsgi:application", "--bind", f"127.0.0.1:{self.port}",
            "--worker-class", "gthread", "--workers", "2", "--threads", "8", "--graceful-timeout", "10", "--preload",
            "--log-level", "warning", "--error-logfile", str(LOCAL / "web.log"),
        ]  # fmt: skip
        # Its own session: Ctrl-C in the terminal reaches only the supervisor, which stops things in order.
        self.web = subprocess.Popen(
            command, env=application_environment(self.cluster), cwd=ROOT, start_new_session=True
        )

    def _spawn_worker(self) -> None:
        # Forecasts may wait a moment, people at a screen may not.
        command = ["nice", "-n", "10", sys.executable, "-m", "django", "procrastinate", "worker"]
        with (LOCAL / "worker.log").open("ab") as log:
            self.worker = subprocess.Popen(
                command, env=application_environment(self.cluster), cwd=ROOT, start_new_session=True,
                stdout=log, stderr=log,
            )  # fmt: skip

    def _spawn_galley(self) -> None:
        """The demonstration's probes; they stop with the rest."""
        url = f"http://127.0.0.1:{self.port}"
        own = ["-m", "kitchen.demo.galley", "--url", url, "--tokens", str(LOCAL)]
        command = ["nice", "-n", "10", sys.executable, *own]
        with (LOCAL / "galley.log").open("ab") as log:
            self.galley = subprocess.Popen(
                command, env=application_environment(self.cluster), cwd=ROOT, start_new_session=True,
                stdout=log, stderr=log,
            )  # fmt: skip

    def _wait_for_first_page(self) -> None:
        deadline = time.monotonic() + 60
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
                    self.started_cluster |= self.cluster.start()
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

    def _stop_web(self) -> None:
        _stop(self.web)

    def _shut_down(self) -> None:
        _stop(self.galley)
        _stop(self.worker)
        self._stop_web()
        if self.started_cluster:
            self.cluster.stop()
        SERVER_STATE.unlink(missing_ok=True)

    def run(self) -> None:
        """Serve until told to stop."""
        signal.signal(signal.SIGTERM, self._stop_signal)
        signal.signal(signal.SIGINT, self._stop_signal)
        LOCAL.mkdir(parents=True, exist_ok=True)
        SERVER_STATE.write_text(json.dumps({"pid": os.getpid(), "port": self.port}))
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
            self.started_cluster = self.cluster.start()
            if self.cluster.port != port:
                self._stop_web()
                self._spawn_web()
            return
        self.started_cluster = self.cluster.start()
        prepare.ensure(self.cluster, self.with_demo)
        if not self.stopping:
            self._spawn_web()

    def _greet(self) -> None:
        print(f"Open Ember is at http://127.0.0.1:{self.port}", flush=True)
        if self.with_demo:
            print("\n".join(prepare.sign_ins()), flush=True)
        elif address := prepare.setup_address(self.cluster, self.port):
            print(f"Set up your kitchen (once) at {address}", flush=True)
        print("Stop with Ctrl-C or ./ember stop", flush=True)


def start(port: int, with_demo: bool) -> None:
    """Set up and serve on 127.0.0.1:port until stopped."""
    if state := running():
        print(f"Open Ember already runs at http://127.0.0.1:{state['port']} (pid {state['pid']}).")
        return
    _check_port(port)
    packages.ensure(packages.FOR_SERVING)
    Supervisor(port, with_demo).run()


def stop() -> None:
    """Stop this checkout's server and database, whoever started them."""
    state = running()
    if state:
        os.kill(state["pid"], signal.SIGTERM)
        deadline = time.monotonic() + 30
        while running() and time.monotonic() < deadline:
            time.sleep(0.1)
    if packages.missing(packages.FOR_SERVING):
        return
    Cluster().stop()
    say("Stopped." if state else "Nothing was running.")
