"""Planning as a job: started by a page, run by the worker, stored if the menu is still the same."""

from __future__ import annotations

import datetime as dt
import logging
import time
from collections.abc import Iterator, Mapping
from contextlib import contextmanager
from contextvars import ContextVar
from dataclasses import asdict, dataclass
from typing import Any

from django.conf import settings
from django.db import connections, transaction
from django.db.models import QuerySet
from django.utils import timezone

from ember.errors import EmberError
from ember.files.service import ServiceAnswer, parse_service
from ember.service.answer import may_begin, plan_service
from ember.service.hearing import Stopped, heard_by, say
from kitchen.accounts.models import Person

from .documents import Proposal
from .models import PlanningJob, Service
from .other_settings import with_other_settings
from .proposals import late_signature, moves
from .schedule_request import ScheduleRequest, as_it_was, schedule_request
from .state import placed, scheduled, task_actuals
from .what_if import if_late

FIRST_S, AGAIN_S = 3.0, 1.0
TELL_EVERY_S = 0.5

log = logging.getLogger(__name__)
State = PlanningJob.State


def hold(service: Service) -> Service:
    """The service, locked until the transaction ends."""
    return Service.objects.select_for_update().select_related("kitchen").get(pk=service.pk)


def begin(
    service: Service, person: Person, kind: str = PlanningJob.Kind.PLAN, arguments: Mapping[str, Any] | None = None,
    before: Mapping[str, Any] | None = None,
) -> PlanningJob:  # fmt: skip
    """Start planning a locked service as it stands; a plan in progress is told to stop.

    `before`: the state to restore if there is no plan (`snapshot`).
    """
    pending = plans_of(service).filter(finished_at=None)
    if before is not None and (unproven := pending.exclude(before=None).last()) is not None:
        before = unproven.before  # what it would go back to was not planned yet either
    pending.update(stop=True)
    job = PlanningJob.objects.create(
        service=service, kind=kind, arguments=dict(arguments or {}), before=before, revision=service.revision, by=person
    )
    _set_going(job)
    service.refresh_from_db()
    return job


def begin_if_late(service: Service, person: Person, key: str) -> PlanningJob:
    """Start a job that answers what follows if a task takes longer; one for each plan, whoever asks again."""
    arguments = {"task": key, "planned_at": service.planned_at.isoformat() if service.planned_at else ""}
    asked_before = service.planning_jobs.filter(kind=PlanningJob.Kind.LATE, arguments=arguments).first()
    if asked_before is not None and not asked_before.is_lost:
        return asked_before
    job = PlanningJob.objects.create(
        service=service, kind=PlanningJob.Kind.LATE, arguments=arguments, revision=service.revision, by=person
    )
    _set_going(job)
    return job


def plans_of(service: Service) -> QuerySet[PlanningJob]:
    """Its planning jobs, newest first."""
    return service.planning_jobs.exclude(kind=PlanningJob.Kind.LATE)


_plans_at_once: ContextVar[bool] = ContextVar("plans_at_once", default=False)


@contextmanager
def planned_at_once() -> Iterator[None]:
    """Context manager: what is planned inside is planned here and now, without the worker."""
    token = _plans_at_once.set(True)
    try:
        yield
    finally:
        _plans_at_once.reset(token)


def _set_going(job: PlanningJob) -> None:
    if settings.PLANNING_AT_ONCE or _plans_at_once.get():
        run(job, None)
    else:
        from .tasks import plan_soon

        plan_soon(job)


def snapshot(service: Service) -> dict[str, Any]:
    """The state that a way out, a choice or sharing changes, to be restored later."""
    dishes = {
        str(dish.pk): {"plate_up": dish.plate_up.isoformat(), "choices": dish.choices}
        for dish in service.dishes.all()
    }  # fmt: skip
    return {"hands": service.hands, "dishes": dishes}


