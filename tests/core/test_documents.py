"""The documents name only files that are there."""

from __future__ import annotations

import re
from pathlib import Path

import pytest

ROOT = Path(__file__).resolve().parents[2]
NAMED = re.compile(r"`([\w/.-]+/[\w.-]+\.(?:py|js|css|toml|html|md|json))`")


def files() -> set[str]:
    """Every file of the checkout, from its root."""
    folders = [ROOT / name for name in ("src", "tests", "tools", "docs")]
    return {str(path.relative_to(ROOT)) for folder in folders for path in folder.rglob("*") if path.is_file()}


@pytest.mark.parametrize("page", ["CONTRIBUTING.md", "README.md", "docs/science.md", "docs/standards.md"])
def test_every_file_a_document_names_is_there(page):
    there = files()
    named = set(NAMED.findall((ROOT / page).read_text("utf-8")))
    missing = {name for name in named if not any(path == name or path.endswith(f"/{name}") for path in there)}
    assert not missing


def test_the_map_names_every_package():
    """The table of contents of CONTRIBUTING has a line for each package of the core and each app of the web."""
    page = (ROOT / "CONTRIBUTING.md").read_text("utf-8")
    contents = page.split("## Where things are")[1].split("## ")[0]
    for parent in ("ember", "kitchen"):
        for folder in sorted((ROOT / "src" / parent).iterdir()):
            is_package = folder.is_dir() and any(folder.rglob("*.py")) and folder.name not in ("settings", "data")
            if is_package and not folder.name.startswith("_"):
                assert f"{folder.name}/" in contents, folder


def test_a_template_tag_stands_on_one_line():
    """Django takes one that goes on in the next line for text, and shows it."""
    broken = [
        f"{page}:{n}"
        for page in sorted((ROOT / "src" / "kitchen" / "templates").rglob("*.html"))
        for n, line in enumerate(page.read_text("utf-8").splitlines(), 1)
        if line.count("{%") != line.count("%}") or line.count("{{") != line.count("}}")
    ]
    assert not broken


def test_lines_of_templates_can_be_read():
    """140 characters: what fits beside a diff."""
    pages = sorted((ROOT / "src" / "kitchen" / "templates").rglob("*.html"))
    long = [
        f"{page}:{n}"
        for page in pages
        for n, line in enumerate(page.read_text("utf-8").splitlines(), 1)
        if len(line) > 140
    ]
    assert not long
