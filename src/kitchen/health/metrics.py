"""Numbers for Prometheus: requests and their latencies, and what the database knows of work and probes."""

from __future__ import annotations

import os
import time
from collections.abc import Callable, Iterator

from django.db import DatabaseError, connection
from django.http import HttpRequest, HttpResponse
from prometheus_client import CONTENT_TYPE_LATEST, CollectorRegistry, Counter, Histogram, generate_latest
from prometheus_client.core import GaugeMetricFamily
from prometheus_client.multiprocess import MultiProcessCollector
from prometheus_client.registry import REGISTRY, Collector

from .readiness import oldest_forecast_age

REQUESTS = Counter("ember_requests", "Requests by view and status", ["view", "method", "status"])
SECONDS = Histogram(
    "ember_request_seconds", "Time to answer, by view", ["view"],
    buckets=(0.02, 0.05, 0.1, 0.2, 0.5, 1.0, 2.0, 5.0, 15.0),
)  # fmt: skip
WAITING = "SELECT queue_name, status::text, count(*) FROM procrastinate_jobs GROUP BY 1, 2"
POOL = "SELECT coalesce(state, 'other'), count(*) FROM pg_stat_activity WHERE datname = current_database() GROUP BY 1"
PROBES = """
SELECT coalesce(answer->'probe'->>'state', 'none'), count(*) FROM (
  SELECT DISTINCT ON (f.cook_id) f.answer FROM line_forecast f JOIN line_cook c ON c.id = f.cook_id
  WHERE c.finished_at IS NULL ORDER BY f.cook_id, f.made_at DESC
) AS newest GROUP BY 1
"""


class MeasureMiddleware:
    """Counts each request and how long it took."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        """The answer, counted."""
        began = time.perf_counter()
        response = self.get_response(request)
        match = request.resolver_match
        view = match.view_name if match else "none"
        REQUESTS.labels(view, request.method, response.status_code).inc()
        SECONDS.labels(view).observe(time.perf_counter() - began)
        return response


class FromTheDatabase(Collector):
    """Gauges that are read when somebody asks."""

    def collect(self) -> Iterator[GaugeMetricFamily]:
        """Queue depth, age of forecasts, states of probes, connections."""
        with connection.cursor() as cursor:
            for name, words, labels, query in (
                ("ember_jobs", "Background jobs", ["queue", "status"], WAITING),
                ("ember_probes", "Cooks on the line by the state of their probe", ["state"], PROBES),
                ("ember_database_connections", "Connections to the database", ["state"], POOL),
            ):
                family = GaugeMetricFamily(name, words, labels=labels)
                cursor.execute(query)
                for *values, count in cursor.fetchall():
                    family.add_metric([str(value) for value in values], float(count))
                yield family
        age = oldest_forecast_age()
        oldest = GaugeMetricFamily("ember_forecast_age_seconds", "Age of the oldest forecast of a cook on the line")
        oldest.add_metric([], 0.0 if age is None else age.total_seconds())
        yield oldest


def everything() -> tuple[bytes, str]:
    """All numbers of all processes on this host, and their content type."""
    registry = CollectorRegistry()
    if os.environ.get("PROMETHEUS_MULTIPROC_DIR"):
        MultiProcessCollector(registry)  # type: ignore[no-untyped-call]
        text = generate_latest(registry)
    else:
        text = generate_latest(REGISTRY)
    own = CollectorRegistry()
    own.register(FromTheDatabase())
    try:
        text += generate_latest(own)
    except DatabaseError:
        text += b"# the database did not answer\n"
    return text, CONTENT_TYPE_LATEST
