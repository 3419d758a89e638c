"""What preparation makes of a piece: opened, tied to an even roll, its thin end cut off, folded under or shielded."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Protocol

import numpy as np

from ..errors import BadInput
from ..files.outline import TAPERED, TIED, Outline
from ..files.piece import Cylinder, FromMass, General, Piece, Slab
from ..heat.grid import FloatArray
from .of_piece import outline_of, volume_m3

# A flattened bird: its thickest part by the cube root of its volume, and how much of an edge it has; fitted to a
# chicken of 1.7 kg that takes 40 to 50 min at 220 °C (common practice).
FLAT_SHARE, FLAT_EXPONENT = 0.45, 0.4
POINTS = 33  # of an outline that is traced anew
LEAST_LEFT = 0.5  # of the row, when something is cut off or folded under


class Step(Protocol):
    """A step of preparation: its kind, and how much of the row it is about, mm."""

    @property
    def kind(self) -> str: ...
    @property
    def mm(self) -> float | None: ...


def prepared(piece: Piece, steps: Sequence[Step], density_kg_m3: float, footprint_mm: tuple[float, float]) -> Piece:
    """The piece after its steps, in their order. `footprint_mm`: its width and length, measured or assumed.

    Raises BadInput for a step that this piece does not allow, at the step.
    """
    for number, step in enumerate(steps):
        try:
            piece = _after(piece, step, density_kg_m3, footprint_mm)
        except ValueError as error:
            raise BadInput(str(error), f"prep[{number}]") from None
    return piece


def _after(piece: Piece, step: Step, density: float, footprint_mm: tuple[float, float]) -> Piece:
    match step.kind:
        case "butterfly":
            return _opened(piece, footprint_mm)
        case "spatchcock":
            return _flattened(piece, density)
        case "tie" if piece.outline is not None and piece.outline.family in TIED:
            return _tied(piece, piece.outline, density)
        case "skewer" if piece.outline is not None:
            return piece.model_copy(update={"outline": piece.outline.model_copy(update={"lies": "stiff"})})
        case "fold":
            return _retraced(piece, step, folded=True)
        case "trim":
            return _retraced(piece, step, folded=False)
        case "shield":
            outline, mm = _of_its_row(piece, step)
            return piece.model_copy(update={"outline": outline.model_copy(update={"shield_mm": mm})})
        case _:
            return piece


def _flattened(piece: Piece, density: float) -> Piece:
    """A bird without its backbone, pressed flat: of the breast's and the thigh's thickness, which are then near."""
    if not isinstance(piece.shape, FromMass) or piece.stuffed or piece.mass_g is None:
        raise ValueError("only a whole bird, unstuffed and by its mass, is spatchcocked")
    volume_mm3 = 1e6 * piece.mass_g / density
    thick = FLAT_SHARE * volume_mm3 ** (1.0 / 3.0)
    return piece.model_copy(update={"shape": General(thickness_mm=thick, exponent=FLAT_EXPONENT)})


def _opened(piece: Piece, footprint_mm: tuple[float, float]) -> Piece:
    """Cut through its thickness and opened like a book: half as thick, twice as wide."""
    outline, (wide, long) = piece.outline, footprint_mm
    match piece.shape:
        case Slab(thickness_mm=thick):
            half = Slab(thickness_mm=thick / 2)
            if outline is None:
                return piece.model_copy(update={"shape": half, "width_mm": 2 * wide, "length_mm": long})
            return piece.model_copy(update={"shape": half, "outline": _wider(outline)})
        case Cylinder(diameter_mm=thick):
            sizes = {"width_mm": math.pi / 2 * thick, "length_mm": long, "outline": None}
            return piece.model_copy(update={"shape": Slab(thickness_mm=thick / 2), **sizes})
    raise ValueError("only a flat piece or a roll is butterflied: give its thickness or its diameter")


def _wider(outline: Outline) -> Outline:
    twice = {"medallion": math.sqrt(2.0)}.get(outline.family, 2.0)
    across = "other_mm" if outline.family in ("breast", "traced") else "row_mm"
    thin = outline.thicker(0.5)
    size = getattr(outline, across)
    return thin.model_copy(update={across: None if size is None else twice * size})


def _tied(piece: Piece, outline: Outline, density: float) -> Piece:
    """An even roll of the same volume, as long as the piece's longer side."""
    row = 1e3 * float(outline_of(piece).x_m[-1])
    long = max(row, outline.other_mm or piece.length_mm or 0.0)
    volume_mm3 = 1e6 * piece.mass_g / density if piece.mass_g is not None else 1e9 * volume_m3(piece)
    across = math.sqrt(4.0 * volume_mm3 / (math.pi * long))
    roll = Outline(family="roll", row_mm=max(long, across))
    sizes = {"width_mm": None, "length_mm": None}
    return piece.model_copy(update={"shape": Cylinder(diameter_mm=across), "outline": roll, **sizes})


