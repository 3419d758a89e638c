"""Effects of heat on flesh: colour of the cut face, tenderness of tough cuts, firmness of fish."""

from __future__ import annotations

import numpy as np

from ..files.result import CutFaceOut, FirmnessOut, TendernessOut
from ..food.catalogue import Cut
from ..heat.grid import FloatArray
from ..heat.trajectory import Trajectory
from ..kinetics.colour import hex_of, lab, opacity, pigment_history, tint_of
from ..kinetics.texture import BAND, dose, factor_of, firmness, word_of
from .curves import MAP_POINTS, curve_times

FACE_POINTS = 41
CURED = ("cured-ham",)


def cut_face_of(cut_entry: Cut, trajectory: Trajectory) -> CutFaceOut:
    """Colours through the piece when cut at the end, and its redness over time."""
    x, begins = trajectory.grid.x_m, trajectory.grid.eaten_from
    depth = np.linspace(x[begins], x[-1], FACE_POINTS)
    T = _at_depths(trajectory.temperature_c, x, depth)
    tint = tint_of(cut_entry.id)
    red = pigment_history(trajectory.t_s, T, tint.t50_c)
    if cut_entry.category in CURED:
        red = np.ones_like(red)  # nitrite keeps it pink
    colours = hex_of(lab(tint, red[-1], opacity(T.max(axis=0), tint.fish)))
    rows = np.searchsorted(trajectory.t_s, curve_times(trajectory, MAP_POINTS), side="right") - 1
    return CutFaceOut(
        depth_m=[round(float(d), 5) for d in depth], colour=colours, pigment=np.round(red[rows], 3).tolist()
    )


def _at_depths(T: FloatArray, x: FloatArray, depth: FloatArray) -> FloatArray:
    """Rows of T at other depths, linear between nodes."""
    i = np.clip(np.searchsorted(x, depth) - 1, 0, len(x) - 2)
    share = (depth - x[i]) / (x[i + 1] - x[i])
    return np.asarray(T[:, i] * (1 - share) + T[:, i + 1] * share)


def tenderness_of(cut_entry: Cut, trajectory: Trajectory) -> TendernessOut | None:
    """Melting of a tough cut's collagen, in its middle and at its outside; None for other cuts."""
    if "tough" not in cut_entry.tissue:
        return None
    factor, t, core = factor_of(cut_entry.id), trajectory.t_s, trajectory.grid.core
    middle = float(dose(t, trajectory.temperature_c[:, core], factor))
    outside = float(dose(t, trajectory.temperature_c[:, -1], factor))
    return TendernessOut(
        dose=round(middle, 3), outside=round(outside, 3), word=word_of(middle),
        word_low=word_of(middle / BAND), word_high=word_of(middle * BAND),
    )  # fmt: skip


def firmness_of(cut_entry: Cut, trajectory: Trajectory) -> FirmnessOut | None:
    """Firmness of fish; None for anything else."""
    if cut_entry.category != "fish":
        return None
    hottest = trajectory.hottest_c
    core = float(firmness(hottest[trajectory.grid.core]))
    return FirmnessOut(core=round(core, 3), outside=round(float(firmness(hottest[-1])), 3))
