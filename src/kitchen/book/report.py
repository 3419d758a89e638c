"""The report of a day or a period: every record with its rule, what was done about it, who signed."""

from __future__ import annotations

import datetime as dt
from collections import Counter
from collections.abc import Iterator
from dataclasses import asdict, dataclass, field
from functools import cached_property
from typing import Any

from ember.judge.standards import standards
from ember.quantities import Units
from kitchen.accounts.models import Kitchen
from kitchen.batches.course import BatchCourse, courses_of
from kitchen.batches.models import Batch
from kitchen.drawings.day_strip import DayStrip, day_strip
from kitchen.kit.models import KitCheck
from kitchen.logbook.queries import finished
from kitchen.logbook.record import record_of
from kitchen.units.templatetags.units import verdict_words

from .models import Entry, Link

LONGEST_DAYS = 370
SI = Units()


@dataclass(frozen=True)
class Row:
    """One record. `met`: None where no rule was held against it, or nothing was read."""

    kind: str
    key: str
    at: dt.datetime
    name: str
    by: str
    words: str
    met: bool | None = None
    rule: str = ""
    standard: str = ""
    put_right: list[str] = field(default_factory=list)
    signed_by: str = ""
    signed_at: dt.datetime | None = None

    @property
    def state(self) -> str:
        """As drawings say it."""
        return "none" if self.met is None else "met" if self.met else "not"

    @property
    def is_open(self) -> bool:
        """Not met, and nobody wrote what was done."""
        return self.met is False and not self.put_right


@dataclass(frozen=True)
class Report:
    """All records of a kitchen from `first` to `last`, both days in it, by the clock."""

    kitchen: Kitchen
    first: dt.date
    last: dt.date
    rows: tuple[Row, ...]
    digest: str
    links: int

    @cached_property
    def counts(self) -> list[tuple[str, int, int, int]]:
        """By kind: how many, of them not met, and not met without a word."""
        found = Counter(row.kind for row in self.rows)
        missed = Counter(row.kind for row in self.rows if row.met is False)
        bare = Counter(row.kind for row in self.rows if row.is_open)
        return [(kind, number, missed[kind], bare[kind]) for kind, number in sorted(found.items())]

    @property
    def unsigned(self) -> int:
        """Cooks that nobody signed."""
        return sum(row.kind == "Cook" and not row.signed_by for row in self.rows)

    @cached_property
    def days(self) -> list[tuple[dt.date, DayStrip, list[Row]]]:
        """The rows of each day that has some, with its strip."""
        zone = self.kitchen.zone
        found: dict[dt.date, list[Row]] = {}
        for row in self.rows:
            found.setdefault(row.at.astimezone(zone).date(), []).append(row)

        def hour(row: Row) -> float:
            when = row.at.astimezone(zone)
            return when.hour + when.minute / 60.0

        return [(day, day_strip([(hour(row), row.state) for row in rows]), rows) for day, rows in found.items()]

    def as_json(self) -> dict[str, Any]:
        """For programs."""
        return {
            "format": "open-ember/report", "version": 1, "kitchen": str(self.kitchen), "from": self.first.isoformat(),
            "to": self.last.isoformat(), "chain": {"records": self.links, "digest": self.digest},
            "records": [_plain(asdict(row)) for row in self.rows],
        }  # fmt: skip


def _plain(row: dict[str, Any]) -> dict[str, Any]:
    return {key: value.isoformat() if isinstance(value, dt.datetime) else value for key, value in row.items()}


def report_of(kitchen: Kitchen, first: dt.date, last: dt.date, units: Units = SI) -> Report:
    """The report of these days."""
    begin = dt.datetime.combine(first, dt.time(), kitchen.zone)
    end = dt.datetime.combine(last + dt.timedelta(days=1), dt.time(), kitchen.zone)
    rows = [
        *_cooks(kitchen, begin, end, units), *_batches(kitchen, begin, end), *_entries(kitchen, begin, end, units),
        *_checks(kitchen, begin, end, units),
    ]  # fmt: skip
    link = Link.objects.of(kitchen).order_by("-number").first()
    rows.sort(key=lambda row: row.at)
    return Report(kitchen, first, last, tuple(rows), link.digest if link else "", link.number if link else 0)


def _standard(key: str, edition: str, section: str) -> str:
    row = standards().get(key)
    return ", ".join(part for part in (f"{row.name if row else key} {edition}".strip(), section) if part)


