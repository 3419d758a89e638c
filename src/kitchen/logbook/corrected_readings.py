"""A cook's readings corrected by its probes' checks, on which verdicts are based."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from ember.kit.equipment import off_at
from kitchen.kit.models import KitCheck
from kitchen.line.models import Cook, CookEvent

from .evidence import taken_readings


@dataclass(frozen=True)
class Corrected:
    """Readings as (s from the start, °C) in order, by device and typed, and the offset assumed for each probe.

    `probes` rows: name, "at" of its newest check, "checks" [{"shown_c", "off_k"}].
    """

    wire: list[tuple[float, float]]
    by_hand: list[tuple[float, float]]
    probes: list[dict[str, Any]]

    @property
    def readings(self) -> list[tuple[float, float]]:
        """All readings, in order."""
        return sorted([*self.wire, *self.by_hand])


def corrected(cook: Cook) -> Corrected:
    """The readings of a cook, corrected by each probe's last checks before it; typed ones unchanged.

    A check of the core counts as a typed reading with its time.
    """
    used = sorted({use.probe_id for use in cook.probe_history})
    offs, names = _offs(cook, used) if used else ({}, [])
    wire: list[tuple[float, float]] = []
    by_hand = core_checks(cook)
    for reading in taken_readings(cook):
        if reading.at >= cook.started_at:
            off = off_at(offs[reading.probe], reading.celsius) if reading.probe in offs else 0.0
            corrected_reading = (reading.at - cook.started_at).total_seconds(), reading.celsius - off
            (by_hand if reading.by_hand else wire).append(corrected_reading)
    return Corrected(wire, sorted(by_hand), names)


def core_checks(cook: Cook) -> list[tuple[float, float]]:
    """(s from the start, °C) of each check that measured the core."""
    return [
        ((event.at - cook.started_at).total_seconds(), float(event.data["core_c"])) for event in core_check_events(cook)
    ]


def core_check_events(cook: Cook) -> list[CookEvent]:
    """The checks that measured the core, in order."""
    return [
        event for event in cook.history if event.kind == CookEvent.Kind.CHECKED and event.data.get("core_c") is not None
    ]


def _offs(cook: Cook, probes: list[int]) -> tuple[dict[int, dict[float, float]], list[dict[str, Any]]]:
    """{probe: {°C shown: offset K}}, and the same in the form of a record."""
    checks = KitCheck.objects.of(cook.kitchen).filter(probe__in=probes, at__lte=cook.started_at)
    newest = checks.select_related("probe").order_by("probe_id", "kind", "-at", "-id").distinct("probe_id", "kind")
    offs: dict[int, dict[float, float]] = {}
    by_probe: dict[int, dict[str, Any]] = {}
    for check in newest:
        if check.off_k and check.probe_id is not None:
            offs.setdefault(check.probe_id, {})[check.read_c] = check.off_k
            probe_row = by_probe.setdefault(
                check.probe_id, {"name": str(check.probe), "at": check.at.isoformat(), "checks": []}
            )
            probe_row["checks"].append({"shown_c": check.read_c, "off_k": round(check.off_k, 2)})
            probe_row["at"] = max(probe_row["at"], check.at.isoformat())
    return offs, list(by_probe.values())
