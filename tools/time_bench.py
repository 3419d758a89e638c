"""How long the plan bench takes to answer a change, at a running demonstration: median, 95th percentile, slowest, ms.

.venv/bin/python tools/time_bench.py "Short rib" s3-water_c 81
"""

from __future__ import annotations

import argparse
import html
import http.cookiejar
import re
import time
import urllib.parse
import urllib.request
from html.parser import HTMLParser

STEPS = 17  # other values of the field, so that none is answered twice in a row
STEP = 0.1


class BenchForm(HTMLParser):
    """What a browser would post for the form with id "bench"."""

    def __init__(self) -> None:
        super().__init__()
        self.values: dict[str, str] = {}
        self.inside = False
        self.select = self.area = ""

    def handle_starttag(self, tag: str, attrs: list[tuple[str, str | None]]) -> None:
        found = {key: value if value is not None else "" for key, value in attrs}
        if tag == "form":
            self.inside = found.get("id") == "bench"
        if not self.inside:
            return
        name = found.get("name", "")
        if tag == "input" and name and (found.get("type") != "checkbox" or "checked" in found):
            self.values[name] = found.get("value", "")
        elif tag == "select":
            self.select = name
        elif tag == "option" and self.select and ("selected" in found or self.select not in self.values):
            self.values[self.select] = found.get("value", "")
        elif tag == "textarea":
            self.area = name

    def handle_endtag(self, tag: str) -> None:
        if tag == "form":
            self.inside = False
        elif tag == "select":
            self.select = ""
        elif tag == "textarea":
            self.area = ""

    def handle_data(self, data: str) -> None:
        if self.area:
            self.values[self.area] = self.values.get(self.area, "") + data


def main() -> None:
    """Sign in, open the plan, change one field again and again."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("plan", help="how its name begins")
    parser.add_argument("field", help="the field that is changed, as the bench posts it")
    parser.add_argument("value", type=float, help="its lowest value")
    parser.add_argument("--times", type=int, default=60)
    parser.add_argument("--url", default="http://127.0.0.1:8000")
    parser.add_argument("--name", default="runa")
    parser.add_argument("--password", default="galley-demo-7")
    options = parser.parse_args()
    jar = http.cookiejar.CookieJar()
    browser = urllib.request.build_opener(urllib.request.HTTPCookieProcessor(jar))

    def ask(path: str, values: dict[str, str] | None = None) -> str:
        body = None if values is None else urllib.parse.urlencode(values).encode()
        request = urllib.request.Request(options.url + path, body, {"Referer": options.url, "HX-Request": "true"})  # noqa: S310
        with browser.open(request) as response:
            return str(response.read().decode())

    def token(page: str) -> str:
        found = re.search(r'name="csrfmiddlewaretoken" value="(\w+)"', page)
        return found[1] if found else ""

    door = {"username": options.name, "password": options.password, "csrfmiddlewaretoken": token(ask("/sign-in/"))}
    ask("/sign-in/", door)
    links = re.findall(r'class="plan-name"><a href="([^"]+)">([^<]+)</a>', ask("/plans/"))
    path = next(path for path, name in links if html.unescape(name).startswith(options.plan))
    form = BenchForm()
    form.feed(ask(path))
    taken = []
    for i in range(options.times + STEPS):  # the first round warms up
        changed = {**form.values, options.field: f"{options.value + STEP * (i % STEPS):.1f}"}
        begin = time.perf_counter()
        answer = ask("/plans/bench/", changed)
        taken.append(1e3 * (time.perf_counter() - begin))
        if 'id="plan-chart"' not in answer:
            raise SystemExit("the bench did not draw: is the field right?")
    taken = sorted(taken[STEPS:])
    print(
        f"{options.plan}: median {taken[len(taken) // 2]:.0f} ms, 95 % within {taken[int(0.95 * len(taken))]:.0f} ms, "
        f"slowest {taken[-1]:.0f} ms"
    )


if __name__ == "__main__":
    main()
