"""A cook's readings with what its probes were found to be off taken away: the verdicts go by these."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from ember.kit.offsets import off_at
from kitchen.kit.models import KitCheck
from kitchen.line.models import Cook
from kitchen.line.queries import readings_of


@dataclass(frozen=True)
class Corrected:
    """Readings as (s from the start, °C) in order, and what each probe was taken to be off.

    `probes` rows: name, "at" of its newest check, "checks" [{"shown_c", "off_k"}].
    """

    readings: list[tuple[float, float]]
    probes: list[dict[str, Any]]


def corrected(cook: Cook) -> Corrected:
    """The readings of a cook, each less what its probe's last checks before the cook found; typed ones as they are."""
    used = sorted({use.probe_id for use in cook.probe_uses.all()})
    offs, told = _offs(cook, used) if used else ({}, [])
    rows = readings_of(cook).filter(at__gte=cook.started_at).values_list("at", "celsius", "probe_id")
    found = []
    for at, celsius, probe in rows:
        off = off_at(offs[probe], celsius) if probe in offs else 0.0
        found.append(((at - cook.started_at).total_seconds(), celsius - off))
    return Corrected(found, told)


def _offs(cook: Cook, probes: list[int]) -> tuple[dict[int, dict[float, float]], list[dict[str, Any]]]:
    """{probe: {°C shown: K off}}, and the same as a record keeps it."""
    checks = KitCheck.objects.of(cook.kitchen).filter(probe__in=probes, at__lte=cook.started_at)
    newest = checks.select_related("probe").order_by("probe_id", "kind", "-at", "-id").distinct("probe_id", "kind")
    offs: dict[int, dict[float, float]] = {}
    told: dict[int, dict[str, Any]] = {}
    for check in newest:
        if check.off_k:
            offs.setdefault(check.probe_id, {})[check.read_c] = check.off_k
            row = told.setdefault(check.probe_id, {"name": str(check.probe), "at": check.at.isoformat(), "checks": []})
            row["checks"].append({"shown_c": check.read_c, "off_k": round(check.off_k, 2)})
            row["at"] = max(row["at"], check.at.isoformat())
    return offs, list(told.values())
