"""Reads of the equipment: offsets found by checks, and when the next is due."""

from __future__ import annotations

import datetime as dt
from dataclasses import dataclass

from ember.kit.equipment import off_at
from ember.kit.thermometers import PROBE_LIMIT_K, ThermometerVerdict, boiling_point_c, judge_thermometer
from kitchen.accounts.models import Kitchen
from kitchen.drawings.off_scale import OffScale, off_scale

from .models import Equipment, KitCheck, Probe


@dataclass(frozen=True)
class Due:
    """When the next check is due; `days` from today, None if it was never checked."""

    days: int | None

    @property
    def overdue(self) -> int:
        """Days overdue."""
        return max(-(self.days or 0), 0)


def due(kitchen: Kitchen, last: dt.datetime | None, every_days: int) -> Due:
    """When the next check is due after the last one."""
    if last is None:
        return Due(None)
    today = kitchen.now().astimezone(kitchen.zone).date()
    return Due((last.astimezone(kitchen.zone).date() + dt.timedelta(days=every_days) - today).days)


WIDE_K = {"bath": 1.0, "fridge": 5.0, "chiller": 5.0, "pan": 20.0, "plancha": 20.0, "grill": 20.0}
LET_PASS_K = {"bath": 0.3, "fridge": 2.0, "chiller": 2.0, "pan": 8.0, "plancha": 8.0, "grill": 10.0}
USUAL_WIDE_K, USUAL_LET_PASS_K = 10.0, 5.0
PROBE_WIDE_K = 2.0


def offs_of(equipment: Equipment) -> dict[float, float]:
    """The newest {setting °C: offset K} of a piece of equipment."""
    errors_by_setting: dict[float, float] = {}
    for check in equipment.checks.all():  # the newest first
        errors_by_setting.setdefault(check.wanted_c, check.off_k)
    return errors_by_setting


def off_of(equipment: Equipment, setting_c: float) -> float:
    """How much hotter it runs than its setting, K."""
    return round(off_at(offs_of(equipment), setting_c), 1)


@dataclass(frozen=True)
class EquipmentRow:
    """A piece of equipment with its scale and next check."""

    equipment: Equipment
    scale: OffScale
    due: Due
    worst_k: float | None
    is_off: bool


@dataclass(frozen=True)
class ProbeRow:
    """A probe with its two scales, verdict and next check."""

    probe: Probe
    ice: OffScale
    boil: OffScale
    verdict: ThermometerVerdict | None
    due: Due


def equipment_rows(kitchen: Kitchen) -> list[EquipmentRow]:
    """All equipment in use, by kind."""
    rows = []
    order = {kind: i for i, kind in enumerate(Equipment.Kind.values)}
    items = Equipment.objects.of(kitchen).current().prefetch_related("checks")
    for equipment in sorted(items, key=lambda e: (order[e.kind], e.name)):
        offs = offs_of(equipment)
        wide, pass_k = WIDE_K.get(equipment.kind, USUAL_WIDE_K), LET_PASS_K.get(equipment.kind, USUAL_LET_PASS_K)
        last = max((check.at for check in equipment.checks.all()), default=None)
        worst = max(offs.values(), key=abs, default=None)
        rows.append(
            EquipmentRow(
                equipment, off_scale(list(offs.items()), wide, pass_k), due(kitchen, last, equipment.check_days), worst,
                worst is not None and abs(worst) > pass_k,
            )
        )  # fmt: skip
    return rows


def probe_rows(kitchen: Kitchen) -> list[ProbeRow]:
    """All probes of devices with a valid token."""
    rows = []
    for probe in Probe.objects.of(kitchen).filter(device__revoked_at=None).prefetch_related("checks"):
        newest: dict[str, KitCheck] = {}
        for check in probe.checks.all():
            newest.setdefault(check.kind, check)
        ice, boil = newest.get("ice"), newest.get("boil")
        offs = [check.off_k for check in (ice, boil) if check]
        last: dt.datetime | None = max((check.at for check in newest.values()), default=None)
        rows.append(
            ProbeRow(
                probe,
                off_scale([(ice.read_c, ice.off_k)] if ice else [], PROBE_WIDE_K, PROBE_LIMIT_K),
                off_scale([(boil.read_c, boil.off_k)] if boil else [], PROBE_WIDE_K, PROBE_LIMIT_K),
                judge_thermometer(offs) if offs else None,
                due(kitchen, last, probe.check_days),
            )
        )
    return rows


def boils_at_c(kitchen: Kitchen) -> float:
    """Boiling point of water in this kitchen, °C."""
    return boiling_point_c(kitchen.altitude_m)
