"""What the trial of a group sends and looks at: devices that keep what was not acknowledged, and a screen a kitchen."""

from __future__ import annotations

import bisect
import datetime as dt
import http.client
import json
import random
import re
import ssl
import threading
import time
import urllib.parse
from itertools import pairwise
from pathlib import Path
from typing import Any

Where = tuple[str, int, str, Path]  # address, port, name, certificate
FORECAST_AGE = re.compile(rb'data-oldest-forecast-s="(\d+)"')
THREADS, LOOK_EVERY_S, PATIENCE_S = 16, 5.0, 8.0
MOST_AT_ONCE = 200


class Caller:
    """A persistent connection; a call that fails raises OSError or HTTPException, and the next connects anew."""

    def __init__(self, where: Where, headers: dict[str, str]) -> None:
        address, port, name, cert = where
        context = ssl.create_default_context(cafile=str(cert))
        context.check_hostname = False  # by address; the certificate is checked
        self.headers = {**headers, "Host": name}
        self.connection = http.client.HTTPSConnection(address, port, timeout=PATIENCE_S, context=context)

    def call(self, method: str, path: str, body: bytes | None = None, **more: str) -> tuple[int, Any, bytes]:
        try:
            self.connection.request(method, path, body, {**self.headers, **more})
            answer = self.connection.getresponse()
            return answer.status, answer.headers, answer.read()
        except (OSError, http.client.HTTPException):
            self.connection.close()
            raise


def sign_in(where: Where, name: str, password: str) -> str:
    """The cookies of a signed-in person."""
    caller = Caller(where, {})
    _, headers, page = caller.call("GET", "/sign-in/")
    token = re.search(rb'name="csrfmiddlewaretoken" value="(\w+)"', page)
    if token is None:
        raise OSError("the sign-in page has no form")
    cookies = "; ".join(value.split(";")[0] for value in headers.get_all("Set-Cookie"))
    form = urllib.parse.urlencode({"username": name, "password": password, "csrfmiddlewaretoken": token[1].decode()})
    sent = {"Cookie": cookies, "Content-Type": "application/x-www-form-urlencoded", "Referer": f"https://{where[2]}/"}
    status, headers, _ = caller.call("POST", "/sign-in/", form.encode(), **sent)
    if status != 302:
        raise OSError(f"could not sign in: {status}")
    return "; ".join(value.split(";")[0] for value in headers.get_all("Set-Cookie"))


def heard_elsewhere_s(name: str, here: tuple[str, int], there: tuple[str, int], cookies: str) -> float:
    """How long after a reading was typed at one web host another one's board shows it, s; infinite after ten."""
    proxied = {"Host": name, "X-Forwarded-Proto": "https", "Cookie": cookies}

    def call(where: tuple[str, int], method: str, path: str, body: str = "", **more: str) -> tuple[int, str]:
        connection = http.client.HTTPConnection(*where, timeout=PATIENCE_S)
        connection.request(method, path, body, {**proxied, **more})
        answer = connection.getresponse()
        return answer.status, answer.read().decode()

    _, page = call(here, "GET", "/line/?all=1")
    token = re.search(r'name="csrfmiddlewaretoken" value="(\w+)"', page)
    cook = re.search(r"/line/([0-9a-f-]{36})/", page)
    if token is None or cook is None:
        raise OSError("the line shows no cook")
    call(there, "GET", "/line/?all=1", **{"HX-Request": "true"})  # it has a board of its own in mind now
    form = urllib.parse.urlencode({"celsius": "61.7", "csrfmiddlewaretoken": token[1]})
    sent = {"Content-Type": "application/x-www-form-urlencoded", "Referer": f"https://{name}/line/"}
    began = time.monotonic()
    status, said = call(here, "POST", f"/line/{cook[1]}/reading/", form, **sent)
    if status not in (200, 302):
        raise OSError(f"the reading was not taken: {status} {said[:200]}")
    while time.monotonic() - began < 10.0:
        if "61.7" in call(there, "GET", "/line/?all=1", **{"HX-Request": "true"})[1]:
            return time.monotonic() - began
        time.sleep(0.05)
    return float("inf")


