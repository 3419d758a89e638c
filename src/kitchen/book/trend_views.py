"""The trends page."""

from __future__ import annotations

import datetime as dt

from django.http import HttpResponse
from django.shortcuts import render

from kitchen.database.standby import reads_standby
from kitchen.drawings.off_scale import off_scale
from kitchen.drawings.trend_strip import trend_strip
from kitchen.kit.queries import LET_PASS_K, USUAL_LET_PASS_K, USUAL_WIDE_K, WIDE_K
from kitchen.web import KitchenRequest

from .trends import LATE_S, OFF_K, Drift, Trends, trends_of

SPANS = ((8, "Eight weeks"), (26, "Half a year"), (52, "A year"))


def _weeks(text: str | None) -> int:
    return next((weeks for weeks, _ in SPANS if str(weeks) == text), SPANS[0][0])


def _strips(trend_data: Trends, degree_k: float) -> dict[str, object]:
    late = [(w.monday, (w.late_s[0] / 60, w.late_s[1] / 60, w.late_s[2] / 60), w.counted.is_few)
            for w in trend_data.weeks if w.late_s]  # fmt: skip
    off = [(w.monday, (w.off_k[0] * degree_k, w.off_k[1] * degree_k, w.off_k[2] * degree_k), w.counted.is_few)
           for w in trend_data.weeks if w.off_k]  # fmt: skip
    return {
        "late": trend_strip(late, "min", LATE_S / 60),
        "off": trend_strip(off, "°", OFF_K * degree_k),
    }


def _scale(drift: Drift) -> object:
    wide, let_pass = WIDE_K.get(drift.kind, USUAL_WIDE_K), LET_PASS_K.get(drift.kind, USUAL_LET_PASS_K)
    return off_scale([(at_c, off) for _, at_c, off in drift.checks], wide, let_pass)


@reads_standby
def trends(request: KitchenRequest) -> HttpResponse:
    """Lateness, core errors and yield by cut, and equipment offsets over time."""
    weeks = _weeks(request.GET.get("weeks"))
    today = request.kitchen.now().astimezone(request.kitchen.zone).date()
    monday = today - dt.timedelta(days=today.weekday(), weeks=weeks - 1)
    trend_data = trends_of(request.kitchen, monday)
    context = {
        "trends": trend_data, "weeks": weeks, "spans": SPANS, "late_min": LATE_S / 60, "off_k": OFF_K,
        **_strips(trend_data, request.user.units.temperature_step(1.0)),
        "drifts": [(drift, _scale(drift)) for drift in trend_data.drifts],
    }  # fmt: skip
    return render(request, "book/trends.html", context)
