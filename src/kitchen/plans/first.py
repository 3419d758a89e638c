"""The first plan for a cut."""

from __future__ import annotations

from typing import Any

from ember.food.catalogue import Cut
from ember.food.geometry import typical_mass_g
from ember.judge.doneness import scale_of
from ember.methods.apply import applied
from ember.methods.library import Method, methods, suitable

from .piece_form import Own, shape_of, usual_word

# 165 °F at once for poultry; 155 °F for 17 s for minced meat: US Food Code 3-401.11(A).
MEETS_FROM_C = {"poultry": 74.2, "minced": 69.0}
THIN_MM = 20.0  # a pan alone cooks it through


def name_from(cut_name: str) -> str:
    """The name of a plan that nobody has named."""
    return f"New {cut_name.lower()}"


def first_document(cut_entry: Cut, own: Own = ()) -> dict[str, Any]:
    """The first plan for a cut: its typical piece, its middle doneness word, and a suitable method.

    An oven for whole pieces, a pan alone for thin ones, a bath and a sear for the rest; the cut's usual method where
    these do not suit it.
    """
    form = cut_entry.form
    whole = form.radius_share is not None or form.own_exponent is not None
    piece: dict[str, Any] = {"cut": cut_entry.id, "start_c": 5, "count": 1}
    if whole:
        grams = typical_mass_g(form, float(cut_entry.mass_fractions.density(20.0)))
        piece |= {"shape": {"kind": "from_mass"}, "mass_g": float(50 * max(round(grams / 50), 1))}
    else:
        piece["shape"] = shape_of(form.kind, form.size_mm, {})
    scale = scale_of(cut_entry.doneness, own)
    word = next(w for w in scale if w.word == usual_word(cut_entry, own))
    if needed_c := MEETS_FROM_C.get(
        cut_entry.category
    ):  # where no advisory helps, begin with a word that meets the rule
        word = next((w for w in scale if w.aim_c >= needed_c), word)
    thin = form.kind == "slab" and form.size_mm <= THIN_MM
    return {
        "format": "open-ember/plan",
        "version": 1,
        "name": name_from(cut_entry.name),
        "piece": piece,
        "target": {"doneness": word.word},
        "standard": "us-food-code-2022",
        **applied(_begin_with(cut_entry, whole, thin, word.aim_c), cut_entry.id, round(word.aim_c, 1)),
    }


def _begin_with(cut_entry: Cut, whole: bool, thin: bool, aim_c: float) -> Method:
    fitting = suitable(cut_entry, cut_entry.form.size_mm, aim_c)
    liked = methods()["oven-steady" if whole else "pan-thin" if thin else "bath-then-pan"]
    return liked if liked in fitting or not fitting else fitting[0]
