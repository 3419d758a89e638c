"""The newest forecast of a cook, while it is fresh."""

from __future__ import annotations

import datetime as dt
from dataclasses import dataclass
from functools import cached_property
from typing import Any

import numpy as np

from ember.files.track import Belief, ProbeState, TrackResult

from .models import Cook, CookEvent, Forecast
from .observations import observations_of
from .words import PROBE_FAULTS

FRESH_S = 120.0  # of real time; the worker makes one every 20 s
FAULTS: tuple[ProbeState, ...] = ("unplugged", "stuck", "slipped", "off-food")
WHOLE_MINUTES_FROM_S = 95.0
WAIVED_MORE_S = 180.0  # late by so much more than was said to be all right is a new question


@dataclass(frozen=True)
class ForecastView:
    """A forecast at a moment; times in s from the cook's start."""

    forecast: Forecast
    cook: Cook
    now: dt.datetime

    @cached_property
    def answer(self) -> TrackResult:
        """The estimator's answer."""
        return TrackResult.model_validate(self.forecast.answer)

    @property
    def is_fresh(self) -> bool:
        """Whether it was made or confirmed recently, by the real clock."""
        kitchen = self.cook.kitchen
        rate = kitchen.clock_rate if kitchen.is_demo else 1.0
        last = self.forecast.confirmed_at or self.forecast.at
        return (self.now - last).total_seconds() <= FRESH_S * max(rate, 1.0)

    @property
    def hottest_c(self) -> float | None:
        """The hottest trusted reading, °C."""
        hottest: float | None = self.forecast.hottest_c
        return hottest

    @property
    def is_by_readings(self) -> bool:
        """Whether it is based on readings."""
        return self.answer.by == "readings"

    @property
    def p50_s(self) -> float | None:
        """When the core reaches its pull temperature, median."""
        return self.answer.reaches_want_at_s.p50 if self.answer.reaches_want_at_s else None

    @property
    def span_s(self) -> tuple[float, float] | None:
        """Tenth to ninetieth percentile."""
        reaches = self.answer.reaches_want_at_s
        if reaches is None or reaches.p10 is None or reaches.p90 is None:
            return None
        return reaches.p10, reaches.p90

    @property
    def give_or_take_s(self) -> float | None:
        """Half of that, rounded to a useful precision."""
        if self.span_s is None:
            return None
        half = 0.5 * (self.span_s[1] - self.span_s[0])
        step = 10.0 if half < WHOLE_MINUTES_FROM_S else 60.0
        return max(step * round(half / step), step)

    @cached_property
    def fault(self) -> str:
        """The probe's fault as a heading; empty if it has none or was inserted anew since."""
        since = [e.at for e in self._told("probe-moved")]
        if self.answer.probe.state not in FAULTS or any(at > self.forecast.at for at in since):
            return ""
        return PROBE_FAULTS[self.answer.probe.state]

    @property
    def fault_words(self) -> str:
        """What to do about it."""
        return self.answer.probe.text

    @property
    def fault_since_s(self) -> float | None:
        """When readings stopped being trusted."""
        return self.answer.probe.since_s if self.fault else None

    @property
    def needle_helps(self) -> bool:
        """Whether inserting the probe anew is the remedy."""
        return self.answer.probe.state in ("slipped", "off-food", "stuck")

    @property
    def beliefs(self) -> list[Belief]:
        """How the cook differs from its plan."""
        return self.answer.beliefs

    def core_at_c(self, now_s: float) -> float:
        """Likeliest core at a time shortly after the forecast, °C."""
        fan = self.forecast.fan
        if not fan:
            return self.answer.core_c_now
        return float(np.interp(now_s, fan["t_s"], fan["core_c"][len(fan["core_c"]) // 2]))

    @cached_property
    def ways(self) -> list[dict[str, Any]]:
        """Ways out of being late, unless being late was accepted."""
        waived_events = self._told("wait")
        waived = max((event.data.get("late_s") or 0.0 for event in waived_events), default=None)
        late = self.forecast.late_s or 0.0
        if not self.forecast.ways or (waived is not None and late < waived + WAIVED_MORE_S):
            return []
        if any(event.at > self.forecast.at for event in self._told("setting")):
            return []
        return list(self.forecast.ways)

    def _told(self, what: str) -> list[CookEvent]:
        return [event for event in observations_of(self.cook) if event.data["what"] == what]
