"""`./ember bench line`: readings and screens of a full kitchen on a server of its own, with their response times.

Everything is in a temporary folder: server, database, worker. Ends by itself.
"""

from __future__ import annotations

import argparse
import bisect
import contextlib
import datetime as dt
import http.client
import json
import os
import random
import re
import socket
import statistics
import subprocess
import sys
import tempfile
import threading
import time
import urllib.parse
from collections.abc import Callable
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

from .paths import ROOT, LaunchError, say

NOISE_K = 0.2
SCREEN_EVERY_S = 2.0
STARTS_WITHIN_S = 120.0
FORECAST_AGE = re.compile(rb'data-oldest-forecast-s="(\d+)"')


@dataclass
class Waits:
    """Response times of one kind of request, ms; failures and their reasons."""

    from_s: float = 0.0
    ms: list[float] = field(default_factory=list)
    sent: int = 0
    failed: list[str] = field(default_factory=list)
    kept: int = 0
    forecast_ages_s: list[tuple[float, float]] = field(default_factory=list)

    def took(self, began: float) -> None:
        """Record the response to a request that began at a time of the performance counter."""
        self.sent += 1
        if time.monotonic() >= self.from_s:
            self.ms.append(1e3 * (time.perf_counter() - began))

    def oldest_by(self, every_s: float) -> list[float]:
        """The oldest forecast that any screen showed in each interval, s."""
        oldest: dict[int, float] = {}
        for at_s, age_s in self.forecast_ages_s:
            oldest[int(at_s / every_s)] = max(age_s, oldest.get(int(at_s / every_s), 0.0))
        return [oldest[i] for i in sorted(oldest)]

    def told(self) -> dict[str, Any]:
        """Median, 95th percentile, maximum."""
        if not self.ms:
            return {"requests": 0, "failed": len(self.failed)}
        ordered = sorted(self.ms)
        return {
            "requests": len(ordered), "median_ms": round(statistics.median(ordered), 1),
            "p95_ms": round(ordered[int(0.95 * (len(ordered) - 1))], 1), "longest_ms": round(ordered[-1], 1),
            "failed": len(self.failed), "first_failure": self.failed[0] if self.failed else None,
        }  # fmt: skip


class _Caller:
    """A persistent connection with its cookies."""

    def __init__(self, port: int, headers: dict[str, str]) -> None:
        self.port, self.headers = port, headers
        self.connection = http.client.HTTPConnection("127.0.0.1", port, timeout=30)

    def call(self, method: str, path: str, body: bytes | None = None, more: dict[str, str] | None = None) -> Any:
        """Send a request, reconnecting if the server closed the connection."""
        for attempt in range(2):
            try:
                self.connection.request(method, path, body, self.headers | (more or {}))
                reply = self.connection.getresponse()
                text = reply.read()
                return reply.status, reply.headers, text
            except (http.client.HTTPException, OSError):
                self.connection.close()
                if attempt:
                    raise
        raise AssertionError("unreachable")


def _sign_in(port: int, name: str, password: str) -> str:
    """The cookies of a signed-in person."""
    caller = _Caller(port, {})
    _, headers, page = caller.call("GET", "/sign-in/")
    token = re.search(rb'name="csrfmiddlewaretoken" value="(\w+)"', page)
    cookies = "; ".join(value.split(";")[0] for value in headers.get_all("Set-Cookie"))
    if token is None:
        raise LaunchError("The sign-in page has no form.")
    form = urllib.parse.urlencode({"username": name, "password": password, "csrfmiddlewaretoken": token[1].decode()})
    sent = {
        "Cookie": cookies, "Content-Type": "application/x-www-form-urlencoded", "Referer": f"http://127.0.0.1:{port}",
    }  # fmt: skip
    status, headers, _ = caller.call("POST", "/sign-in/", form.encode(), sent)
    if status != 302:
        raise LaunchError(f"Could not sign in: {status}")
    return "; ".join(value.split(";")[0] for value in headers.get_all("Set-Cookie"))


