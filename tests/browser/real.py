"""A whole server of its own: supervisor, gunicorn and PostgreSQL, in a folder of its own, to be killed for real."""

from __future__ import annotations

import contextlib
import http.cookiejar
import json
import os
import re
import signal
import socket
import subprocess
import sys
import time
import urllib.parse
import urllib.request
from pathlib import Path
from typing import Any

import psycopg

ROOT = Path(__file__).resolve().parents[2]


def free_port() -> int:
    """A port nobody listens on."""
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        return int(probe.getsockname()[1])


def environment_of(folder: Path) -> dict[str, str]:
    """The environment of a checkout whose own folder is elsewhere: the suite's database and settings are not its."""
    inherited = {k: v for k, v in os.environ.items() if not k.startswith(("EMBER_", "DJANGO_"))}
    return {
        **inherited, "EMBER_ROOT": str(ROOT), "EMBER_LOCAL": str(folder), "PYTHONPATH": str(ROOT / "src"),
        "NUMBA_CACHE_DIR": os.environ.get("NUMBA_CACHE_DIR", str(ROOT / ".local" / "numba")),
    }  # fmt: skip


class RealServer:
    """`./ember start` as it runs at a kitchen's, in a folder of its own."""

    def __init__(self, folder: Path) -> None:
        self.folder, self.port = folder, free_port()
        self.url = f"http://127.0.0.1:{self.port}"
        self.environment = {"EMBER_DEMO": "quiet", **environment_of(folder)}
        self.process = subprocess.Popen(
            [sys.executable, "-m", "launcher", "start", "--port", str(self.port)], cwd=ROOT, env=self.environment,
            stdout=(folder / "out.log").open("w"), stderr=subprocess.STDOUT,
        )  # fmt: skip

    def wait(self, seconds: float = 90.0) -> None:
        """Until it answers with a page that needs the database."""
        deadline = time.monotonic() + seconds
        while time.monotonic() < deadline:
            with contextlib.suppress(OSError):  # not up yet, or its database is not
                api(self, "clock")
                return
            if self.process.poll() is not None:
                break
            time.sleep(0.2)
        raise AssertionError(f"the server did not answer:\n{(self.folder / 'out.log').read_text()[-2000:]}")

    def children(self, words: str) -> list[int]:
        """Processes below this folder or port whose command has some words."""
        found = []
        for entry in Path("/proc").iterdir():
            if not entry.name.isdigit():
                continue
            try:
                command = (entry / "cmdline").read_bytes().replace(b"\0", b" ").decode(errors="replace")
            except OSError:
                continue
            if words in command and (str(self.folder) in command or f":{self.port}" in command):
                found.append(int(entry.name))
        return found

    def kill_web(self) -> int:
        """kill -9 of every web process at once. Returns how many."""
        found = self.children("gunicorn")
        for pid in found:
            os.kill(pid, signal.SIGKILL)
        return len(found)

    def kill_database(self) -> int:
        """kill -9 of PostgreSQL, all of it. Returns how many."""
        (postmaster,) = self.children("postgres -D") or self.children("/postgres")[:1]
        below = subprocess.run(["pgrep", "-P", str(postmaster)], capture_output=True, text=True, check=False)
        found = [postmaster, *(int(pid) for pid in below.stdout.split())]
        for pid in found:
            with contextlib.suppress(ProcessLookupError):
                os.kill(pid, signal.SIGKILL)
        return len(found)

    def rows(self, question: str) -> list[tuple[Any, ...]]:
        """What the database itself says."""
        login = {
            "host": "127.0.0.1", "port": int((self.folder / "db" / "port").read_text()), "dbname": "ember",
            "user": "app", "password": (self.folder / "db-password").read_text().strip(),
        }  # fmt: skip
        with psycopg.connect(**login) as connection:
            return connection.execute(question).fetchall()  # type: ignore[arg-type]

    def token(self, name: str = "demo-probe-token") -> str:
        """A demonstration device's token."""
        return (self.folder / name).read_text().strip()

    def hold(self) -> None:
        """Keep the supervisor from bringing anything back."""
        self.process.send_signal(signal.SIGSTOP)

    def go_on(self) -> None:
        """Let it."""
        self.process.send_signal(signal.SIGCONT)

    def stop(self) -> None:
        """As Ctrl-C would."""
        self.process.terminate()
        self.process.wait(40)


class Person:
    """Somebody signed in, with a browser's cookies and nothing else."""

    def __init__(self, server: RealServer, name: str, password: str) -> None:
        self.server = server
        self.opener = urllib.request.build_opener(urllib.request.HTTPCookieProcessor(http.cookiejar.CookieJar()))
        self.post("/sign-in/", {"username": name, "password": password}, self.get("/sign-in/"))

    def get(self, path: str) -> str:
        """A page."""
        with self.opener.open(self.server.url + path, timeout=30) as reply:
            return str(reply.read().decode())

    def post(self, path: str, values: dict[str, Any], page: str = "") -> str:
        """A form, with the token of a page that has one."""
        token = re.search(r'name="csrfmiddlewaretoken" value="(\w+)"', page or self.get("/you/"))
        assert token, "a page without a form"
        body = urllib.parse.urlencode({**values, "csrfmiddlewaretoken": token[1]}, doseq=True).encode()
        request = urllib.request.Request(self.server.url + path, body, {"Referer": self.server.url})
        with self.opener.open(request, timeout=30) as reply:
            return str(reply.read().decode())


def api(server: RealServer, path: str, body: dict[str, Any] | None = None, token: str = "") -> dict[str, Any]:
    """The readings API as a device calls it."""
    request = urllib.request.Request(
        f"{server.url}/api/v1/{path}", None if body is None else json.dumps(body).encode(),
        {"Authorization": f"Bearer {token or server.token()}", "Content-Type": "application/json"},
    )  # fmt: skip
    with urllib.request.urlopen(request, timeout=10) as reply:
        return dict(json.load(reply))
