"""A cook's record: planned beside done, checks, the verdict on the readings. From a Following to JSON-able data."""

from __future__ import annotations

from typing import Any

import numpy as np

from ember.errors import EmberError
from ember.files.judge import JudgedPiece, JudgeRequest
from ember.judge.readings import as_json, judge_readings
from kitchen.line.models import Cook, CookEvent
from kitchen.line.queries import Following
from kitchen.line.step_cooks import StepFollowing, step_following, steps_record

from .corrected import corrected

BRINE_KEPT = ("nitrite_ppm", "limit_ppm", "allowed", "why", "salt_pct_meat", "confirmed_by", "confirmed_at")
MAX_GAP_S = 300.0  # a gap between readings longer than this counts as its worst case


def verdict_on_readings(following: Following, taken: list[tuple[float, float]]) -> dict[str, Any] | None:
    """What the standard says of the readings; None with fewer than two."""
    readings = _strictly_increasing(taken)
    if len(readings) < 2:
        return None
    piece = following.plan.piece
    try:
        request = JudgeRequest(
            format="open-ember/judge",
            version=1,
            piece=JudgedPiece(
                cut=piece.cut,
                history=following.plan.history,
                origin=piece.origin,
                mass_g=piece.mass_g,
                composition=piece.composition,
            ),
            guests=following.plan.guests,
            standard=following.plan.standard,
            house=following.plan.house,
            readings=readings,
            max_gap_s=MAX_GAP_S,
        )
        return as_json(judge_readings(request))
    except (EmberError, ValueError):
        return None


def _strictly_increasing(readings: list[tuple[float, float]]) -> list[tuple[float, float]]:
    """One reading a moment: of several at the same time the coldest, which is the cautious one."""
    found: list[tuple[float, float]] = []
    for s, c in readings:
        if found and s <= found[-1][0]:
            found[-1] = (found[-1][0], min(found[-1][1], c))
        else:
            found.append((s, c))
    return found


def off_plan(following: Following, taken: list[tuple[float, float]]) -> list[dict[str, Any]]:
    """Rows of plan, done and difference, each with its unit: "s", "c" or "pct"."""
    rows: list[dict[str, Any]] = []
    result = following.cook.result
    pull = result.get("pull")
    steps = following.steps
    if pull:
        step = next((s for s in steps if s.verb == "Pull"), None)
        event = following.done.get(step.number) if step else None
        actual = (event.at - following.cook.started_at).total_seconds() if event else None
        rows.append({"what": "Pulled after", "unit": "s", "plan": pull["s"], "done": actual})
        rows.append(
            {"what": "Core at pull", "unit": "c", "plan": pull["reading_c"], "done": _reading_at(taken, actual)}
        )
    peak = max((c for _, c in taken), default=None)
    rows.append({"what": "Peak core", "unit": "c", "plan": result["core"]["peak_reading_c"], "done": peak})
    if weighed := _weighed_pct(following.cook):
        rows.append({"what": "Yield", "unit": "pct", "plan": result["yield_pct"], "done": weighed})
    for row in rows:
        row["off"] = None if row["done"] is None or row["plan"] is None else row["done"] - row["plan"]
    return rows


def _weighed_pct(cook: Cook) -> float | None:
    """What came out of what went in, %: by the last check that weighed it; None where nobody did."""
    weighed = [e.data["weighed_g"] for e in cook.events.all() if e.kind == "checked" and e.data.get("weighed_g")]
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
        for event in cook.events.all()
        if event.kind == CookEvent.Kind.CHECKED
    ]


def corrections(cook: Cook) -> list[dict[str, Any]]:
    """Corrective notes and the reason of a stop, in order."""
    kinds = (CookEvent.Kind.CORRECTED, CookEvent.Kind.STOPPED)
    return [
        {"note": event.data.get("note", ""), "kind": event.kind, "at": event.at.isoformat(), "by": str(event.by)}
        for event in cook.events.all()
        if event.kind in kinds
    ]


def build_eggs(following: StepFollowing) -> dict[str, Any]:
    """The whole record of an egg cook: its steps planned beside done, and its rule by plan."""
    cook = following.cook
    return {
        **_head(cook),
        **steps_record(following),
        "off_plan": [],
        "checks": checks(cook),
        "corrections": corrections(cook),
        "verdict": None,
        "planned_verdict": (cook.result.get("rules") or [None])[0],
        "goes_out": cook.result.get("goes_out"),
        "brine": {key: cook.result.get(key) for key in BRINE_KEPT} if cook.kind == Cook.Kind.BRINE else None,
        "pasteurised": bool(cook.document.get("pasteurised", False)),
        "advisory": bool(cook.document.get("advisory", False)) and cook.result.get("goes_out") == "advisory",
        "readings": 0,
    }


def record_of(cook: Cook) -> dict[str, Any]:
    """The record of a cook, of a plan or of eggs."""
    if cook.goes_by_steps:
        return build_eggs(step_following(cook))
    return build(Following(cook, cook.kitchen.now()))


def _head(cook: Cook) -> dict[str, Any]:
    """What every record begins with."""
    return {
        "name": cook.name,
        "pieces": cook.pieces,
        "started_at": cook.started_at.isoformat(),
        "started_by": str(cook.started_by),
        "finished_at": cook.finished_at.isoformat() if cook.finished_at else None,
        "events": [
            {"kind": e.kind, "step": e.step, "at": e.at.isoformat(), "by": str(e.by)} for e in cook.events.all()
        ],
    }


def build(following: Following) -> dict[str, Any]:
    """The whole record, as it is kept under a signature."""
    cook = following.cook
    counted = corrected(cook)
    return {
        **_head(cook),
        "off_plan": off_plan(following, counted.readings),
        "checks": checks(cook),
        "corrections": corrections(cook),
        "verdict": verdict_on_readings(following, counted.readings),
        "probes": counted.probes,
        "planned_verdict": cook.result["safety"][0] if cook.result.get("safety") else None,
        "advisory": bool(cook.document.get("advisory", False)),
        "readings": len(counted.readings),
    }
