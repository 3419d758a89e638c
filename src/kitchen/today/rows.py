"""What Today shows as now and as due. Temperatures are in °C, as `in_units` reads them."""

from __future__ import annotations

import datetime as dt
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from typing import Any

from django.urls import reverse

from ember.service.task_ref import TaskKind, TaskRef
from kitchen.accounts.models import Kitchen
from kitchen.batches.cooling_status import CoolingStatus, shelf_of
from kitchen.book.schedule import scheduled_checks
from kitchen.kit.models import Equipment, Probe
from kitchen.kit.queries import equipment_rows, probe_rows
from kitchen.line.board_view import action_queue
from kitchen.line.models import Cook
from kitchen.line.next_actions import NextAction
from kitchen.line.queries import running
from kitchen.line.step_cooks import StepAction, StepCookStatus, steps_running
from kitchen.plans.models import Plan
from kitchen.services.models import Service
from kitchen.services.state import scheduled, task_actuals

FIRST = 3  # next actions shown; the line shows them all
MOST = 8  # rows of one kind; more are counted
DAYS_AHEAD = 3
USE_BY_DAYS = 1  # use-by of today and tomorrow
BRINE_AHEAD = dt.timedelta(hours=24)
SCHEDULE_SLACK = dt.timedelta(hours=1)
PREPARES = (TaskKind.PREP, TaskKind.SIDE)


@dataclass(frozen=True)
class InPlace:
    """An action that is done in the row itself: where it is sent, with what. `reads`: name of the temperature asked."""

    url: str
    button: str
    sends: tuple[tuple[str, str], ...] = ()
    reads: str = ""


@dataclass(frozen=True)
class Row:
    """A thing that needs somebody, with the page that shows it, and its action where that needs no page."""

    name: str
    words: str
    url: str
    at: dt.datetime | None = None
    is_late: bool = False
    act: InPlace | None = None


def line_rows(kitchen: Kitchen, now: dt.datetime, steps: Sequence[StepCookStatus] | None = None) -> list[Row]:
    """The next actions of everything that cooks, late ones first; `steps`: the running eggs and brines, if known."""
    queue = action_queue(kitchen, running(kitchen), steps_running(kitchen, now) if steps is None else steps, now)
    return [_action(action) for action in queue]


def _action(action: Any) -> Row:
    late = action.in_s < 0
    if isinstance(action, NextAction):
        url = reverse("line:check" if action.is_check else "line:steps", args=[action.status.cook.pk])
        act = None
        if action.is_early and not action.is_check and action.round is None and action.far_too_early_s is None:
            taps = [(each.status.cook.pk, each.step.number, each.token) for each in action.together if each.step]
            sends = tuple(("tap", f"{cook}:{number}:{token}") for cook, number, token in taps)
            act = InPlace(reverse("line:do", args=[action.status.cook.pk]), "Done", sends)
        return Row(action.verb, action.what, url, action.due_at, late, act)
    if isinstance(action, StepAction):
        cook, step = action.status.cook, action.step
        url = reverse("line:steps", args=[cook.pk])
        act = None
        if step and action.is_early and action.status.far_too_early_s is None:
            act = InPlace(
                reverse("line:do", args=[cook.pk]), "Done", (("tap", f"{cook.pk}:{step.number}:{action.token}"),)
            )
        return Row(step.verb if step else "Finish", cook.name, url, action.due_at, late, act)
    return _task(action, late)


def _task(action: Any, late: bool) -> Row:
    task = action.task
    act = None
    if action.in_s <= action.early_s:
        sends = {
            "from": "line", "means": "begin" if action.begins else "end", "dish": task.dish, "task": task.id,
            "n": str(task.n), "token": str(action.token),
        }  # fmt: skip
        button = "Start" if action.starts_a_cook else "Done" if action.begins else "Out"
        act = InPlace(reverse("services:tap", args=[action.service.pk]), button, tuple(sends.items()))
    name, words = task.name, str(action.service)
    if action.sets and action.setting_c is not None:
        name, words = f"Set {action.sets}", f"to {action.setting_c:.0f} °C, {words}"
    return Row(name, words, reverse("line:board"), action.due_at, late, act)


def service_rows(kitchen: Kitchen, now: dt.datetime) -> list[Row]:
    """The services of today and the days ahead, the first plate in front."""
    today = now.astimezone(kitchen.zone).date()
    rows = []
    for service in Service.objects.of(kitchen).current().filter(ended_at=None).prefetch_related("dishes"):
        first, last = service.plates or (None, None)
        soon = first is not None and (first.astimezone(kitchen.zone).date() - today).days <= DAYS_AHEAD
        if not service.is_running and not (soon and last is not None and last >= now):
            continue
        words, late = _service_words(service)
        rows.append(Row(service.name, words, reverse("services:service", args=[service.pk]), first, late))
    return sorted(rows, key=lambda row: row.at or now)


def _service_words(service: Service) -> tuple[str, bool]:
    if service.proposed is not None and service.proposed.schedule is not None:  # else it was dismissed
        return "changes to the plan need a decision", True
    if service.is_running:
        return "on the line", False
    if not service.schedule:
        return "not planned yet", False
    return ("planned", False) if service.fits else ("does not fit", True)


