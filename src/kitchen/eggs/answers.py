"""The core's answers, cached: a bench asks for the same ones at every key."""

from __future__ import annotations

import json
from collections.abc import Iterator
from functools import lru_cache
from typing import Any

from ember.eggs.answer import answer
from ember.eggs.strip import Move, Strip, left_whole_min, moves_of, strip_of
from ember.errors import EmberError
from ember.files.egg import parse_egg
from ember.quantities import Units
from kitchen.units.number_text import figure


def key_of(document: dict[str, Any]) -> str:
    return json.dumps(document, sort_keys=True)


@lru_cache(maxsize=256)
def answered(key: str) -> Any:
    return answer(parse_egg(json.loads(key)))


@lru_cache(maxsize=64)
def strip_by(key: str) -> Strip:
    return strip_of(parse_egg(json.loads(key)))  # type: ignore[arg-type]


@lru_cache(maxsize=64)
def moves_by(key: str, minutes: float) -> tuple[list[Move], float | None]:
    request: Any = parse_egg(json.loads(key))
    return moves_of(request, minutes), left_whole_min(request, minutes)


def degrees(celsius: float, units: Units, digits: int = 1) -> str:
    return f"{figure(units.temperature_value(celsius), digits)} {units.degree}"


def each_other(document: dict[str, Any], key: str, values: Any) -> Iterator[tuple[str, Any]]:
    """The same request by other methods; None for those that fail."""
    for value in values:
        try:
            yield value, answered(key_of({**document, key: value}))
        except EmberError:
            yield value, None
