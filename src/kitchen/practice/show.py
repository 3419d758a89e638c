"""What practice says in words."""

from __future__ import annotations

from collections.abc import Sequence

from ember.errors import EmberError
from ember.food.catalogue import cut
from ember.practice.calls import FEW, Advice
from ember.quantities import Units
from kitchen.units.show import fixed

from .models import Call

SHORT = {"pin": "the cake tester", "cut": "the cut face", "juices": "the juices", "press": "the press",
         "opacity": "the opacity", "wobble": "the wobble", "float": "the float"}  # fmt: skip
NAMES = dict(Call.Sense.choices)


def cut_name(key: str) -> str:
    """What a cut is called."""
    try:
        return cut(key).name
    except EmberError:
        return key


def advice_words(found: Sequence[Advice], units: Units) -> list[tuple[str, str]]:
    """(what to do, why) of each."""
    told = []
    for row in found:
        if row.kind == "few":
            told.append(("Make more calls.", f"Under {FEW} calls with one sense, nothing can be said about it."))
            continue
        name = SHORT[row.sense]
        if row.kind == "trust":
            told.append((f"Trust {name}.", f"{100 * row.near:.0f} of 100 calls land within 2 °C of the probe."))
        else:
            by = fixed(units.temperature_step(row.by_k), 1)
            too = "high" if row.kind == "lower" else "low"
            told.append((f"{name.capitalize()}: call {by}° {row.kind}.", f"You call it too {too}."))
    return told
