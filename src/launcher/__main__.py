"""Dispatch of `./ember VERB` for everything but the core's own verbs."""

from __future__ import annotations

import argparse
import subprocess
import sys
from pathlib import Path

from . import checks, install, load, packages, roles, serve, standby, upgrade
from .cluster import Cluster
from .environment import application_environment
from .paths import ROOT, LaunchError, say

# Commands that change the structure, or take away what stands for everybody else.
OF_THE_OWNER = ("migrate", "grant", "maintain", "load_demo", "load_full_kitchen", "bench_book", "flush", "sqlflush")

HELP = """Open Ember

  ./ember start [--port N] [--no-demo]   set up and serve on 127.0.0.1:8000
  ./ember stop                           stop the server and its database
  ./ember test [core|web|browser] [...]  run every check, or one suite with pytest's arguments
  ./ember setup                          install what is missing and compile, then leave
  ./ember backup [FILE]                  everything into one file, while people work; encrypted where
                                         EMBER_BACKUP_PASSPHRASE is set
  ./ember backup --verify FILE           restore a backup beside, and compare
  ./ember restore FILE                   restore a backup into an empty place
  ./ember upgrade                        back up, migrate, check; or back to what was there
  ./ember install [--host NAME]          a galley box: units of systemd, nginx with TLS, Debian's PostgreSQL
  ./ember standby --primary HOST --data DIR
                                         on a standby's host: make it the primary when the primary is gone
  ./ember manage ...                     Django's management commands
  ./ember probe [--speed N] ...          the simulated probe, for demonstrations

  ./ember bench                          how fast and how exact the core is here, as JSON
  ./ember bench track                    how well the estimator predicts simulated cooks
  ./ember bench line                     what a full kitchen has to wait for its screens
  ./ember bench learn                    whether what is learned of 100 simulated kitchens is true
  ./ember bench face                     how well photographs of made-up cut faces are read
  ./ember bench book                     what the pages of 20,000 cooks and a million readings take
  ./ember simulate|solve|judge|track|egg|brine|chill|schedule FILE
                                         the core on a JSON file (or -), JSON out; --lines: one a line
  ./ember face PHOTO --mm N [--cut ID]   the bands of a photographed cut face, JSON out
  ./ember schema NAME                    the JSON Schema of a format
"""


def _restore(arguments: list[str]) -> int:
    parser = argparse.ArgumentParser(prog="./ember restore")
    parser.add_argument("file", type=Path)
    backup = parser.parse_args(arguments).file
    packages.ensure(packages.FOR_SERVING)
    cluster = Cluster()
    started = cluster.start()
    try:
        upgrade.restore(cluster, backup)
    finally:
        if started:
            cluster.stop()
    return 0


def _django(*arguments: str, role: str | None = None) -> int:
    """One of Django's commands, as the application's own role, or the owner's where it changes the structure."""
    packages.ensure(packages.FOR_SERVING)
    role = role or (roles.OWNER if arguments[:1] and arguments[0] in OF_THE_OWNER else roles.APP)
    cluster = Cluster()
    started = cluster.start()
    try:
        command = [sys.executable, "-m", "django", *arguments]
        return subprocess.run(command, env=application_environment(cluster, role), cwd=ROOT, check=False).returncode
    finally:
        if started:
            cluster.stop()


def _setup() -> int:
    packages.ensure(packages.FOR_SERVING | packages.FOR_TESTS)
    cluster = Cluster()
    cluster.create()
    subprocess.run([sys.executable, "-m", "ember.warm", "--all"], cwd=ROOT, check=True)
    say("Ready: ./ember start")
    return 0


def main(arguments: list[str]) -> int:
    """Run one verb; returns the exit code."""
    verb, rest = (arguments[0], arguments[1:]) if arguments else ("help", [])
    match verb:
        case "start":
            parser = argparse.ArgumentParser(prog="./ember start")
            parser.add_argument("--port", type=int, default=8000)
            parser.add_argument("--no-demo", action="store_true")
            options = parser.parse_args(rest)
            serve.start(options.port, not options.no_demo)
            return 0
        case "stop":
            serve.stop()
            return 0
        case "test":
            return checks.run(rest)
        case "setup":
            return _setup()
        case "manage":
            return _django(*rest)
        case "backup":
            return _django("backup", *rest, role=roles.ADMIN)
        case "restore":
            return _restore(rest)
        case "install":
            install.install(rest)
            return 0
        case "standby":
            standby.run(rest)
            return 0
        case "upgrade":
            packages.ensure(packages.FOR_SERVING)
            upgrade.upgrade()
            return 0
        case "bench-line":
            return load.run(rest)
        case "probe":
            command = [sys.executable, "-m", "kitchen.demo.simulated_probe", *rest]
            return subprocess.run(command, cwd=ROOT, check=False).returncode
        case "help" | "--help" | "-h":
            print(HELP)
            return 0
        case _:
            print(HELP, file=sys.stderr)
            say(f"Unknown verb: {verb}")
            return 2


if __name__ == "__main__":
    try:
        sys.exit(main(sys.argv[1:]))
    except LaunchError as error:
        say(str(error))
        sys.exit(1)
    except KeyboardInterrupt:
        sys.exit(130)
