"""Signs of life: healthz, readyz, metrics, logs, and what stays in no cache."""

from __future__ import annotations

import datetime as dt
import json
import logging

import pytest
from django.db import connection
from django.db.migrations.recorder import MigrationRecorder
from django.test import Client
from django.utils import timezone

from kitchen.csv_cells import cells
from kitchen.health import readiness
from kitchen.logs import WithIds, logging_config
from kitchen.worker.beats import age_of, beat
from kitchen.worker.models import Beat

from .pages import body_of

pytestmark = pytest.mark.django_db


def ready(client):
    answer = client.get("/readyz")
    return answer.status_code, answer.json()["not_ready"]


def test_it_lives_without_a_database(client, django_assert_num_queries):
    with django_assert_num_queries(0):
        assert client.get("/healthz").content == b"ok"


def test_it_is_ready_once_the_worker_has_swept(client):
    status, wrong = ready(client)
    assert (status, set(wrong)) == (503, {"worker"})
    beat(Beat.SWEEP)
    assert ready(client) == (200, {})
    Beat.objects.update(at=timezone.now() - dt.timedelta(minutes=5))
    status, wrong = ready(client)
    assert status == 503
    assert "300 s ago" in wrong["worker"]
    assert age_of("nothing") is None


def test_a_missing_migration_is_named(client):
    beat(Beat.SWEEP)
    MigrationRecorder(connection).migration_qs.filter(app="worker").delete()
    status, wrong = ready(client)
    assert status == 503
    assert "worker.0001_beats" in wrong["migrations"]


def test_a_full_disk_is_named(client, monkeypatch):
    beat(Beat.SWEEP)
    monkeypatch.setattr(readiness, "LEAST_FREE_BYTES", 10**18)
    assert "MB are free" in ready(client)[1]["disk"]


def test_metrics_are_for_this_machine_or_a_token(client, signed_in, monkeypatch):
    signed_in.get("/line/")
    text = client.get("/metrics").content.decode()
    for name in ("ember_requests_total", "ember_request_seconds_bucket", "ember_jobs", "ember_forecast_age_seconds",
                 "ember_readings_total", "ember_database_connections"):  # fmt: skip
        assert name in text, name
    assert 'view="line:board"' in text
    outside = Client(REMOTE_ADDR="10.9.8.7")
    assert outside.get("/metrics").status_code == 403
    monkeypatch.setenv("EMBER_METRICS_TOKEN", "abc")
    assert outside.get("/metrics", headers={"Authorization": "Bearer abc"}).status_code == 200
    assert outside.get("/metrics", headers={"Authorization": "Bearer abd"}).status_code == 403


def test_every_answer_has_its_id_and_the_log_names_it(client, rf):
    assert len(client.get("/healthz").headers["X-Request-ID"]) == 16
    assert client.get("/healthz", headers={"X-Request-ID": "abc123"}).headers["X-Request-ID"] == "abc123"
    assert client.get("/healthz", headers={"X-Request-ID": 'a b"c'}).headers["X-Request-ID"] != 'a b"c'
    record = logging.makeLogRecord({"msg": "hello", "levelname": "WARNING", "name": "x"})
    assert WithIds().filter(record)
    assert record.request_id is None
    config = logging_config()
    made = logging.config.DictConfigurator(config).configure_formatter(config["formatters"]["json"])
    line = json.loads(made.format(record))
    assert {"time", "level", "message", "request_id", "person_id", "kitchen_id"} <= line.keys()


def test_an_error_page_shows_its_reference(client, signed_in):
    answer = signed_in.get("/plans/00000000-0000-0000-0000-000000000000/")
    assert answer.status_code == 404
    assert answer.headers["X-Request-ID"] in body_of(answer)


def test_what_a_person_saw_stays_in_no_cache(client, signed_in):
    for path in ("/line/", "/plans/", "/book/report/", "/book/chain.jsonl"):
        assert "no-store" in signed_in.get(path).headers["Cache-Control"], path
    answer = signed_in.post("/sign-out/")
    assert answer.headers["Clear-Site-Data"] == '"cache"'
    assert "no-store" in answer.headers["Cache-Control"]


def test_pages_are_compressed(signed_in):
    answer = signed_in.get("/plans/", headers={"Accept-Encoding": "gzip"})
    assert answer.headers["Content-Encoding"] == "gzip"


@pytest.mark.parametrize("text", ["=1+1", "+1", "-1", "@x", "\tx", "\rx"])
def test_a_spreadsheet_takes_no_text_for_a_formula(text):
    assert cells([text, -1.5, "a=1"]) == [f"'{text}", -1.5, "a=1"]
