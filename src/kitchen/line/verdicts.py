"""The verdict on an unmeasured cook: by the model, with the steps as tapped."""

from __future__ import annotations

from typing import Any

from ember.chill.back import rule_as_done
from ember.cure.answer import answer_brine
from ember.eggs.answer import rules_as_done
from ember.errors import EmberError
from ember.files.brine import parse_brine
from ember.files.chill import parse_chill
from ember.files.egg import parse_egg
from ember.files.result import SafetyOut
from ember.judge.standards import standard
from ember.judge.states import State
from ember.quantities import show_duration

from .models import Cook
from .step_cooks import StepCookStatus

CURED_SHORT = 0.95  # less of its planned time in the salt than this is too short; set by this project
TIMES = "times"  # what a verdict rests on: the times that were tapped


def no_verdict(reason: str) -> dict[str, Any]:
    return {"state": State.NO_VERDICT.value, "met": None, "reason": reason, "advisory_allowed": False}


def unread(by_times: SafetyOut | None) -> dict[str, Any]:
    """The verdict without readings: times can show that a rule was missed, not that it was met."""
    if by_times is None:
        return empty_verdict() | no_verdict("needs a probe reading")
    verdict = of_safety(by_times)
    return verdict | no_verdict("needs a probe reading") if by_times.met else verdict


def empty_verdict() -> dict[str, Any]:
    return {"kind": "none", "needed": {}, "reached": {}, "organism": "", "rule": {}, "cautions": [], "basis": TIMES}


def of_safety(rule: SafetyOut) -> dict[str, Any]:
    """A verdict by the model in the form of one on readings."""
    return {
        "state": rule.state, "met": rule.met, "kind": rule.kind, "needed": rule.needed, "reached": rule.reached,
        "organism": rule.organism, "reason": rule.reason, "cautions": rule.cautions, "basis": TIMES,
        "advisory_allowed": rule.advisory_allowed,
        "rule": {
            "id": rule.rule, "standard": rule.standard, "section": rule.section, "edition": rule.edition,
            "text": rule.text,
        },
    }  # fmt: skip


def steps_verdict(status: StepCookStatus) -> dict[str, Any]:
    """The verdict on a cook that goes by steps, by the seconds between going in and coming out."""
    cook, heated_s, planned_s = status.cook, status.heated_s, status.planned_heat_s
    try:
        match cook.kind:
            case Cook.Kind.BRINE:
                return _brine_verdict(status)
            case Cook.Kind.BACK:
                request = parse_chill(cook.document)
                rule = rule_as_done(request, standard(request.standard), heated_s or 0.0)
                if rule is None:
                    return empty_verdict() | no_verdict("served at once: no rule for reheating applies")
                return unread(rule)
            case _:
                rules = rules_as_done(parse_egg(cook.document), heated_s, planned_s)
                return of_safety(rules[0]) | {"heated_s": heated_s, "planned_heat_s": planned_s}
    except EmberError as error:
        return empty_verdict() | no_verdict(error.message)


def _brine_verdict(status: StepCookStatus) -> dict[str, Any]:
    """Whether curing salt is within its limit, and the time in salt was as planned."""
    request = parse_brine(status.cook.document)
    if request.cure is None:
        return empty_verdict() | no_verdict("no curing salt: no rule applies")
    answer = answer_brine(request)
    section = {"id": "nitrite", "standard": request.standard, "section": "", "edition": "", "text": answer.why}
    verdict = empty_verdict() | {"kind": "nitrite", "rule": section, "advisory_allowed": False}
    lasted, planned = status.heated_s, status.planned_heat_s
    if not answer.allowed:
        return verdict | {"state": State.NOT_MET.value, "met": False, "reason": answer.why.rstrip(".")}
    if lasted is None or (request.school != "injected" and lasted < CURED_SHORT * planned):
        spent = "was never put into the salt" if lasted is None else f"was in the salt for {show_duration(lasted)}"
        reason = f"it {spent} of the {show_duration(planned)} planned: the core is not cured as planned"
        return verdict | {"state": State.NOT_MET.value, "met": False, "reason": reason}
    ppm, limit = answer.nitrite_ppm or 0.0, answer.limit_ppm or 0.0
    reason = f"{ppm:.0f} ppm of sodium nitrite (at most {limit:g}), {show_duration(lasted)} in the salt"
    return verdict | {"state": State.MET.value, "met": True, "reason": reason}
