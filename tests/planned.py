"""A service planned at once, as the worker would."""

from __future__ import annotations

from typing import Any


def planned(service: Any) -> Any:
    """The service with its plan. Raises ServiceError without a dish, AssertionError where the core refused it."""
    from kitchen.services import actions
    from kitchen.services.models import Service

    job = actions.work_out(service)
    assert not job.problem, job.problem
    return Service.objects.get(pk=service.pk)