def _every(seconds: float, first_s: float, until: float, act: Callable[[], None]) -> None:
    """Call a function at a steady rate, late or not."""
    due = time.monotonic() + first_s
    while due < until:
        time.sleep(max(due - time.monotonic(), 0.0))
        act()
        due += seconds


def _screen(port: int, cookies: str, waits: Waits) -> Callable[[], None]:
    caller = _Caller(port, {"Cookie": cookies, "HX-Request": "true"})

    def look() -> None:
        began = time.perf_counter()
        try:
            status, _, text = caller.call("GET", "/line/")
        except (http.client.HTTPException, OSError) as error:
            waits.failed.append(repr(error))
            return
        waits.took(began)
        if status != 200 or b'id="board"' not in text:
            waits.failed.append(f"{status}")
        elif (age := FORECAST_AGE.search(text)) and time.monotonic() >= waits.from_s:
            waits.forecast_ages_s.append((time.monotonic() - waits.from_s, float(age[1])))

    return look


def _device(port: int, device: dict[str, Any], waits: Waits) -> Callable[[], None]:
    caller = _Caller(port, {"Authorization": f"Bearer {device['token']}", "Content-Type": "application/json"})
    started = dt.datetime.fromisoformat(device["started_at"])

    def send() -> None:
        now = dt.datetime.now(dt.UTC)
        s = (now - started).total_seconds() * device["pace"]
        i = min(max(bisect.bisect(device["t_s"], s), 1), len(device["t_s"]) - 1)
        a, b = device["t_s"][i - 1], device["t_s"][i]
        share = min(max((s - a) / (b - a), 0.0), 1.0) if b > a else 1.0
        shown = device["reading_c"][i - 1] * (1 - share) + device["reading_c"][i] * share
        readings = [
            {"probe": code, "at": now.isoformat(), "celsius": round(shown + random.gauss(0, NOISE_K), 2)}
            for code in device["probes"]
        ]
        began = time.perf_counter()
        try:
            status, _, text = caller.call("POST", "/api/v1/readings", json.dumps({"readings": readings}).encode())
        except (http.client.HTTPException, OSError) as error:
            waits.failed.append(repr(error))
            return
        waits.took(began)
        if status == 200:
            waits.kept += json.loads(text)["kept"]
        else:
            waits.failed.append(f"{status}")

    return send


def _free_port() -> int:
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        return int(probe.getsockname()[1])


def _wait_for(port: int, process: subprocess.Popen[bytes], log: Path) -> None:
    end = time.monotonic() + STARTS_WITHIN_S
    while time.monotonic() < end and process.poll() is None:
        with contextlib.suppress(OSError, http.client.HTTPException):
            if _Caller(port, {}).call("GET", "/healthz")[0] == 200:
                return
        time.sleep(0.3)
    raise LaunchError(f"The server did not start: {log.read_text()[-1000:]}")


def _manage(environment: dict[str, str], *arguments: str) -> str:
    command = [sys.executable, "-m", "launcher", "manage", *arguments]
    done = subprocess.run(command, cwd=ROOT, env=environment, capture_output=True, text=True, check=False)
    if done.returncode != 0:
        raise LaunchError(done.stderr[-1000:])
    return done.stdout


COUNT = """
import json, statistics
from kitchen.line.models import Forecast, Reading
took = list(Forecast.objects.values_list("took_ms", flat=True))
print("COUNTED", json.dumps({"readings": Reading.objects.count(), "forecasts": len(took),
    "cooks_with_one": Forecast.objects.values("cook").distinct().count(),
    "median_ms": round(statistics.median(took), 1) if took else None}))
"""


def _count(environment: dict[str, str]) -> dict[str, Any]:
    line = next(line for line in _manage(environment, "shell", "-c", COUNT).splitlines() if line.startswith("COUNTED"))
    return dict(json.loads(line.removeprefix("COUNTED")))


