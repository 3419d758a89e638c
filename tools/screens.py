"""Take the pictures in docs/screenshots/ (or elsewhere) from a running demonstration.

.venv/bin/python tools/screens.py --to docs/screenshots plans=/plans/ line@820x1180=/line/
"""

from __future__ import annotations

import argparse
import sys
from pathlib import Path

sys.path.insert(0, str(Path(__file__).resolve().parents[1] / "tests"))

from browser.chromium import Browser


def main() -> None:
    """Sign in, open each path at its size, save a PNG."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("shots", nargs="+", metavar="NAME[@WxH]=PATH")
    parser.add_argument("--to", type=Path, default=Path("docs/screenshots"))
    parser.add_argument("--url", default="http://127.0.0.1:8000")
    parser.add_argument("--name", default="runa")
    parser.add_argument("--password", default="galley-demo-7")
    parser.add_argument("--full", action="store_true", help="the whole page, not one screenful")
    options = parser.parse_args()
    options.to.mkdir(parents=True, exist_ok=True)
    with Browser() as browser:
        if options.name:
            browser.sign_in(options.url, options.name, options.password)
        for shot in options.shots:
            head, _, path = shot.partition("=")
            name, _, size = head.partition("@")
            width, height = (int(v) for v in (size or "1280x800").split("x"))
            browser.size(width, height)
            browser.open(options.url + path)
            browser.settle()
            browser.png(options.to / f"{name}.png", full=options.full)
            for line in browser.console():
                print(f"{name}: {line}")


if __name__ == "__main__":
    main()
