"""Views of services: list, lanes, tasks, ways out."""

from __future__ import annotations

import datetime as dt
import uuid
from typing import Any

from django.contrib import messages
from django.http import HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.views.decorators.http import require_POST
from django_htmx.http import HttpResponseClientRedirect

from ember.errors import BadInput
from ember.files.service import Conflict
from ember.quantities import parse_temperature
from kitchen.units.number_text import in_units
from kitchen.web import FIRST_YEAR, LAST_YEAR, KitchenRequest, clean_text, is_uuid

from . import actions, day, planning
from .models import Dish, PlanningJob, Service
from .presenters import beside, chart_of, clashing, tasks_of
from .sharing import shares_of
from .state import off_time

MOST = 200
LETTERS = "ABCDEF"


def service_of(request: KitchenRequest, pk: uuid.UUID) -> Service:
    """A service of the request's kitchen. Raises Http404."""
    rows = Service.objects.of(request.kitchen).current().select_related("kitchen", "updated_by")
    return get_object_or_404(rows, pk=pk)


def dish_of(service: Service, key: str | None) -> Dish | None:
    """A dish of a service; None for an unknown key."""
    return service.dishes.filter(pk=key).first() if is_uuid(key) else None


def services(request: KitchenRequest) -> HttpResponse:
    """All services: running ones first, then by first plate-up."""
    rows = list(Service.objects.of(request.kitchen).current().prefetch_related("dishes")[:MOST])
    now = request.kitchen.now()
    service_rows: list[dict[str, Any]] = []
    for service_row in rows:
        first, last = service_row.plates or (None, None)
        dishes, over = len(service_row.dishes.all()), last is not None and last < now
        service_rows.append({"service": service_row, "first": first, "last": last, "dishes": dishes, "over": over})
    service_rows.sort(key=lambda r: (not r["service"].is_running, r["over"], r["first"] or now))
    return render(request, "services/list.html", {"rows": service_rows})


def page(request: KitchenRequest, evening: Service, status: int = 200, **more: Any) -> HttpResponse:
    """The page of a service with its selected task."""
    tasks = tasks_of(evening.answer)
    key = request.GET.get("task") or more.pop("task", "")
    chosen = beside(evening, tasks, key)
    if chosen is None and tasks:
        chosen = beside(evening, tasks, _first_key(evening, tasks))
    related = frozenset(t.key for t in (*chosen.follows, *chosen.waits)) if chosen else frozenset()
    conflict = evening.answer.conflict if evening.answer else None
    proposal = evening.proposed
    context = {
        "service": evening,
        "tasks": tasks,
        "chosen": chosen,
        "chart": chart_of(evening, tasks, request.user.units, chosen.task.key if chosen else "", related),
        "conflict": conflict,
        "ways": _ways(conflict),
        "menu": plates_of(evening),
        "is_chef": request.membership.is_chef,
        "proposal": proposal if proposal and proposal.schedule else None,
        "job": job_of(evening),
        "late": off_time(evening, evening.kitchen.now()) if evening.is_running else [],
        **more,
    }
    alone = request.htmx and request.htmx.target == "service"
    template = "services/_service.html" if alone else "services/service.html"
    return render(request, template, context, status=status)


def _ways(conflict: Conflict | None) -> list[dict[str, Any]]:
    """Ways out with their letters, and whether a tap applies them: more equipment or fewer dishes are edited
    elsewhere.
    """
    rows = zip(LETTERS, enumerate(conflict.would_fit if conflict else ()), strict=False)
    return [{"letter": letter, "number": n, "way": way, "by_tap": _by_tap(way.change)} for letter, (n, way) in rows]


def _by_tap(change: dict[str, Any]) -> bool:
    return any(key in change for key in ("plate_ups", "plate_up", "task")) or change.get("equipment") == "hands"


def _first_key(evening: Service, tasks: list[Any]) -> str:
    """The initially selected task: one that clashes, else the longest."""
    bad, _ = clashing(evening.answer)
    rows = [t for t in tasks if f"{t.dish}:{t.id}" in bad] or tasks
    return str(max(rows, key=lambda t: t.end - t.start).key)


