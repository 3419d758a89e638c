"""The sections of a piece with an outline: geometry, food by section, what touches a pan, and where the core is."""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from ..files.outline import Outline
from ..files.piece import Piece, Properties
from ..files.stages import Grill, Oven, Pan, Plancha, Stage
from ..food.catalogue import Cut
from ..food.composition import Composition, ThermalProperties, loss_curves, loss_lag_s, water_diffusivity_m2s
from ..shape.of_piece import given_of, made_from, outline_of, size_m
from ..shape.sections import Sections, make_sections
from . import terms
from .covers import under_foil
from .faces import Segment, both, film
from .grid import FloatArray, Grid
from .layers import BONE, cover_mm
from .media import medium_c
from .rims import beside_pan
from .row_run import row_of, run
from .terms import H_CONTACT, STOP_CORE, Foods, Row, Stop

COUNT, COUNT_IN_PANS = 12, 10
HALF_INTERVALS, ROUND_INTERVALS = 15, 28
FINEST_M = 0.2e-3
TOLERANCE_K, TOLERANCE_IN_PANS_K = 0.1, 0.15
TOUCHES_M = 1e-3  # of stiff flesh what is that close to the lowest place touches

# The core is the coldest flesh of the middle line half-way through a run with one film all around.
LOOK_C, LOOK_H, LOOK_K, LOOK_S, LOOK_FROM_C = 65.0, 100.0, 0.2, 1e6, 5.0
LOOK_COUNT, LOOK_INTERVALS, LOOK_ROUND_INTERVALS, LOOK_FINEST_M = 24, 10, 18, 0.5e-3
LOOK_FOOD = Properties(k_w_mk=0.5, rho_kg_m3=1050.0, cp_j_kgk=3500.0)  # lean meat; the place hardly depends on it


@dataclass(frozen=True)
class RowPart:
    """A piece in sections. `flesh[N]`: which are not bone; `touches[N]`: which lie on a pan; `is_half`: up to a plane
    of symmetry; `shielded[N]`: which are under foil in hot air.
    """

    sections: Sections
    body: Row
    foods: Foods
    flesh: NDArray[np.bool_]
    touches: NDArray[np.bool_]
    tolerance_k: float
    is_half: bool
    shielded: NDArray[np.bool_]

    @property
    def core_grid(self) -> Grid:
        """The core's section as the grid of one body."""
        i, sections = self.body.section, self.sections
        apart = np.linalg.norm(np.diff(sections.nodes_m[i], axis=0), axis=-1)
        x = np.concatenate([[0.0], np.cumsum(apart)])
        return Grid(
            x, self.body.volume[i], self.body.conduct[i] * np.diff(x), self.body.face_area[i], sections.core,
            sections.two_faces,
        )  # fmt: skip

    def food(self, section: int) -> terms.Food:
        """Food of one section."""
        f = self.foods
        return terms.Food(
            f.k, f.c, f.share[section], f.rho[section], f.water[section], f.press[section], f.loss_a, f.loss_tm_c,
            f.loss_w_k, float(f.loss_tau_s[section]), f.water_d,
        )  # fmt: skip

    def conditions(self, stage: Stage, segment: Segment) -> tuple[FloatArray, FloatArray]:
        """Faces of every section and of the ends. What does not touch a pan, and an end above it, meets the air."""
        faces = np.tile(segment.faces, (self.sections.count, 1, 1))
        if self.shielded.any() and isinstance(stage, Oven | Grill):
            foiled = np.stack([face if face[H_CONTACT] > 0.0 else under_foil(face) for face in segment.faces])
            faces[self.shielded] = foiled
            return faces, np.stack([segment.faces[1], foiled[1]])
        down = np.flatnonzero(segment.faces[:, H_CONTACT] > 0.0)
        if not isinstance(stage, Pan | Plancha) or not down.size:
            return faces, both(segment.faces[1])
        if down.size == 1:
            free = segment.faces[1 - down[0]]
            faces[~self.touches, down[0]] = free
        wide_m = float(np.ptp(self.sections.x_m)) * (2.0 if self.is_half else 1.0)
        h, air_c, of_pan = beside_pan(stage, float(self.sections.thick_m.max()), wide_m)
        return faces, both(film(air_c + of_pan * (medium_c(stage) - air_c), h))