def _cooks(kitchen: Kitchen, begin: dt.datetime, end: dt.datetime, units: Units) -> Iterator[Row]:
    cooks = finished(kitchen).filter(finished_at__gte=begin, finished_at__lt=end).prefetch_related("additions__by")
    for cook in cooks:
        signed = getattr(cook, "sign_off", None)
        record = signed.record if signed else record_of(cook)
        told = record["verdict"] or (record["planned_verdict"] if cook.goes_by_steps else None)
        rule = (told or {}).get("rule") or told or {}
        words = verdict_words(told, units) if told else "needs a reading"
        if told and cook.goes_by_steps:
            words = f"by plan: {words}"
        if record.get("brine") and record["brine"].get("nitrite_ppm") is not None:
            brine = record["brine"]
            words = f"{brine['nitrite_ppm']:.0f} ppm of sodium nitrite, {brine['limit_ppm']:.0f} allowed"
            told = {"met": brine["allowed"]}
        put_right = [row["note"] for row in record["corrections"]]
        if record.get("advisory") and told and not told["met"]:
            put_right.append("served with its advisory")
        put_right += [f"added: {row.note}" for row in cook.additions.all()]
        yield Row(
            "Cook", str(cook.pk), cook.finished_at, f"{cook.name}, {cook.pieces}", str(cook.started_by), words,
            told["met"] if told else None, rule.get("text", ""),
            _standard(rule.get("standard", ""), rule.get("edition", ""), rule.get("section", "")) if rule else "",
            put_right, str(signed.by) if signed else "", signed.at if signed else None,
        )  # fmt: skip


def _batches(kitchen: Kitchen, begin: dt.datetime, end: dt.datetime) -> Iterator[Row]:
    rows = list(Batch.objects.of(kitchen).filter(out_at__gte=begin, out_at__lt=end).select_related("kitchen", "out_by"))
    for course in courses_of(rows, kitchen.now()):
        rule = course.batch.result["rule"]
        missed = any(stage.missed for stage in course.stages)
        words = "cooling was missed" if missed else "cooled in time" if course.is_cold else "cooling"
        yield Row(
            "Batch", str(course.batch.pk), course.batch.out_at, f"{course.batch.name}, {course.portions}",
            str(course.batch.out_by), words, False if missed else True if course.is_cold else None, rule["text"],
            _standard(rule["standard"], rule.get("edition", ""), rule["section"]), _put_right(course),
        )  # fmt: skip


def _put_right(course: BatchCourse) -> list[str]:
    told = {"reheated": "heated through again", "decided": "decided", "discarded": "thrown away"}
    return [
        f"{told[event.kind]}{f': {event.note}' if event.note else ''} ({event.by})"
        for event in course.events
        if event.kind in told
    ]


def _entries(kitchen: Kitchen, begin: dt.datetime, end: dt.datetime, units: Units) -> Iterator[Row]:
    rows = Entry.objects.of(kitchen).filter(at__gte=begin, at__lt=end).exclude(kind=Entry.Kind.ADDITION)
    for entry in rows.select_related("by"):
        rule = entry.rule or {}
        read = "" if entry.celsius is None else f"{units.temperature_value(entry.celsius):.1f} {units.degree}"
        sent = {True: "taken in", False: "sent back", None: ""}[entry.accepted]
        note = entry.note if not rule or rule["met"] else ""
        put_right = [part for part in (sent if entry.accepted is False else "", entry.note) if part]
        yield Row(
            entry.get_kind_display(), str(entry.pk), entry.at, entry.what, str(entry.by),
            ", ".join(part for part in (read, sent, note) if part), rule.get("met"), rule.get("text", ""),
            _standard(rule["standard"], rule.get("edition", ""), rule["section"]) if rule else "",
            put_right if rule and not rule["met"] else [],
        )  # fmt: skip


def _checks(kitchen: Kitchen, begin: dt.datetime, end: dt.datetime, units: Units) -> Iterator[Row]:
    rows = KitCheck.objects.of(kitchen).filter(at__gte=begin, at__lt=end).select_related("by", "equipment", "probe")
    for check in rows:
        off = units.temperature_step(check.off_k)
        yield Row(
            "Kit check", str(check.pk), check.at, str(check.equipment or check.probe), str(check.by),
            f"{check.get_kind_display()}, {off:+.1f} {units.degree} off",
        )  # fmt: skip
