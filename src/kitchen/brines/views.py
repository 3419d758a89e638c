"""The brine desk: shown by its address, saved, confirmed by a second person, started, labelled."""

from __future__ import annotations

import uuid
from collections.abc import Mapping
from typing import Any

from django.contrib import messages
from django.http import HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.views.decorators.http import require_POST

from ember.cure.answer import answer_brine, words
from ember.cure.same_salt import with_method
from ember.errors import EmberError
from ember.files.brine import BrineAnswer, parse_brine
from kitchen.accounts.access import chef_required
from kitchen.accounts.confirming import NotConfirmedError, confirm_person
from kitchen.accounts.editions import edition_of, wants_both
from kitchen.desk import saved_requests
from kitchen.desk.pages import address, fragment, is_fragment
from kitchen.desk.presenters import Row, Table
from kitchen.drawings.brine import brine_drawing, salt_plot
from kitchen.drawings.egg_chart import egg_chart
from kitchen.units.number_text import figure
from kitchen.web import KitchenRequest, is_uuid

from . import actions
from .forms import BrineForm
from .models import BrinePlan
from .queries import unconfirmed_brines, vessel_places

CHART_STEPS, MOST_CHART_STEPS = (0.2, 0.5, 1.0, 2.0, 5.0, 10.0), 6  # per cent of salt a line


def _typed(data: Mapping[str, str]) -> dict[str, Any]:
    values = dict(data.items())
    setting = values.pop("set", "")
    name, _, value = setting.partition(":")
    if name == "school":
        values["school"], _, values["salt_pct"] = value.partition(":")
    return values


def _plan_of(request: KitchenRequest, key: str | None) -> BrinePlan | None:
    if not is_uuid(key):
        return None
    return BrinePlan.objects.of(request.kitchen).current().filter(pk=key).first()


def _answered(request: KitchenRequest, document: dict[str, Any]) -> BrineAnswer:
    return answer_brine(parse_brine({**document, "standard": request.kitchen.standard}))


def _worked(
    request: KitchenRequest, typed: Mapping[str, Any] | None
) -> tuple[BrineForm, BrineAnswer | None, dict[str, Any], str]:
    """The form, its answer, the saved brine it shows, and the errors beside its fields."""
    form = BrineForm(typed, request.user.units)
    if not form.is_valid():
        return form, None, {}, ""
    document = form.document()
    try:
        return form, _answered(request, document), document, ""
    except EmberError as error:
        return form, None, {}, form.refuse(error)


def _schools(request: KitchenRequest, document: dict[str, Any], wanted_pct: float) -> Table:
    """What each method weighs and takes for the same salt in the meat."""
    rows = []
    for key, texts in words()["schools"].items():
        chosen = key == document["school"]
        other = document if chosen else with_method(document, key, wanted_pct)
        try:
            result = _answered(request, other)
        except EmberError:
            continue
        takes = result.hours_to_equilibrium
        if key == "gradient":
            takes = next((point.hours for point in result.course if point.mean_pct >= wanted_pct - 0.01), None)
        cells = [f"{figure(result.salt_g, 0)} g", "–" if takes is None else "at once" if takes == 0 else _hours(takes)]
        if result.nitrite_ppm is not None:
            cells.append(figure(result.nitrite_ppm, 0))
        value = f"{key}:{other['salt_pct']:.4g}"
        rows.append(Row(texts["name"], texts["line"] if chosen else "", tuple(cells), value, chosen))
    heads = ("salt", "takes", *(("ppm",) if document.get("cure") else ()))
    return Table(f"For {figure(wanted_pct, 1)} % in the meat", heads, tuple(rows), "school")


def _hours(hours: float) -> str:
    return f"{figure(hours, 0)} h" if hours < 72 else f"{figure(hours / 24.0, 0)} d"


def _context(
    request: KitchenRequest,
    form: BrineForm,
    result: BrineAnswer | None,
    document: dict[str, Any],
    problem: str,
    **more: Any,
) -> dict[str, Any]:
    plan = _plan_of(request, form.data.get("kept"))
    same = plan is not None and document == plan.document and form.title == plan.name
    context: dict[str, Any] = {
        "form": form,
        "answer": result,
        "document": document,
        "problem": problem,
        "plan": plan,
        "same": same,
        "edition": form.data.get("edition") or (edition_of(plan.document) if plan is not None else ""),
        "confirmation": plan.confirmation if plan is not None and same else None,
        "is_own": plan is not None and plan.updated_by_id == request.user.pk,
        "is_waiting": plan is not None and any(row.pk == plan.pk for row in unconfirmed_brines(request.kitchen)),
        "why_not_second": actions.why_not_second(plan, request.user)
        if plan is not None and document.get("cure")
        else "",
        "kept": BrinePlan.objects.of(request.kitchen).current()[:60],
        "places": vessel_places(request.kitchen),
        "token": uuid.uuid4(),
        "spooned": form.spooned,
    }
    return context if result is None else context | _drawn(request, document, result)


