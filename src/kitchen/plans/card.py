"""The prep card: a plan on one sheet, with boxes to fill in."""

from __future__ import annotations

import datetime as dt
import io
from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any

import segno
from django.urls import reverse

from ember.files.stages import COLOURING
from ember.heat.media import medium_c
from ember.methods.prep import prep_kinds
from ember.quantities import Units
from ember.report.rubs import SEASONINGS
from kitchen.drawings.families import pattern
from kitchen.drawings.plan_chart import time_columns
from kitchen.units.number_text import figure, fixed
from kitchen.web import KitchenRequest

from .access import rules_of
from .bench import Bench
from .models import Plan
from .pictures import drawing_of, face_of
from .stage_kinds import STAGE_NAMES

SIGN_PX = 62.0
CHECKED_KINDS = ("bath", "oven", "fry", "simmer", "poach")
ENDS_CHECKED = ("ice_bath", "chill", "reheat")
READING_MAY_BE_OFF_K = 0.5
SECTION_PX = 600.0
DENSITIES = ((14, ""), (19, "card-many"), (99, "card-many card-most"))  # rows that a sheet takes at each size of type
DAY_S = 86_400.0


@dataclass(frozen=True)
class CardStep:
    """One line of the card; `start_s` from the plan's start; `sign`: the stage's pattern; `is_pull` frames it."""

    start_s: float
    verb: str
    amount_s: float | None
    how: str
    sign: str = ""
    is_pull: bool = False
    at: dt.datetime | None = None


@dataclass(frozen=True)
class CardCheck:
    """One reading to write down."""

    what: str
    how: str
    wanted: str


def _how(bench: Bench, i: int, units: Units) -> str:
    """A stage's setting in a few words."""
    form = bench.stages[i]
    core = bench.core
    celsius = medium_c(core.stages[i]) if core else None
    at = f"{figure(units.temperature_value(celsius), 1)} {units.degree}" if celsius is not None else ""
    words = []
    for _, field, _ in form.small:
        choices = dict(getattr(field.field, "choices", []))
        if (
            choices
            and (choice_words := choices.get(str(field.value())))
            and choice_words not in ("open", "door shut", "hot pan")
        ):
            words.append(choice_words)
    return ", ".join([part for part in [at, *words] if part])


def _steps(bench: Bench, units: Units) -> Iterator[CardStep]:
    core, result = bench.core, bench.result
    if core is None or result is None:
        return
    pull, last = result.pull, len(core.stages)
    by_hand_s = 0.0  # steps without heat take their minutes too
    for i in range(last + 1):
        starts = result.stages[i].start_s if i < last else result.stages[-1].end_s
        for step in core.prep:
            if min(step.before, last) == i:
                holds = f"with {', '.join(step.holds)}" if step.kind in SEASONINGS and step.holds else ""
                holds = f"the last {step.mm:g} mm" if step.mm is not None else holds
                seconds = step.minutes * 60.0
                yield CardStep(starts + by_hand_s, prep_kinds()[step.kind].name, seconds or None, holds)
                by_hand_s += seconds
        if i == last:
            break
        stage, run = core.stages[i], result.stages[i]
        by_side = getattr(stage, "seconds_a_side", None)
        how = f"{figure(by_side, 0)} s a side, " if by_side and stage.kind in COLOURING else ""
        yield CardStep(
            run.start_s + by_hand_s, STAGE_NAMES[stage.kind], run.end_s - run.start_s, how + _how(bench, i, units),
            pattern(stage.kind, SIGN_PX),
        )  # fmt: skip
        if pull is not None and pull.stage == i:
            reading = f"at {fixed(units.temperature_value(pull.reading_c), 1)} {units.degree}"
            yield CardStep(pull.s + by_hand_s, "Pull", None, f"{reading}, probe tip in the centre", is_pull=True)
    yield CardStep(result.stages[-1].end_s + by_hand_s, "Serve", None, "across the grain where it is sliced")


def _checks(bench: Bench, units: Units) -> Iterator[CardCheck]:
    core, result = bench.core, bench.result
    if core is None or result is None:
        return

    def shown(celsius: float) -> str:
        return fixed(units.temperature_value(celsius), 1)

    yield CardCheck("Core at the start", "centre of the thickest piece", f"planned {shown(core.piece.start_c)}")
    for i, stage in enumerate(core.stages):
        celsius = medium_c(stage)
        if stage.kind in CHECKED_KINDS and celsius is not None:
            yield CardCheck(STAGE_NAMES[stage.kind], f"a second probe, stage {i + 1}", f"set {shown(celsius)}")
        if stage.kind in ENDS_CHECKED:
            after = f"Core after the {STAGE_NAMES[stage.kind].lower()}"
            yield CardCheck(after, "probe tip in the thickest piece", f"planned {shown(result.stages[i].core_c[1])}")
    if result.pull is not None:
        low, high = result.pull.reading_c - READING_MAY_BE_OFF_K, result.pull.reading_c + READING_MAY_BE_OFF_K
        yield CardCheck("Core at the pull", "probe from the side", f"{shown(low)} to {shown(high)}")
    yield CardCheck("Peak core", "probe, during the rest", f"planned {shown(result.core.peak_reading_c)}")


def _density(rows: int) -> str:
    return next((name for most, name in DENSITIES if rows <= most), DENSITIES[-1][1])


def _timed(steps: list[CardStep], ready: dt.time | None, today: dt.datetime) -> list[CardStep]:
    """The steps with times of day, if the time the plan must be ready is known."""
    if ready is None or not steps:
        return steps
    total = steps[-1].start_s
    end = today.replace(hour=ready.hour, minute=ready.minute, second=0, microsecond=0)
    while end - dt.timedelta(seconds=total) < today:  # the first such time of day that can still be met
        end += dt.timedelta(days=1)
    return [
        CardStep(s.start_s, s.verb, s.amount_s, s.how, s.sign, s.is_pull, end - dt.timedelta(seconds=total - s.start_s))
        for s in steps
    ]


def qr_svg(url: str) -> str:
    """A QR code as inline SVG."""
    out = io.BytesIO()
    segno.make(url, error="m").save(out, kind="svg", xmldecl=False, svgns=True, omitsize=True, border=1)
    return out.getvalue().decode()


def card_context(request: KitchenRequest, plan: Plan, ready: dt.time | None) -> dict[str, Any]:
    """Context of the card; without a result if the saved plan cannot be cooked any more."""
    units = request.user.units
    bench = Bench.of_document(plan.document, units)
    bench.work_out_document({**plan.document, **rules_of(request), "depth_map": True})
    now = request.kitchen.now().astimezone(request.kitchen.zone)
    face = None
    if bench.core is not None and bench.result is not None:
        face = face_of(bench.core, bench.cut, bench.result, time_columns(bench.result, bench.core.stages, SECTION_PX))
    url = request.build_absolute_uri(reverse("plans:edit", args=[plan.pk]))
    steps = _timed(list(_steps(bench, units)), ready, now)
    checks = list(_checks(bench, units))
    return {
        "plan": plan,
        "bench": bench,
        "result": bench.result,
        "drawing": drawing_of(bench),
        "face": face,
        "steps": steps,
        "checks": checks,
        "density": _density(len(steps) + len(checks)),
        "over_days": bool(steps) and steps[-1].start_s > DAY_S,
        "ready": ready,
        "printed_at": request.kitchen.now(),
        "cautions": list(dict.fromkeys(caution.text for caution in bench.result.cautions)) if bench.result else [],
        "version": plan.versions.count(),
        "qr": qr_svg(url),
        "units": units,
        "kitchen": request.kitchen,
    }
