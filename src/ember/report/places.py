"""A piece in sections: its doneness place by place, how even it is, and the face of its true outline when cut."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np
from numpy.typing import NDArray

from ..files.outline import TAPERED
from ..files.plan import Plan
from ..files.result import PlaceOut, SectionOut
from ..food.catalogue import Cut
from ..heat.row_course import RowCourse
from ..heat.trajectory import Trajectory
from ..judge.doneness import scale_of, word_for
from ..kinetics.colour import pigment_history, tint_of
from .curves import curve_times, rounded
from .flesh import CURED

TOLD_K = 5.0  # a place that differs by less is not worth a word
NAMES = {"thin_end": "Thin end", "edge": "Edge", "bone": "Beside the bone", "thick_end": "Thick end"}
INSTEAD = {"thin_end": ": fold it under, or cut it off first."}
FACE_NODES, FACE_TIMES = 15, 60  # as fine as a drawing shows
EDGE = 0.5  # of the thickness: so far in from a side face or a tip the edge is felt


def judged(plan: Plan, course: RowCourse) -> NDArray[np.bool_]:
    """Which sections a verdict is given for. What air a pan's edge stands in has no source yet, so that where a pan
    heats the piece, its edges are drawn and not judged; the core's section always is.
    """
    part = course.part
    found = part.flesh.copy()
    if any(stage.kind in ("pan", "plancha") for stage in plan.stages):
        x, thick = part.sections.x_m, part.sections.thick_m
        reach = EDGE * thick.max()
        found &= x[-1] - x >= reach
        if not part.is_half:
            found &= x - x[0] >= reach
    found[part.body.section] = True
    return found


def places_of(plan: Plan, cut_entry: Cut, trajectory: Trajectory) -> list[PlaceOut]:
    """Core, ends, edge and beside the bone, as far as the piece has them; empty without an outline."""
    course = trajectory.row
    if course is None:
        return []
    own = plan.piece.own_cut
    words = scale_of(cut_entry.doneness, own.doneness if own else ())
    sure = judged(plan, course)
    hottest = course.middle_c.max(axis=0)
    found = []
    core_c = trajectory.peak()[0]
    for place, section in _sections(plan, course):
        peak_c = float(core_c if place == "core" else hottest[section])
        word, judged_here = word_for(words, peak_c).word, bool(sure[section])
        found.append(
            PlaceOut(
                place=place, at_mm=round(1e3 * float(course.part.sections.x_m[section]), 1), peak_c=round(peak_c, 1),
                word=word, judged=judged_here, words=_words(place, peak_c, core_c, word, judged_here),
            )
        )  # fmt: skip
    return found


def _words(place: str, peak_c: float, core_c: float, word: str, judged_here: bool) -> str:
    """What differs there from the middle, and what to do about it."""
    over_k, name = peak_c - core_c, NAMES.get(place, "")
    if not name or abs(over_k) < TOLD_K:
        return ""
    if over_k > 0.0:
        return f"{name} {peak_c:.0f} °C, {word}{INSTEAD.get(place, '.')}"
    return f"{name} {peak_c:.0f} °C, {word}{'.' if judged_here else ': drawn, not judged.'}"


def _sections(plan: Plan, course: RowCourse) -> Iterator[tuple[str, int]]:
    part, outline = course.part, plan.piece.outline
    family = outline.family if outline is not None else "steak"
    last = part.sections.count - 1
    yield "core", part.body.section
    bone = outline.bone if outline is not None else None
    if bone is not None:
        flesh = np.flatnonzero(part.flesh)
        yield "bone", int(flesh[0] if bone.end == "thick" else flesh[-1])
        yield "edge", last if bone.end == "thick" else 0
    elif family in TAPERED or (family == "traced" and not part.is_half):
        thick = part.sections.thick_m
        first_is_thick = bool(thick[0] >= thick[-1])
        yield "thick_end", 0 if first_is_thick else last
        yield "thin_end", last if first_is_thick else 0
    else:
        yield "edge", last


def evenness_pct(trajectory: Trajectory) -> float | None:
    """Share of the flesh that did not get hotter than the core's peak by more than 5 K, %; None without sections."""
    if trajectory.row is None:
        return None
    return round(100.0 * (1.0 - trajectory.row.over_share(trajectory.peak()[0])), 1)


def section_of(cut_entry: Cut, trajectory: Trajectory) -> SectionOut | None:
    """The face of the true outline over time; None without sections."""
    course = trajectory.row
    if course is None:
        return None
    sections = course.part.sections
    picked = np.unique(np.linspace(0, sections.volume.shape[1] - 1, FACE_NODES).round().astype(int))
    T = course.temperature_c[:, :, picked].reshape(len(trajectory.t_s), -1)
    hottest = np.maximum.accumulate(T, axis=0)
    red = pigment_history(trajectory.t_s, T, tint_of(cut_entry.id).t50_c)
    if cut_entry.category in CURED:
        red = np.ones_like(red)  # nitrite keeps it pink
    t = curve_times(trajectory, FACE_TIMES)
    rows = np.searchsorted(trajectory.t_s, t, side="right") - 1
    nodes_mm = np.round(1e3 * sections.nodes_m[:, picked], 2)
    return SectionOut(
        x_mm=nodes_mm[..., 0].tolist(), y_mm=nodes_mm[..., 1].tolist(), t_s=rounded(t, 1),
        hottest_c=np.round(hottest[rows], 1).tolist(), pigment=np.round(red[rows], 3).tolist(),
        bone=[not flesh for flesh in course.part.flesh], is_half=course.part.is_half,
    )  # fmt: skip