def _drawn(request: KitchenRequest, document: dict[str, Any], result: BrineAnswer) -> dict[str, Any]:
    """The drawings of a brine and the times beside them."""
    most = max([*result.profile_pct, result.salt_pct_even, 0.5])
    drawn: dict[str, Any] = {
        "drawing": brine_drawing(result.profile_pct, most, document["school"] == "dry"),
        "plot": salt_plot(result.profile_mm, result.profile_pct, result.salt_pct_even),
        "table": _schools(request, document, max(result.salt_pct_meat, 0.1)),
        "hours": _hours_words(document.get("hours")),
        "even": _hours_words(result.hours_to_equilibrium),
        "want": _hours_words(result.hours_to_want),
        "gauge": _gauge(result),
    }
    return drawn | {"chart": _chart(result)} if result.course else drawn


def _hours_words(hours: float | None) -> str:
    return _hours(hours) if hours else ""


def _chart(result: BrineAnswer) -> Any:
    """Salt in the middle and on average over time."""
    t = [3600.0 * point.hours for point in result.course]
    top = 1.15 * max([point.mean_pct for point in result.course] + [result.salt_pct_even, 0.5])
    step = next((step for step in CHART_STEPS if top / step <= MOST_CHART_STEPS), CHART_STEPS[-1])
    curves = {"middle": [p.centre_pct for p in result.course], "edge": [p.mean_pct for p in result.course]}
    return egg_chart(t, curves, [], low_c=0.0, top_c=top, step=step)


def _gauge(result: BrineAnswer) -> dict[str, Any] | None:
    """Ingoing nitrite and its limit as shares of an axis."""
    if result.nitrite_ppm is None or result.limit_ppm is None:
        return None
    top = max(1.4 * result.limit_ppm, 1.1 * result.nitrite_ppm)
    return {
        "limit": result.limit_ppm / top, "over": 1.0 - result.limit_ppm / top, "mark": result.nitrite_ppm / top,
        "rest": 1.0 - result.nitrite_ppm / top,
    }  # fmt: skip


def desk(request: KitchenRequest) -> HttpResponse:
    """Show the desk; its state is its address."""
    typed = _typed(request.GET) if request.GET else None
    context = _context(request, *_worked(request, typed))
    if is_fragment(request):
        return fragment(request, "brines/_desk.html", context, reverse("brines:desk"), typed)
    return render(request, "brines/desk.html", context)


@require_POST
def keep(request: KitchenRequest) -> HttpResponse:
    """Save the brine under its name."""
    form, result, document, problem = _worked(request, _typed(request.POST))
    if result is not None and not form.title:
        form.add_error("name", "Enter a name first.")
    if result is None or form.errors:
        return render(request, "brines/desk.html", _context(request, form, result, document, problem), status=422)
    there = saved_requests.named(BrinePlan, request.kitchen, form.title)
    if there is not None:
        url = reverse("brines:kept", args=[there.pk])
        if meanwhile := saved_requests.meanwhile_of(request, there, document, url):
            context = {**_context(request, form, result, document, problem), "meanwhile": meanwhile}
            return render(request, "brines/desk.html", context, status=409)
    title = form.title
    if there is not None and wants_both(request):
        title = saved_requests.free_name(BrinePlan, request.kitchen, title)
    plan = saved_requests.save_request(BrinePlan, request.kitchen, request.user, title, document)
    messages.success(request, f"Saved: {plan.name}.")
    return redirect("brines:kept", pk=plan.pk)


def address_of(plan: BrinePlan, request: KitchenRequest) -> str:
    data = BrineForm.data_of(plan.document, request.user.units) | {
        "name": plan.name, "kept": str(plan.pk), "edition": edition_of(plan.document),
    }  # fmt: skip
    return address(reverse("brines:desk"), data)


def kept(request: KitchenRequest, pk: uuid.UUID) -> HttpResponse:
    """Show a saved brine on the desk."""
    plan = get_object_or_404(BrinePlan.objects.of(request.kitchen).current(), pk=pk)
    return redirect(address_of(plan, request))


@require_POST
def ask(request: KitchenRequest, pk: uuid.UUID) -> HttpResponse:
    """Ask for a second person to confirm it again: it stands on their Today."""
    plan = get_object_or_404(BrinePlan.objects.of(request.kitchen).current(), pk=pk)
    actions.ask_again(plan)
    messages.success(request, "It stands on Today for whoever can confirm it.")
    return redirect(address_of(plan, request))


@require_POST
def confirm(request: KitchenRequest, pk: uuid.UUID) -> HttpResponse:
    """Record a second person's confirmation."""
    plan = get_object_or_404(BrinePlan.objects.of(request.kitchen).current(), pk=pk)
    try:
        actions.confirm(plan, request.user, confirm_person(request))
    except (actions.BrineError, NotConfirmedError) as error:
        messages.error(request, str(error))
    return redirect(address_of(plan, request))


@require_POST
@chef_required
def put_away(request: KitchenRequest, pk: uuid.UUID) -> HttpResponse:
    """Archive a brine, with an undo."""
    plan = get_object_or_404(BrinePlan.objects.of(request.kitchen).current(), pk=pk)
    saved_requests.archive(plan)
    messages.success(request, f"Archived: {plan.name}.", extra_tags=reverse("brines:put-back", args=[plan.pk]))
    return redirect("brines:desk")


@require_POST
@chef_required
def put_back(request: KitchenRequest, pk: uuid.UUID) -> HttpResponse:
    """Restore an archived brine."""
    plan = get_object_or_404(BrinePlan.objects.of(request.kitchen), pk=pk)
    if not saved_requests.restore(plan):
        messages.error(request, f"There is already another “{plan.name}”. Rename it first.")
    return redirect("brines:desk")
