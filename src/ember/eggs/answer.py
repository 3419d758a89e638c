"""One egg request in, one answer out."""

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
)
from ..files.egg_result import EggAnswer
from .pan_answer import answer_omelette, answer_scramble
from .sauce_answer import answer_custard, answer_emulsion, answer_pasta, answer_stirred
from .shell_answer import answer_shell


def answer(request: EggRequest) -> EggAnswer:
    """What a method leads to. Raises BadInput and NeverReached with the place in the request."""
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
