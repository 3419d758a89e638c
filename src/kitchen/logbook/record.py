"""A cook's record: planned and done, checks, the verdict on the readings. From a CookStatus to JSON-able data."""

from __future__ import annotations

from typing import Any

import numpy as np

from ember.food.catalogue import cuts
from ember.judge.states import State
from kitchen.line.cook_faces import faces_recorded
from kitchen.line.cook_status import CookStatus
from kitchen.line.models import Cook, CookEvent
from kitchen.line.step_cooks import StepCookStatus, step_status_of, steps_record
from kitchen.line.verdicts import steps_verdict

from .corrected_readings import corrected
from .verdicts import plan_verdict, state_of

BRINE_KEPT = (
    "nitrite_ppm", "limit_ppm", "allowed", "why", "salt_pct_meat", "confirmed_by", "confirmed_at",
    "confirmed_how",
)  # fmt: skip


def off_plan(status: CookStatus, taken: list[tuple[float, float]]) -> list[dict[str, Any]]:
    """Rows of plan, done and difference, each with its unit: "s", "c" or "pct"."""
    rows: list[dict[str, Any]] = []
    result = status.cook.result
    pull = result.get("pull")
    if pull:
        step = status.pull_step
        event = status.done.get(step.number) if step else None
        actual = (event.at - status.cook.started_at).total_seconds() if event else None
        rows.append({"what": "Pulled after", "unit": "s", "plan": pull["s"], "done": actual})
        rows.append(
            {"what": "Core at pull", "unit": "c", "plan": pull["reading_c"], "done": _reading_at(taken, actual)}
        )
    peak = max((c for _, c in taken), default=None)
    rows.append({"what": "Peak core", "unit": "c", "plan": result["core"]["peak_reading_c"], "done": peak})
    if weighed := _weighed_pct(status.cook):
        rows.append({"what": "Yield", "unit": "pct", "plan": result["yield_pct"], "done": weighed})
    for row in rows:
        row["off"] = None if row["done"] is None or row["plan"] is None else row["done"] - row["plan"]
    return rows


def _weighed_pct(cook: Cook) -> float | None:
    """Yield, %, by the last check that weighed it; None if nobody did."""
    weighed = [e.data["weighed_g"] for e in cook.history if e.kind == "checked" and e.data.get("weighed_g")]
    went_in = (cook.document["piece"].get("mass_g") or 0.0) * cook.pieces
    return round(100.0 * weighed[-1] / went_in, 1) if weighed and went_in else None


def _reading_at(taken: list[tuple[float, float]], at_s: float | None) -> float | None:
    """The reading nearest to a time, within a minute of it."""
    if at_s is None or not taken:
        return None
    t = np.array([s for s, _ in taken])
    i = int(np.argmin(np.abs(t - at_s)))
    return taken[i][1] if abs(t[i] - at_s) <= 60.0 else None


def checks(cook: Cook) -> list[dict[str, Any]]:
    """Checks in order."""
    return [
        {**event.data, "at": event.at.isoformat(), "by": str(event.by)}
        for event in cook.history
        if event.kind == CookEvent.Kind.CHECKED
    ]


def corrections(cook: Cook) -> list[dict[str, Any]]:
    """Corrective actions and the reason of a stop, in order."""
    kinds = (CookEvent.Kind.CORRECTED, CookEvent.Kind.STOPPED)
    return [
        {"note": event.data.get("note", ""), "kind": event.kind, "at": event.at.isoformat(), "by": str(event.by)}
        for event in cook.history
        if event.kind in kinds
    ]


def build_eggs(status: StepCookStatus) -> dict[str, Any]:
    """The record of a cook that goes by steps: planned and done, and its rule by the steps as tapped."""
    cook, verdict = status.cook, steps_verdict(status)
    return {
        **_head(cook),
        **steps_record(status),
        "off_plan": [],
        "checks": checks(cook),
        "corrections": corrections(cook),
        "verdict": verdict,
        "state": state_of(verdict).value,
        "planned_verdict": (cook.result.get("rules") or [None])[0],
        "goes_out": cook.result.get("goes_out"),
        "brine": {key: cook.result.get(key) for key in BRINE_KEPT} if cook.kind == Cook.Kind.BRINE else None,
        "pasteurised": bool(cook.document.get("pasteurised", False)),
        "advisory": state_of(verdict) is State.ADVISORY,
        "readings": 0,
    }


def record_of(cook: Cook) -> dict[str, Any]:
    """The record of a cook."""
    if cook.goes_by_steps:
        return build_eggs(step_status_of(cook))
    return build(CookStatus(cook, cook.kitchen.now()))


def record_state(record: dict[str, Any]) -> State:
    """The state of a record; for one signed before there were four states, derived from its verdict."""
    if known := record.get("state"):
        return State(known)
    brine = record.get("brine") or {}
    if brine.get("nitrite_ppm") is not None:
        return State.of(bool(brine["allowed"]))
    state = state_of(record["verdict"] or record.get("planned_verdict"))
    return State.ADVISORY if state is State.NOT_MET and record.get("advisory") else state


def _head(cook: Cook) -> dict[str, Any]:
    """The fields that every record starts with."""
    return {
        "name": cook.name,
        **identity_of(cook),
        "pieces": cook.pieces,
        "started_at": cook.started_at.isoformat(),
        "started_by": str(cook.started_by),
        "finished_at": cook.finished_at.isoformat() if cook.finished_at else None,
        "events": [{"kind": e.kind, "step": e.step, "at": e.at.isoformat(), "by": str(e.by)} for e in cook.history],
    }


def identity_of(cook: Cook) -> dict[str, Any]:
    """What was cooked: cut, species, mass of one piece, g, and its plan."""
    piece = cook.document.get("piece") or {}
    cut_entry = cuts().get(str(piece.get("cut") or cook.document.get("cut") or ""))
    own = (piece.get("own_cut") or {}).get("name")
    return {
        "cut": own or (cut_entry.name if cut_entry else ""),
        "species": cut_entry.species if cut_entry else "egg" if cook.kind == Cook.Kind.EGGS else "",
        "mass_g": piece.get("mass_g") or cook.document.get("meat_g"),
        "plan": {"id": str(cook.plan_id), "name": cook.plan.name} if cook.plan else None,
    }


def build(status: CookStatus) -> dict[str, Any]:
    """The whole record, as it is stored under a signature."""
    cook = status.cook
    counted = corrected(cook)
    verdict = plan_verdict(status, counted)
    return {
        **_head(cook),
        "off_plan": off_plan(status, counted.readings),
        "checks": checks(cook),
        "corrections": corrections(cook),
        "verdict": verdict,
        "state": state_of(verdict).value,
        "probes": counted.probes,
        "faces": faces_recorded(cook),
        "planned_verdict": cook.result["safety"][0] if cook.result.get("safety") else None,
        "advisory": state_of(verdict) is State.ADVISORY,
        "readings": len(counted.readings),
    }
