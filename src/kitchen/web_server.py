"""How gunicorn runs the application: `gunicorn --config python:kitchen.web_server kitchen.wsgi:application`."""

from __future__ import annotations

import os
import shutil
from pathlib import Path
from typing import Any

from kitchen.logs import logging_config

bind = os.environ.get("EMBER_BIND", "127.0.0.1:8000")
worker_class = "gthread"
workers = int(os.environ.get("EMBER_WEB_PROCESSES", "2"))
threads = int(os.environ.get("EMBER_WEB_THREADS", "12"))
preload_app = True
graceful_timeout = 10
timeout = 60  # a process that answers nobody for so long is started again
forwarded_allow_ips = os.environ.get("EMBER_PROXIES", "127.0.0.1")
logconfig_dict = logging_config()

# Each process writes its counters there; the one that is asked for /metrics reads them all.
METRICS = Path(os.environ.get("EMBER_LOCAL", ".local")) / "metrics"
shutil.rmtree(METRICS, ignore_errors=True)
METRICS.mkdir(parents=True, exist_ok=True)
os.environ["PROMETHEUS_MULTIPROC_DIR"] = str(METRICS)


def post_worker_init(worker: Any) -> None:
    """Hear what other hosts change."""
    from kitchen.line.board_listener import BoardListener
    from kitchen.line.shared_board import drop, drop_all

    BoardListener(drop, drop_all).start()


def child_exit(server: Any, worker: Any) -> None:
    """Forget the gauges of a process that ended."""
    from prometheus_client import multiprocess

    multiprocess.mark_process_dead(worker.pid)  # type: ignore[no-untyped-call]
