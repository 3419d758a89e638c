"""A plan for the solver: grid, food by node, and what each stage needs to know of the piece."""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import lru_cache
from typing import Literal

import numpy as np

from ..files.piece import FromMass, General, Piece, Slab
from ..files.plan import CHANGES_FORM, Plan
from ..food.catalogue import cut
from ..food.composition import Composition
from ..food.geometry import body_size, face_area_m2, footprint_mm, thigh_size
from ..shape.prepared import prepared
from . import terms
from .faces import Setting
from .grid import FloatArray, Grid, make_grid
from .layers import cover_mm, food_of, freezes_c, inside_share
from .media import is_bagged, medium_c
from .row_problem import RowPart, make_row

SLAB_HALF_INTERVALS = 30
ROUND_INTERVALS = 56
FINEST_M = 0.05e-3  # a crust dries in layers of this
FINEST_DRY_M = 0.15e-3  # where there is no water, a more even grid is more exact

# Where the wall of a bird whose cavity is full of hot fat is coldest, of its radius: fitted to turkeys and chickens in
# fat, 40 to 60 min for 6 kg, 18 to 32 for 1.5 (common practice).
HOLLOW = 0.57

STRAIGHT = 1e-3  # a line across whose area hardly grows
RIM_FINEST = 50.0  # its outermost cell is such a part of its length

Part = Literal["trunk", "thigh"]


@dataclass(frozen=True)
class Problem:
    """Data that is constant along the chain; `settings[i]` belongs to stage i.

    A piece in sections has its `row`; grid, body and food are then those of the core's section. `kappas`: by stage,
    what a follower in one dimension multiplies heat flow by (kappa.py); without them 1.
    """

    plan: Plan
    grid: Grid
    body: terms.Body
    food: terms.Food
    settings: tuple[Setting, ...]
    tolerance_k: float
    row: RowPart | None = None
    kappas: tuple[float, ...] = ()

    def kappa(self, stage: int) -> float:
        """κ of a stage."""
        return self.kappas[stage] if self.kappas else 1.0

    def body_in(self, stage: int) -> terms.Body:
        """The body in a stage, which takes up κ times the heat."""
        kappa = self.kappa(stage)
        if kappa == 1.0:
            return self.body
        return self.body._replace(conduct=self.body.conduct * kappa, face_area=self.body.face_area * kappa)

    @property
    def shape(self) -> tuple[int, ...]:
        """Of the temperatures: nodes, or sections and nodes."""
        return (len(self.grid.x_m),) if self.row is None else self.row.sections.volume.shape

    @property
    def water_kg_m3(self) -> FloatArray:
        """Water of the raw food by node."""
        return np.asarray(self.food.water)


def composition_of(plan: Plan) -> Composition:
    """The plan's own composition, or its cut's."""
    own = plan.piece.composition
    return Composition.from_fractions(own) if own is not None else cut(plan.piece.cut).mass_fractions


@lru_cache(maxsize=256)
def _density(composition: Composition) -> float:
    return float(composition.density(20.0))


def density_of(plan: Plan) -> float:
    """Density of the raw flesh at 20 °C, kg/m³, or the plan's own constant one."""
    if plan.piece.properties is not None:
        return plan.piece.properties.rho_kg_m3
    return _density(composition_of(plan))


def as_cooked(plan: Plan) -> Plan:
    """The plan with the piece that its preparation makes of it; a plan that was so already, or needs none, is returned.

    Raises BadInput for a step that the piece does not allow.
    """
    if not any(step.kind in CHANGES_FORM for step in plan.prep):
        return plan
    density = density_of(plan)
    sizes = footprint_mm(plan.piece, cut(plan.piece.cut), density)
    rest = [step for step in plan.prep if step.kind not in CHANGES_FORM]
    piece = prepared(plan.piece, plan.prep, density, sizes).model_copy(update={"history": plan.history})
    return plan.model_copy(update={"piece": piece, "prep": rest})


def make_problem(
    plan: Plan, tolerance_k: float, refine: float = 1.0, part: Part = "trunk", finest_m: float | None = None
) -> Problem:
    """Grid and food of a plan; `refine` divides the grid (below 1: a coarser one). `part`: of a whole bird. `finest_m`:
    another thickness of the outermost cell, if the crust need not be resolved.

    Raises BadInput for an unknown cut or a composition that does not add up.
    """
    plan = as_cooked(plan)
    piece, cut_entry = plan.piece, cut(plan.piece.cut)
    grid = grid_of(plan, refine, part, finest_m)
    whole = piece if part == "trunk" else _unstuffed(piece)
    food = food_of(whole, cut_entry, composition_of(plan), grid, freezes(plan))
    dome = _dome(plan)
    body = terms.Body(grid.volume * dome, grid.area / np.diff(grid.x_m) / dome, grid.face_area, grid.core)
    return Problem(plan, grid, body, food, settings_of(plan), tolerance_k)


def freezes(plan: Plan) -> bool:
    """Whether ice has to be followed: the piece is frozen, or something is cold enough to freeze it."""
    if plan.piece.properties is not None:
        return False
    limit_c = freezes_c(cut(plan.piece.cut))
    coldest = [medium_c(stage) for stage in plan.stages]
    return min([plan.piece.start_c, *coldest]) < limit_c


