"""The verdict of a record: on readings; without any, by the model with the steps as tapped."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from ember.errors import EmberError
from ember.files.judge import JudgedPiece, JudgeRequest, OvenIn
from ember.judge.readings import as_json, judge_readings
from ember.judge.states import State
from ember.report.outcome import ovens_of
from ember.track.as_done import plan_as_done, stage_min, verdict_as_done
from kitchen.line.cook_status import CookStatus
from kitchen.line.track_events import track_events
from kitchen.line.verdicts import no_verdict, unread

from .corrected_readings import Corrected

MAX_GAP_S = 300.0  # a gap between readings longer than this counts as its worst case
READINGS = "readings"  # what a verdict rests on


def state_of(verdict: Mapping[str, Any] | None) -> State:
    """The state of a record's verdict, also if it was signed before there were four states."""
    if verdict is None:
        return State.NO_VERDICT
    return State(verdict["state"]) if verdict.get("state") else State.of(verdict.get("met"))


def plan_verdict(status: CookStatus, counted: Corrected) -> dict[str, Any]:
    """The verdict on a cook of a plan."""
    events = track_events(status)
    as_reported = (status.plan, status.planned_stages_s, events, status.now_s)
    verdict = None
    if counted.readings:
        done = plan_as_done(*as_reported)
        verdict = _on_readings(status, counted, ovens_of(done, [stage_min(stage) for stage in done.stages]))
        if verdict is not None and verdict["state"] != State.NOT_MET:
            return verdict
    by_times = verdict_as_done(*as_reported)  # a simulation: only where the readings do not settle it
    if verdict is None:
        return unread(by_times)
    if by_times is not None and by_times.kind == "surface" and by_times.met:
        # The core of a rare steak meets no rule; its faces may, and nobody read them.
        return verdict | no_verdict(
            "the core alone meets no rule: look for colour on every outside, and read the faces"
        )
    return verdict


def _on_readings(status: CookStatus, counted: Corrected, ovens: Any) -> dict[str, Any] | None:
    piece = status.plan.piece
    try:
        request = JudgeRequest(
            format="open-ember/judge",
            version=1,
            piece=JudgedPiece(
                cut=piece.cut,
                history=list(status.plan.history),
                origin=piece.origin,
                mass_g=piece.mass_g,
                treated=piece.treated,
                composition=piece.composition,
                shape=piece.shape,
            ),
            guests=status.plan.guests,
            advisory=status.plan.advisory,
            standard=status.plan.standard,
            house=status.plan.house,
            ovens=None if ovens is None else [OvenIn(air=oven.air, celsius=oven.celsius) for oven in ovens],
            readings=_one_a_moment(counted.wire),
            checks=_one_a_moment(counted.by_hand),
            max_gap_s=MAX_GAP_S,
        )
        return as_json(judge_readings(request)) | {"basis": READINGS}
    except (EmberError, ValueError):
        return None


def _one_a_moment(readings: list[tuple[float, float]]) -> list[tuple[float, float]]:
    """The coldest of several readings at the same time, which is the cautious one."""
    curve: list[tuple[float, float]] = []
    for s, c in sorted(readings):
        if curve and s <= curve[-1][0]:
            curve[-1] = (curve[-1][0], min(curve[-1][1], c))
        else:
            curve.append((s, c))
    return curve
