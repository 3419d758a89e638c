"""What surrounds the application: its lock, its logs, its roles, what is written for a box."""

from __future__ import annotations

import os
import re
import signal
import subprocess
import sys
import time
from pathlib import Path

import pytest

from launcher import dependencies, ownership, packages, roles, rotation
from launcher.install import UNITS, Place

ROOT = Path(__file__).resolve().parents[2]


@pytest.fixture
def lock(monkeypatch, tmp_path):
    monkeypatch.setattr(ownership, "LOCK", tmp_path / "with space" / "supervisor.lock")
    return ownership.LOCK


def test_the_lock_names_who_holds_it_and_ends_with_them(lock):
    assert ownership.holder() is None
    held_for_long = (
        f"f = open({str(lock)!r}, 'a+'); fcntl.lockf(f, fcntl.LOCK_EX); print(1, flush=True); time.sleep(60)"
    )
    code = f"import fcntl, time; {held_for_long}"
    lock.parent.mkdir()
    other = subprocess.Popen([sys.executable, "-c", code], stdout=subprocess.PIPE)
    try:
        assert other.stdout is not None
        other.stdout.readline()
        assert ownership.holder() == other.pid
        assert ownership.claim() is None
    finally:
        other.send_signal(signal.SIGKILL)
        other.wait()
    assert ownership.holder() is None
    held = ownership.claim()
    assert held is not None
    held.close()


def test_a_marked_child_is_found_and_ended_and_a_stranger_is_not():
    child = subprocess.Popen(["sleep", "60"], env=ownership.marked(dict(os.environ)))
    stranger = subprocess.Popen(["sleep", "60"])
    try:
        children = ownership.children()
        assert child.pid in children
        assert stranger.pid not in children
        ownership.end([child.pid])
        assert ownership.wait_until_gone(child.pid, 5)
        assert stranger.poll() is None
    finally:
        for process in (child, stranger):
            process.kill()
            process.wait()


def test_a_child_dies_with_the_process_that_started_it():
    script = (
        "import subprocess, sys, time; sys.path.insert(0, 'src');"
        "from launcher.ownership import dies_with_parent;"
        "child = subprocess.Popen(dies_with_parent('KILL', ['sleep', '60']), start_new_session=True);"
        "print(child.pid, flush=True); time.sleep(60)"
    )
    parent = subprocess.Popen([sys.executable, "-c", script], cwd=ROOT, stdout=subprocess.PIPE)
    assert parent.stdout is not None
    child = int(parent.stdout.readline())
    time.sleep(0.3)  # setpriv has become sleep
    parent.kill()
    parent.wait()
    assert ownership.wait_until_gone(child, 10)


def test_large_logs_make_room_and_old_ones_go(tmp_path):
    log = tmp_path / "web.log"
    for number in range(7):
        log.write_text(f"{number} " + "x" * 100)
        assert rotation.rotate_large(tmp_path, 50) == [log]
        assert not log.exists()
    assert sorted(path.name for path in tmp_path.iterdir()) == [f"web.log.{n}" for n in range(1, 6)]
    assert (tmp_path / "web.log.1").read_text()[0] == "6"
    log.write_text("short")
    assert rotation.rotate_large(tmp_path, 50) == []


def test_the_age_of_the_lock_file_is_known(tmp_path):
    lock = tmp_path / "requirements.lock"
    lock.write_text("x")
    os.utime(lock, (time.time() - 86_400 * 10, time.time() - 86_400 * 10))
    assert dependencies.age_of(lock).days == 10
    assert dependencies.age_of().days >= 0


def test_no_role_but_the_administrator_rules_the_server():
    sql = roles.make_roles(dict.fromkeys((roles.OWNER, roles.APP, roles.READER), "pw"))
    assert sql.count("NOSUPERUSER NOCREATEDB NOCREATEROLE NOREPLICATION") == 3
    assert roles.ADMIN not in sql


@pytest.fixture
def place(tmp_path):
    return Place(tmp_path, "ember", ("galley.lan", "192.168.4.10"), 8000, 80, 443)


@pytest.mark.parametrize("template", [*UNITS, "nginx.conf"])
def test_what_is_written_for_a_box_names_its_places(place, template):
    text = place.filled(template)
    assert not re.search(r"@[A-Z]+@", text)
    if template.endswith(".service"):
        assert "User=ember" in text
        assert f"EnvironmentFile={place.etc}/ember.env" in text
        assert "NoNewPrivileges=yes" in text
    if template == "nginx.conf":
        assert "server_name galley.lan 192.168.4.10;" in text
        assert "location = /metrics { deny all; }" in text


def test_a_container_has_the_packages_that_serving_needs():
    text = (ROOT / "deploy" / "Containerfile").read_text()
    needed = {name for name in packages.FOR_SERVING if name.startswith("lib")}
    assert needed <= set(text.split())
    assert not re.search(r"[a-z0-9-]+\.[a-z]{2,}/", text.partition("\n")[2]), "no registry is named"