@lru_cache(maxsize=64)
def _sections(outline: Outline, size: float, is_round: bool, count: int, intervals: int) -> Sections:
    """The sections of a piece, one of them through its core."""
    made = made_from(outline, size, is_round)
    many = make_sections(made, LOOK_COUNT, LOOK_ROUND_INTERVALS if is_round else LOOK_INTERVALS, LOOK_FINEST_M)
    return make_sections(made, count, intervals, FINEST_M, _core_place(many, _flesh(outline, many)))


@lru_cache(maxsize=64)
def _bone_and_core(
    outline: Outline, size: float, is_round: bool, count: int, intervals: int
) -> tuple[tuple[bool, ...], int]:
    """Which sections are flesh, and the section of the core."""
    sections = _sections(outline, size, is_round, count, intervals)
    flesh = _flesh(outline, sections)
    return tuple(bool(is_flesh) for is_flesh in flesh), int(np.argmin(_middle_c(sections, flesh)))


def _flesh(outline: Outline, sections: Sections) -> NDArray[np.bool_]:
    """Which sections are not bone."""
    bone, flesh = outline.bone, np.ones(sections.count, dtype=bool)
    if bone is not None:
        x = sections.x_m
        flesh = (x - x[0] if bone.end == "thick" else x[-1] - x) >= bone.mm * 1e-3
        flesh[flesh.argmax() if bone.end == "thick" else sections.count - 1 - flesh[::-1].argmax()] = True
    return flesh


def _core_place(sections: Sections, flesh: NDArray[np.bool_]) -> float:
    """Where the core is, as a share of the row of sections: by a parabola through the coldest and its neighbours."""
    line = _middle_c(sections, flesh)
    i, last = int(np.argmin(line)), sections.count - 1
    if i in (0, last) or not np.isfinite(line[i - 1 : i + 2]).all():
        return i / last
    a, b, c = line[i - 1 : i + 2]
    return float((i + 0.5 * (a - c) / max(a - 2.0 * b + c, 1e-9)) / last)


def _middle_c(sections: Sections, flesh: NDArray[np.bool_]) -> FloatArray:
    """The middle line half-way through a run with one film all around, °C; infinite in bone."""
    row, n = row_of(sections), sections.volume.shape[1]
    start = np.zeros((4, sections.count, n))
    start[:2] = LOOK_FROM_C
    foods = _dry_foods(LOOK_FOOD, (sections.count, n))
    # The deepest place begins the search: far from both faces and from a square end.
    along = sections.nodes_m[:, sections.core, 0]
    deep = sections.thick_m.copy()
    for end, distance in enumerate((along - along[0], along[-1] - along)):
        if row.has_end[end]:
            deep = np.minimum(deep, 2.0 * distance)
    deepest = int(np.argmax(np.where(flesh, deep, -1.0)))
    half = Stop(LOOK_S, STOP_CORE, 0.5 * (LOOK_FROM_C + LOOK_C), True)
    face = both(film(LOOK_C, LOOK_H))
    middle = run(row._replace(section=deepest), foods, start, np.tile(face, (sections.count, 1, 1)), face, half, LOOK_K)
    line = middle.temperature_c[-1, :, sections.core]
    return np.asarray(np.where(flesh, line, np.inf))


