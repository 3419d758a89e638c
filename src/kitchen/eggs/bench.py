"""The egg bench: one request in, all that its page shows out; answers are remembered, as it asks for them again."""

from __future__ import annotations

import json
from collections.abc import Iterator
from functools import lru_cache
from typing import Any

from ember.eggs.answer import answer
from ember.eggs.strip import Move, Strip, left_whole_min, moves_of, strip_of
from ember.errors import EmberError
from ember.files.egg import parse_egg
from ember.files.egg_result import (
    CustardAnswer,
    EmulsionAnswer,
    OmeletteAnswer,
    PastaAnswer,
    ScrambleAnswer,
    ShellAnswer,
    StirredAnswer,
)
from ember.quantities import Units
from kitchen.units.number_text import figure

from .pan_presenter import show_omelette, show_scramble
from .presenters import EggBench
from .sauce_presenter import show_custard, show_pasta, show_sauce, show_stirred
from .shell_presenter import show_beside, show_whole


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
    """The same request by other schools; those that lead nowhere are None."""
    for value in values:
        try:
            yield value, answered(key_of({**document, key: value}))
        except EmberError:
            yield value, None


def work_out(document: dict[str, Any], units: Units, beside: bool = True) -> EggBench:
    """The bench of a request; `beside`: with what else whole eggs could be, which takes longer than all the rest.

    Raises EmberError where it leads nowhere, with the place.
    """
    bench = EggBench(document["method"])
    bench.answer = answered(key_of(document))
    match bench.answer:
        case ShellAnswer():
            show_whole(bench, document, units)
            if beside:
                show_beside(bench, document)
        case ScrambleAnswer():
            show_scramble(bench, document, units)
        case OmeletteAnswer():
            show_omelette(bench, document, units)
        case EmulsionAnswer():
            show_sauce(bench, document, units)
        case CustardAnswer():
            show_custard(bench, document, units)
        case StirredAnswer():
            show_stirred(bench, document, units)
        case PastaAnswer():
            show_pasta(bench, document, units)
    return bench