def make_row_problem(plan: Plan, refine: float = 1.0) -> Problem:
    """The sections of a plan whose piece has an outline. Raises BadInput as make_problem, and for its outline."""
    plan = as_cooked(plan)
    in_pans = any(stage.kind in ("pan", "plancha") for stage in plan.stages)
    row = make_row(plan.piece, cut(plan.piece.cut), composition_of(plan), in_pans, refine)
    grid, i = row.core_grid, row.body.section
    body = terms.Body(row.body.volume[i], row.body.conduct[i], row.body.face_area[i], grid.core)
    return Problem(plan, grid, body, row.food(i), settings_of(plan), row.tolerance_k, row)


def _is_measured_across(piece: Piece) -> bool:
    return piece.width_mm is not None or piece.length_mm is not None


def rim_of(plan: Plan) -> tuple[terms.Rim, float]:
    """The line across a piece that is followed through its thickness (along a roll, through its diameter), with nothing
    around its rim yet, and its length, m; NO_RIM where none is followed.

    A piece of constant properties or of a general shape has one only where its width or length is given.
    """
    piece = plan.piece
    cut_entry, density = cut(piece.cut), density_of(plan)
    body = body_size(piece, cut_entry, density)
    measured = _is_measured_across(piece)
    assumed = piece.properties is None and not isinstance(piece.shape, General)
    # The line across knows no ice: without it a frozen piece errs on the slow side.
    if piece.outline is not None or not (measured or assumed) or body.exponent not in (0.0, 1.0) or freezes(plan):
        return terms.NO_RIM, 0.0
    wide, long = footprint_mm(piece, cut_entry, density)
    if piece.mass_g is None and not measured:
        # Nobody knows its width: a thicker piece than the usual one is then wider too, so that times err long.
        times = max(body.size_mm / cut_entry.form.size_mm, 1.0)
        wide, long = wide * times, long * times
    if body.exponent == 1.0:
        across, grows = long, STRAIGHT
    else:
        across, grows = min(wide, long), max((min(wide, long) / max(wide, long)) ** 2, STRAIGHT)
    grid = make_grid(across * 1e-3, grows, terms.RIM_NODES - 1, across * 1e-3 / RIM_FINEST)
    return terms.Rim(grid.volume, grid.area / np.diff(grid.x_m), 1.0, grid.half_m, 0.0, 0.0, 0.0), across * 1e-3


def _dome(plan: Plan) -> float:
    """What heat sees of the thickness: less than all where the cut is thinner towards its sides, and no outline was
    given. A slab of constant properties, or in a stated medium, is flat.
    """
    piece = plan.piece
    flat = piece.outline is not None or piece.properties is not None
    if flat or not isinstance(piece.shape, Slab | FromMass) or any(stage.kind == "medium" for stage in plan.stages):
        return 1.0
    return cut(piece.cut).form.dome


def _unstuffed(piece: Piece) -> Piece:
    return piece.model_copy(update={"stuffed": False})


def grid_of(plan: Plan, refine: float = 1.0, part: Part = "trunk", finest_m: float | None = None) -> Grid:
    """The grid alone, as in make_problem."""
    plan = as_cooked(plan)
    piece, cut_entry, density = plan.piece, cut(plan.piece.cut), density_of(plan)
    size = body_size(piece, cut_entry, density)
    if part == "thigh":
        trussed = any(step.kind == "truss" for step in plan.prep)
        size, piece = thigh_size(piece, cut_entry, density, trussed), _unstuffed(piece)
    hollow = HOLLOW if part == "trunk" and _is_filled(plan) else 0.0
    intervals = max(round((SLAB_HALF_INTERVALS if size.exponent == 0.0 else ROUND_INTERVALS) * refine), 4)
    finest = FINEST_DRY_M if piece.properties is not None else FINEST_M
    size_m = size.size_mm * 1e-3
    grid = make_grid(
        size_m, size.exponent, intervals, finest_m or finest / refine, inside_share(piece, cut_entry) * size_m / 2,
        hollow,
    )  # fmt: skip
    if not piece.stuffed:  # a stuffing has its own middle; of a piece on the bone the flesh beside it counts
        grid = replace(grid, core=grid.core or grid.flesh)
    return grid


def _is_filled(plan: Plan) -> bool:
    """Whether hot fat or water stands in a bird's cavity while it cooks, and heats its wall from both sides."""
    pull = plan.pull_stage
    bird = isinstance(plan.piece.shape, FromMass) and cut(plan.piece.cut).thigh_share is not None
    bird = bird and not plan.piece.stuffed
    return bird and pull is not None and plan.stages[pull].kind in ("fry", "simmer", "poach", "boil")


def settings_of(plan: Plan) -> tuple[Setting, ...]:
    """What each stage needs to know of the piece."""
    piece = plan.piece
    cut_entry = cut(piece.cut)
    density = density_of(plan)
    size = body_size(piece, cut_entry, density)
    two_faces = size.exponent == 0.0
    rim, wide_m = rim_of(plan)
    area = face_area_m2(piece, cut_entry, density)
    covered = cover_mm(piece, cut_entry)[0] > 0
    settings, bagged = [], False
    for stage in plan.stages:
        own_rim = rim if stage.kind != "medium" or _is_measured_across(piece) else terms.NO_RIM
        settings.append(Setting(two_faces, area, piece.count, covered, bagged, own_rim, size.size_mm * 1e-3, wide_m))
        bagged = is_bagged(stage, bagged)
    return tuple(settings)
