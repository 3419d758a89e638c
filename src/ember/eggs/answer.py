"""The answer to an egg request."""

from __future__ import annotations

from ..files.egg import (
    BoilRequest,
    CirculatorRequest,
    CustardRequest,
    EggRequest,
    EmulsionRequest,
    OmeletteRequest,
    PastaRequest,
    PoachRequest,
    ScrambleRequest,
    SteamRequest,
    StirredRequest,
    Timed,
)
from ..files.egg_result import EggAnswer
from ..files.result import SafetyOut
from .pan_answer import answer_omelette, answer_scramble
from .sauce_answer import answer_custard, answer_emulsion, answer_pasta, answer_stirred
from .shell_answer import answer_shell


def answer(request: EggRequest) -> EggAnswer:
    """Everything that follows from an egg request. Raises BadInput and NeverReached with the place in the request."""
    match request:
        case BoilRequest() | SteamRequest() | CirculatorRequest() | PoachRequest():
            return answer_shell(request)
        case ScrambleRequest():
            return answer_scramble(request)
        case OmeletteRequest():
            return answer_omelette(request)
        case EmulsionRequest():
            return answer_emulsion(request)
        case CustardRequest():
            return answer_custard(request)
        case StirredRequest():
            return answer_stirred(request)
        case PastaRequest():
            return answer_pasta(request)


SHORTEST_MIN = 0.05


def rules_as_done(request: EggRequest, heated_s: float | None, planned_s: float) -> list[SafetyOut]:
    """The verdicts of a request with `heated_s` of heating instead of the planned time; None: it never went in.

    `planned_s`: heating by its steps. Raises EmberError like `answer`.
    """
    given = 0.0 if heated_s is None else heated_s
    if not isinstance(request, Timed):
        short = given < planned_s
        return answer(request.model_copy(update={"heated_s": given}) if short else request).rules
    return answer(_heated_for(request, given, planned_s)).rules


def yolk_as_done(request: Timed, heated_s: float, planned_s: float) -> tuple[float, str]:
    """Hottest middle of the yolk, °C, and the yolk in a word, after `heated_s` instead of `planned_s`.

    Raises EmberError like `answer`.
    """
    shell_answer = answer_shell(_heated_for(request, heated_s, planned_s))
    return shell_answer.yolk_centre_c.peak, shell_answer.yolk


def _heated_for(request: Timed, given_s: float, planned_s: float) -> Timed:
    planned = request.minutes if request.minutes is not None else answer_shell(request).minutes
    minutes = planned + (given_s - planned_s) / 60.0
    as_heated = request.model_copy(update={"minutes": max(minutes, SHORTEST_MIN), "target": None})
    if minutes < SHORTEST_MIN:  # out before its minutes began to count
        as_heated = as_heated.model_copy(update={"heated_s": given_s})
    return as_heated
