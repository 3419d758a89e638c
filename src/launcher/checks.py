"""`./ember test`: every check, in the order in which a failure is cheapest to read."""

from __future__ import annotations

import subprocess
import sys
import time

from . import packages
from .cluster import Cluster
from .environment import application_environment
from .paths import LOCAL, ROOT, say

SUITES = ("core", "web", "browser")
TWO = ("-n", "2", "--dist", "loadfile")  # a file to a process: whole files share their fixtures


def _commands(arguments: list[str]) -> list[tuple[str, list[str]]]:
    python = [sys.executable, "-m"]
    if arguments:
        suites = [f"tests/{name}" for name in arguments if name in SUITES]
        rest = [argument for argument in arguments if argument not in SUITES]
        return [("tests", [*python, "pytest", *suites, *rest])]
    lint_imports = "import sys; from importlinter.cli import lint_imports_command; sys.exit(lint_imports_command())"
    return [
        ("lint", [*python, "ruff", "check", "src", "tests", "tools"]),
        ("format", [*python, "ruff", "format", "--check", "src", "tests", "tools"]),
        ("types", [*python, "mypy"]),
        ("import contract", [sys.executable, "-c", lint_imports]),
        ("nothing unused", [sys.executable, "tools/dead_code.py"]),
        ("migrations", [*python, "django", "makemigrations", "--check", "--dry-run"]),
        (
            "examples",
            [
                *python,
                "pytest",
                "-q",
                "--doctest-modules",
                "src/ember",
                "src/kitchen/units/number_text.py",
                "src/kitchen/units/dates.py",
            ],
        ),
        ("tests", [*python, "pytest", *TWO, "tests/core", "tests/web"]),
        ("browser tests", [*python, "pytest", *TWO, "--no-loadscope-reorder", "tests/browser"]),
    ]


def run(arguments: list[str]) -> int:
    """Run the checks, on a database of their own; returns the exit code."""
    packages.ensure(packages.FOR_SERVING | packages.FOR_TESTS)
    cluster = Cluster(LOCAL / "test-db", is_lasting=False)
    started = cluster.start()
    failed = []
    began = time.monotonic()
    try:
        env = application_environment(cluster) | {"DJANGO_SETTINGS_MODULE": "kitchen.settings.test"}
        for name, command in _commands(arguments):
            say(f"-- {name}")
            step = time.monotonic()
            if subprocess.run(command, cwd=ROOT, env=env, check=False).returncode != 0:
                failed.append(name)
            say(f"   {name}: {time.monotonic() - step:.1f} s")
    finally:
        if started:
            cluster.stop()
    say(f"All checks took {time.monotonic() - began:.0f} s." + (f" Failed: {', '.join(failed)}." if failed else ""))
    return 1 if failed else 0
