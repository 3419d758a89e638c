"""Views of the line: next actions, board, and taps."""

from __future__ import annotations

import datetime as dt
import uuid
from collections.abc import Iterator, Sequence
from typing import Any

from django.contrib import messages
from django.http import HttpResponse
from django.shortcuts import redirect, render
from django.views.decorators.http import require_POST

from ember.errors import BadInput, EmberError
from ember.files.piece import Piece
from ember.kit.equipment import held_in
from ember.track.rounds import round_of
from ember.track.steps import Step
from kitchen.accounts.once import answers_again
from kitchen.kit.calibration import worked_in
from kitchen.kit.models import Equipment, Probe
from kitchen.plans.models import Plan
from kitchen.plans.stage_kinds import STAGE_NAMES
from kitchen.web import KitchenRequest, clean_text, is_uuid, parse_count, token_of

from . import actions, queries, reading_actions, shared_board
from .access import any_cook_of, cook_of, tapped_cook_of
from .cook_faces import faces_shown
from .cook_status import CookStatus
from .csv_readings import MOST_BYTES, read_csv
from .errors import LineError
from .events import events_of
from .forms import CheckForm, ReadingForm, TellForm
from .models import Cook, CookEvent
from .observations import open_ends
from .picture import cook_chart, forecasts_moved, inside_now
from .places import clash_words
from .starting import send
from .step_cooks import ClockStep, step_status_of
from .words import OBSERVATIONS

MOST_TOGETHER = 12
PUT_OFF_MIN = 2.0


def board(request: KitchenRequest) -> HttpResponse:
    """Show the board; as a fragment every few seconds."""
    everything = request.GET.get("all") == "1"
    if request.htmx and not request.htmx.boosted:
        return shared_board.board_for(request, everything)
    return shared_board.board_page(request, everything)


def _board_again(request: KitchenRequest, problem: str = "") -> HttpResponse:
    if request.htmx:
        return shared_board.board_after_tap(request, problem)
    shared_board.forget(request.kitchen.pk)
    if problem:
        messages.error(request, problem)
    return redirect("line:board")


def _once_more(request: KitchenRequest, pk: uuid.UUID) -> HttpResponse:
    """Respond to a repeated tap with the board as it is."""
    return _board_again(request)


def _tapped(request: KitchenRequest, pk: uuid.UUID) -> Iterator[tuple[Cook, int, uuid.UUID]]:
    """The tapped actions: "COOK:STEP:TOKEN" each, or one step of the address's cook."""
    taps = request.POST.getlist("tap") or request.POST.getlist("hand")  # so named on pages kept from before
    for tap in taps[:MOST_TOGETHER]:
        cook, _, rest = tap.partition(":")
        step, _, token = rest.partition(":")
        if is_uuid(cook) and (number := parse_count(step)) is not None:
            yield tapped_cook_of(request, uuid.UUID(cook)), number, token_of(token)
    if not taps:
        number = parse_count(request.POST.get("step"))
        yield tapped_cook_of(request, pk), -1 if number is None else number, token_of(request.POST.get("token"))


def _tap(
    request: KitchenRequest, cook: Cook, step: int, token: uuid.UUID, steps: Sequence[Step | ClockStep], how: str
) -> None:  # fmt: skip
    """Handle one tap on an action: delayed, end of a round, skipped, or done."""
    again = round_of(steps, step) if not cook.goes_by_steps and 0 <= step < len(steps) else None  # type: ignore[arg-type]
    if how == "late":
        actions.put_off(cook, request.user, step, PUT_OFF_MIN, token, steps)  # type: ignore[arg-type]
    elif again is not None and how in ("each", "missed", "skip"):
        missed = {"each": 0, "skip": again.count}.get(how, parse_count(request.POST.get("missed")))
        if missed is None:
            raise LineError("Missed: enter how many, as a whole number.")
        actions.end_round(cook, request.user, step, token, steps, missed)  # type: ignore[arg-type]
    else:
        actions.do_step(cook, request.user, step, token, steps, how == "skip")  # type: ignore[arg-type]


