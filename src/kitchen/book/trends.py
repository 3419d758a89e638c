"""How cooks compared with their plans, by week and by cut, from signed records."""

from __future__ import annotations

import datetime as dt
from dataclasses import dataclass
from typing import Any

from ember.errors import EmberError
from ember.food.catalogue import cut
from kitchen.accounts.models import Kitchen
from kitchen.database.standby import reading
from kitchen.kit.models import KitCheck

LATE_S = 60.0  # a pull so much after its time is late
OFF_K = 1.0  # a peak so much above or under its plan is over, or short
FEW = 5  # under so many a share says little

# One row a signed cook of a plan, then counted by week, by cut and in all. A record is large: it is opened once.
COUNTED = """
WITH r AS MATERIALIZED (
  SELECT c.finished_at, c.document #>> '{piece,cut}' AS cut, s.record -> 'off_plan' AS off,
         coalesce(s.record ->> 'state', s.record #>> '{verdict,state}',
                  CASE WHEN (s.record #>> '{verdict,met}')::boolean THEN 'met'
                       WHEN (s.record #>> '{verdict,met}')::boolean IS NULL THEN 'no-verdict'
                       WHEN (s.record ->> 'advisory')::boolean THEN 'advisory' ELSE 'not-met' END) AS state
  FROM line_cook c JOIN logbook_signoff s ON s.cook_id = c.id
  WHERE c.kitchen_id = %(kitchen)s AND c.kind = 'plan' AND c.finished_at >= %(begin)s
), o AS MATERIALIZED (
  SELECT (date_trunc('week', finished_at AT TIME ZONE %(zone)s))::date AS week, cut, state,
         (jsonb_path_query_first(off, '$[*] ? (@.what == "Pulled after").off') #>> '{}')::float AS late_s,
         (jsonb_path_query_first(off, '$[*] ? (@.what == "Peak core").off') #>> '{}')::float AS off_k,
         (jsonb_path_query_first(off, '$[*] ? (@.what == "Yield").done') #>> '{}')::float AS out_pct,
         (jsonb_path_query_first(off, '$[*] ? (@.what == "Yield").plan') #>> '{}')::float AS plan_pct
  FROM r
), counted AS (
  SELECT grouping(week, cut) AS what, week, cut,
         count(*), count(late_s), count(*) FILTER (WHERE late_s > %(late)s), count(off_k),
         count(*) FILTER (WHERE off_k > %(off)s), count(*) FILTER (WHERE off_k < -%(off)s),
         count(*) FILTER (WHERE state = 'met'), count(*) FILTER (WHERE state = 'not-met'),
         count(*) FILTER (WHERE state = 'advisory'), count(*) FILTER (WHERE state = 'no-verdict'),
         count(out_pct), avg(out_pct),
         avg(plan_pct) FILTER (WHERE out_pct IS NOT NULL)
  FROM o GROUP BY GROUPING SETS ((week), (cut), ())
), quartiles AS (
  SELECT week, percentile_cont(ARRAY[0.25, 0.5, 0.75]) WITHIN GROUP (ORDER BY late_s) AS late,
         percentile_cont(ARRAY[0.25, 0.5, 0.75]) WITHIN GROUP (ORDER BY off_k) AS off
  FROM o GROUP BY week
)
SELECT counted.*, quartiles.late, quartiles.off FROM counted LEFT JOIN quartiles ON quartiles.week = counted.week
ORDER BY 2, 4 DESC, 3
"""
A_WEEK, A_CUT = 1, 2  # what grouping() says of a row


@dataclass(frozen=True)
class Counted:
    """A group of cooks. `timed`, `read`: those with a known pull, a known core; `advised`: served on a consumer
    advisory; `unjudged`: without a verdict.
    """

    cooks: int
    timed: int
    late: int
    read: int
    over: int
    short: int
    met: int
    missed: int
    advised: int
    unjudged: int
    weighed: int
    yield_pct: float | None
    planned_pct: float | None

    @property
    def is_few(self) -> bool:
        """Too few cooks to rely on."""
        return self.cooks < FEW

    @property
    def yield_off(self) -> float | None:
        """Weighed yield less planned yield, percentage points."""
        known = self.yield_pct is not None and self.planned_pct is not None
        return self.yield_pct - self.planned_pct if known else None  # type: ignore[operator]


@dataclass(frozen=True)
class Week:
    """A week from its Monday; quartiles of pull lateness, s, and of the error of the peak core, K."""

    monday: dt.date
    counted: Counted
    late_s: tuple[float, float, float] | None
    off_k: tuple[float, float, float] | None


@dataclass(frozen=True)
class CutRow:
    """The cooks of a cut."""

    name: str
    counted: Counted


@dataclass(frozen=True)
class Drift:
    """The offsets of a piece of equipment by check: (when, setting °C, K)."""

    name: str
    kind: str
    checks: tuple[tuple[dt.datetime, float, float], ...]

    @property
    def moved_k(self) -> float | None:
        """Change of the offset at the setting checked most often, K; None with a single check of each."""
        by_setting: dict[float, list[float]] = {}
        for _, setting, off in self.checks:
            by_setting.setdefault(setting, []).append(off)
        most = max(by_setting.values(), key=len)
        return most[-1] - most[0] if len(most) > 1 else None


@dataclass(frozen=True)
class Trends:
    """All trends since `begin`."""

    begin: dt.date
    total: Counted
    weeks: tuple[Week, ...]
    cuts: tuple[CutRow, ...]
    drifts: tuple[Drift, ...]


def trends_of(kitchen: Kitchen, begin: dt.date) -> Trends:
    """The trends of a kitchen from a day on. Unsigned cooks are not counted."""
    since = dt.datetime.combine(begin, dt.time(), kitchen.zone)
    params: dict[str, Any] = {
        "zone": kitchen.time_zone, "kitchen": kitchen.pk, "begin": since, "late": LATE_S, "off": OFF_K,
    }  # fmt: skip
    total = Counted(0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, None, None)
    weeks: list[Week] = []
    cuts: list[CutRow] = []
    with reading().cursor() as cursor:
        cursor.execute(COUNTED, params)
        for of_what, week, key, *counts, late, off in cursor.fetchall():
            counted = Counted(*counts)
            if of_what == A_WEEK:
                weeks.append(Week(week, counted, _quartiles(late), _quartiles(off)))
            elif of_what == A_CUT:
                cuts.append(CutRow(_cut_name(key), counted))
            else:
                total = counted
    return Trends(begin, total, tuple(weeks), tuple(cuts), tuple(_drifts(kitchen, since)))


def _quartiles(quartiles: Any) -> tuple[float, float, float] | None:
    return None if not quartiles or quartiles[0] is None else (quartiles[0], quartiles[1], quartiles[2])


def _cut_name(key: str | None) -> str:
    try:
        return cut(key or "").name
    except EmberError:
        return key or "no cut"


def _drifts(kitchen: Kitchen, since: dt.datetime) -> list[Drift]:
    rows = KitCheck.objects.of(kitchen).filter(equipment__isnull=False, at__gte=since, equipment__removed_at=None)
    found: dict[Any, list[tuple[dt.datetime, float, float]]] = {}
    for check in rows.select_related("equipment").order_by("at", "id"):
        found.setdefault(check.equipment, []).append((check.at, check.wanted_c, check.off_k))
    return [Drift(str(key), key.kind, tuple(checks)) for key, checks in sorted(found.items(), key=lambda r: r[0].name)]