class Device:
    """A probe that keeps its readings until the server says that it has them."""

    def __init__(self, where: Where, row: dict[str, Any]) -> None:
        self.row, self.number, self.acknowledged = row, 0, 0
        self.kept: list[dict[str, Any]] = []
        self.caller = Caller(where, {"Authorization": f"Bearer {row['token']}", "Content-Type": "application/json"})
        self.started = dt.datetime.fromisoformat(row["started_at"])

    def read(self) -> None:
        now = dt.datetime.now(dt.UTC)
        row, s = self.row, (now - self.started).total_seconds() * self.row["pace"]
        i = min(max(bisect.bisect(row["t_s"], s), 1), len(row["t_s"]) - 1)
        a, b = row["t_s"][i - 1], row["t_s"][i]
        share = min(max((s - a) / (b - a), 0.0), 1.0) if b > a else 1.0
        shown = row["reading_c"][i - 1] * (1 - share) + row["reading_c"][i] * share
        self.number += 1
        celsius = round(shown + random.gauss(0, 0.2), 2)
        self.kept.append({"probe": row["probes"][0], "at": now.isoformat(), "celsius": celsius, "n": self.number})

    def send(self) -> None:
        """Send what is kept; what was acknowledged is dropped."""
        some = self.kept[:MOST_AT_ONCE]
        if not some:
            return
        body = {"boot": "trial", "sent_at": dt.datetime.now(dt.UTC).isoformat(), "readings": some}
        try:
            status, _, text = self.caller.call("POST", "/api/v1/readings", json.dumps(body).encode())
        except (OSError, http.client.HTTPException):
            return
        if status == 200:
            answer = json.loads(text)
            if answer["kept"] + answer["repeated"] != len(some):
                raise RuntimeError(f"not all of a post was kept: {answer}")
            self.acknowledged += len(some)
            del self.kept[: len(some)]


class Devices:
    """All devices, in a few threads."""

    def __init__(self, where: Where, rows: list[dict[str, Any]], every_s: float) -> None:
        self.devices, self.every_s, self.ends = [Device(where, row) for row in rows], every_s, threading.Event()
        self.threads = [
            threading.Thread(target=self._post, args=(self.devices[k::THREADS],), daemon=True) for k in range(THREADS)
        ]

    def start(self) -> None:
        for thread in self.threads:
            thread.start()

    def stop(self) -> None:
        self.ends.set()
        for thread in self.threads:
            thread.join(120)

    def _post(self, mine: list[Device]) -> None:
        while not self.ends.is_set():
            due = time.monotonic() + self.every_s
            for device in mine:
                device.read()
            for device in mine:
                device.send()
                self.ends.wait(max(self.every_s / len(mine) / 2, 0.0))
            self.ends.wait(max(due - time.monotonic(), 0.0))

    @property
    def acknowledged(self) -> int:
        """Readings that the server said it has."""
        return sum(device.acknowledged for device in self.devices)

    @property
    def waiting(self) -> int:
        """Readings that were not acknowledged yet."""
        return sum(len(device.kept) for device in self.devices)

    def flush(self) -> bool:
        """Send what waits; whether nothing does any more."""
        for device in self.devices:
            device.send()
        return self.waiting == 0


class Screens:
    """A screen a kitchen that looks at the line."""

    def __init__(self, where: Where, cookies: list[str]) -> None:
        self.callers = [Caller(where, {"Cookie": cookie, "HX-Request": "true"}) for cookie in cookies]
        self.seen: list[list[float]] = [[] for _ in cookies]
        self.ages = [0.0 for _ in cookies]
        self.ends = threading.Event()

    def start(self) -> None:
        for number in range(len(self.callers)):
            threading.Thread(target=self._look, args=(number,), daemon=True).start()

    def stop(self) -> None:
        self.ends.set()

    def _look(self, number: int) -> None:
        self.ends.wait(LOOK_EVERY_S * number / len(self.callers))
        while not self.ends.is_set():
            try:
                status, _, text = self.callers[number].call("GET", "/line/")
            except (OSError, http.client.HTTPException):
                status, text = 0, b""
            if status == 200 and b'id="board"' in text:
                self.seen[number].append(time.monotonic())
                if found := FORECAST_AGE.search(text):
                    self.ages[number] = float(found[1])
            self.ends.wait(LOOK_EVERY_S if status == 200 else 1.0)

    def away_s(self, began: float, ended: float) -> list[float]:
        """For each kitchen the longest time between two looks that were answered, beyond the usual, s."""
        longest = []
        for seen in self.seen:
            inside = [at for at in seen if began <= at <= ended]
            times = [began, *inside, ended]
            longest.append(max(b - a for a, b in pairwise(times)) - LOOK_EVERY_S)
        return [max(s, 0.0) for s in longest]

    def oldest_forecast_s(self) -> float:
        """The oldest forecast that a screen showed last, s."""
        return max(self.ages)
