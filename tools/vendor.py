"""Fetch the front-end packages from the npm registry into src/kitchen/static/vendor, with versions and licences.

Run it to change a version: `.venv/bin/python tools/vendor.py`. What it writes is committed; nothing is fetched at run
time.
"""

from __future__ import annotations

import json
import shutil
import subprocess
import tarfile
import tempfile
from pathlib import Path

VENDOR = Path(__file__).resolve().parents[1] / "src" / "kitchen" / "static" / "vendor"
TESTS = Path(__file__).resolve().parents[1] / "tests" / "browser" / "vendor"

# package, version, {file in the package: name here}
PACKAGES = [
    ("htmx.org", "2.0.11", {"dist/htmx.min.js": "htmx.min.js"}),
    ("idiomorph", "0.8.0", {"dist/idiomorph-ext.min.js": "idiomorph-ext.min.js"}),
    ("bootstrap", "5.3.9", {"dist/css/bootstrap.min.css": "bootstrap.min.css"}),
    (
        "@fontsource-variable/atkinson-hyperlegible-next",
        "5.3.0",
        {"files/atkinson-hyperlegible-next-latin-wght-normal.woff2": "atkinson-hyperlegible-next.woff2"},
    ),
]
TEST_PACKAGES = [("axe-core", "4.14.1", {"axe.min.js": "axe.min.js"})]


def fetch(package: str, version: str, files: dict[str, str], to: Path) -> dict[str, str]:
    """Unpack the wanted files of one package; returns its name, version and licence."""
    with tempfile.TemporaryDirectory() as folder:
        packed = subprocess.run(
            ["npm", "pack", "--silent", f"{package}@{version}"], cwd=folder, check=True, capture_output=True, text=True
        )
        with tarfile.open(Path(folder) / packed.stdout.strip().splitlines()[-1]) as archive:
            about = json.load(archive.extractfile("package/package.json"))  # type: ignore[arg-type]
            for inside, name in files.items():
                source = archive.extractfile(f"package/{inside}")
                if source is None:
                    raise SystemExit(f"{package} has no file {inside}")
                text = source.read()
                # A fingerprinting storage would look for the source maps, which are not shipped.
                lines = [line for line in text.split(b"\n") if b"sourceMappingURL" not in line]
                (to / name).write_bytes(text if name.endswith("woff2") else b"\n".join(lines))
    return {"package": package, "version": about["version"], "licence": about["license"]}


def main() -> None:
    """Write all packages and the list of them."""
    for folder, packages in ((VENDOR, PACKAGES), (TESTS, TEST_PACKAGES)):
        shutil.rmtree(folder, ignore_errors=True)
        folder.mkdir(parents=True)
        found = [fetch(*row, folder) for row in packages]
        rows = "\n".join(f"| {r['package']} | {r['version']} | {r['licence']} |" for r in found)
        head = "Front-end packages, written by tools/vendor.py.\n\n| package | version | licence |\n|---|---|---|"
        (folder / "README.md").write_text(f"{head}\n{rows}\n")
        print(rows)


if __name__ == "__main__":
    main()
