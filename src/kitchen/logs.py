"""Logs as JSON lines: time, level, request, person and kitchen by their ids; nothing personal.

To a file where EMBER_LOG_FILE names one, which another program may rename; else to standard output, for a service
manager.
"""

from __future__ import annotations

import logging
import os
import uuid
from collections.abc import Callable
from contextvars import ContextVar
from typing import Any

from django.http import HttpRequest, HttpResponse

HEADER = "X-Request-ID"
LONGEST_ID = 64
_request: ContextVar[HttpRequest | None] = ContextVar("request", default=None)


class WithIds(logging.Filter):
    """Adds the ids of the request at hand to a record."""

    def filter(self, record: logging.LogRecord) -> bool:
        """Always lets the record pass."""
        request: Any = _request.get()
        record.request_id = getattr(request, "id", None)
        kitchen = getattr(request, "kitchen", None)
        membership = getattr(request, "membership", None)
        record.kitchen_id = kitchen.pk if kitchen is not None else None
        record.person_id = membership.person_id if membership is not None else None
        return True


def logging_config(level: str = "WARNING") -> dict[str, Any]:
    """For logging.config: one handler for everything."""
    file = os.environ.get("EMBER_LOG_FILE")
    to_file = {"class": "logging.handlers.WatchedFileHandler", "filename": file, "encoding": "utf-8"}
    to_output = {"class": "logging.StreamHandler", "stream": "ext://sys.stdout"}
    json_lines = {
        "()": "pythonjsonlogger.json.JsonFormatter",
        "format": "%(asctime)s %(levelname)s %(name)s %(message)s %(request_id)s %(person_id)s %(kitchen_id)s",
        "rename_fields": {"asctime": "time", "levelname": "level", "name": "logger"},
        "datefmt": "%Y-%m-%dT%H:%M:%S%z",
    }
    return {
        "version": 1,
        "disable_existing_loggers": False,
        "filters": {"ids": {"()": "kitchen.logs.WithIds"}},
        "formatters": {"json": json_lines},
        "handlers": {"lines": {**(to_file if file else to_output), "formatter": "json", "filters": ["ids"]}},
        "root": {"handlers": ["lines"], "level": level},
        "loggers": {
            "axes": {"level": "ERROR"},
            "procrastinate": {"level": "WARNING"},
            "django.request": {"level": "ERROR"},  # a 404 is no event of ours
            "django.server": {"handlers": ["lines"], "propagate": False},
            "gunicorn.error": {"handlers": ["lines"], "level": "INFO", "propagate": False},
        },
    }


class RequestIdMiddleware:
    """Gives each request an id, the proxy's if it sent a plausible one; the answer carries it."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: Any) -> HttpResponse:
        """The answer, with the id in its header."""
        sent = request.headers.get(HEADER, "")
        request.id = sent if sent.isalnum() and len(sent) <= LONGEST_ID else uuid.uuid4().hex[:16]
        token = _request.set(request)
        try:
            response = self.get_response(request)
        finally:
            _request.reset(token)
        response.headers[HEADER] = request.id
        return response