@answers_again(_once_more)
@require_POST
def do(request: KitchenRequest, pk: uuid.UUID) -> HttpResponse:
    """Handle the big button: the next step of one cook or of several is done, delayed or skipped."""
    how = request.POST.get("how", "")
    problem = ""
    for cook, step, token in _tapped(request, pk):
        steps = step_status_of(cook).steps if cook.goes_by_steps else queries.steps_of_cook(cook)
        try:
            _tap(request, cook, step, token, steps, how)
        except LineError as error:
            problem = str(error)
    return _board_again(request, problem)


@answers_again(_once_more)
@require_POST
def undo(request: KitchenRequest, pk: uuid.UUID) -> HttpResponse:
    """Undo the last step."""
    try:
        meant = parse_count(request.POST.get("event"))
        actions.undo_step(tapped_cook_of(request, pk), request.user, token_of(request.POST.get("token")), meant)
    except LineError as error:
        return _board_again(request, str(error))
    return _board_again(request)


@answers_again(_once_more)
@require_POST
def reading(request: KitchenRequest, pk: uuid.UUID) -> HttpResponse:
    """Record a typed reading."""
    form = ReadingForm(request.POST, request.user.units)
    if not form.is_valid():
        return _board_again(request, "; ".join(map(str, form.errors["celsius"])))
    try:
        reading_actions.type_reading(cook_of(request, pk), request.user, form.cleaned_data["celsius"])
    except LineError as error:
        return _board_again(request, str(error))
    return _board_again(request)


@answers_again(_once_more)
@require_POST
def tell(request: KitchenRequest, pk: uuid.UUID) -> HttpResponse:
    """Record an observation besides the plan: off the heat, door, probe, another setting, late accepted."""
    cook = cook_of(request, pk)
    form = TellForm(request.POST, request.user.units)
    if not form.is_valid():
        problem = "; ".join(str(error) for errors in form.errors.values() for error in errors)
        return _told_again(request, cook, problem)
    values = form.cleaned_data
    stage = queries.status_of(cook).stage
    try:
        actions.tell(
            cook, request.user, values["what"], token_of(request.POST.get("token")), stage, values["celsius"],
            values["late_s"],
        )  # fmt: skip
    except LineError as error:
        return _told_again(request, cook, str(error))
    return _told_again(request, cook)


def _told_again(request: KitchenRequest, cook: Cook, problem: str = "") -> HttpResponse:
    if request.POST.get("from") != "check":
        return _board_again(request, problem)
    if problem:
        messages.error(request, problem)
    return redirect("line:check", pk=cook.pk)


def _tellable(status: CookStatus) -> list[tuple[str, str]]:
    """Observations a cook allows now, besides a new setting: (code, the button's words)."""
    stages, begun = status.plan.stages, open_ends(status.cook)
    here = stages[status.stage] if status.stage < len(stages) else None
    kinds = ["resumed" if "interrupted" in begun else "interrupted"]
    if here is not None and here.kind == "oven":
        kinds.append("closed" if "opened" in begun else "opened")
    if status.has_probe:
        kinds.append("probe-moved")
    return [(what, OBSERVATIONS[what]) for what in kinds]


def _places(request: KitchenRequest, status: CookStatus) -> Iterator[dict[str, Any]]:
    """Stages still to come with the equipment they may use."""
    there = list(Equipment.objects.of(request.kitchen).current())
    for i, stage in enumerate(status.plan.stages):
        fitting = [e for e in there if e.kind == held_in(stage)]
        if i >= status.stage and fitting:
            now = status.kit.get(i, {}).get("id")
            yield {"stage": i, "name": STAGE_NAMES[stage.kind], "fitting": fitting, "now": now}


