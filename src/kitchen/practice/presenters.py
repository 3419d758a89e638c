"""What practice says in words."""

from __future__ import annotations

from collections.abc import Sequence

from ember.errors import EmberError
from ember.food.catalogue import cut
from ember.practice.calls import FEW, Advice
from ember.quantities import Units
from kitchen.units.number_text import fixed

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


def advice_words(advices: Sequence[Advice], units: Units) -> list[tuple[str, str]]:
    """(what to do, why) of each."""
    lines = []
    for advice in advices:
        if advice.kind == "few":
            lines.append(("Make more calls.", f"Under {FEW} calls with one sense, nothing can be said about it."))
            continue
        name = SHORT[advice.sense]
        if advice.kind == "trust":
            lines.append((f"Trust {name}.", f"{100 * advice.near:.0f} of 100 calls land within 2 °C of the probe."))
        else:
            by = fixed(units.temperature_step(advice.by_k), 1)
            too = "high" if advice.kind == "lower" else "low"
            lines.append((f"{name.capitalize()}: call {by}° {advice.kind}.", f"You call it too {too}."))
    return lines
