"""Try size (c) of docs/operations.md on this machine: hosts in network namespaces, and what is lost when they die.

Two web hosts, two worker hosts, a primary with its standby, nginx in front; 40 kitchens with ten cooks each by probes.
A web host, a worker host, then the primary are killed without a word. Needs root. Prints a table; exits with 1 if a
reading that was acknowledged is not there, or the line does not come back.
"""

from __future__ import annotations

import argparse
import json
import os
import shlex
import shutil
import subprocess
import sys
import tempfile
import threading
import time
from dataclasses import dataclass, field
from http.client import HTTPException
from pathlib import Path
from typing import Any

from group_load import Devices, Screens, heard_elsewhere_s, sign_in
from try_operations import Failed, free_port, run, say

ROOT = Path(__file__).resolve().parents[1]
sys.path.insert(0, str(ROOT / "src"))
from launcher.paths import LaunchError  # noqa: E402

BRIDGE, EDGE = "ember-br", "10.77.0.1"
HOSTS = {
    "db1": "10.77.0.11", "db2": "10.77.0.12", "web1": "10.77.0.21", "web2": "10.77.0.22", "work1": "10.77.0.31",
    "work2": "10.77.0.32",
}  # fmt: skip
NAME, PORT, WEB_PORT = "group.test", 5432, 8000
USER = "root"  # that units run under their own user is tried by try_operations.py
PG = Path("/usr/lib/postgresql/15/bin")
PROMOTED_AFTER_S, SHOWN_WITHIN_S = 5.0, 2.0
DATABASE_CONF = """
listen_addresses = '{address}'
port = 5432
unix_socket_directories = ''
wal_level = replica
max_wal_senders = 8
wal_keep_size = 512MB
hot_standby = on
max_connections = 200
shared_buffers = 256MB
ssl = on
ssl_cert_file = '{tls}/cert.pem'
ssl_key_file = '{tls}/key.pem'
"""
ACCESS = "hostssl all all 10.77.0.0/24 scram-sha-256\nhostssl replication all 10.77.0.0/24 scram-sha-256\n"


class Network:
    """The hosts: a namespace each, on one bridge; nginx stands on the bridge itself."""

    def __enter__(self) -> Network:
        self._take_down()
        run("ip", "link", "add", BRIDGE, "type", "bridge")
        run("ip", "addr", "add", f"{EDGE}/24", "dev", BRIDGE)
        run("ip", "link", "set", BRIDGE, "up")
        for host, address in HOSTS.items():
            space = f"ember-{host}"
            run("ip", "netns", "add", space)
            run("ip", "link", "add", f"ve-{host}", "type", "veth", "peer", "name", "eth0", "netns", space)
            run("ip", "link", "set", f"ve-{host}", "master", BRIDGE, "up")
            run("ip", "-n", space, "addr", "add", f"{address}/24", "dev", "eth0")
            run("ip", "-n", space, "link", "set", "eth0", "up")
            run("ip", "-n", space, "link", "set", "lo", "up")
        return self

    def __exit__(self, *_: object) -> None:
        self._take_down()

    def _take_down(self) -> None:
        for host in HOSTS:
            if Path(f"/run/netns/ember-{host}").exists():
                self._kill_all(host)
                subprocess.run(["ip", "netns", "del", f"ember-{host}"], check=False)
            subprocess.run(["ip", "link", "del", f"ve-{host}"], stderr=subprocess.DEVNULL, check=False)
        subprocess.run(["ip", "link", "del", BRIDGE], stderr=subprocess.DEVNULL, check=False)

    @staticmethod
    def _kill_all(host: str) -> None:
        pids = subprocess.run(["ip", "netns", "pids", f"ember-{host}"], capture_output=True, text=True, check=False)
        for pid in pids.stdout.split():
            subprocess.run(["kill", "-9", pid], check=False, stderr=subprocess.DEVNULL)

    def pull_the_plug(self, host: str) -> None:
        """The host is gone at once: nothing answers any more, nobody says goodbye."""
        run("ip", "link", "set", f"ve-{host}", "down")
        self._kill_all(host)