TAKE_OUT = """
from django.utils import timezone
from kitchen.line.models import Cook
Cook.objects.filter(finished_at=None).update(finished_at=timezone.now())
"""


def run(arguments: list[str]) -> int:
    """Measure and print; returns 1 if a limit is missed."""
    parser = argparse.ArgumentParser(prog="./ember bench line", description=__doc__)
    parser.add_argument("--cooks", type=int, default=200)
    parser.add_argument("--kitchens", type=int, default=1)
    parser.add_argument("--probes", type=int, default=4)
    parser.add_argument("--every", type=float, default=5.0, help="seconds between the readings of a probe")
    parser.add_argument("--screens", type=int, default=40)
    parser.add_argument("--seconds", type=float, default=60.0)
    parser.add_argument("--warm-up", type=float, default=60.0, help="seconds before that, which do not count")
    options = parser.parse_args(arguments)
    with tempfile.TemporaryDirectory(prefix="ember-line-") as folder:
        Path(folder).chmod(0o755)
        port = _free_port()
        inherited = {key: value for key, value in os.environ.items() if not key.startswith(("EMBER_", "DJANGO_"))}
        environment = {**inherited, "EMBER_ROOT": str(ROOT), "EMBER_LOCAL": folder}
        log = Path(folder) / "out.log"
        with log.open("wb") as out:
            server = subprocess.Popen(
                [sys.executable, "-m", "launcher", "start", "--no-demo", "--port", str(port)], cwd=ROOT,
                env=environment, stdout=out, stderr=out,
            )  # fmt: skip
        try:
            _wait_for(port, server, log)
            few = ["--kitchens", "1", "--cooks", str(TAP_COOKS), "--names", "tap"]
            first = json.loads(_manage(environment, "load_full_kitchen", *few).splitlines()[-1])
            say(f"{TAPS} taps on a board of {TAP_COOKS} cooks ...")
            taps = _measure_taps(port, first["people"][0], first["password"], TAP_COOKS)
            _manage(environment, "shell", "-c", TAKE_OUT)
            say(f"Filling {options.kitchens} kitchen(s) with {options.cooks} cooks ...")
            options_list = ["--kitchens", str(options.kitchens), "--cooks", str(options.cooks)]
            options_list += ["--probes", str(options.probes), "--every", str(options.every)]
            loaded = json.loads(_manage(environment, "load_full_kitchen", *options_list).splitlines()[-1])
            report = _measure(port, environment, loaded, options) | {"taps": taps}
            words = missed(report)
            print(json.dumps({"line": report | {"missed": words}}))
        finally:
            server.terminate()
            server.wait(60)
    for line in words:
        say(f"Missed: {line}")
    return 1 if words else 0


def _measure(
    port: int, environment: dict[str, str], loaded: dict[str, Any], options: argparse.Namespace
) -> dict[str, Any]:
    cookies = [_sign_in(port, name, loaded["password"]) for name in loaded["people"]]
    before = _count(environment)
    counts_from = time.monotonic() + options.warm_up
    screens, posts = Waits(counts_from), Waits(counts_from)
    until = counts_from + options.seconds
    threads = []
    for i in range(options.screens):
        look = _screen(port, cookies[i % len(cookies)], screens)
        first = SCREEN_EVERY_S * i / options.screens
        threads.append(threading.Thread(target=_every, args=(SCREEN_EVERY_S, first, until, look)))
    for i, device in enumerate(loaded["devices"]):
        send = _device(port, device, posts)
        first = options.every * i / len(loaded["devices"])
        threads.append(threading.Thread(target=_every, args=(options.every, first, until, send)))
    say(f"{options.screens} screens and {len(loaded['devices'])} devices for {options.seconds:.0f} s ...")
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    after = _count(environment)
    sent = options.probes * posts.sent
    return {
        "cooks": options.cooks, "kitchens": options.kitchens, "probes": options.probes, "seconds": options.seconds,
        "screens": screens.told(), "posts": posts.told(),
        "readings": {"sent": sent, "kept": posts.kept, "found": after["readings"] - before["readings"]},
        "forecasts": {
            "made": after["forecasts"] - before["forecasts"], "cooks_with_one": after["cooks_with_one"],
            "median_ms": after["median_ms"], "oldest_s": max((age for _, age in screens.forecast_ages_s), default=None),
            "oldest_by_10_s": screens.oldest_by(10.0),
        },
    }  # fmt: skip


