"""Verification of a kitchen's chain: every link follows from the one before, and every row still equals its payload."""

from __future__ import annotations

import json
from collections.abc import Iterator
from dataclasses import dataclass
from itertools import islice
from typing import Any

from django.db import connection

from kitchen.accounts.models import Kitchen

from .check_chain import first_break
from .models import Link

AT_A_TIME = 2000


@dataclass(frozen=True)
class Walk:
    """The result: number of links, the last digest, and the first broken link with the reason."""

    records: int
    digest: str
    broken_at: int | None = None
    why: str = ""

    @property
    def holds(self) -> bool:
        """Whether the whole chain holds."""
        return self.broken_at is None


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