class Unit(threading.Thread):
    """A process on a host, started again when it ends, as systemd does; while its host is there."""

    def __init__(self, host: str, user: str, words: list[str], env: dict[str, str], log: Path) -> None:
        super().__init__(daemon=True)
        self.host, self.user, self.words, self.env, self.log = host, user, words, env, log
        self.is_over, self.starts = False, 0
        self.process: subprocess.Popen[bytes] | None = None

    def run(self) -> None:
        command = [
            "ip", "netns", "exec", f"ember-{self.host}", "setpriv", f"--reuid={self.user}", f"--regid={self.user}",
            "--clear-groups", *self.words,
        ]  # fmt: skip
        while not self.is_over:
            self.starts += 1
            with self.log.open("ab") as log:
                self.process = subprocess.Popen(command, env=self.env, stdout=log, stderr=log, cwd=ROOT)
            self.process.wait()
            time.sleep(2)

    def end(self) -> None:
        self.is_over = True
        if self.process is not None:
            self.process.terminate()  # what is to die without a word is killed by Network


@dataclass
class Group:
    """Everything that runs."""

    folder: Path
    units: dict[str, list[Unit]] = field(default_factory=dict)
    passwords: dict[str, str] = field(default_factory=dict)
    https: int = field(default_factory=free_port)

    def start(self, host: str, user: str, words: list[str], **env: str) -> None:
        unit = Unit(host, user, words, {"PATH": "/usr/bin:/bin", "HOME": "/", **env}, self.folder / f"{host}.log")
        self.units.setdefault(host, []).append(unit)
        unit.start()

    def forget(self, host: str) -> None:
        for unit in self.units.pop(host, []):
            unit.end()

    def ask(self, sql: str, database: str = "ember", host: str = "db1") -> str:
        from launcher import psql, roles

        where = f"postgres://{roles.ADMIN}:{self.passwords[roles.ADMIN]}@{HOSTS[host]}:{PORT}/{database}"
        return psql.run(sql, ["-d", where])

    def env(self, role: str, host: str) -> dict[str, str]:
        """Settings of a host: the same but for its own folder."""
        state = self.folder / host
        return {
            "EMBER_ROOT": str(ROOT), "EMBER_LOCAL": str(state), "PYTHONPATH": str(ROOT / "src"),
            "NUMBA_CACHE_DIR": os.environ.get("NUMBA_CACHE_DIR", str(ROOT / ".local/numba")),
            "DJANGO_SETTINGS_MODULE": "kitchen.settings.production", "EMBER_SECRET_KEY": "a trial's own " * 4,
            "EMBER_HOSTS": f"{NAME},{HOSTS.get(host, EDGE)}", "EMBER_PROXIES": EDGE, "EMBER_DB_STANDBY": "1",
            "EMBER_BIND": f"{HOSTS.get(host, EDGE)}:{WEB_PORT}", "EMBER_WEB_PROCESSES": "2", "EMBER_WEB_THREADS": "12",
            "DATABASE_URL": f"postgres://{role}:{self.passwords[role]}@{HOSTS['db1']},{HOSTS['db2']}/ember"
            f"?sslmode=verify-full&sslrootcert={self.folder}/pg/etc/ember/tls/cert.pem",
        }  # fmt: skip

    def manage(self, role: str, *arguments: str) -> str:
        env = {**os.environ, **self.env(role, "edge"), "EMBER_DB_PATIENT": "1"}
        return run(sys.executable, "-m", "django", *arguments, env=env)


def as_postgres(*command: str, **env: str) -> None:
    run(
        "setpriv",
        "--reuid=postgres",
        "--regid=postgres",
        "--clear-groups",
        *command,
        env={**os.environ, "HOME": "/", **env},
    )


def until(holds: Any, what: str, seconds: float = 60.0) -> float:
    began, last = time.monotonic(), ""
    while time.monotonic() - began < seconds:
        try:
            if holds():
                return time.monotonic() - began
        except (LaunchError, OSError, HTTPException) as error:
            last = str(error)
        time.sleep(0.2)
    raise Failed(f"{what}: not within {seconds:.0f} s. {last}")


