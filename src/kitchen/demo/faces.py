"""Photographs of cut faces for the demonstration, made up from how its cooks truly went: a blurred one and one that
came as planned, one that was pulled early, and one from a pan that was too hot.
"""

from __future__ import annotations

import datetime as dt
import io
from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Any

from PIL import Image

from ember.bench.face_render import Scene, photograph
from ember.evaluate import evaluate
from ember.face.promise import promised_face
from ember.face.reading import FaceReading
from ember.files.plan import parse_plan
from ember.files.stages import Pan, Stage, lasting
from kitchen.faces import actions, store
from kitchen.faces.models import FacePhoto
from kitchen.faces.reading import Framed, answer_of, promise_of, thickness_mm
from kitchen.line.models import Cook

from .past import timed
from .simulated_probe import truth_of

PX_MM = 11.0
SLICED_AFTER = dt.timedelta(minutes=6)
MOST_MM = 34.0  # of the width beyond the thickness
IN_GOOD_LIGHT = Scene(px_mm=PX_MM, kelvin=4000.0, turn=6.0, tilt=8.0, noise=0.008, glare=0.01)
BLURRED = replace(IN_GOOD_LIGHT, blur_mm=3.2)


@dataclass(frozen=True)
class Shot:
    """A photograph of the cook with this number: how it was taken, how much hotter its pan was and how many times as
    long it lay there, what its cook said.
    """

    cook: int
    scene: Scene
    pan_k: float = 0.0
    pan_times: float = 1.0
    word: str = ""
    mm: float | None = None


SHOTS = (
    Shot(0, BLURRED), Shot(0, IN_GOOD_LIGHT, word="cooked through"), Shot(1, IN_GOOD_LIGHT, word="opaque"),
    Shot(2, IN_GOOD_LIGHT, pan_k=60.0, pan_times=1.5, word="pink", mm=5.0),
)  # fmt: skip


def add_faces(cooks: Sequence[Cook], past: Sequence[dict[str, Any]]) -> None:
    """Add the photographs of finished cooks; `past`: their truths."""
    for number, shot in enumerate(SHOTS, start=1):
        cook = cooks[shot.cook]
        promised, mm = promise_of(cook), thickness_mm(cook)
        if promised is None or mm is None:
            raise ValueError(f"{cook} has no face")
        face = face_as_cooked(cook, past[shot.cook], shot)
        scene = replace(
            shot.scene, cut=cook.document["piece"]["cut"], mm=mm, wide_mm=min(1.25 * mm, mm + MOST_MM), seed=number,
            profile=(tuple(d * mm / face.depth_mm[-1] for d in face.depth_mm), face.looks_c),
        )  # fmt: skip
        _add(cook, scene, promised, shot, number)


def face_as_cooked(cook: Cook, past: dict[str, Any], shot: Shot) -> FaceReading:
    """The face of a cook as it truly went, but for its pan."""
    core = parse_plan({**cook.document, "depth_map": True})
    durations = [run.end_s - run.start_s for run in evaluate(core).stages]
    durations[core.pull_stage or 0] += past["pull_late_s"]
    truth = timed(truth_of(core, past["size"], past["medium_k"]), durations)
    stages = [_pan(stage, seconds, shot) for stage, seconds in zip(truth.stages, durations, strict=True)]
    return promised_face(core.piece.cut, evaluate(truth.model_copy(update={"stages": stages})))


def _pan(stage: Stage, seconds: float, shot: Shot) -> Stage:
    if not isinstance(stage, Pan) or stage.pan_c is None:
        return stage
    return lasting(stage.model_copy(update={"pan_c": stage.pan_c + shot.pan_k}), shot.pan_times * seconds)


def _add(cook: Cook, scene: Scene, promised: dict[str, Any], shot: Shot, number: int) -> None:
    taken = photograph(scene)
    out = io.BytesIO()
    Image.fromarray(taken.rgb).save(out, "JPEG", quality=90)
    jpeg = out.getvalue()
    at = (cook.finished_at or cook.started_at) + SLICED_AFTER + dt.timedelta(seconds=20 * number)
    photo = FacePhoto.objects.create(
        kitchen=cook.kitchen, cook=cook, by=cook.started_by, at=at, cut=scene.cut, mm=scene.mm,
        sha256=store.keep(cook.kitchen, jpeg), sent_sha256=store.digest_of(jpeg), bytes=len(jpeg),
        width=taken.rgb.shape[1], height=taken.rgb.shape[0],
    )  # fmt: skip
    used, answer = answer_of(photo, Framed(taken.top, taken.under, taken.white), scene.mm)
    actions.measure(photo, cook.started_by, used, scene.mm, answer, promised, shot.word, shot.mm)
