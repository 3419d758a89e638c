"""Which processes belong to this checkout: its supervisor by a lock that ends with it, its children by what they were
given.

A pid in a file may be a stranger's by now; the kernel says truly who holds a lock, and what a process was given.
"""

from __future__ import annotations

import contextlib
import fcntl
import os
import signal
import struct
import time
from pathlib import Path
from typing import IO

from .paths import LOCAL

LOCK = LOCAL / "supervisor.lock"
MARK = "EMBER_SUPERVISED_IN"  # in the environment of every child: the folder of its checkout
FLOCK = "hhqqi4x"  # struct flock on 64-bit Linux: type, whence, start, length, pid
PATIENCE_S = 15.0


def claim() -> IO[str] | None:
    """The lock of this checkout's supervisor, held while the file is open; None if another process holds it."""
    LOCK.parent.mkdir(parents=True, exist_ok=True)
    file = LOCK.open("a+")
    try:
        fcntl.lockf(file, fcntl.LOCK_EX | fcntl.LOCK_NB)
    except OSError:
        file.close()
        return None
    return file


def holder() -> int | None:
    """The process that holds the lock; None if nobody does. Not to be asked by the holder, whose lock it would end."""
    try:
        with LOCK.open("a+") as file:
            asked = struct.pack(FLOCK, fcntl.F_WRLCK, os.SEEK_SET, 0, 0, 0)
            kind, _, _, _, pid = struct.unpack(FLOCK, fcntl.fcntl(file, fcntl.F_GETLK, asked))
    except OSError:
        return None
    return pid if kind != fcntl.F_UNLCK and pid > 0 else None


def marked(env: dict[str, str]) -> dict[str, str]:
    """The environment of a child of this checkout's supervisor."""
    return env | {MARK: str(LOCAL.resolve())}


def dies_with_parent(signal_name: str, command: list[str]) -> list[str]:
    """The command, which gets a signal when the process that started it is gone, however it went."""
    return ["setpriv", "--pdeathsig", signal_name, *command]


def children() -> list[int]:
    """Live processes that were started for this checkout's supervisor, whether it still lives or not."""
    mark = f"{MARK}={LOCAL.resolve()}".encode()
    return [pid for pid in _processes() if mark in _read(pid, "environ").split(b"\0") and not _is_zombie(pid)]


def end(pids: list[int]) -> None:
    """End processes, gently first."""
    for pid in pids:
        _signal(pid, signal.SIGTERM)
    deadline = time.monotonic() + PATIENCE_S
    while any(_lives(pid) for pid in pids) and time.monotonic() < deadline:
        time.sleep(0.1)
    for pid in pids:
        _signal(pid, signal.SIGKILL)


def wait_until_gone(pid: int, seconds: float) -> bool:
    """Whether a process ended within some seconds."""
    deadline = time.monotonic() + seconds
    while _lives(pid) and time.monotonic() < deadline:
        time.sleep(0.1)
    return not _lives(pid)


def _processes() -> list[int]:
    return [
        int(entry.name) for entry in Path("/proc").iterdir() if entry.name.isdigit() and int(entry.name) != os.getpid()
    ]


def _read(pid: int, name: str) -> bytes:
    try:
        return Path(f"/proc/{pid}/{name}").read_bytes()
    except OSError:
        return b""


def _is_zombie(pid: int) -> bool:
    return _read(pid, "stat").rpartition(b") ")[2][:1] in (b"Z", b"")


def _lives(pid: int) -> bool:
    return not _is_zombie(pid)


def _signal(pid: int, number: signal.Signals) -> None:
    with contextlib.suppress(ProcessLookupError, PermissionError):
        os.kill(pid, number)