def start_databases(group: Group) -> None:
    """A primary, its standby, and commits that wait for the standby."""
    from launcher import install, roles

    for role in (roles.ADMIN, roles.OWNER, roles.APP, roles.READER):
        group.passwords[role] = f"trial-{role}"
    databases = group.folder / "pg"
    databases.mkdir()
    shutil.chown(databases, "postgres", "postgres")
    addresses = (HOSTS["db1"], HOSTS["db2"])
    install.make_certificate(install.Place(databases, USER, addresses, WEB_PORT, 0, 0))
    tls = databases / "etc/ember/tls"
    shutil.chown(tls / "key.pem", "postgres", "postgres")
    secret = databases / "secret"
    secret.write_text(group.passwords[roles.ADMIN])
    one, two = databases / "db1", databases / "db2"
    as_postgres(
        str(PG / "initdb"), "-D", str(one), "-U", roles.ADMIN, "-A", "scram-sha-256", "--pwfile", str(secret), "-k"
    )
    with (one / "postgresql.conf").open("a") as conf:
        conf.write(DATABASE_CONF.format(address=HOSTS["db1"], tls=tls))
    with (one / "pg_hba.conf").open("a") as access:
        access.write(ACCESS)
    group.start("db1", "postgres", [str(PG / "postgres"), "-D", str(one)])
    until(lambda: group.ask("SELECT 1", "postgres"), "the primary answers")
    roles.set_up(lambda sql, database: group.ask(sql, database), "ember", group.passwords)
    group.manage(roles.OWNER, "migrate", "--no-input", "--verbosity=0")
    group.manage(roles.OWNER, "grant")
    as_postgres(
        str(PG / "pg_basebackup"), "-D", str(two), "-X", "stream", "-c", "fast", "-R", "-h", HOSTS["db1"], "-U",
        roles.ADMIN, PGPASSWORD=group.passwords[roles.ADMIN],
    )  # fmt: skip
    conf = (two / "postgresql.conf").read_text()
    (two / "postgresql.conf").write_text(conf.replace(HOSTS["db1"], HOSTS["db2"]))
    group.start("db2", "postgres", [str(PG / "postgres"), "-D", str(two)])
    until(lambda: group.ask("SELECT pg_is_in_recovery()", host="db2") == "t", "the standby answers")
    group.ask("ALTER SYSTEM SET synchronous_standby_names = '*'")
    group.ask("ALTER SYSTEM SET synchronous_commit = 'remote_apply'")
    group.ask("SELECT pg_reload_conf()")
    until(lambda: "sync" in group.ask("SELECT sync_state FROM pg_stat_replication"), "the standby keeps up")
    watch = ["/usr/bin/python3", "-m", "launcher", "standby", "--primary", f"{HOSTS['db1']}:{PORT}", "--data", str(two)]
    group.start("db2", "postgres", [*watch, "--after", str(PROMOTED_AFTER_S)], PYTHONPATH=str(ROOT / "src"))


def start_hosts(group: Group) -> None:
    from launcher import install, roles

    place = install.Place(group.folder, USER, (NAME, EDGE), WEB_PORT, free_port(), group.https)
    install.make_certificate(place)
    site = place.filled("nginx.conf")
    servers = "".join(
        f"server {HOSTS[host]}:{WEB_PORT} max_fails=1 fail_timeout=10s;\n    " for host in ("web1", "web2")
    )
    site = site.replace(f"server 127.0.0.1:{WEB_PORT};\n    ", servers)
    (group.folder / "nginx.conf").write_text(
        f"pid {group.folder}/nginx.pid; error_log {group.folder}/nginx.log; events {{ worker_connections 2000; }}\n"
        f"http {{ access_log off; {site} }}\n"
    )
    shared = {}
    for host in ("web1", "web2", "work1", "work2", "edge"):
        state = group.folder / host
        state.mkdir(exist_ok=True)
        shared[host] = state
    group.manage(roles.OWNER, "collectstatic", "--no-input", "--verbosity=0")
    for host in ("web1", "web2"):
        shutil.copytree(shared["edge"] / "static", shared[host] / "static")
    gunicorn = [sys.executable, "-m", "gunicorn", "kitchen.wsgi:application", "--config", "python:kitchen.web_server"]
    for host in ("web1", "web2"):
        group.start(host, USER, gunicorn, **group.env(roles.APP, host))
    for host in ("work1", "work2"):
        group.start(
            host, USER, ["nice", "-n", "10", sys.executable, "-m", "django", "worker"], **group.env(roles.APP, host)
        )
    run("/usr/sbin/nginx", "-t", "-c", str(group.folder / "nginx.conf"))
    nginx = subprocess.Popen(["/usr/sbin/nginx", "-c", str(group.folder / "nginx.conf"), "-g", "daemon off;"])
    nginx_unit = Unit("edge", "root", [], {}, group.folder / "nginx.log")
    nginx_unit.process = nginx
    group.units["edge"] = [nginx_unit]


