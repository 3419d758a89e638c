"""Verification of a kitchen's chain: every link follows from the one before, and every row still equals its payload."""

from __future__ import annotations

import json
from collections.abc import Iterator
from dataclasses import dataclass, replace
from itertools import islice
from typing import Any

from django.db import connection

from kitchen.accounts.models import Kitchen
from kitchen.faces.store import faults_of as photo_faults
from kitchen.logbook.evidence import faults_of
from kitchen.logbook.models import SignOff

from .anchor import anchors_of, is_signed, trusted_keys
from .check_chain import against, first_break
from .models import Link

AT_A_TIME = 2000
# Tables whose rows are linked, and how a row's kitchen is found (triggers of migration 0002, and of the apps).
CHAINED = {
    "line_cookevent": "JOIN line_cook o ON o.id = t.cook_id WHERE o.kitchen_id",
    "logbook_signoff": "JOIN line_cook o ON o.id = t.cook_id WHERE o.kitchen_id",
    "batches_batch": "WHERE t.kitchen_id",
    "batches_batchevent": "JOIN batches_batch o ON o.id = t.batch_id WHERE o.kitchen_id",
    "services_taskevent": "JOIN services_service o ON o.id = t.service_id WHERE o.kitchen_id",
    "kit_kitcheck": "WHERE t.kitchen_id",
    "brines_confirmation": "JOIN brines_brineplan o ON o.id = t.plan_id WHERE o.kitchen_id",
    "book_entry": "WHERE t.kitchen_id",
    "faces_facephoto": "WHERE t.kitchen_id",
    "faces_facemeasure": "WHERE t.kitchen_id",
    "faces_faceruler": "WHERE t.kitchen_id",
    "faces_faceremoval": "WHERE t.kitchen_id",
}


@dataclass(frozen=True)
class Walk:
    """The result: number of links, the last digest, and the first broken link with the reason; `faults`: what else is
    not as it was recorded.
    """

    records: int
    digest: str
    broken_at: int | None = None
    why: str = ""
    faults: tuple[str, ...] = ()

    @property
    def holds(self) -> bool:
        """Whether the whole chain holds, and all that it is held against."""
        return self.broken_at is None and not self.faults


def links_of(kitchen: Kitchen) -> Iterator[dict[str, Any]]:
    """The chain in order, as it is exported."""
    rows = Link.objects.of(kitchen).order_by("number")
    links = rows.values("number", "before", "payload", "digest", "table", "row_key")
    yield from (dict(link) for link in links.iterator(AT_A_TIME))


def walk(kitchen: Kitchen) -> Walk:
    """Walk the chain from its start, stopping at the first broken link."""
    records, digest = 0, "0" * 64
    links = links_of(kitchen)
    while some := list(islice(links, AT_A_TIME)):
        broken = first_break(some, digest, records)
        if broken is not None:
            return Walk(records, digest, *broken)
        changed = _changed(some)
        if changed is not None:
            return Walk(records, digest, *changed)
        records, digest = records + len(some), some[-1]["digest"]
    return Walk(records, digest)


def verify(kitchen: Kitchen) -> Walk:
    """Walk the chain, and hold it against its signed heads, the rows that should be in it, and what was signed."""
    walked = walk(kitchen)
    if not walked.holds:
        return walked
    return replace(
        walked,
        faults=(
            *_anchors_disagree(kitchen, walked.records),
            *_unlinked(kitchen),
            *_signed(kitchen),
            *photo_faults(kitchen),
        ),
    )


def _anchors_disagree(kitchen: Kitchen, records: int) -> list[str]:
    """What the signed heads say against the chain: it was cut, emptied or written anew, or an anchor is forged."""
    anchors, trusted = list(anchors_of(kitchen)), trusted_keys()
    wanted = {each["number"] for each in anchors}
    digests = dict(Link.objects.of(kitchen).filter(number__in=wanted).values_list("number", "digest"))
    faults = []
    for each in anchors:
        if not is_signed(each, trusted):
            faults.append(f"the anchor of record {each['number']} is not signed by a key of this installation")
        elif fault := against(each, digests, records):
            faults.append(fault)
    return list(dict.fromkeys(faults))


def _unlinked(kitchen: Kitchen) -> list[str]:
    """Rows that were written past the chain, by table."""
    faults = []
    for table, how in CHAINED.items():
        name = connection.ops.quote_name(table)
        question = (
            f"SELECT count(*) FROM {name} t {how} = %s AND NOT EXISTS"  # noqa: S608
            " (SELECT FROM book_link l WHERE l.table = %s AND l.row_key = t.id::text)"
        )
        with connection.cursor() as cursor:
            cursor.execute(question, [kitchen.pk, table])
            if count := cursor.fetchone()[0]:
                faults.append(f"{count} rows of {table} are in no record")
    return faults


def _signed(kitchen: Kitchen) -> list[str]:
    """Signed cooks whose documents or readings are not what was signed."""
    signatures = SignOff.objects.filter(cook__kitchen=kitchen).exclude(evidence={})
    with_all = signatures.select_related("cook__kitchen", "readings").prefetch_related("cook__probe_uses")
    return [f"{signed.cook}: {fault}" for signed in with_all.iterator(200) for fault in faults_of(signed)]


def _changed(links: list[dict[str, Any]]) -> tuple[int, str] | None:
    """The first of these links whose row has changed or is gone."""
    by_table: dict[str, list[dict[str, Any]]] = {}
    for link in links:
        by_table.setdefault(link["table"], []).append(link)
    worst: tuple[int, str] | None = None
    for table, mine in by_table.items():
        now = _rows(table, [link["row_key"] for link in mine])
        for link in mine:
            written, there = json.loads(link["payload"])["row"], now.get(link["row_key"])
            why = "its row is missing" if there is None else ""
            if there is not None and any(there.get(key) != value for key, value in written.items()):
                why = "its row differs from what was recorded"
            if why and (worst is None or link["number"] < worst[0]):
                worst = (link["number"], why)
    return worst


def _rows(table: str, keys: list[str]) -> dict[str, dict[str, Any]]:
    """Rows of a table as stored, by key."""
    name = connection.ops.quote_name(table)
    with connection.cursor() as cursor:
        cursor.execute(f"SELECT id::text, to_jsonb(t)::text FROM {name} t WHERE id::text = ANY(%s)", [keys])  # noqa: S608
        return {key: json.loads(text) for key, text in cursor.fetchall()}