def put_back(service: Service, snapshot: Mapping[str, Any]) -> None:
    """Restore a locked service: its cooks, and times and choices of the dishes that still exist."""
    service.hands = snapshot["hands"]
    service.save(update_fields=["hands"])
    for dish in service.dishes.select_for_update():
        if (was := snapshot["dishes"].get(str(dish.pk))) is not None:
            dish.plate_up, dish.choices = was["plate_up"], was["choices"]
            dish.save(update_fields=["plate_up", "choices"])


class JobHearing:
    """Reports a job's progress to its row, and reads there whether to stop."""

    def __init__(self, job: PlanningJob) -> None:
        self.job, self.told_at = job, 0.0

    def say(self, words: str) -> None:
        """Report the current step."""
        if time.monotonic() - self.told_at >= TELL_EVERY_S:
            self.told_at = time.monotonic()
            PlanningJob.objects.filter(pk=self.job.pk).update(progress=words[:200], heard_at=timezone.now())

    def is_stopped(self) -> bool:
        """Whether a page or a newer job asked to stop. Called from a thread of its own, whose connection is closed
        again.
        """
        try:
            stop = PlanningJob.objects.filter(pk=self.job.pk).values_list("stop", flat=True).first()
        finally:
            if connections["default"].connection is not None and not connections["default"].in_atomic_block:
                connections["default"].close()
        return stop is None or stop


@dataclass
class Outcome:
    """The outcome of a job: a plan with its request, or a problem in words."""

    request: ScheduleRequest | None = None
    schedule: ServiceAnswer | None = None
    lateness: list[dict[str, Any]] | None = None
    problem: str = ""


def run(job: PlanningJob, hearing: JobHearing | None) -> None:
    """Run a job and store its outcome. A job that another worker has is left to it."""
    now = timezone.now()
    if not PlanningJob.objects.filter(pk=job.pk, state=State.WAITING).update(state=State.RUNNING, heard_at=now):
        return
    try:
        with heard_by(hearing):
            outcome = _worked_out(job)
    except Stopped:
        _stopped(job)
        return
    except EmberError as error:
        outcome = Outcome(problem=error.message)
    except Exception:
        log.exception("planning job %s failed", job.pk)
        outcome = Outcome(problem="The planner failed. Try again.")
    _keep(job, outcome)


def _worked_out(job: PlanningJob) -> Outcome:
    service = Service.objects.select_related("kitchen").get(pk=job.service_id)
    if not service.dishes.exists():
        return Outcome(problem="Add a dish first.")
    say("Reading the menu")
    asked = schedule_request(service, service.kitchen.now(), task_actuals(service))
    match job.kind:
        case PlanningJob.Kind.CHOOSE:
            return _chosen(job, service, asked)
        case PlanningJob.Kind.REPLAN:
            asked.request = as_it_was(asked.request, placed(service.answer), "", "")
            request = {**asked.request, "seconds": AGAIN_S, "explain": True}
            return Outcome(asked, plan_service(parse_service(request)))
        case PlanningJob.Kind.LATE:
            return Outcome(lateness=[asdict(late) for late in if_late(service, job.arguments["task"])])
        case _:
            return Outcome(asked, _answered(service, asked))


def _answered(service: Service, request: ScheduleRequest) -> ServiceAnswer:
    """A plan; if there is none, what clashes and what would fit, with other settings included."""
    schedule = plan_service(parse_service({**request.request, "seconds": FIRST_S, "explain": False}))
    if schedule.status != "infeasible":
        return schedule
    say("It does not fit: trying other settings")
    request.request = with_other_settings(service, request.request)
    return plan_service(parse_service({**request.request, "seconds": FIRST_S}))


