"""The egg bench: from a request to everything its page shows."""

from __future__ import annotations

from typing import Any

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

from .answers import answered, key_of
from .pan_presenter import show_omelette, show_scramble
from .presenters import EggBench
from .sauce_presenter import show_custard, show_pasta, show_sauce, show_stirred
from .shell_presenter import show_beside, show_whole


def work_out(document: dict[str, Any], units: Units, beside: bool = True) -> EggBench:
    """The bench of a request; `beside`: with the comparisons of whole eggs, which take longer than all the rest.

    Raises EmberError with the place where the request fails.
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
