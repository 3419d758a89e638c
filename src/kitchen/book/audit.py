"""Who did what, from the chain: one line a record, of every table."""

from __future__ import annotations

import datetime as dt
import json
from collections.abc import Iterable
from dataclasses import dataclass
from typing import Any

from django.db.models import Q

from kitchen.accounts.models import Kitchen, Person
from kitchen.batches.models import Batch
from kitchen.kit.models import Equipment, Probe
from kitchen.line.models import Cook
from kitchen.services.models import Service

from .models import Link
from .words import EVENTS

# Table: what a record of it is called, the field that names who, and those that say what, the first that is there.
TABLES: dict[str, tuple[str, str, tuple[str, ...]]] = {
    "line_cookevent": ("cook", "by_id", ("kind",)),
    "logbook_signoff": ("signature", "by_id", ()),
    "batches_batch": ("batch", "out_by_id", ("name",)),
    "batches_batchevent": ("batch", "by_id", ("kind",)),
    "services_taskevent": ("service", "by_id", ("kind",)),
    "kit_kitcheck": ("kit check", "by_id", ("kind",)),
    "brines_confirmation": ("brine confirmed", "by_id", ()),
    "book_entry": ("daily log", "by_id", ("what", "kind")),
}


@dataclass(frozen=True)
class AuditEntry:
    """One record: its number in the chain, when, who, what, its words, and the key of the cook it belongs to."""

    number: int
    at: dt.datetime
    who: str
    what: str
    words: str
    cook: str
    digest: str


def links_found(kitchen: Kitchen, person: str, text: str) -> Any:
    """Links of the chain, newest first; filtered by person (key) and by text."""
    rows = Link.objects.of(kitchen).order_by("-number")
    if person:
        rows = rows.filter(Q(payload__contains=f'by_id": {person},') | Q(payload__contains=f'by_id": {person}}}'))
    return rows.filter(payload__icontains=text) if text else rows


def audit_entries(links: Iterable[Link]) -> list[AuditEntry]:
    """The links as readable entries."""
    payloads = [(link, json.loads(link.payload)["row"]) for link in links]
    wanted = {record.get(TABLES[link.table][1]) for link, record in payloads}
    names = {person.pk: str(person) for person in Person.objects.filter(pk__in=wanted)}
    of = {
        "cook_id": _names(Cook, payloads, "cook_id"), "batch_id": _names(Batch, payloads, "batch_id"),
        "service_id": _names(Service, payloads, "service_id"),
        "equipment_id": _names(Equipment, payloads, "equipment_id"),
        "probe_id": _names(Probe, payloads, "probe_id"),
    }  # fmt: skip
    return [_audit_entry(link, record, names, of) for link, record in payloads]


def _names(model: Any, payloads: list[tuple[Link, dict[str, Any]]], field: str) -> dict[str, str]:
    keys = {record[field] for _, record in payloads if record.get(field)}
    return {str(key): name for key, name in model.objects.filter(pk__in=keys).values_list("pk", "name")}


def _happened_at(link: Link, record: dict[str, Any]) -> dt.datetime:
    """When what a record says happened: a late tap or a batch may be written down afterwards."""
    at = record.get("at") or record.get("out_at")
    return dt.datetime.fromisoformat(at) if at else link.at


def _audit_entry(
    link: Link, record: dict[str, Any], names: dict[int, str], of: dict[str, dict[str, str]]
) -> AuditEntry:
    thing, who, says = TABLES[link.table]
    said = next((str(record[key]) for key in says if record.get(key)), "")
    data = record.get("data") or {}
    read = record.get("celsius") if record.get("celsius") is not None else data.get("core_c")
    whose = next((of[field][str(record[field])] for field in of if str(record.get(field)) in of[field]), "")
    words = [
        whose,
        record.get("note") or data.get("note") or data.get("word") or "",
        "" if read is None else f"{read:g} °C",
    ]
    return AuditEntry(
        link.number, _happened_at(link, record), names.get(record.get(who) or 0, "system"),
        f"{thing}: {EVENTS.get(said, said)}".rstrip(": "),
        ", ".join(word for word in words if word), str(record.get("cook_id") or ""), link.digest,
    )  # fmt: skip