def check(request: KitchenRequest, pk: uuid.UUID) -> HttpResponse:
    """Check a cook and finish it."""
    cook = any_cook_of(request, pk)
    if cook.goes_by_steps:
        return redirect("line:steps", pk=pk)
    status = queries.status_of(cook)
    form = CheckForm(request.POST or None, request.user.units, Piece.model_validate(cook.document["piece"]))
    if cook.finished_at is not None:
        return redirect("logbook:record", pk=cook.pk)
    if request.method == "POST" and form.is_valid():
        try:
            actions.check(cook, request.user, form.found(), token_of(request.POST.get("token")))
            if request.POST.get("then") == "finish":
                actions.finish(cook, request.user)
                return redirect("logbook:record", pk=cook.pk)
        except LineError as error:
            messages.error(request, str(error))
        return redirect("line:check", pk=cook.pk)
    context: dict[str, Any] = {
        "form": form,
        "status": status,
        "cook": cook,
        "token": uuid.uuid4(),
        "chart": cook_chart(status),
        "checks": [event for event in cook.history if event.kind == "checked"],
        "places": list(_places(request, status)),
        "events": events_of(status),
        "inside": inside_now(status),
        "moved": forecasts_moved(status),
        "forecast_view": status.forecast_view,
        "tellable": _tellable(status),
        "faces": faces_shown(cook),
    }
    return render(request, "line/check.html", context, status=422 if request.method == "POST" else 200)


@require_POST
def upload(request: KitchenRequest, pk: uuid.UUID) -> HttpResponse:
    """Import readings from a file."""
    cook = cook_of(request, pk)
    file = request.FILES.get("file")
    try:
        if file is None:
            raise BadInput("Choose a CSV file first.")
        rows = read_csv(file.read(MOST_BYTES + 1), cook.started_at, request.kitchen.zone)
        new = reading_actions.take_in_readings(cook, request.user, rows)
    except BadInput as error:
        messages.error(request, f"Not imported: {error.message}{f' ({error.at})' if error.at else ''}")
    except LineError as error:
        messages.error(request, f"Not imported: {error}")
    else:
        again = f", {len(rows) - new} already there" if len(rows) > new else ""
        messages.success(request, f"{new} reading{'' if new == 1 else 's'} imported{again}.")
    return redirect("line:check", pk=cook.pk)


@answers_again(_once_more)
@require_POST
def place(request: KitchenRequest, pk: uuid.UUID) -> HttpResponse:
    """Move a stage to another oven, bath or pan."""
    cook = cook_of(request, pk)
    stage, key = parse_count(request.POST.get("stage")), parse_count(request.POST.get("equipment"))
    stages = queries.status_of(cook).plan.stages
    there = Equipment.objects.of(request.kitchen).current()
    item = there.filter(pk=key).first() if key is not None else None
    if item is None or stage is None or stage >= len(stages) or held_in(stages[stage]) != item.kind:
        messages.error(request, "That stage cannot be done on that equipment.")
    else:
        try:
            actions.place(cook, request.user, stage, item)
        except LineError as error:
            messages.error(request, str(error))
    return redirect("line:check", pk=cook.pk)


@require_POST
def stop(request: KitchenRequest, pk: uuid.UUID) -> HttpResponse:
    """Stop a cook that will not be served, with the reason."""
    cook = any_cook_of(request, pk)
    why = clean_text(request.POST.get("why"), 300)
    if not why:
        messages.error(request, "Enter the reason for stopping: the record needs it.")
        return redirect("line:check", pk=cook.pk)
    actions.finish(cook, request.user, stopped_why=why)
    return redirect("logbook:record", pk=cook.pk)


def send_plan(request: KitchenRequest, plan: Plan, due_at: dt.datetime | None) -> HttpResponse:
    """Send a saved plan to the line with the chosen probe, and go to its steps."""
    probe = None
    if (key := parse_count(request.POST.get("probe"))) is not None:
        probe = Probe.objects.of(request.kitchen).filter(pk=key).first()
    try:
        cook = send(plan, request.user, probe, token_of(request.POST.get("start_token")), due_at)
    except (LineError, EmberError) as error:
        messages.error(request, str(error))
        return redirect("plans:edit", pk=plan.pk)
    kit = cook.events.get(kind=CookEvent.Kind.STARTED).data["kit"]
    if clash := clash_words(request.kitchen, kit, cook):
        messages.warning(request, f"{clash}.")
    if learned := worked_in(plan.document, cook.document, kit, request.user.units):
        messages.info(request, f"Applied from learned calibration: {learned}.")
    return redirect("line:steps", pk=cook.pk)