def _chosen(job: PlanningJob, service: Service, request: ScheduleRequest) -> Outcome:
    """A plan with a person's choice for a task, all else moving as little as possible."""
    dish, task, choice = (job.arguments[key] for key in ("dish", "task", "choice"))
    if service.schedule:
        request.request = as_it_was(request.request, placed(service.answer), dish, task)
    schedule = plan_service(parse_service({**request.request, "seconds": AGAIN_S, "explain": False}))
    if schedule.status == "infeasible" and job.before is not None:
        return Outcome(problem=_why_not(service, request.request, dish, task, choice))
    return Outcome(request, schedule if schedule.status != "infeasible" else _answered(service, request))


def _why_not(service: Service, request: Mapping[str, Any], dish: str, task: str, choice: Mapping[str, Any]) -> str:
    """Why a task cannot be where it was put: the interval it could start in, with all else moving as it must."""
    if not choice.get("at"):
        return "That does not fit with the other tasks."
    rows = [
        {**dish_row, "tasks": [{k: v for k, v in each.items() if (dish_row["id"], each["id"], k) != (dish, task, "at")}
                          for each in dish_row["tasks"]]}
        for dish_row in request["dishes"]
    ]  # fmt: skip
    span = may_begin(parse_service({**request, "dishes": rows}), dish, task)
    if span is None:
        return "No plan works with it there."
    name = next(
        each["name"] for dish_row in rows for each in dish_row["tasks"] if (dish_row["id"], each["id"]) == (dish, task)
    )
    first, last = (moment.astimezone(service.kitchen.zone) for moment in span)
    when = dt.datetime.fromisoformat(choice["at"])
    if first <= when <= last:
        return (
            f"{name} cannot go there: something else is in the way. "
            f"It can start between {first:%H:%M} and {last:%H:%M}."
        )
    if first == last:
        return f"{name} can start at {first:%H:%M} only."
    return f"{name} can start between {first:%a %H:%M} and {last:%a %H:%M}."


@transaction.atomic
def _keep(job: PlanningJob, outcome: Outcome) -> None:
    """Store a plan if its service is unchanged since the request."""
    if job.kind == PlanningJob.Kind.LATE:
        job.result = outcome.lateness
        job.save(update_fields=["result"])
        _over(job, State.DONE, outcome.problem)
        return
    held = hold(job.service)
    if held.revision != job.revision or (job.kind == PlanningJob.Kind.REPLAN and not held.is_running):
        _over(job, State.DROPPED, "The service changed meanwhile: this plan was discarded.")
        return
    refused = job.before is not None and outcome.schedule is not None and outcome.schedule.status == "infeasible"
    if outcome.problem or refused or outcome.schedule is None or outcome.request is None:
        if job.before is not None:
            put_back(held, job.before)
        _over(job, State.REFUSED, outcome.problem or job.arguments.get("refused", "That does not fit."))
        return
    schedule = outcome.schedule.model_dump(mode="json")
    if job.kind == PlanningJob.Kind.REPLAN:
        proposal = Proposal(
            at=held.kitchen.now(), late=late_signature(held), asked=outcome.request.request, schedule=outcome.schedule,
            moves=moves(scheduled(held), outcome.schedule.tasks),
        )  # fmt: skip
        held.proposal = proposal.model_dump(mode="json")
        held.save(update_fields=["proposal"])
    else:
        held.asked, held.schedule = outcome.request.request, schedule
        held.planned_at, held.proposal = held.kitchen.now(), None
        held.save(update_fields=["asked", "schedule", "planned_at", "proposal"])
    _over(job, State.DONE, "")


@transaction.atomic
def _stopped(job: PlanningJob) -> None:
    """End a stopped job, restoring a choice that nobody changed since."""
    held = hold(job.service)
    if job.before is not None and held.revision == job.revision:
        put_back(held, job.before)
    _over(job, State.STOPPED, "Stopped: there is no plan yet.")


def _over(job: PlanningJob, state: str, problem: str) -> None:
    job.state, job.problem, job.finished_at = state, problem, timezone.now()
    job.save(update_fields=["state", "problem", "finished_at"])
