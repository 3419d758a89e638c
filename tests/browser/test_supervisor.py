"""The supervisor: nothing outlives it, however it ends, and `stop` stops this checkout's processes and nothing else."""

from __future__ import annotations

import json
import os
import signal
import subprocess
import sys
import time
import urllib.request
from pathlib import Path

import pytest

from .real import ROOT, environment_of, free_port


class Checkout:
    """A folder of its own with spaces in its path, and the launcher's verbs in it."""

    def __init__(self, folder: Path) -> None:
        self.folder, self.port = folder, free_port()
        self.environment = environment_of(folder)

    def start(self) -> subprocess.Popen[bytes]:
        return subprocess.Popen(
            [sys.executable, "-m", "launcher", "start", "--no-demo", "--port", str(self.port)], cwd=ROOT,
            env=self.environment, stdout=(self.folder / "out.txt").open("ab"), stderr=subprocess.STDOUT,
            start_new_session=True,
        )  # fmt: skip

    def says(self, verb: str) -> str:
        command = [sys.executable, "-m", "launcher", verb, *(["--port", str(self.port)] if verb == "start" else [])]
        done = subprocess.run(
            command, cwd=ROOT, env=self.environment, capture_output=True, text=True, timeout=120, check=False
        )
        return done.stdout + done.stderr

    def up(self, process: subprocess.Popen[bytes], seconds: float = 120.0) -> None:
        deadline = time.monotonic() + seconds
        while time.monotonic() < deadline and process.poll() is None:
            if "Stop with" in (self.folder / "out.txt").read_text():
                with urllib.request.urlopen(f"http://127.0.0.1:{self.port}/healthz", timeout=5) as answer:
                    assert answer.status == 200
                return
            time.sleep(0.2)
        raise AssertionError((self.folder / "out.txt").read_text()[-2000:])

    def processes(self) -> dict[int, str]:
        """Live processes that run in this folder or were started for it."""
        ours = {}
        for entry in Path("/proc").iterdir():
            try:
                if not entry.name.isdigit() or (entry / "stat").read_text().rpartition(") ")[2][0] == "Z":
                    continue
                given = (entry / "environ").read_bytes()
                command = (entry / "cmdline").read_bytes().replace(b"\0", b" ").decode(errors="replace")
                is_ours = str(self.folder) in command or f"EMBER_LOCAL={self.folder}".encode() in given.split(b"\0")
            except OSError:
                continue
            if is_ours and int(entry.name) != os.getpid():
                ours[int(entry.name)] = command
        return ours

    def gone(self, seconds: float = 30.0) -> dict[int, str]:
        """What is still there after a while."""
        deadline = time.monotonic() + seconds
        while (left := self.processes()) and time.monotonic() < deadline:
            time.sleep(0.1)
        return left


@pytest.fixture(scope="module")
def checkout(tmp_path_factory):
    made = Checkout(tmp_path_factory.mktemp("a place with spaces"))
    yield made
    made.says("stop")


def test_nothing_was_running(checkout):
    assert "Nothing was running." in checkout.says("stop")


def test_a_start_that_is_stopped_half_way_leaves_nothing(checkout):
    process = checkout.start()
    deadline = time.monotonic() + 60
    while len(checkout.processes()) < 2 and time.monotonic() < deadline:  # the supervisor, and what prepares
        time.sleep(0.05)
    assert "Stopped." in checkout.says("stop")
    process.wait(30)
    assert not checkout.gone()
    assert "Nothing was running." in checkout.says("stop")


@pytest.fixture
def running(checkout):
    (checkout.folder / "out.txt").write_text("")
    process = checkout.start()
    checkout.up(process)
    yield process
    if process.poll() is None:
        checkout.says("stop")
        process.wait(30)


def test_closing_the_terminal_ends_everything(checkout, running):
    assert len(checkout.processes()) >= 4
    running.send_signal(signal.SIGHUP)
    running.wait(40)
    assert not checkout.gone()
    assert "Nothing was running." in checkout.says("stop")


def test_nothing_outlives_a_supervisor_that_was_killed(checkout, running):
    """Nor is a database of this checkout left alone by the next start."""
    running.kill()
    running.wait(10)
    assert not checkout.gone()
    script = "from launcher.cluster import Cluster; print(Cluster().start())"
    subprocess.run([sys.executable, "-c", script], cwd=ROOT, env=checkout.environment, check=True)
    assert len(checkout.processes()) >= 1
    assert "Stopped." in checkout.says("stop")
    assert not checkout.gone()


def test_a_second_start_says_so_and_a_foreign_note_harms_nobody(checkout, running):
    assert f"already runs at http://127.0.0.1:{checkout.port} (pid {running.pid})" in checkout.says("start")
    stranger = subprocess.Popen(["sleep", "60"])
    try:
        for answer in ("Stopped.", "Nothing was running."):
            (checkout.folder / "server.json").write_text(json.dumps({"pid": stranger.pid, "port": 1}))
            assert answer in checkout.says("stop")
            assert stranger.poll() is None
        running.wait(30)
        assert not checkout.gone()
    finally:
        stranger.kill()
        stranger.wait()