def measured(group: Group, network: Network, options: argparse.Namespace) -> list[dict[str, Any]]:
    """The table: for each fault what was lost, and how long the line was away."""
    from launcher import roles

    wanted = ["--kitchens", str(options.kitchens), "--cooks", str(10 * options.kitchens), "--probes", "1"]
    printed = group.manage(roles.OWNER, "load_full_kitchen", *wanted, "--names", "group", "--every", "20")
    loaded = json.loads(printed.strip().splitlines()[-1])
    cert = group.folder / "etc/ember/tls/cert.pem"
    where = (EDGE, group.https, NAME, cert)
    until(lambda: sign_in(where, loaded["people"][0], loaded["password"]), "somebody signs in", 120)
    cookies = [sign_in(where, name, loaded["password"]) for name in loaded["people"]]
    hosts = [(HOSTS[host], WEB_PORT) for host in ("web1", "web2")]
    heard = max(heard_elsewhere_s(NAME, *pair, cookies[0]) for pair in (hosts, hosts[::-1]))
    say(f"   what one web host was told, the other shows within {heard:.2f} s")
    if heard > SHOWN_WITHIN_S:
        raise Failed(f"a board of another host was {heard:.1f} s behind")
    devices = Devices(where, loaded["devices"], options.every)
    screens = Screens(where, cookies)
    devices.start()
    screens.start()
    say(f"   {len(cookies)} kitchens, {len(loaded['devices'])} cooks by probes, a reading each {options.every:g} s")
    time.sleep(options.apart)
    rows = []
    faults = [("nothing", ""), ("a web host", "web1"), ("a worker host", "work1"), ("the primary", "db1")]
    for words, host in faults:
        sent, began = devices.acknowledged, time.monotonic()
        if host:
            network.pull_the_plug(host)
            group.forget(host)
        time.sleep(options.apart)
        away = screens.away_s(began, time.monotonic())
        rows.append({
            "killed": words, "acknowledged": devices.acknowledged - sent, "longest_away_s": round(max(away), 1),
            "kitchens_away_over_10_s": sum(s > 10 for s in away), "oldest_forecast_s": screens.oldest_forecast_s(),
        })  # fmt: skip
        say(f"   {rows[-1]}")
    screens.stop()
    devices.stop()
    until(lambda: devices.waiting == 0 or devices.flush(), "what waited is sent", 60)
    kept = group.ask(
        "SELECT count(*), count(DISTINCT (probe_id, number)) FROM line_reading WHERE number > 0", host="db2"
    )
    total, distinct = (int(number) for number in kept.split("|"))
    lost = devices.acknowledged - distinct
    said = f"readings acknowledged {devices.acknowledged}, there {distinct}, twice {total - distinct}"
    say(f"   {said}, lost {max(lost, 0)}")
    promoted = group.ask("SELECT pg_is_in_recovery()", host="db2") == "f"
    if lost > 0 or total != distinct or not promoted:
        raise Failed("readings were lost or doubled, or the standby was not promoted")
    return rows


def main() -> int:
    """Try it."""
    parser = argparse.ArgumentParser()
    parser.add_argument("--kitchens", type=int, default=40)
    parser.add_argument("--every", type=float, default=15.0, help="seconds between readings of a probe")
    parser.add_argument("--apart", type=float, default=75.0, help="seconds after each fault")
    options = parser.parse_args()
    if os.geteuid() != 0:
        say("Run it as root.")
        return 2
    say("(c) A group: two web hosts, two worker hosts, a primary and its standby, nginx")
    with tempfile.TemporaryDirectory(prefix="ember-group-") as name, Network() as network:
        folder = Path(name)
        folder.chmod(0o755)
        group = Group(folder)
        try:
            start_databases(group)
            start_hosts(group)
            measured(group, network, options)
        except Failed as error:
            say(f"FAILED: {error}")
            for host in HOSTS:
                log = folder / f"{host}.log"
                say(f"--- {host}: {shlex.quote(log.read_text()[-1500:]) if log.exists() else ''}")
            return 1
        finally:
            for host in list(group.units):
                group.forget(host)
    say("Nothing that was acknowledged is lost.")
    return 0


if __name__ == "__main__":
    sys.exit(main())
