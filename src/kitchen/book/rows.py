"""One row of a report or search, for any kind of record: its rule, corrective action and signature."""

from __future__ import annotations

import datetime as dt
from collections.abc import Iterator
from dataclasses import dataclass, field
from typing import Any

from ember.judge.standards import standards
from ember.judge.states import State
from ember.quantities import Units
from kitchen.batches.cooling_status import CoolingStatus, cooling_statuses
from kitchen.line.cook_faces import faces_recorded
from kitchen.logbook.record import record_of, record_state
from kitchen.units.templatetags.units import verdict_words

from .models import Entry

MARKS = {State.MET: "met", State.NOT_MET: "not", State.ADVISORY: "advisory"}


@dataclass(frozen=True)
class Row:
    """One record. `state`: the verdict of its rule; None if such a record has no rule."""

    kind: str
    key: str
    at: dt.datetime
    name: str
    by: str
    words: str
    state: State | None = None
    rule: str = ""
    standard: str = ""
    put_right: list[str] = field(default_factory=list)
    signed_by: str = ""
    signed_at: dt.datetime | None = None
    what: str = ""
    faces: list[dict[str, Any]] = field(default_factory=list)  # photographs of the cut face, as in the record

    @property
    def mark(self) -> str:
        """The mark in drawings: met, not, advisory or none."""
        return MARKS.get(self.state, "none") if self.state else "none"

    @property
    def met(self) -> bool | None:
        """Whether its rule is met; None if there is no verdict."""
        return None if self.state is None else self.state.met

    @property
    def rule_named(self) -> str:
        """The rule with its standard; empty if there is none."""
        return f"{self.rule}. {self.standard}" if self.rule else ""

    @property
    def is_open(self) -> bool:
        """Whether it is not met and has no corrective action."""
        return self.state is State.NOT_MET and not self.put_right


def _standard(key: str, edition: str, section: str) -> str:
    standard_row = standards().get(key)
    return ", ".join(
        part for part in (f"{standard_row.name if standard_row else key} {edition}".strip(), section) if part
    )


def of_cooks(cooks: Any, units: Units) -> Iterator[Row]:
    """Rows of finished cooks."""
    for cook in cooks.prefetch_related("additions__by", "faces"):
        signed = getattr(cook, "sign_off", None)
        record = signed.record if signed else record_of(cook)
        verdict, state = _verdict_of(record), record_state(record)
        rule = verdict.get("rule") or {}
        words = verdict_words({**verdict, "state": state}, units)
        put_right = [correction["note"] for correction in record["corrections"]]
        put_right += [f"added: {correction.note}" for correction in cook.additions.all()]
        yield Row(
            "Cook", str(cook.pk), cook.finished_at, f"{cook.name}, {cook.pieces}", str(cook.started_by), words,
            state, rule.get("text", ""),
            _standard(rule.get("standard", ""), rule.get("edition", ""), rule.get("section", "")) if rule else "",
            put_right, str(signed.by) if signed else "", signed.at if signed else None, _what(record),
            faces_recorded(cook),
        )  # fmt: skip


def _verdict_of(record: dict[str, Any]) -> dict[str, Any]:
    """The verdict of a record; for one signed before eggs had verdicts, the planned one in the same form."""
    if record["verdict"]:
        return dict(record["verdict"])
    planned = record.get("planned_verdict") or {}
    rule = {key: planned.get(key, "") for key in ("standard", "section", "edition", "text")}
    return {**planned, "rule": rule if planned else {}}


def _what(record: dict[str, Any]) -> str:
    """What was cooked: cut, mass, plan."""
    mass = record.get("mass_g")
    plan = (record.get("plan") or {}).get("name")
    parts = [record.get("cut") or "", f"{mass:.0f} g" if mass else "", f"plan {plan}" if plan else ""]
    return ", ".join(part for part in parts if part)


def of_batches(batches: Any, now: dt.datetime) -> Iterator[Row]:
    """Rows of batches as they stand now."""
    for course in cooling_statuses(list(batches.select_related("kitchen", "out_by")), now):
        rule = course.batch.result["rule"]
        missed = any(stage.missed for stage in course.stages)
        words = "cooling missed" if missed else "cooled in time" if course.is_cold else "cooling"
        state = State.of(False if missed else True if course.is_cold else None)
        yield Row(
            "Batch", str(course.batch.pk), course.batch.out_at, f"{course.batch.name}, {course.portions}",
            str(course.batch.out_by), words, state, rule["text"],
            _standard(rule["standard"], rule.get("edition", ""), rule["section"]), _put_right(course),
        )  # fmt: skip


def _put_right(course: CoolingStatus) -> list[str]:
    words_by_kind = {"reheated": "reheated", "decided": "decided", "discarded": "discarded"}
    return [
        f"{words_by_kind[event.kind]}{f': {event.note}' if event.note else ''} ({event.by})"
        for event in course.events
        if event.kind in words_by_kind
    ]


def of_entries(entries: Any, units: Units) -> Iterator[Row]:
    """Rows of the book's entries; additions appear with their cook."""
    for entry in entries.exclude(kind=Entry.Kind.ADDITION).select_related("by"):
        rule = entry.rule or {}
        read = "" if entry.celsius is None else f"{units.temperature_value(entry.celsius):.1f} {units.degree}"
        sent = {True: "accepted", False: "rejected", None: ""}[entry.accepted]
        note = entry.note if not rule or rule["met"] else ""
        put_right = [part for part in (sent if entry.accepted is False else "", entry.note) if part]
        yield Row(
            entry.get_kind_display(), str(entry.pk), entry.at, entry.what, str(entry.by),
            ", ".join(part for part in (read, sent, note) if part), State.of(rule["met"]) if rule else None,
            rule.get("text", ""),
            _standard(rule["standard"], rule.get("edition", ""), rule["section"]) if rule else "",
            put_right if rule and not rule["met"] else [],
        )  # fmt: skip


def of_checks(checks: Any, units: Units) -> Iterator[Row]:
    """Rows of equipment and probe checks."""
    for check in checks.select_related("by", "equipment", "probe"):
        off = units.temperature_step(check.off_k)
        yield Row(
            "Equipment check", str(check.pk), check.at, str(check.equipment or check.probe), str(check.by),
            f"{check.get_kind_display()}, {off:+.1f} {units.degree} off",
        )  # fmt: skip