def _of_its_row(piece: Piece, step: Step) -> tuple[Outline, float]:
    """The outline, and how much of its row the step is about. Raises ValueError where there is no thin end."""
    outline, mm = piece.outline, step.mm
    if outline is None or (outline.family not in TAPERED and outline.family != "traced"):
        raise ValueError("this piece has no thin end: choose its outline first")
    if mm is None:
        raise ValueError("say how much of the thin end, in mm")
    row = 1e3 * float(outline_of(piece).x_m[-1])
    if mm > (1.0 - LEAST_LEFT) * row + 1e-9:
        raise ValueError(f"that is more than half of its {row:.0f} mm")
    return outline, mm


def _retraced(piece: Piece, step: Step, folded: bool) -> Piece:
    """Without the last millimetres of its row, which are cut off or lie under what is left."""
    outline, mm = _of_its_row(piece, step)
    made, is_round = outline_of(piece), isinstance(piece.shape, Cylinder)
    x, thick = 1e3 * made.x_m, 2e3 * made.y_m
    left = float(x[-1]) - mm
    at = np.linspace(0.0, left, POINTS)
    new = np.interp(at, x, thick)
    if folded:
        under = np.where(at >= left - mm, np.interp(2.0 * left - at, x, thick), 0.0)
        new = _even(np.hypot(new, under) if is_round else new + under, at, float(thick.max()))
    new = np.maximum(new, 1.0)
    sizes = {"trace": tuple(zip(at.tolist(), new.tolist(), strict=True)), "other_mm": outline.other_mm}
    first = outline.ends[0] if outline.ends is not None else "square"
    size = float(new.max())
    shape = Cylinder(diameter_mm=size) if is_round else Slab(thickness_mm=size)
    new_outline = Outline.model_validate({"family": "traced", "ends": (first, "square"), "lies": outline.lies, **sizes})
    whole = piece.model_copy(update={"outline": new_outline, "shape": shape})
    if piece.length_mm is not None and outline.family in ("breast", "tail"):
        whole = whole.model_copy(update={"length_mm": left})
    if piece.mass_g is not None and not folded:
        share = _section(at, new, is_round) / _section(x, thick, is_round)
        whole = whole.model_copy(update={"mass_g": max(piece.mass_g * share, 1.0)})
    return whole


def _section(x: FloatArray, thick: FloatArray, is_round: bool) -> float:
    return float(np.trapezoid(thick**2 if is_round else thick, x))


def _even(thick: FloatArray, at: FloatArray, size_mm: float) -> FloatArray:
    """Flesh gives: no step, but a slope of about half a thickness."""
    reach = max(round(0.25 * size_mm / (at[1] - at[0])), 1)
    padded = np.pad(thick, reach, mode="edge")
    return np.asarray(np.convolve(padded, np.ones(2 * reach + 1) / (2 * reach + 1), "valid"))
