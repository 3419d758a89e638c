"""Geometry: the body of a piece and its mass, from measurements or from the cut's typical form.

A body has half a smallest thickness R and an exponent E - 1 by which its area grows from the centre, r^(E-1).
"""

from __future__ import annotations

import math
from dataclasses import dataclass

from ..errors import BadInput
from ..files.piece import LEAST_MASS_G, MOST_MASS_G, Cylinder, FromMass, General, Piece, Slab, Sphere
from ..shape.of_piece import plan_area_m2, volume_m3
from .catalogue import Cut, Form

# Cut faces of meat are rounder than the box around them; π/4 is the ellipse in its rectangle.
_FILL = math.pi / 4


@dataclass(frozen=True)
class BodySize:
    """The body that heat sees: `size_mm`, thickness or diameter, and `exponent` (0 slab, 1 cylinder, 2 sphere)."""

    size_mm: float
    exponent: float


def brick_exponent(width_over_thickness: float, length_over_thickness: float) -> float:
    """E - 1 of a brick: 0.6 (1/β1² + 1/β2²). Checked against product solutions for Bi 2 to 100, accurate to ±0.1."""
    return 0.6 * (width_over_thickness**-2 + length_over_thickness**-2)


def finite_cylinder_exponent(length_over_diameter: float) -> float:
    """E - 1 of a cylinder heated from its ends too: 1 + 0.5 (D/L)²."""
    return 1.0 + 0.5 * length_over_diameter**-2


def _scaled(form: Form, mass_g: float, density_kg_m3: float) -> BodySize:
    """The form at another mass."""
    volume_mm3 = mass_g / density_kg_m3 * 1e6
    if form.radius_share is not None:
        radius = form.radius_share * (3.0 * volume_mm3 / (4.0 * math.pi)) ** (1.0 / 3.0)
        return BodySize(2.0 * radius, form.exponent)
    if form.grows == "length":
        return BodySize(form.size_mm, form.exponent)
    typical = typical_mass_g(form, density_kg_m3)
    return BodySize(form.size_mm * (mass_g / typical) ** (1.0 / 3.0), form.exponent)


def body_size(piece: Piece, cut_entry: Cut, density_kg_m3: float) -> BodySize:
    """Size and exponent of a piece.

    Raises BadInput if a form scaled to its mass cannot be modelled (1 to 600 mm).
    """
    match piece.shape:
        case Slab():
            return BodySize(piece.shape.thickness_mm, 0.0)
        case Cylinder(diameter_mm=size):
            return BodySize(size, 1.0)
        case Sphere(diameter_mm=size):
            return BodySize(size, 2.0)
        case General(thickness_mm=size, exponent=exponent):
            return BodySize(size, exponent)
        case FromMass():
            mass_g = float(piece.mass_g or 0.0)
            typical = _scaled(cut_entry.form_of(mass_g, piece.stuffed), mass_g, density_kg_m3)
            found = BodySize(typical.size_mm * piece.shape.size_factor, typical.exponent)
            if not 1.0 <= found.size_mm <= 600.0:
                thick = f"{found.size_mm:.0f} mm thick"
                raise BadInput(
                    f"A {cut_entry.name.lower()} of {piece.mass_g:g} g would be {thick}: give its shape.",
                    "piece.mass_g",
                )
            return found


# Legs tied against the body: heat comes to a thigh through what shows of it; it takes about a tenth longer, as the
# square of its size (common practice).
TRUSSED = 1.05


def thigh_size(piece: Piece, cut_entry: Cut, density_kg_m3: float, trussed: bool = False) -> BodySize:
    """The thigh of a whole bird, in proportion to its breast; of a trussed one as thick as its time is longer."""
    whole = body_size(piece.model_copy(update={"stuffed": False}), cut_entry, density_kg_m3)
    share = (cut_entry.thigh_share or 1.0) / (cut_entry.form.radius_share or 1.0)
    return BodySize(whole.size_mm * share * (TRUSSED if trussed else 1.0), whole.exponent)


def typical_mass_g(form: Form, density_kg_m3: float, size_mm: float | None = None) -> float:
    """Mass of a piece of this form, g, with its deciding size replaced by `size_mm` if given."""
    size = size_mm if size_mm is not None else form.size_mm
    if form.radius_share is not None:
        volume_mm3 = 4.0 / 3.0 * math.pi * (size / 2.0 / form.radius_share) ** 3
    elif form.kind == "slab":
        volume_mm3 = _FILL * size * (form.width_mm or 0.0) * (form.length_mm or 0.0)
    elif form.kind == "cylinder":
        volume_mm3 = math.pi / 4 * size**2 * (form.length_mm or 0.0)
    else:
        volume_mm3 = math.pi / 6 * size**3
    return volume_mm3 * density_kg_m3 * 1e-6


