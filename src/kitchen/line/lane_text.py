"""Rendered lanes of the board, cached briefly: a tap changes one of them, the others are reused."""

from __future__ import annotations

import time
import uuid
from collections.abc import Callable, Sequence
from typing import Any

from django.template.loader import render_to_string
from django.utils import timezone
from django.utils.safestring import SafeString, mark_safe

from ember.quantities import Units

from .cook_status import CookStatus

KEPT = 2000
TOKEN = "csrf-token-of-the-session"  # noqa: S105  (a place to put it, not a token)

Stamp = tuple[Any, ...]
KeptLanes = dict[tuple[uuid.UUID, Units], tuple[Stamp, float, str]]  # {(cook, units): (stamp, drawn at, text)}
_kept: KeptLanes = {}


def kept_lanes(cooks: set[uuid.UUID], units: Units) -> KeptLanes:
    """This process's rendered lanes of some cooks, for another process."""
    return {key: lane for key, lane in list(_kept.items()) if key[0] in cooks and key[1] == units}


def take_lanes(lanes: KeptLanes) -> None:
    """Take over lanes that another process rendered, if they are newer."""
    for key, lane in lanes.items():
        if key not in _kept or _kept[key][1] < lane[1]:
            _kept[key] = lane


def _stamp(status: CookStatus) -> Stamp:
    """What a lane was rendered from: another event, reading or forecast makes it outdated."""
    events, inputs = status.cook.history, status.inputs
    forecast, readings = (inputs.forecast, inputs.readings) if inputs else (None, ())
    return events[-1].pk if events else 0, forecast.pk if forecast else 0, readings[-1] if readings else None


def lanes_as_text(
    statuses: Sequence[CookStatus], units: Units, oldest_s: float, draw: Callable[[list[CookStatus]], list[Any]],
    context: dict[str, Any],
) -> list[SafeString]:  # fmt: skip
    """Each cook's lane as HTML: cached if no older than `oldest_s` and still current; else rendered."""
    now = time.time()  # not the monotonic clock: lanes are passed between processes
    if len(_kept) > KEPT:
        _kept.clear()
    stamps = {status.cook.pk: _stamp(status) for status in statuses}
    texts: dict[uuid.UUID, str] = {}
    stale = []
    for status in statuses:
        cached = _kept.get((status.cook.pk, units))
        if cached is not None and cached[0] == stamps[status.cook.pk] and now - cached[1] <= oldest_s:
            texts[status.cook.pk] = cached[2]
        else:
            stale.append(status)
    for lane in draw(stale):
        pk = lane.status.cook.pk
        lane_context = {**context, "lane": lane, "units": units, "csrf_token": TOKEN}
        texts[pk] = render_to_string("line/_lane.html", lane_context)
        _kept[(pk, units)] = (stamps[pk], now, str(texts[pk]))
    by_start = sorted(statuses, key=lambda f: f.cook.started_at)
    return [mark_safe(texts[status.cook.pk]) for status in by_start]  # noqa: S308  (drawn from a template)


def age_of_forecasts_s(statuses: Sequence[CookStatus]) -> float | None:
    """Age of the oldest of these cooks' newest forecasts, s of real time; None without any."""
    ages = [
        (timezone.now() - forecast.made_at).total_seconds()
        for status in statuses
        if status.inputs and (forecast := status.inputs.forecast) and status.progress.next is not None
    ]
    return max(ages, default=None)
