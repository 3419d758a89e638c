"""The report of a day or period: every record with its rule, corrective action and signature."""

from __future__ import annotations

import datetime as dt
from collections import Counter
from dataclasses import asdict, dataclass
from functools import cached_property
from typing import Any

from ember.judge.states import State
from ember.quantities import Units
from kitchen.accounts.models import Kitchen
from kitchen.batches.models import Batch
from kitchen.drawings.day_strip import DayStrip, day_strip
from kitchen.kit.models import KitCheck
from kitchen.logbook.queries import finished

from .models import Entry, Link
from .rows import Row, of_batches, of_checks, of_cooks, of_entries

LONGEST_DAYS = 370
SI = Units()


@dataclass(frozen=True)
class Counts:
    """{kind: (records, not met, not met without corrective action)}, and the number of unsigned cooks."""

    kinds: dict[str, tuple[int, int, int]]
    unsigned: int = 0

    def __add__(self, other: Counts) -> Counts:
        both = {kind: self.kinds.get(kind, (0, 0, 0)) for kind in {*self.kinds, *other.kinds}}
        for kind, more in other.kinds.items():
            a, b, c = both[kind]
            both[kind] = (a + more[0], b + more[1], c + more[2])
        return Counts(both, self.unsigned + other.unsigned)

    @property
    def rows(self) -> list[tuple[str, int, int, int]]:
        """The counts by kind, in order."""
        return [(kind, *numbers) for kind, numbers in sorted(self.kinds.items())]


@dataclass(frozen=True)
class Report:
    """All records of a kitchen from `first` to `last`, both days included, in order of time."""

    kitchen: Kitchen
    first: dt.date
    last: dt.date
    rows: tuple[Row, ...]
    digest: str
    links: int

    @cached_property
    def counts(self) -> Counts:
        """The counts of the period."""
        numbers = Counter(entry.kind for entry in self.rows)
        missed = Counter(entry.kind for entry in self.rows if entry.state is State.NOT_MET)
        bare = Counter(entry.kind for entry in self.rows if entry.is_open)
        kinds = {kind: (number, missed[kind], bare[kind]) for kind, number in numbers.items()}
        return Counts(kinds, sum(entry.kind == "Cook" and not entry.signed_by for entry in self.rows))

    @cached_property
    def rules(self) -> dict[str, int]:
        """Every rule that records were judged against, numbered for print in order of appearance."""
        named = dict.fromkeys(entry.rule_named for entry in self.rows if entry.rule_named)
        return {rule: number for number, rule in enumerate(named, start=1)}

    @cached_property
    def days(self) -> list[tuple[dt.date, DayStrip, list[Row]]]:
        """The rows of each day that has any, with its strip."""
        zone = self.kitchen.zone
        by_day: dict[dt.date, list[Row]] = {}
        for entry in self.rows:
            by_day.setdefault(entry.at.astimezone(zone).date(), []).append(entry)

        def hour(entry: Row) -> float:
            when = entry.at.astimezone(zone)
            return when.hour + when.minute / 60.0

        return [(day, day_strip([(hour(entry), entry.mark) for entry in rows]), rows) for day, rows in by_day.items()]

    def as_json(self) -> dict[str, Any]:
        """The report for programs."""
        return {
            "format": "open-ember/report", "version": 1, "kitchen": str(self.kitchen), "from": self.first.isoformat(),
            "to": self.last.isoformat(), "chain": {"records": self.links, "digest": self.digest},
            "records": [_plain(asdict(entry)) for entry in self.rows],
        }  # fmt: skip


def _plain(record: dict[str, Any]) -> dict[str, Any]:
    state = record["state"]
    met = None if state is None else State(state).met
    return {key: value.isoformat() if isinstance(value, dt.datetime) else value for key, value in record.items()} | {
        "state": None if state is None else str(state), "met": met,
    }  # fmt: skip


def report_of(kitchen: Kitchen, first: dt.date, last: dt.date, units: Units = SI) -> Report:
    """The report of these days."""
    begin = dt.datetime.combine(first, dt.time(), kitchen.zone)
    end = dt.datetime.combine(last + dt.timedelta(days=1), dt.time(), kitchen.zone)
    entries = Entry.objects.of(kitchen).filter(at__gte=begin, at__lt=end)
    checks = KitCheck.objects.of(kitchen).filter(at__gte=begin, at__lt=end)
    batches = Batch.objects.of(kitchen).filter(out_at__gte=begin, out_at__lt=end)
    cooks = finished(kitchen).filter(finished_at__gte=begin, finished_at__lt=end)
    rows = [
        *of_cooks(cooks, units), *of_batches(batches, kitchen.now()), *of_entries(entries, units),
        *of_checks(checks, units),
    ]  # fmt: skip
    link = Link.objects.of(kitchen).order_by("-number").first()
    rows.sort(key=lambda entry: entry.at)
    return Report(kitchen, first, last, tuple(rows), link.digest if link else "", link.number if link else 0)