def batch_rows(kitchen: Kitchen, now: dt.datetime) -> Iterator[Row]:
    """Batches whose cooling was missed, those that cool, and those to be used by tomorrow."""
    today = now.astimezone(kitchen.zone).date()
    there, _ = shelf_of(kitchen, now)
    for status in there:
        if (row := _batch(status, today, reverse("batches:batch", args=[status.batch.pk]))) is not None:
            yield row


def _batch(status: CoolingStatus, today: dt.date, url: str) -> Row | None:
    name = status.batch.name
    if status.is_missed:
        return Row(name, "cooling missed: needs a corrective action", url, None, True)
    if status.is_past:
        return Row(name, "past its use-by date", url, None, True)
    if status.waits_for_cold:
        return Row(name, "off the heat: start chilling", url, status.into_cold_by)
    if (stage := status.next_stage) is not None:
        act = InPlace(reverse("batches:act", args=[status.batch.pk]), "Log", (("what", "read"),), "celsius")
        return Row(name, f"cooling to {stage.to_c:.1f} °C", url, stage.due_at, False, act)
    if status.use_by is not None and (status.use_by - today).days <= USE_BY_DAYS:
        day = "today" if status.use_by == today else "tomorrow"
        return Row(name, f"use by {day}: {status.left} left", url)
    return None


def check_rows(kitchen: Kitchen) -> Iterator[Row]:
    """Thermometers and equipment whose check is due."""
    page = reverse("kit:kit")
    things: list[tuple[Probe | Equipment, Any, str]] = [
        *((row.probe, row.due, f"probe-{row.probe.pk}") for row in probe_rows(kitchen)),
        *((r.equipment, r.due, f"kit-{r.equipment.pk}") for r in equipment_rows(kitchen) if r.equipment.has_setting),
    ]
    for thing, due, anchor in things:
        what, act = "check its setting", None
        if isinstance(thing, Probe):
            what = "check in ice"
            act = InPlace(reverse("kit:check-probe", args=[thing.pk]), "Log", (("kind", "ice"),), "read")
        if due.days is None:
            yield Row(str(thing), f"{what}: never checked", f"{page}#{anchor}", act=act)
        elif due.days <= 0:
            late = f", {due.overdue} day{'s' if due.overdue > 1 else ''} late" if due.overdue else ""
            yield Row(str(thing), what + late, f"{page}#{anchor}", None, bool(due.overdue), act)


def scheduled_rows(kitchen: Kitchen, now: dt.datetime) -> Iterator[Row]:
    """Checks of the kitchen's own schedule that are to be logged now."""
    for row in scheduled_checks(kitchen):
        if not row.is_due(now):
            continue
        check = row.check
        last = f"last {row.last.celsius:.1f} °C" if row.last and row.last.celsius is not None else "not logged yet"
        who = f", {check.who}" if check.who else ""
        place = ("equipment", str(check.equipment_id)) if check.equipment_id else ("what", check.what)
        act = InPlace(reverse("book:write", args=[check.kind]), "Log", (place,), "celsius")
        late = now - row.due_at > SCHEDULE_SLACK
        page = f"{reverse('book:book')}?kind={check.kind}"
        yield Row(check.what, f"{check.get_every_h_display()}{who}; {last}", page, row.due_at, late, act)


def brine_end_rows(steps: Sequence[StepCookStatus], now: dt.datetime) -> Iterator[Row]:
    """Brines to take out within a day."""
    for status in steps:
        due = status.next_due if status.cook.kind == Cook.Kind.BRINE else None
        if status.next is not None and due is not None and due - now <= BRINE_AHEAD:
            url = reverse("line:steps", args=[status.cook.pk])
            yield Row(status.cook.name, status.next.verb.lower(), url, due, due < now)


def prep_rows(kitchen: Kitchen, now: dt.datetime) -> Iterator[Row]:
    """Today's preparation of each service of today and the days ahead: how much of it is left."""
    today = now.astimezone(kitchen.zone).date()
    for service in Service.objects.of(kitchen).current().filter(ended_at=None).exclude(schedule=None):
        done = task_actuals(service)
        tasks = [
            task
            for task in scheduled(service)
            if TaskRef.of(task.id).kind in PREPARES and task.start.astimezone(kitchen.zone).date() == today
        ]
        left = [task for task in tasks if (task.dish, task.id, task.n) not in done]
        if left:
            words = f"{len(left)} of {len(tasks)} tasks of today's preparation left"
            yield Row(service.name, words, f"{reverse('services:lists', args=[service.pk])}#prep", left[0].start)


def still_to_set_up(kitchen: Kitchen) -> list[Row]:
    """What a kitchen that has finished no cook yet still lacks."""
    if Cook.objects.of(kitchen).filter(finished_at__isnull=False).exists():
        return []
    steps: list[tuple[Any, str, str, str]] = [
        (Equipment.objects.of(kitchen).current(), "Equipment", "ovens, baths and pans", "kit:kit"),
        (Probe.objects.of(kitchen), "A probe", "or type the readings in", "kit:kit"),
        (kitchen.memberships.filter(left_at=None)[1:], "People", "each gets a link for a password", "accounts:people"),
        (Plan.objects.of(kitchen).current(), "A plan", "measure a piece and choose its doneness", "plans:list"),
    ]  # fmt: skip
    return [Row(name, words, reverse(url)) for rows, name, words, url in steps if not rows.exists()]