def mass_of(piece: Piece, cut_entry: Cut, density_kg_m3: float) -> float:
    """The piece's mass, g: weighed, by its measured sizes, or from its thickness and the cut's typical form."""
    if piece.mass_g is not None:
        return piece.mass_g
    if (by_sizes := mass_by_sizes_g(piece, density_kg_m3)) is not None:
        return by_sizes
    return typical_mass_g(cut_entry.form, density_kg_m3, body_size(piece, cut_entry, density_kg_m3).size_mm)


def length_of(piece: Piece) -> float | None:
    """The piece's measured length, mm: its own, or its shape's."""
    return piece.length_mm or (piece.shape.length_mm if isinstance(piece.shape, Cylinder) else None)


def mass_by_sizes_g(piece: Piece, density_kg_m3: float) -> float | None:
    """Mass of a piece all of whose sizes were measured, g; None for any other."""
    outline = piece.outline
    if outline is not None:
        across = outline.other_mm or piece.length_mm
        whole = outline.family in ("medallion", "tail", "roll") or across is not None
        return 1e3 * density_kg_m3 * volume_m3(piece) if whole else None
    match piece.shape, piece.width_mm, length_of(piece):
        case Slab(thickness_mm=size), float(wide), float(long):
            return _FILL * size * wide * long * density_kg_m3 * 1e-6
        case Cylinder(diameter_mm=size), _, float(long):
            return math.pi / 4 * size**2 * long * density_kg_m3 * 1e-6
    return None


def face_area_m2(piece: Piece, cut_entry: Cut, density_kg_m3: float) -> float:
    """Area of one face of a slab, or of the outside of a round body, m²."""
    if piece.outline is not None:
        return plan_area_m2(piece, mass_of(piece, cut_entry, density_kg_m3) * 1e-3 / density_kg_m3)
    body = body_size(piece, cut_entry, density_kg_m3)
    volume_m3 = mass_of(piece, cut_entry, density_kg_m3) * 1e-3 / density_kg_m3
    deep_m = body.size_mm * 1e-3 if body.exponent == 0.0 else body.size_mm * 0.5e-3 / (body.exponent + 1.0)
    return volume_m3 / deep_m


def footprint_mm(piece: Piece, cut_entry: Cut, density_kg_m3: float) -> tuple[float, float]:
    """Width and length of the piece besides its deciding size, mm: as measured, else by its mass in the proportions of
    the cut's typical form.

    For a round piece the width is its diameter; for a ball both are.
    """
    body = body_size(piece, cut_entry, density_kg_m3)
    volume_mm3 = mass_of(piece, cut_entry, density_kg_m3) / density_kg_m3 * 1e6
    if body.exponent >= 1.5:
        return body.size_mm, body.size_mm
    if body.exponent >= 0.8:
        return body.size_mm, length_of(piece) or volume_mm3 / (math.pi / 4 * body.size_mm**2)
    area_mm2 = volume_mm3 / (_FILL * body.size_mm)
    wide, long = piece.width_mm, piece.length_mm
    if wide is None and long is None:
        wide = _typical_width_mm(cut_entry.form, body.size_mm, area_mm2)
    if wide is None:
        wide = area_mm2 / float(long or 1.0)
    return wide, long or area_mm2 / wide


def _typical_width_mm(form: Form, size_mm: float, area_mm2: float) -> float:
    """Width of a flat piece of this area in plan: in the form's proportions, or as wide as a round form is thick."""
    if form.width_mm is not None and form.length_mm is not None:
        return math.sqrt(area_mm2 * form.width_mm / form.length_mm)
    return min(max(form.size_mm, size_mm), math.sqrt(area_mm2))


def with_size(piece: Piece, cut_entry: Cut, density_kg_m3: float, size_mm: float) -> Piece:
    """The same piece with another thickness or diameter, as wide and as long as before: a thicker one is heavier."""
    before = body_size(piece, cut_entry, density_kg_m3)
    exponent = before.exponent
    match piece.shape:
        case Cylinder() | Sphere():
            shape: Slab | Cylinder | Sphere | General = piece.shape.model_copy(update={"diameter_mm": size_mm})
        case Slab() | General():
            shape = piece.shape.model_copy(update={"thickness_mm": size_mm})
        case FromMass():
            shape = General(thickness_mm=size_mm, exponent=exponent) if exponent else Slab(thickness_mm=size_mm)
    times = size_mm / before.size_mm
    outline = None if piece.outline is None else piece.outline.thicker(times)
    mass_g = piece.mass_g
    if mass_g is not None:
        power = {"cylinder": 2.0, "sphere": 3.0}.get(piece.shape.kind, 1.0)
        mass_g = min(max(mass_g * times**power, LEAST_MASS_G), MOST_MASS_G)
    return piece.model_copy(update={"shape": shape, "outline": outline, "mass_g": mass_g})