def plates_of(evening: Service) -> list[dict[str, Any]]:
    """Plate-up times in order, each with its dishes."""
    rows: dict[dt.datetime, list[Dish]] = {}
    for dish in evening.dishes.all():
        rows.setdefault(dish.plate_up, []).append(dish)
    return [{"at": at, "dishes": dishes} for at, dishes in sorted(rows.items())]


def service(request: KitchenRequest, pk: uuid.UUID) -> HttpResponse:
    """Show one service, planning it at the first visit."""
    evening = service_of(request, pk)
    if evening.schedule is None:
        if not evening.dishes.exists():
            return redirect("services:menu", pk=pk)
        if job_of(evening) is None:
            return work_out_and_show(request, evening)
        return page(request, evening)
    evening = day.watch(evening, request.user)  # what runs late is planned anew before anybody asks
    return page(request, evening)


def job_of(evening: Service) -> PlanningJob | None:
    """The job in progress, or one refused for the current menu; None once there is a plan."""
    job = planning.plans_of(evening).first()
    if job is None or job.state == PlanningJob.State.DONE or (job.is_over and job.revision < evening.revision - 1):
        return None
    return job


def work_out_and_show(request: KitchenRequest, evening: Service) -> HttpResponse:
    """Start planning and show its progress; an invalid menu is reported."""
    try:
        job = actions.work_out(evening, request.user)
    except actions.ServiceError as error:
        messages.error(request, str(error))
        return redirect("services:menu", pk=evening.pk)
    if job.problem:
        messages.error(request, in_units(job.problem, request.user.units))
        return redirect("services:menu", pk=evening.pk)
    return page(request, service_of(request, evening.pk))


@require_POST
def work_out(request: KitchenRequest, pk: uuid.UUID) -> HttpResponse:
    """Plan again."""
    try:
        tell(request, actions.work_out(service_of(request, pk), request.user))
    except actions.ServiceError as error:
        messages.error(request, str(error))
    return redirect("services:service", pk=pk)


def tell(request: KitchenRequest, job: PlanningJob) -> None:
    """Show on the next page why a finished job was refused."""
    if job.problem:
        messages.error(request, in_units(job.problem, request.user.units))


def progress(request: KitchenRequest, pk: uuid.UUID) -> HttpResponse:
    """The progress of planning; the whole page once it is over."""
    evening = service_of(request, pk)
    job = planning.plans_of(evening).first()
    if job is None or job.is_over:
        if job is not None:
            tell(request, job)
        return HttpResponseClientRedirect(reverse("services:service", args=[pk]) + _task_of(job))
    return render(request, "services/_planning.html", {"service": evening, "job": job})


def _task_of(job: PlanningJob | None) -> str:
    if job is None or "dish" not in job.arguments:
        return ""
    return f"?task={job.arguments['dish']}:{job.arguments['task']}:0"


@require_POST
def stop(request: KitchenRequest, pk: uuid.UUID) -> HttpResponse:
    """Stop planning: the best plan so far, or the one before, stays."""
    planning.plans_of(service_of(request, pk)).filter(finished_at=None).update(stop=True)
    return redirect("services:service", pk=pk)


@require_POST
def take_back(request: KitchenRequest, pk: uuid.UUID) -> HttpResponse:
    """Undo the way out taken last."""
    try:
        tell(request, actions.take_back(service_of(request, pk), request.user))
    except actions.ServiceError as error:
        messages.error(request, str(error))
    return redirect("services:service", pk=pk)


def _choice(request: KitchenRequest, evening: Service, what: str) -> dict[str, Any]:
    """A choice for a task. Raises ServiceError for invalid input."""
    value = clean_text(request.POST.get("value"), 60)
    if what == "at":
        return {"at": _moment(evening, value).isoformat() if value else None}
    if what == "setting":
        try:
            return {"setting_c": parse_temperature(value, request.user.units.temperature), "minutes": None}
        except BadInput as error:
            raise actions.ServiceError(error.message) from None
    kind, _, key = value.partition("=")
    return {"equipment": {kind: key}} if kind and key else {}


