"""`./ember test`: every check, in the order in which a failure is cheapest to read."""

from __future__ import annotations

import subprocess
import sys
import time
from concurrent.futures import ThreadPoolExecutor

from . import packages
from .cluster import Cluster
from .environment import application_environment
from .paths import LOCAL, ROOT, say
from .roles import ADMIN

SUITES = ("core", "web", "browser")
AT_ONCE = 2
# A file to a process: whole files share their fixtures. The browser's tests find the databases of the others there.
TWO = (
    "-n", str(AT_ONCE), "--dist", "loadfile", "--no-loadscope-reorder", "--reuse-db", "--durations=12",
    "--durations-min=5",
)  # fmt: skip

Command = tuple[str, list[str]]


def _python(*arguments: str) -> list[str]:
    return [sys.executable, "-m", *arguments]


def _of_the_source() -> list[Command]:
    """What needs nothing but the source, each on one processor."""
    lint_imports = "import sys; from importlinter.cli import lint_imports_command; sys.exit(lint_imports_command())"
    with_examples = (
        "src/ember",
        "src/kitchen/units/number_text.py",
        "src/kitchen/units/dates.py",
        "src/kitchen/csv_cells.py",
    )
    return [
        ("compiled", _python("ember.warm", "--all", "--without-sections")),  # else the first tests wait for it
        ("sections compiled", _python("ember.warm", "--sections")),
        ("lint", _python("ruff", "check", "src", "tests", "tools")),
        ("format", _python("ruff", "format", "--check", "src", "tests", "tools")),
        ("types", _python("mypy")),
        ("import contract", [sys.executable, "-c", lint_imports]),
        ("nothing unused", [sys.executable, "tools/dead_code.py"]),
        ("known holes", _python("launcher.dependencies")),
        ("migrations", _python("django", "makemigrations", "--check", "--dry-run")),
        ("examples", _python("pytest", "-q", "--doctest-modules", *with_examples)),
    ]


def _of_the_application() -> list[Command]:
    """The tests, each on all processors."""
    return [
        ("tests", _python("pytest", *TWO, "tests/core", "tests/web")),
        ("browser tests", _python("pytest", *TWO, "tests/browser")),
    ]


def _check(command: Command, env: dict[str, str], together: bool) -> bool:
    """Run one; whether it passed. What runs together with others is printed once it has ended."""
    name, words = command
    began = time.monotonic()
    if not together:
        say(f"-- {name}")
    output = {"stdout": subprocess.PIPE, "stderr": subprocess.STDOUT, "text": True} if together else {}
    done = subprocess.run(words, cwd=ROOT, env=env, check=False, **output)  # type: ignore[call-overload]
    if together:
        say(f"-- {name}\n{done.stdout}".rstrip())
    say(f"   {name}: {time.monotonic() - began:.1f} s")
    return bool(done.returncode == 0)


def _check_all(env: dict[str, str]) -> list[str]:
    """Names of those that failed."""
    first, then = _of_the_source(), _of_the_application()
    with ThreadPoolExecutor(AT_ONCE) as pool:
        passed = list(pool.map(lambda command: _check(command, env, together=True), first))
    passed += [_check(command, env, together=False) for command in then]
    return [name for (name, _), good in zip(first + then, passed, strict=True) if not good]


def run(arguments: list[str]) -> int:
    """Run the checks, on a database of their own; returns the exit code."""
    packages.ensure(packages.FOR_SERVING | packages.FOR_TESTS)
    cluster = Cluster(LOCAL / "test-db", is_lasting=False)
    started = cluster.start()
    began = time.monotonic()
    try:
        # The tests make and drop databases, and forge records as only an administrator could.
        env = application_environment(cluster, ADMIN) | {"DJANGO_SETTINGS_MODULE": "kitchen.settings.test"}
        if arguments:
            suites = [f"tests/{name}" for name in arguments if name in SUITES]
            rest = [argument for argument in arguments if argument not in SUITES]
            failed = [] if _check(("tests", _python("pytest", *suites, *rest)), env, together=False) else ["tests"]
        else:
            failed = _check_all(env)
    finally:
        if started:
            cluster.stop()
    say(f"All checks took {time.monotonic() - began:.0f} s." + (f" Failed: {', '.join(failed)}." if failed else ""))
    return 1 if failed else 0
