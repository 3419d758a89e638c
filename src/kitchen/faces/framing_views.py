"""Views of framing a photograph: the line across the face, the outline that is proposed, the measurement."""

from __future__ import annotations

import uuid
from dataclasses import dataclass
from typing import Any

from django.core.exceptions import ValidationError
from django.http import HttpResponse, JsonResponse
from django.shortcuts import redirect, render
from django.views.decorators.http import require_POST

from ember.errors import BadInput
from kitchen.accounts.once import computes, works_out_first
from kitchen.web import KitchenRequest

from . import actions
from .forms import FrameForm, points_of
from .models import FacePhoto
from .prepared import prepare, prepared
from .presenters import edge_word_of, view_of
from .queries import photo_of
from .reading import Framed, answer_of, promise_of, proposal_of

HANDLES = (("top", "Top of the piece"), ("under", "Underside of the piece"), ("white", "Something white"))
MARKS = 45  # rings that would fit along the picture


@dataclass(frozen=True)
class Reading:
    """A photograph as read: the frame that was used, the answer, and what the plan promised."""

    frame: dict[str, Any]
    answer: dict[str, Any]
    promised: dict[str, Any] | None


def frame(request: KitchenRequest, pk: uuid.UUID) -> HttpResponse:
    """Lay the line across the face: as it was laid last, else as it is proposed."""
    photo = photo_of(request, pk)
    if not photo.is_there:
        return redirect("faces:face", pk=pk)
    request.enter_gate()  # type: ignore[attr-defined]
    form = FrameForm(None, photo.cut, request.user.units, photo.measure.mm if photo.measure else photo.mm or None)
    return _frame(request, photo, form)


def _frame(request: KitchenRequest, photo: FacePhoto, form: FrameForm, status: int = 200) -> HttpResponse:
    outline, points, problem = _start(photo)
    for name in points:
        if form.is_bound:
            try:
                points[name] = form.fields[name].clean(request.POST.get(name, "")) or points[name]
            except ValidationError:
                continue
    mark = max(photo.width, photo.height) / MARKS
    context = {
        "photo": photo, "form": form, "view": view_of(photo), "outline": outline, "points": points,
        "problem": problem, "edge_word": edge_word_of(photo.cut), "handles": HANDLES, "mark_px": mark,
        "touch_px": 2 * mark, "point_px": 0.16 * mark,
        "is_first": all(row.refused for row in photo.measures.all()),
    }  # fmt: skip
    return render(request, "faces/frame.html", context, status=status)


def _start(photo: FacePhoto) -> tuple[list[Any], dict[str, Any], str]:
    """Outline and points to begin with, and why there are none of a proposal."""
    middle, high = photo.width / 2, photo.height
    points: dict[str, Any] = {"top": (middle, 0.3 * high), "under": (middle, 0.7 * high), "white": None}
    outline: list[Any] = []
    problem = ""
    try:
        proposed = proposal_of(photo, [], [])
        outline = list(proposed.outline)
        points = {"top": proposed.top, "under": proposed.under, "white": proposed.white}
    except BadInput as error:
        problem = error.message
    if photo.measure is not None:
        points |= {name: tuple(point) for name, point in photo.measure.frame.items()}
    return outline, points, problem


@require_POST
@computes
def proposal(request: KitchenRequest, pk: uuid.UUID) -> JsonResponse:
    """The outline with the points that a cook says are on the piece or beside it, and the line across it."""
    photo = photo_of(request, pk)
    request.enter_gate()  # type: ignore[attr-defined]
    inside, outside = (points_of(request.POST.get(name, "")[:2000]) for name in ("inside", "outside"))
    try:
        proposed = proposal_of(photo, inside, outside)
    except BadInput as error:
        return JsonResponse({"problem": error.message})
    return JsonResponse({"outline": proposed.outline, "top": proposed.top, "under": proposed.under})


def read(request: KitchenRequest, pk: uuid.UUID) -> None:
    """Read a photograph, and work out what its plan promised, before the transaction."""
    photo = photo_of(request, pk)
    form = FrameForm(request.POST, photo.cut, request.user.units)
    if form.is_valid() and photo.is_there:
        prepare(request, lambda: _read(photo, form.cleaned_data))
    else:
        prepare(request, lambda: None)


def _read(photo: FacePhoto, typed: dict[str, Any]) -> Reading:
    frame = Framed(typed["top"], typed["under"], typed["white"])
    return Reading(*answer_of(photo, frame, typed["mm"]), promise_of(photo.cook) if photo.cook else None)


@require_POST
@works_out_first(read)
def measure(request: KitchenRequest, pk: uuid.UUID) -> HttpResponse:
    """Keep what was read, or why it was refused."""
    photo = photo_of(request, pk)
    form = FrameForm(request.POST, photo.cut, request.user.units)
    if not photo.is_there:
        return redirect("faces:face", pk=pk)
    reading = prepared(request, Reading)
    if not form.is_valid() or reading is None:
        return _frame(request, photo, form, 422)
    typed = form.cleaned_data
    actions.measure(
        photo, request.user, reading.frame, typed["mm"], reading.answer, reading.promised, typed["guess_word"],
        typed["guess_mm"],
    )  # fmt: skip
    return redirect("faces:face", pk=pk)
