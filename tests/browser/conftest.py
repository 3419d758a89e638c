"""A browser and the demonstration kitchen on a live server."""

from __future__ import annotations

import fcntl
import os
import pickle
import subprocess
import sys
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest

from .chromium import Browser

TOKEN = "browser-test-token"
MADE_BY_DJANGO = ("django_content_type", "auth_permission")
# What takes longest comes first, so that no process waits for the other at the end.
LONGEST_FIRST = ["survival", "whole_path", "services", "practice", "bench", "forecasts", "eggs", "an_hour"]
SRC = Path(__file__).resolve().parents[2] / "src"


def pytest_collection_modifyitems(items: list[pytest.Item]) -> None:
    """Sort the files by how long they take; their tests stay in order."""
    places = {f"test_{name}": place for place, name in enumerate(LONGEST_FIRST)}
    items.sort(key=lambda item: places.get(item.path.stem, len(places)))


@pytest.fixture(scope="session")
def browser(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Browser]:
    with Browser(tmp_path_factory.mktemp("downloads")) as found:
        yield found


@pytest.fixture(scope="session")
def demo_rows(
    django_db_setup: None, django_db_blocker: Any, tmp_path_factory: pytest.TempPathFactory, worker_id: str
) -> dict[str, bytes]:
    """The demonstration kitchen as the rows of its tables: made once for all processes, copied in for each test."""
    shared = tmp_path_factory.getbasetemp()
    kept = (shared if worker_id == "master" else shared.parent) / "demo-rows"
    with kept.with_suffix(".lock").open("w") as lock:
        fcntl.flock(lock, fcntl.LOCK_EX)
        if not kept.exists():
            kept.write_bytes(pickle.dumps(_built_rows(django_db_blocker)))
    rows, numbers = pickle.loads(kept.read_bytes())
    with django_db_blocker.unblock():
        _count_on_from(numbers)
    return dict(rows)


def _count_on_from(numbers: list[tuple[str, int]]) -> None:
    """Let each sequence go on after the built rows, also in the database of the process that did not build them."""
    from django.db import connection

    with connection.cursor() as cursor:
        for name, number in numbers:
            cursor.execute("SELECT setval(%s::regclass, GREATEST(%s, nextval(%s::regclass)))", [name, number, name])


def _built_rows(django_db_blocker: Any) -> tuple[dict[str, bytes], list[tuple[str, int]]]:
    """Build the demonstration kitchen, and take its rows out again, with how far each sequence came."""
    from django.core.management import call_command
    from django.db import connection

    from kitchen.demo.build import build

    tables = [name for name in connection.introspection.django_table_names() if name not in MADE_BY_DJANGO]
    with django_db_blocker.unblock():
        build(TOKEN)
        rows = {}
        with connection.cursor() as cursor:
            for table in tables:
                with cursor.copy(f'COPY (SELECT * FROM "{table}") TO STDOUT') as copy:
                    rows[table] = b"".join(copy)
            cursor.execute("SELECT quote_ident(sequencename), last_value FROM pg_sequences WHERE last_value > 0")
            numbers = [(str(name), int(number)) for name, number in cursor.fetchall()]
        call_command("flush", interactive=False, verbosity=0, reset_sequences=False)  # the rows keep their numbers
    return {table: text for table, text in rows.items() if text}, numbers


@pytest.fixture
def demo(transactional_db: Any, browser: Browser, demo_rows: dict[str, bytes]) -> Iterator[Any]:
    """The demonstration kitchen; the page lets go of it before its rows are taken away."""
    from django.db import connection, transaction

    from kitchen.accounts.models import Kitchen
    from kitchen.line import shared_board

    from .looking import UNDER_WAY

    with transaction.atomic(), connection.cursor() as cursor:
        cursor.execute("SET LOCAL session_replication_role = replica")  # the chain's rows are among those copied
        for table, text in demo_rows.items():
            with cursor.copy(f'COPY "{table}" FROM STDIN') as copy:
                copy.write(text)
    shared_board._boards.clear()  # of the last test's kitchen, which had the same number
    yield Kitchen.objects.get(place="Galley")
    browser.leave()
    browser.until(lambda: UNDER_WAY.number == 0)  # an answer that comes later finds no database


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


@pytest.hookimpl(wrapper=True)
def pytest_runtest_makereport(item: pytest.Item, call: pytest.CallInfo[None]) -> Any:
    """A failure says what the browser showed."""
    report = yield
    if report.when == "call" and report.failed and (browser := getattr(item, "funcargs", {}).get("browser")):
        text = browser.driver.execute_script("return document.body ? document.body.innerText.slice(0, 1500) : ''")
        report.sections.append(("browser", f"{browser.driver.current_url}\n{browser.console()}\n{text}"))
    return report
