"""Views of taking photographs, and of the pictures themselves."""

from __future__ import annotations

import hashlib
import uuid
from dataclasses import dataclass

from django.contrib import messages
from django.core.paginator import Paginator
from django.http import Http404, HttpResponse, JsonResponse
from django.shortcuts import redirect, render
from django.views.decorators.http import require_POST

from ember.errors import BadInput
from ember.face.apart import Kept, decoded_apart
from ember.face.picture import MOST_BYTES
from kitchen.accounts.access import chef_required
from kitchen.accounts.once import works_out_first
from kitchen.line.models import Cook
from kitchen.line.queued_taps import HEADER
from kitchen.web import KitchenRequest, clean_text

from . import actions
from .forms import PieceForm
from .models import FacePhoto
from .prepared import prepare, prepared
from .presenters import view_of, with_all
from .queries import cook_of, photo_of
from .reading import plan_of, thickness_mm
from .store import CACHED, QuotaError, path_of, smaller

PER_PAGE = 24
SIZES = (240, 640, 1280, 1920)
NO_FILE = "Choose a photograph first."
TOO_LARGE = f"This file is larger than {MOST_BYTES // 1_000_000} MB. Take the photograph smaller."


@dataclass(frozen=True)
class Sent:
    """A file as it came: its digest, and the photograph in it or what is wrong with it."""

    sha256: str = ""
    kept: Kept | None = None
    problem: str = ""


def faces(request: KitchenRequest) -> HttpResponse:
    """All photographs, newest first."""
    page = Paginator(with_all(FacePhoto.objects.of(request.kitchen)), PER_PAGE).get_page(request.GET.get("page"))
    return render(request, "faces/faces.html", {"page": page, "views": [view_of(photo) for photo in page]})


def new(request: KitchenRequest) -> HttpResponse:
    """Take a photograph, of a cook or of any piece."""
    cook = cook_of(request, request.GET.get("cook"))
    return _new(request, cook, PieceForm(None, request.user.units, request.GET.dict()))


def _new(
    request: KitchenRequest, cook: Cook | None, form: PieceForm | None, problem: str = "", status: int = 200
) -> HttpResponse:
    context = {"cook": cook, "form": form, "problem": problem, "thickness": thickness_mm(cook) if cook else None}
    return render(request, "faces/new.html", context, status=status)


def decode(request: KitchenRequest) -> None:
    """Decode the file of a request before its transaction; what is wrong with it is said by the view."""
    prepare(request, lambda: _decoded(request))


def _decoded(request: KitchenRequest) -> Sent:
    sent = request.FILES.get("photo")
    if sent is None or not sent.size:
        return Sent(problem=NO_FILE)
    if sent.size > MOST_BYTES:
        return Sent(problem=TOO_LARGE)
    data = sent.read()
    try:
        return Sent(hashlib.sha256(data).hexdigest(), decoded_apart(data))
    except BadInput as error:
        return Sent(problem=error.message)


@require_POST
@works_out_first(decode)
def take(request: KitchenRequest) -> HttpResponse:
    """Keep a photograph, and go on to its frame. One that was sent before is opened again."""
    cook = cook_of(request, request.POST.get("cook"))
    sent = prepared(request, Sent)
    form = None
    if cook is None:
        form = PieceForm(request.POST, request.user.units)
        if not form.is_valid() and not sent.problem:
            if HEADER in request.headers:
                messages.error(request, " ".join(str(error) for errors in form.errors.values() for error in errors))
            return _new(request, None, form, status=422)
    if sent.kept is None:
        return _refused(request, cook, form, sent.problem)
    if cook is not None:
        cut, mm = plan_of(cook).piece.cut, thickness_mm(cook) or 0.0
    else:
        cut, mm = form.cleaned_data["cut"], form.cleaned_data["mm"]  # type: ignore[union-attr]
    try:
        taken = actions.take(request.kitchen, request.user, sent.kept, sent.sha256, cook, cut, mm)
    except QuotaError as error:
        return _refused(request, cook, form, str(error))
    return redirect("faces:face" if taken.measure else "faces:frame", pk=taken.pk)


def _refused(request: KitchenRequest, cook: Cook | None, form: PieceForm | None, problem: str) -> HttpResponse:
    """The form again, with what is wrong with the photograph; one that waited on its device is told by a message."""
    if HEADER in request.headers:
        messages.error(request, problem)
    return _new(request, cook, form, problem, 422)


def known(request: KitchenRequest) -> JsonResponse:
    """Where the photograph of a file is, by its digest as it was sent; nothing if it was not."""
    cook = cook_of(request, request.GET.get("cook"))
    photo = actions.known(request.kitchen, clean_text(request.GET.get("sha256"), 64), cook)
    return JsonResponse({"url": photo.get_absolute_url() if photo else None})


def picture(request: KitchenRequest, pk: uuid.UUID) -> HttpResponse:
    """The picture itself, as large as it is asked for."""
    photo = photo_of(request, pk)
    path = path_of(photo)
    if not photo.is_there or not path.is_file():
        raise Http404
    wanted = request.GET.get("w", "")
    longest = int(wanted) if wanted.isdecimal() and int(wanted) in SIZES else None
    data = smaller(path, longest) if longest else path.read_bytes()
    return HttpResponse(data, content_type="image/jpeg", headers={"Cache-Control": CACHED})


@require_POST
@chef_required
def remove(request: KitchenRequest, pk: uuid.UUID) -> HttpResponse:
    """Keep the picture no longer; its record stays."""
    photo = photo_of(request, pk)
    why = clean_text(request.POST.get("why"), 300)
    if not why:
        messages.error(request, "Enter why the photograph is removed.")
    else:
        actions.remove(photo, request.user, why)
        messages.success(request, "The photograph was removed. What was measured on it stays.")
    return redirect("faces:face", pk=pk)
