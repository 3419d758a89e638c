"""Writes how long each cut takes at its typical size: `python tools/usual_times.py` → src/kitchen/cuts/usual.json.

For each method that suits the cut, the minutes from the first stage until it is ready to serve, by the heat model, from
a refrigerator's 5 °C to its usual word of doneness. `tests/web/test_catalogue.py` computes some of them again.
"""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

from ember.errors import EmberError
from ember.evaluate import evaluate
from ember.files.plan import parse_plan
from ember.food.catalogue import Cut, cuts
from ember.food.geometry import typical_mass_g
from ember.judge.doneness import scales
from ember.methods.apply import applied
from ember.methods.library import Method, suitable
from kitchen.plans.first import first_document, usual_word

PATH = Path(__file__).resolve().parents[1] / "src" / "kitchen" / "cuts" / "usual.json"
MOST_METHODS = 5


def minutes_of(document: dict[str, Any], method: Method, cut: Cut, aim_c: float) -> float | None:
    """Minutes a method takes for the piece of a document; None if it cannot be cooked so."""
    plan = {key: value for key, value in document.items() if key not in ("stages", "prep")}
    try:
        result = evaluate(parse_plan({**plan, **applied(method, cut.id, aim_c)}))
    except EmberError:
        return None
    return round(result.stages[-1].end_s / 60.0, 1)


def usual_of(cut: Cut) -> dict[str, Any]:
    """Mass, word of doneness and minutes by method of a typical piece."""
    document = first_document(cut)
    wanted = document["target"].get("doneness", usual_word(cut, ()))
    word = next(word for word in scales()[cut.doneness] if word.word == wanted)
    times = {}
    for method in suitable(cut, cut.form.size_mm, word.aim_c):
        minutes = minutes_of(document, method, cut, round(word.aim_c, 1))
        if minutes is not None and len(times) < MOST_METHODS:
            times[method.id] = minutes
    grams = typical_mass_g(cut.form, float(cut.mass_fractions.density(20.0)))
    return {"mass_g": float(f"{grams:.2g}"), "word": word.word, "minutes": times}


if __name__ == "__main__":
    PATH.write_text(json.dumps({key: usual_of(cut) for key, cut in cuts().items()}, indent=1) + "\n")
