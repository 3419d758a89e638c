"""What Today shows, section by section. Temperatures are in °C, as `in_units` reads them."""

from __future__ import annotations

import datetime as dt
from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any

from django.urls import reverse

from ember.judge.states import State
from kitchen.accounts.models import Kitchen, Person
from kitchen.batches.cooling_status import CoolingStatus, shelf_of
from kitchen.brines.queries import unconfirmed_brines
from kitchen.kit.models import Equipment, Probe
from kitchen.kit.queries import equipment_rows, probe_rows
from kitchen.line.board_view import action_queue
from kitchen.line.models import Cook
from kitchen.line.next_actions import NextAction
from kitchen.line.queries import running
from kitchen.line.step_cooks import StepAction, steps_running
from kitchen.logbook.models import SignOff
from kitchen.logbook.queries import finished, row_of
from kitchen.logbook.record import record_state
from kitchen.plans.models import Plan
from kitchen.services.models import Service

FIRST = 3  # next actions shown; the line shows them all
MOST = 8  # rows of one kind; more are counted
DAYS_AHEAD = 3
USE_BY_DAYS = 1  # use-by of today and tomorrow


@dataclass(frozen=True)
class Row:
    """A thing that needs somebody, with the page on which it is done."""

    name: str
    words: str
    url: str
    at: dt.datetime | None = None
    is_late: bool = False


@dataclass(frozen=True)
class Yesterday:
    """Yesterday in a line; `not_met` of the signed cooks."""

    cooks: int
    not_met: int
    unsigned: int


def line_rows(kitchen: Kitchen, now: dt.datetime) -> list[Row]:
    """The next actions of everything that cooks, late ones first."""
    queue = action_queue(kitchen, running(kitchen), steps_running(kitchen, now), now)
    return [_action(action) for action in queue]


def _action(action: Any) -> Row:
    late = action.in_s < 0
    if isinstance(action, NextAction):
        url = reverse("line:check" if action.is_check else "line:steps", args=[action.status.cook.pk])
        return Row(action.verb, action.what, url, action.due_at, late)
    if isinstance(action, StepAction):
        url = reverse("line:steps", args=[action.status.cook.pk])
        return Row(action.step.verb if action.step else "Finish", action.status.cook.name, url, action.due_at, late)
    return Row(action.task.name, str(action.service), reverse("line:board"), action.due_at, late)


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
        return Row(name, f"cooling to {stage.to_c:.1f} °C", url, stage.due_at)
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
        what = "check in ice" if isinstance(thing, Probe) else "check its setting"
        if due.days is None:
            yield Row(str(thing), f"{what}: never checked", f"{page}#{anchor}")
        elif due.days <= 0:
            late = f", {due.overdue} day{'s' if due.overdue > 1 else ''} late" if due.overdue else ""
            yield Row(str(thing), what + late, f"{page}#{anchor}", None, bool(due.overdue))


def brine_rows(kitchen: Kitchen, person: Person) -> Iterator[Row]:
    """Brines with curing salt that nobody confirmed as they stand."""
    for brine in unconfirmed_brines(kitchen):
        mine = brine.updated_by_id == person.pk
        words = "waits for a second person to confirm it" if mine else "confirm strength, grams and meat"
        yield Row(brine.name, words, reverse("brines:kept", args=[brine.pk]))


def unsigned_rows(kitchen: Kitchen) -> tuple[list[Row], int]:
    """Finished cooks that nobody signed, the newest first, and how many there are."""
    cooks = finished(kitchen).filter(sign_off=None)
    rows = []
    for cook in cooks[:MOST]:
        missed = row_of(cook).state == State.NOT_MET
        words = "rule not met: corrective action, then sign" if missed else "read and sign"
        rows.append(Row(cook.name, words, reverse("logbook:record", args=[cook.pk]), cook.finished_at, missed))
    return rows, cooks.count()


def waiting_counts(kitchen: Kitchen, person: Person, is_chef: bool) -> dict[str, int]:
    """How many things wait for this person in each place of the rail, by its code."""
    now = kitchen.now()
    brines = [brine for brine in unconfirmed_brines(kitchen) if brine.updated_by_id != person.pk]
    batches = [row for row in batch_rows(kitchen, now) if row.is_late or (row.at is not None and row.at <= now)]
    services = [row for row in service_rows(kitchen, now) if row.is_late]
    late = [row for row in line_rows(kitchen, now) if row.is_late]
    waiting = {"plan": len(brines), "line": len(late), "store": len(batches), "service": len(services)}
    if is_chef:
        waiting["log"] = finished(kitchen).filter(sign_off=None).count()
    return waiting


def yesterday_of(kitchen: Kitchen, now: dt.datetime) -> Yesterday:
    """What was cooked yesterday, by the kitchen's clock."""
    midnight = now.astimezone(kitchen.zone).replace(hour=0, minute=0, second=0, microsecond=0)
    cooks = Cook.objects.of(kitchen).filter(finished_at__gte=midnight - dt.timedelta(days=1), finished_at__lt=midnight)
    records = SignOff.objects.filter(cook__in=cooks).values_list("record", flat=True)
    states = [record_state(record) for record in records]
    number = cooks.count()
    return Yesterday(number, states.count(State.NOT_MET), number - len(states))


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
