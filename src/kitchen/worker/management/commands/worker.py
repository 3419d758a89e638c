"""`manage worker`: forecasts, plans of services, reports; first what a killed worker left behind."""

from __future__ import annotations

import asyncio
from typing import Any

from django.core.management import call_command
from django.core.management.base import BaseCommand
from procrastinate.contrib.django import app

from kitchen.worker import stalled


class Command(BaseCommand):
    """Run a worker until it is told to stop."""

    help = "Run the worker."

    def handle(self, *args: Any, **options: Any) -> None:
        """Take up stalled jobs, then work."""
        with app.replace_connector(app.connector.get_worker_connector()):  # type: ignore[attr-defined]
            asyncio.run(_take_up())
        call_command("procrastinate", "worker")


async def _take_up() -> None:
    async with app.open_async():
        await stalled.run_again(app)