def _moment(evening: Service, text: str) -> dt.datetime:
    """A time in the kitchen's zone: complete, or a time on the day it was planned for ("2031-05-07T15:35")."""
    try:
        when = dt.datetime.fromisoformat(text)
    except ValueError:
        raise actions.ServiceError(f"{text} is not a time. Enter it like 15:35.") from None
    if not FIRST_YEAR <= when.year <= LAST_YEAR:
        raise actions.ServiceError(f"{text} is not a time. Enter it like 15:35.")
    return when if when.tzinfo else when.replace(tzinfo=evening.kitchen.zone)


@require_POST
def choose(request: KitchenRequest, pk: uuid.UUID) -> HttpResponse:
    """Move a task or change its setting: others follow, or the reason is shown why it cannot be."""
    evening = service_of(request, pk)
    dish = dish_of(evening, request.POST.get("dish"))
    task, n = clean_text(request.POST.get("task"), 40), request.POST.get("n", "0")
    if dish is None:
        return redirect("services:service", pk=pk)
    key, problem = f"{dish.pk}:{task}:{n}", ""
    try:
        choice = _choice(request, evening, request.POST.get("what", ""))
        job = actions.choose(evening, request.user, dish, task, choice)
        problem = in_units(job.problem, request.user.units)
        evening = service_of(request, pk)
    except (actions.ServiceError, BadInput) as error:
        problem = in_units(str(error), request.user.units)
    if request.htmx:
        return page(request, evening, 422 if problem else 200, task=key, problem=problem)
    if problem:
        messages.error(request, problem)
    return redirect(f"{reverse('services:service', args=[pk])}?task={key}")


@require_POST
def way_out(request: KitchenRequest, pk: uuid.UUID) -> HttpResponse:
    """Apply one of the ways out of a clash."""
    number = request.POST.get("number", "")
    try:
        wanted = int(number[:4]) if number.isdecimal() else -1
        tell(request, actions.take_way_out(service_of(request, pk), request.user, wanted))
    except (actions.ServiceError, BadInput) as error:
        messages.error(request, in_units(str(error), request.user.units))
    return redirect("services:service", pk=pk)


def if_late(request: KitchenRequest, pk: uuid.UUID) -> HttpResponse:
    """What follows if a task takes longer, loaded when it is selected."""
    evening = service_of(request, pk)
    key = clean_text(request.GET.get("task"), 120)
    if not evening.fits:
        return render(request, "services/_late.html", {"rows": []})
    job = planning.begin_if_late(evening, request.user, key)
    return render(request, "services/_late.html", {"rows": job.result, "job": job, "service": evening, "task": key})


def shares(request: KitchenRequest, pk: uuid.UUID) -> HttpResponse:
    """Tasks that may share a bath or oven with this one, loaded when it is selected."""
    evening, key = service_of(request, pk), request.GET.get("task", "")
    return render(request, "services/_shares.html", {"service": evening, "task": key, "rows": shares_of(evening, key)})


@require_POST
def share(request: KitchenRequest, pk: uuid.UUID) -> HttpResponse:
    """Put two tasks into one bath or oven at one setting."""
    evening, key = service_of(request, pk), request.POST.get("task", "")
    rows = shares_of(evening, key)
    taken = next(
        (share_row for share_row in rows if share_row.other.key == request.POST.get("other")
         and f"{share_row.setting_c}" == request.POST.get("celsius")),
        None,
    )  # fmt: skip
    if taken is None:
        messages.error(request, "This task has changed. Look again.")
    else:
        try:
            tell(request, actions.share(evening, request.user, key, taken))
        except (actions.ServiceError, BadInput) as error:
            messages.error(request, in_units(str(error), request.user.units))
    return redirect(f"{reverse('services:service', args=[pk])}?task={key}")
