"""The drawings of a bench: chart, cut face, piece."""

from __future__ import annotations

from dataclasses import replace

from ember.files.outline import MIRRORED
from ember.files.piece import Slab
from ember.files.plan import Plan as CorePlan
from ember.files.result import Result
from ember.food.catalogue import Cut
from ember.food.geometry import body_size, footprint_mm, mass_of
from ember.heat.problem import density_of
from ember.shape.of_piece import made_from, outline_of, times_m
from ember.shape.usual import KEPT, confidence_of, usual_outline
from kitchen.drawings.axis import TimeColumns
from kitchen.drawings.cut_face import Body, CutFace, Inside, Section, cut_face, moments
from kitchen.drawings.meat import flesh_of, words_by_heat
from kitchen.drawings.piece import PieceDrawing, PlanView, outline_drawing, piece_drawing, plan_view
from kitchen.drawings.section_face import section_face

from .bench import Bench

# Families that look like themselves along their row; of the others the piece is drawn as it lies.
SEEN_FROM_THE_SIDE = ("dome", "breast", "chop", "tail", "lump")


def section_of(core: CorePlan, cut_entry: Cut, result: Result) -> Section:
    """The cross-section, across the grain."""
    density = density_of(core)
    body = body_size(core.piece, cut_entry, density)
    flat = result.stages[0].faces_c is not None
    kind: Body = "round" if not flat else "fillet" if cut_entry.category == "fish" else "steak"
    inside: Inside = ""
    share = 0.0
    if core.piece.stuffed:
        inside, share = "stuffing", cut_entry.stuffing_share
    elif not flat and cut_entry.bone_share > 0 and core.piece.bone is not False:
        inside, share = "bone", cut_entry.bone_share
    elif flat and (cut_entry.bone if core.piece.bone is None else core.piece.bone):
        inside = "rib"
    fat = core.piece.fat_cap_mm if core.piece.fat_cap_mm is not None else cut_entry.fat_cap_mm
    return Section(kind, body.size_mm, footprint_mm(core.piece, cut_entry, density)[0], fat, inside, share)


def face_of(core: CorePlan, cut_entry: Cut, result: Result, time: TimeColumns) -> CutFace:
    """The cut face along a chart's time axis. The result must have its depth map."""
    flesh = flesh_of(cut_entry.id, result, moments(time))
    words = words_by_heat(cut_entry.id, result.doneness.word, result.doneness.high_c)
    if result.section is not None:
        is_round = result.stages[0].faces_c is None
        return section_face(result.section, cut_entry.id, flesh, is_round, moments(time), words)
    return cut_face(section_of(core, cut_entry, result), flesh, words)


def drawing_of(bench: Bench) -> PieceDrawing:
    """The piece in its proportions; the cut's typical one if the typed one cannot be drawn."""
    kind = bench.drawn_as
    if bench.core is None:
        form = bench.cut.form
        return piece_drawing(kind, form.size_mm, form.width_mm or form.size_mm, form.length_mm or form.size_mm)
    if (outline := bench.core.piece.outline) is not None:
        made = outline_of(bench.core.piece)
        x, half = made.mirrored()
        bone = outline.bone.mm if outline.bone is not None else 0.0
        return outline_drawing(1e3 * x, 1e3 * half, made.is_round, outline.thin_mm, bone, outline.drapes)
    density = density_of(bench.core)
    size = body_size(bench.core.piece, bench.cut, density).size_mm
    footprint = footprint_mm(bench.core.piece, bench.cut, density)
    usual = usual_outline(bench.core.piece, bench.cut, size, *footprint)
    if usual is None or usual.family not in SEEN_FROM_THE_SIDE:
        return piece_drawing(kind, size, *footprint)
    made = made_from(usual, size * 1e-3)
    x, half = made.mirrored()
    bone = usual.bone.mm if usual.bone is not None else 0.0
    drawing = outline_drawing(1e3 * x, 1e3 * half, made.is_round, None, bone)
    return replace(drawing, kind=kind, bone=None, corner=None, usual=confidence_of(bench.cut))


def plan_view_of(bench: Bench) -> PlanView | None:
    """A flat piece from above; None for every other one."""
    core = bench.core
    if core is None or not isinstance(core.piece.shape, Slab):
        return None
    outline, density = core.piece.outline, density_of(core)
    wide, long = footprint_mm(core.piece, bench.cut, density)
    if outline is None:
        domed, tip = bench.cut.form.dome < 1.0, bench.cut.id.endswith(KEPT)
        return plan_view(wide, long, "oval" if domed else "tip" if tip else "box")
    row = outline.row_mm or 1e3 * float(outline_of(core.piece).x_m[-1])
    other = 1e3 * times_m(core.piece, mass_of(core.piece, bench.cut, density) * 1e-3 / density)
    match outline.family:
        case "medallion":
            return plan_view(row, row, "disc")
        case "breast":
            return plan_view(outline.other_mm or other, row, "tip")
        case "lump" | "dome":
            return plan_view(row, outline.other_mm or other, "oval")
        case _:
            return plan_view(row, outline.other_mm or other / (2.0 if outline.family in MIRRORED else 1.0), "box")
