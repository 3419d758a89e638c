"""A photograph read in the core, with its cook's cut and thickness, and the face that the plan promised."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np

from ember.errors import BadInput, EmberError
from ember.face.answer import framed, told
from ember.face.frame import Frame, Point
from ember.face.label import plane_of
from ember.face.outline import Proposal, propose
from ember.face.picture import decoded
from ember.face.promise import promised_face
from ember.face.reading import FaceReading, read_face
from ember.face.strip import upright
from ember.files.plan import Plan, parse_plan
from ember.food.catalogue import cut as cut_of
from ember.food.geometry import body_size
from ember.heat.problem import density_of
from kitchen.errors import Busy
from kitchen.line.models import Cook
from kitchen.plans.evaluated import evaluated

from .models import FaceMeasure, FacePhoto
from .store import encoded_jpeg, path_of

CURED = "Cured meat keeps its red whatever heat it saw: its colour says nothing. Measure the core with a probe."
GONE = "The picture itself is no longer kept: what was measured stays."
CURED_TISSUE = "brined"
KEPT_MM = 0.5  # between the depths that are kept for drawing
HEATS = ("pan", "plancha", "grill", "oven", "fry", "bath")


def plan_of(cook: Cook) -> Plan:
    """The plan of a cook. Raises EmberError for one that is read no more."""
    return parse_plan(cook.document)


def thickness_mm(cook: Cook) -> float | None:
    """How thick a cook's piece is by its plan, mm; None if that cannot be told."""
    try:
        plan = plan_of(cook)
        return round(body_size(plan.piece, cut_of(plan.piece.cut), density_of(plan)).size_mm, 1)
    except EmberError:
        return None


def promise_of(cook: Cook) -> dict[str, Any] | None:
    """The face a cook's plan promised, as it is kept with a measurement; None if it cannot be computed."""
    try:
        plan = parse_plan({**cook.document, "depth_map": True})
        result = evaluated(plan)
        face = promised_face(plan.piece.cut, result)
    except Busy:
        raise  # of this moment, not of this plan
    except (EmberError, ValueError):
        return None
    return {**as_kept(face, plan.piece.cut), "heat": heat_of(plan), "peak_c": result.core.peak_c}


def heat_of(plan: Plan) -> str:
    """The kind of the stage that colours the outside: the hottest, in a kitchen's order."""
    kinds = {stage.kind for stage in plan.stages}
    return next((kind for kind in HEATS if kind in kinds), "")


def as_kept(face: FaceReading, cut_id: str) -> dict[str, Any]:
    """A reading as the command line tells it, with a profile for drawing."""
    depth = np.array(face.depth_mm)
    coarse = np.arange(KEPT_MM / 2, depth[-1], KEPT_MM)
    looks = np.interp(coarse, depth, np.array(face.looks_c))
    return {
        **told(face, cut_id), "depth_mm": [round(float(d), 2) for d in coarse],
        "looks_c": [round(float(c), 1) for c in looks],
    }  # fmt: skip


@dataclass(frozen=True)
class Framed:
    """A frame, px: where the line across the face begins and ends, and what is white."""

    top: Point | None = None
    under: Point | None = None
    white: Point | None = None


def proposal_of(photo: FacePhoto, inside: list[Point], outside: list[Point]) -> Proposal:
    """Where the piece seems to be in a photograph. Raises BadInput."""
    return propose(decoded(_bytes(photo)).rgb, photo.cut, inside, outside)


def answer_of(photo: FacePhoto, frame: Framed, mm: float) -> tuple[dict[str, Any], dict[str, Any]]:
    """A photograph read within a frame: the frame as used, and the answer, which may be a refusal in words."""
    if CURED_TISSUE in cut_of(photo.cut).tissue:
        return _frame_row(frame), {"bands_mm": {}, "core_c": None, "refused": CURED}
    try:
        picture = decoded(_bytes(photo)).rgb
        used = framed(picture, mm, photo.cut, frame.top, frame.under, frame.white)
        reading = read_face(picture, used, photo.cut)
    except BadInput as error:
        return _frame_row(frame), {"bands_mm": {}, "core_c": None, "refused": error.message}
    return _frame_row(Framed(used.top, used.under, used.white)), as_kept(reading, photo.cut)


def upright_jpeg(photo: FacePhoto, measure: FaceMeasure) -> bytes:
    """The face as it was framed, upright and in white light. Raises BadInput for a picture that is gone, or a frame
    without its line.
    """
    picture = decoded(_bytes(photo)).rgb
    points = {name: (float(x), float(y)) for name, (x, y) in measure.frame.items()}
    if "top" not in points or "under" not in points:
        raise BadInput("This photograph was not framed.")
    frame = Frame.of(
        points["top"], points["under"], measure.mm, picture.shape, points.get("white"), plane=plane_of(picture)
    )
    return encoded_jpeg(upright(picture, frame))


def _bytes(photo: FacePhoto) -> bytes:
    try:
        return path_of(photo).read_bytes()
    except FileNotFoundError:
        raise BadInput(GONE) from None


def _frame_row(frame: Framed) -> dict[str, Any]:
    points = {"top": frame.top, "under": frame.under, "white": frame.white}
    return {name: [round(p[0], 1), round(p[1], 1)] for name, p in points.items() if p is not None}
