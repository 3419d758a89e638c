"""A browser and the demonstration kitchen on a live server."""

from __future__ import annotations

import os
import subprocess
import sys
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest

from .chromium import Browser

TOKEN = "browser-test-token"
SRC = Path(__file__).resolve().parents[2] / "src"


@pytest.fixture(scope="session")
def browser(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Browser]:
    with Browser(tmp_path_factory.mktemp("downloads")) as found:
        yield found


@pytest.fixture
def demo(transactional_db: Any, browser: Browser) -> Iterator[Any]:
    """The demonstration kitchen; the page lets go of it before its rows are taken away."""
    from kitchen.demo.build import build

    yield build(TOKEN)
    browser.open("about:blank")
    browser.console()


@pytest.fixture
def probe(live_server: Any) -> Iterator[Any]:
    """Starts the simulated probe as the process it is; stops it in the end."""
    started: list[subprocess.Popen[bytes]] = []

    def start(*arguments: str) -> subprocess.Popen[bytes]:
        command = [sys.executable, "-m", "kitchen.demo.simulated_probe", "--url", live_server.url, "--token", TOKEN]
        process = subprocess.Popen(
            [*command, *arguments], env={**os.environ, "PYTHONPATH": str(SRC)}, stdout=subprocess.PIPE
        )
        started.append(process)
        return process

    yield start
    for process in started:
        process.terminate()
        process.wait(10)
