"""Beliefs of the estimator in the person's units: a difference is not a temperature, and mm may be inches."""

from __future__ import annotations

from django import template

from ember.files.track import Belief
from ember.quantities import Units
from kitchen.units.number_text import figure, fixed

register = template.Library()


def _step(kelvin: float, units: Units) -> str:
    return f"{fixed(abs(units.temperature_step(kelvin)), 1 if abs(kelvin) < 5 else 0)} {units.degree}"


def _off(kelvin: float, units: Units) -> str:
    return f"{_step(kelvin, units)} {'hot' if kelvin > 0 else 'cool'}"


@register.filter
def belief_words(belief: Belief, units: Units) -> str:
    """A belief in a cook's words; the estimator's own if the units match."""
    if units.temperature == "C" and units.length == "mm":
        return belief.text
    match belief.what:
        case "thicker" | "thinner":
            by = figure(units.length_value(abs(belief.amount)), 1 if units.length == "mm" else 2)
            return f"The piece is {belief.what} than planned by about {by} {units.length}"
        case "warmer-start" | "colder-start":
            word = belief.what.removesuffix("-start")
            return f"The piece started {word} than planned, by about {_step(belief.amount, units)}"
        case "hotter" | "cooler":
            name = belief.text.split(" runs ")[0]
            words = f"{name} runs about {_off(belief.amount, units)}"
            if belief.stated_c is None:
                return words
            both = (belief.stated_c + belief.amount, belief.stated_c)
            now, was = (figure(units.temperature_value(celsius), 0) for celsius in both)
            return f"{words}: {now} instead of {was}"
        case _:
            words = belief.text.split(", as if ")[0]
            if belief.as_if_k is None:
                return words
            return f"{words}, as if the oven ran {_off(belief.as_if_k, units)}"