def make_row(piece: Piece, cut_entry: Cut, composition: Composition, in_pans: bool, refine: float = 1.0) -> RowPart:
    """The sections of a piece with an outline. Raises BadInput for an outline that cannot be divided."""
    outline, size = given_of(piece), size_m(piece)
    made = outline_of(piece)
    count = round((COUNT_IN_PANS if in_pans else COUNT) * refine)
    intervals = round((ROUND_INTERVALS if made.is_round else HALF_INTERVALS) * refine)
    sections = _sections(outline, size, made.is_round, count, intervals)
    flesh, core = _bone_and_core(outline, size, made.is_round, count, intervals)
    is_flesh = np.array(flesh)
    x = sections.x_m
    shielded = x > x[-1] - (outline.shield_mm or 0.0) * 1e-3
    lowest = sections.nodes_m[:, -1, 1]
    return RowPart(
        sections, row_of(sections, core), _foods(piece, cut_entry, composition, sections, is_flesh), is_flesh,
        np.full(count, True) if outline.drapes or made.is_round else lowest.max() - lowest < TOUCHES_M,
        (TOLERANCE_IN_PANS_K if in_pans else TOLERANCE_K) / refine, made.ends[0] == "cut", shielded,
    )  # fmt: skip


def _share_outside(sections: Sections, deep_m: float) -> FloatArray:
    """Share of each cell within `deep_m` of the top (or of the outside), along its rib."""
    apart = np.linalg.norm(np.diff(sections.nodes_m, axis=1), axis=-1)
    x = np.concatenate([np.zeros((sections.count, 1)), np.cumsum(apart, axis=1)], axis=1)
    edges = np.concatenate([x[:, :1], 0.5 * (x[:, 1:] + x[:, :-1]), x[:, -1:]], axis=1)
    wide = np.maximum(np.diff(edges, axis=1), 1e-9)
    return np.asarray(np.clip((edges[:, 1:] - (x[:, -1:] - deep_m)) / wide, 0.0, 1.0))


def _dry_foods(given: Properties, shape: tuple[int, int]) -> Foods:
    """Food of constant properties, without water."""
    fixed = ThermalProperties.constant(given.k_w_mk, given.rho_kg_m3, given.cp_j_kgk)
    none = np.zeros(shape)
    return Foods(
        fixed.k_w_mk[None], fixed.c_j_m3k[None], none[:, None], none + fixed.rho_kg_m3, none, none, 0.0, 60.0, 7.0,
        np.full(shape[0], 900.0), 0.0,
    )  # fmt: skip


def _foods(
    piece: Piece, cut_entry: Cut, composition: Composition, sections: Sections, flesh: NDArray[np.bool_]
) -> Foods:
    """Flesh, a cap or skin on its top, and the sections of bone."""
    shape = sections.volume.shape
    if piece.properties is not None:
        return _dry_foods(piece.properties, (shape[0], shape[1]))
    meat = ThermalProperties.of(composition, piece.start_c)
    cap_mm, cover = cover_mm(piece, cut_entry)
    kinds = [meat, ThermalProperties.of(cover, piece.start_c), BONE]
    capped = _share_outside(sections, cap_mm * 1e-3) if cap_mm > 0.0 else np.zeros(shape)
    bone = np.tile(np.where(flesh, 0.0, 1.0)[:, None], (1, shape[1]))
    shares = np.stack([np.zeros(shape), capped * (1.0 - bone), bone], axis=1)

    def mixed(values: list[float]) -> FloatArray:
        return np.asarray(values[0] + np.einsum("ilj,l->ij", shares, np.array(values) - values[0]))

    water = mixed([kind.water_kg_m3 for kind in kinds])
    loss = loss_curves()[cut_entry.loss]
    # The way out for juice is half a section's thickness, or the radius.
    half = sections.thick_m / (2.0 if sections.two_faces else 1.0)
    return Foods(
        k=np.array([kind.k_w_mk for kind in kinds]), c=np.array([kind.c_j_m3k for kind in kinds]), share=shares,
        rho=mixed([kind.rho_kg_m3 for kind in kinds]), water=water, press=water / meat.water_kg_m3 * (1.0 - bone),
        loss_a=loss.a, loss_tm_c=loss.tm, loss_w_k=loss.w,
        loss_tau_s=np.array([loss_lag_s(1e3 * float(deep)) for deep in half]), water_d=water_diffusivity_m2s(),
    )  # fmt: skip
