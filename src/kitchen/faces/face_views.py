"""Views of a measured face, and of a kitchen's own study of how well faces are read."""

from __future__ import annotations

import csv
import io
import uuid
from urllib.parse import urlencode

from django.http import Http404, HttpResponse
from django.shortcuts import redirect, render
from django.urls import reverse
from django.views.decorators.http import require_POST

from ember.errors import BadInput
from ember.quantities import Units
from kitchen.csv_cells import cells
from kitchen.line.picture import cook_chart
from kitchen.logbook.evidence import recorded_status
from kitchen.units.templatetags.units import size_in
from kitchen.web import KitchenRequest, attachment

from . import actions
from .forms import RulerForm
from .models import FacePhoto
from .presenters import view_of
from .queries import photo_of
from .reading import upright_jpeg
from .store import CACHED
from .study import WANTED, slice_of, study_of


def face(request: KitchenRequest, pk: uuid.UUID) -> HttpResponse:
    """The face as it was cut against the face that was promised."""
    photo = photo_of(request, pk)
    if photo.measure is None and photo.is_there:
        return redirect("faces:frame", pk=pk)
    return _page(request, photo)


def again_url(photo: FacePhoto, units: Units) -> str:
    """Where another photograph of the same piece is taken."""
    asked = {"cut": photo.cut, "mm": size_in(photo.mm, units)} if photo.cook_id is None else {"cook": photo.cook_id}
    return f"{reverse('faces:new')}?{urlencode(asked)}"


def _page(request: KitchenRequest, photo: FacePhoto, form: RulerForm | None = None, status: int = 200) -> HttpResponse:
    """The page of a photograph: the comparison, the probe's curve, the ruler."""
    view = view_of(photo)
    chart = course = None
    if photo.cook is not None:
        course = recorded_status(photo.cook)
        chart = cook_chart(course) if course.readings else None
    measure = photo.measure
    probe_c = max((c for _, c in course.readings), default=None) if course else None
    context = {
        "photo": photo, "view": view, "chart": chart, "status": course, "start": photo.cook and photo.cook.started_at,
        "probe_c": probe_c, "is_denied": bool(view.core and probe_c is not None and view.core.denies(probe_c)),
        "again_url": again_url(photo, request.user.units),
        "ruler_form": form or (RulerForm(None, photo.cut, request.user.units, measure.mm) if measure else None),
        "slice": slice_of(photo, measure, photo.ruler, measure.reading)
        if measure and measure.reading and photo.ruler else None,
    }  # fmt: skip
    return render(request, "faces/face.html", context, status=status)


def upright_photo(request: KitchenRequest, pk: uuid.UUID, number: int) -> HttpResponse:
    """The face as a measurement framed it, upright and in white light."""
    photo = photo_of(request, pk)
    measure = next((row for row in photo.measures.all() if row.pk == number), None)
    if measure is None or not photo.is_there:
        raise Http404
    try:
        data = upright_jpeg(photo, measure)
    except BadInput:
        raise Http404 from None
    return HttpResponse(data, content_type="image/jpeg", headers={"Cache-Control": CACHED})


@require_POST
def ruler(request: KitchenRequest, pk: uuid.UUID) -> HttpResponse:
    """Keep what a ruler and a probe say of the slice."""
    photo = photo_of(request, pk)
    if photo.measure is None:
        return redirect("faces:frame", pk=pk)
    form = RulerForm(request.POST, photo.cut, request.user.units, photo.measure.mm)
    if not form.is_valid():
        return _page(request, photo, form, 422)
    actions.rule(photo, request.user, form.cleaned_data["word"], form.bands(), form.cleaned_data["core_c"])
    return redirect("faces:face", pk=pk)


def study(request: KitchenRequest) -> HttpResponse:
    """How well faces are read here, by ruler and probe."""
    return render(request, "faces/study.html", {"study": study_of(request.kitchen), "wanted": WANTED})


def study_csv(request: KitchenRequest) -> HttpResponse:
    """Every edge of the study, mm."""
    out = io.StringIO()
    writer = csv.writer(out)
    writer.writerow(["photographed", "name", "cut", "sha256", "band", "side", "read_mm", "ruler_mm", "read_core_c",
                     "low_c", "high_c", "probe_c"])  # fmt: skip
    for each in study_of(request.kitchen).slices:
        photo, core = each.photo, each.measure.answer["core_c"]
        name = photo.cook.name if photo.cook else ""
        head = [photo.at.astimezone(request.kitchen.zone).isoformat(timespec="seconds"), *cells([name]), photo.cut]
        for edge in each.edges:
            writer.writerow([
                *head, photo.sha256, edge.word, edge.side, f"{edge.read_mm:.2f}", f"{edge.ruler_mm:.2f}", core["p50"],
                core["p10"], core["p90"], each.ruler.core_c,
            ])  # fmt: skip
    response = HttpResponse(out.getvalue(), content_type="text/csv; charset=utf-8")
    response.headers["Content-Disposition"] = attachment("face-study", ".csv")
    return response
