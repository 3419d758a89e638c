"""What must hold for the application to be ready, each with what is wrong in words."""

from __future__ import annotations

import datetime as dt
import shutil
from collections.abc import Callable

from django.conf import settings
from django.db import DatabaseError, connection
from django.db.migrations.executor import MigrationExecutor
from django.db.migrations.recorder import MigrationRecorder
from django.utils import timezone

from kitchen.line.forecasting import newest_made_at
from kitchen.line.models import Cook
from kitchen.worker.beats import age_of
from kitchen.worker.models import Beat

SWEPT_WITHIN = dt.timedelta(seconds=60)
FORECAST_WITHIN = dt.timedelta(seconds=180)
LEAST_FREE_BYTES, LEAST_FREE_SHARE = 500_000_000, 0.02


def _database() -> str:
    with connection.cursor() as cursor:
        cursor.execute("SELECT pg_is_in_recovery()")
        in_recovery = cursor.fetchone()[0]
    return "it only reads: a replica that was not promoted" if in_recovery else ""


def _migrations() -> str:
    missing = unapplied()
    return f"{len(missing)} are not applied, the first is {missing[0]}" if missing else ""


def unapplied() -> list[str]:
    """Names of the migrations that this program has and the database has not."""
    executor = MigrationExecutor(connection)
    return [f"{step.app_label}.{step.name}" for step, _ in executor.migration_plan(executor.loader.graph.leaf_nodes())]


def applied() -> list[str]:
    """Names of the migrations that the database has, in order."""
    return [f"{app}.{name}" for app, name in MigrationRecorder(connection).applied_migrations()]


def _worker() -> str:
    age = age_of(Beat.SWEEP)
    if age is None:
        return "it has not swept yet"
    return f"its last sweep was {age.total_seconds():.0f} s ago" if age > SWEPT_WITHIN else ""


def _disk() -> str:
    disk = shutil.disk_usage(settings.LOCAL)
    short = disk.free < max(LEAST_FREE_BYTES, LEAST_FREE_SHARE * disk.total)
    return f"{disk.free / 1e6:.0f} MB are free" if short else ""


def oldest_forecast_age() -> dt.timedelta | None:
    """Age of the oldest newest forecast of a cook on the line; None where nothing waits for one."""
    going = Cook.objects.of_plans().filter(finished_at=None, waits=False)
    oldest = min(newest_made_at(going).values(), default=None)
    return None if oldest is None else timezone.now() - oldest


def _forecasts() -> str:
    age = oldest_forecast_age()
    late = age is not None and age > FORECAST_WITHIN
    return f"the oldest is {age.total_seconds():.0f} s old" if late and age is not None else ""


CHECKS: dict[str, Callable[[], str]] = {
    "database": _database, "migrations": _migrations, "worker": _worker, "disk": _disk, "forecasts": _forecasts,
}  # fmt: skip


def not_ready() -> dict[str, str]:
    """What is not ready, and why; empty if all is well."""
    wrong: dict[str, str] = {}
    for name, check in CHECKS.items():
        try:
            why = check()
        except DatabaseError as error:
            return wrong | {"database": type(error).__name__}
        if why:
            wrong[name] = why
    return wrong