# A tap to its new board ---------------------------------------------------------------------------------------------

TAP_COOKS, TAPS, TAP_SCREENS = 20, 60, 8
TAPS_AFTER_S = 15.0  # all cooks have their first forecast by then: a kitchen does not begin them in one moment
HANDS = re.compile(rb'<form hx-post="(/line/[\w-]+/(?:do|undo)/)".*?</form>', re.S)
FIELD = re.compile(rb'name="(\w+)" value="([^"]*)"')


def _measure_taps(port: int, name: str, password: str, cooks: int) -> dict[str, Any]:
    """Times from a tap (step done or undone) to its new board, while other screens poll."""
    cookies = _sign_in(port, name, password)
    taps, looks = Waits(), Waits()
    until = time.monotonic() + 600.0
    stop = threading.Event()

    def look_on(i: int) -> None:
        look = _screen(port, cookies, looks)
        stop.wait(SCREEN_EVERY_S * i / TAP_SCREENS)
        while not stop.is_set() and time.monotonic() < until:
            look()
            stop.wait(SCREEN_EVERY_S)

    threads = [threading.Thread(target=look_on, args=(i,)) for i in range(TAP_SCREENS)]
    for thread in threads:
        thread.start()
    time.sleep(TAPS_AFTER_S)
    caller = _Caller(port, {"Cookie": cookies, "HX-Request": "true", "Referer": f"http://127.0.0.1:{port}"})
    try:
        for _ in range(TAPS):
            _, _, page = caller.call("GET", "/line/")
            action_form = HANDS.search(page)
            if action_form is None:
                taps.failed.append("no hand on the board")
                continue
            fields = {key.decode(): value.decode() for key, value in FIELD.findall(action_form[0])}
            body = urllib.parse.urlencode(fields).encode()
            began = time.perf_counter()
            status, _, text = caller.call(
                "POST", action_form[1].decode(), body, {"Content-Type": "application/x-www-form-urlencoded"}
            )
            taps.took(began)
            if status != 200 or b'id="board"' not in text:
                taps.failed.append(f"{status}")
    finally:
        stop.set()
        for thread in threads:
            thread.join()
    return {"cooks": cooks, **taps.told(), "screens_beside": looks.told()}


# Limits --------------------------------------------------------------------------------------------------------------

LIMITS_MS = {"taps": 150.0, "screens": 250.0, "posts": 250.0}
OLDEST_FORECAST_S = 30.0


def missed(report: dict[str, Any]) -> list[str]:
    """Missed limits in words; empty if all hold."""
    words = []
    for kind, most in LIMITS_MS.items():
        waits = report.get(kind)
        if waits is None:
            continue
        if waits["failed"]:
            words.append(f"{waits['failed']} {kind} failed: {waits['first_failure']}")
        if waits["requests"] and waits["p95_ms"] > most:
            words.append(f"{kind}: p95 {waits['p95_ms']:g} ms, at most {most:g}")
    if readings := report.get("readings"):
        if not readings["sent"] == readings["kept"] == readings["found"]:
            words.append(f"readings: {readings['sent']} sent, {readings['kept']} kept, {readings['found']} found")
        oldest = report["forecasts"]["oldest_s"]
        if oldest is None:
            words.append("forecasts: some cook has none")
        elif oldest > OLDEST_FORECAST_S:
            words.append(f"forecasts: up to {oldest:g} s old, at most {OLDEST_FORECAST_S:g}")
    return words
