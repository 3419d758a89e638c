"""The core on the command line: JSON in, JSON out, no database.

Exits with 0, or 2 for bad input, with {"error": {...}} on standard output. With --lines every line is answered in order
and the exit code is 0: the line carries its error. Never a traceback, never NaN.
"""

from __future__ import annotations

import gc

# An answer's objects live as long as the process: looking for garbage among them took a fifth of its time.
gc.disable()

# ruff: noqa: E402
import argparse
import json
import math
import os
import sys
from collections.abc import Callable, Iterator
from functools import partial
from pathlib import Path
from typing import Any

from .errors import BadInput, EmberError

Handler = Callable[[object], str]

GARBAGE_EVERY = 100_000  # new objects between two looks for garbage, once many lines are answered


def _simulate(data: object) -> str:
    from .evaluate import evaluate
    from .files.plan import parse_plan

    return evaluate(parse_plan(data)).model_dump_json()


def _judge(data: object) -> str:
    from .files.judge import parse_judge
    from .judge.readings import as_json, judge_readings

    return _json(dict(as_json(judge_readings(parse_judge(data)))))


def _solve(data: object) -> str:
    from .files.solve import Answer, parse_solve
    from .solve.find import find

    answer = find(parse_solve(data))
    return Answer(value=answer.value, unit=answer.unit, result=answer.result).model_dump_json()


def _track(data: object) -> str:
    from .files.track import parse_track
    from .track.estimate import track

    return track(parse_track(data)).model_dump_json()


def _egg(data: object) -> str:
    from .eggs.answer import answer
    from .files.egg import parse_egg

    return answer(parse_egg(data)).model_dump_json()


def _brine(data: object) -> str:
    from .cure.answer import answer_brine
    from .files.brine import parse_brine

    return answer_brine(parse_brine(data)).model_dump_json()


def _chill(data: object) -> str:
    from .chill.answer import answer_chill
    from .files.chill import parse_chill

    return answer_chill(parse_chill(data)).model_dump_json()


def _schedule(data: object) -> str:
    from .files.service import parse_service
    from .service.answer import plan_service

    return plan_service(parse_service(data)).model_dump_json()


HANDLERS: dict[str, Handler] = {
    "simulate": _simulate, "solve": _solve, "judge": _judge, "track": _track, "egg": _egg, "brine": _brine,
    "chill": _chill, "schedule": _schedule,
}  # fmt: skip


def schemas() -> dict[str, Callable[[], dict[str, Any]]]:
    """Functions that return the JSON Schema of each format, by name."""
    from pydantic import TypeAdapter

    from .files.brine import BrineAnswer, BrineRequest
    from .files.chill import ChillAnswer, ChillRequest
    from .files.egg import EggRequest
    from .files.egg_result import EggAnswer
    from .files.judge import JudgeRequest
    from .files.plan import Plan
    from .files.result import Result
    from .files.service import ServiceAnswer, ServiceRequest
    from .files.solve import SolveRequest
    from .files.track import TrackRequest, TrackResult

    return {
        "plan": Plan.model_json_schema,
        "solve": SolveRequest.model_json_schema,
        "result": Result.model_json_schema,
        "judge": JudgeRequest.model_json_schema,
        "track": TrackRequest.model_json_schema,
        "forecast": TrackResult.model_json_schema,
        "brine": BrineRequest.model_json_schema,
        "brine-answer": BrineAnswer.model_json_schema,
        "chill": ChillRequest.model_json_schema,
        "chill-answer": ChillAnswer.model_json_schema,
        "service": ServiceRequest.model_json_schema,
        "schedule": ServiceAnswer.model_json_schema,
        "egg": TypeAdapter(EggRequest).json_schema,
        "egg-answer": TypeAdapter(EggAnswer).json_schema,
    }


def _decode(text: str) -> object:
    def refuse(constant: str) -> float:
        raise BadInput(f"{constant} is not a number")

    try:
        return json.loads(text, parse_constant=refuse)
    except ValueError as error:
        raise BadInput(f"not JSON: {error}") from None
    except RecursionError:
        raise BadInput("not JSON: nested too deeply") from None


def _without_nan(value: Any) -> Any:
    if isinstance(value, float):
        return value if math.isfinite(value) else None
    if isinstance(value, dict):
        return {key: _without_nan(item) for key, item in value.items()}
    if isinstance(value, list | tuple):
        return [_without_nan(item) for item in value]
    return value


def _json(body: dict[str, Any]) -> str:
    return json.dumps(_without_nan(body), ensure_ascii=False, allow_nan=False)


def _answer(handler: Handler, text: str) -> tuple[str, bool]:
    try:
        return handler(_decode(text)), True
    except EmberError as error:
        return _json(error.as_json()), False


def _read(name: str) -> str:
    try:
        return sys.stdin.read() if name == "-" else Path(name).read_text("utf-8")
    except (OSError, UnicodeDecodeError) as error:
        raise BadInput(f"cannot read {name}: {getattr(error, 'strerror', None) or 'not UTF-8'}") from None


def _fail(error: EmberError) -> int:
    print(json.dumps(error.as_json(), ensure_ascii=False))
    return 2


class _Parser(argparse.ArgumentParser):
    def error(self, message: str) -> Any:
        raise BadInput(message)


def _list(what: str) -> int:
    from .food.catalogue import cuts

    if what != "cuts":
        return _fail(BadInput(f"nothing to list under “{what}”; there is: cuts"))
    print(json.dumps([{"id": c.id, "name": c.name, "form": c.form.kind} for c in cuts().values()], ensure_ascii=False))
    return 0


def _lines(verb: str, name: str) -> int:
    """Answer line by line, in order, on all processors; each line as soon as those before it are answered."""
    lines = sys.stdin if name == "-" else iter(_read(name).splitlines())
    filled = (line for line in lines if line.strip())
    first = next(filled, None)
    if first is None:
        return 0
    # The first in this process: what it loads, the others share.
    print(_answer(HANDLERS[verb], first)[0], flush=True)
    gc.freeze()
    gc.set_threshold(GARBAGE_EVERY)
    gc.enable()
    for text in _spread(partial(_answer_line, verb), filled):
        print(text, flush=True)
    return 0


def _answer_line(verb: str, line: str) -> str:
    return _answer(HANDLERS[verb], line)[0]


def _spread(act: Callable[[str], str], lines: Iterator[str]) -> Iterator[str]:
    """Apply `act` to all lines, in order, with forked workers."""
    import multiprocessing

    workers = os.cpu_count() or 1
    if workers == 1:
        yield from map(act, lines)
        return
    with multiprocessing.get_context("fork").Pool(workers) as pool:
        yield from pool.imap(act, lines)


def _point(text: str) -> tuple[float, float]:
    try:
        x, y = (float(part) for part in text.split(","))
    except ValueError:
        raise BadInput(f"{text} is no point: two numbers of pixels, x,y") from None
    return x, y


def _face(arguments: list[str]) -> int:
    """Read the photograph of a cut face."""
    from .face.answer import USUAL_CUT, answer_photo

    parser = _Parser(prog="./ember face")
    parser.add_argument("photo", type=Path)
    parser.add_argument("--mm", type=float, required=True, help="thickness between the top and the underside")
    parser.add_argument("--cut", default=USUAL_CUT)
    for name in ("top", "under", "white"):
        parser.add_argument(f"--{name}", type=_point, metavar="X,Y", help="px; proposed if left out")
    options = parser.parse_args(arguments)
    try:
        data = options.photo.read_bytes()
    except OSError as error:
        raise BadInput(f"cannot read {options.photo}: {error.strerror}") from None
    print(_json(answer_photo(data, options.mm, options.cut, options.top, options.under, options.white)))
    return 0


def main(arguments: list[str]) -> int:
    """Run one verb; returns the exit code."""
    if arguments[:1] == ["face"]:
        try:
            return _face(arguments[1:])
        except EmberError as error:
            return _fail(error)
    parser = _Parser(prog="./ember", add_help=True)
    parser.add_argument("verb", choices=[*HANDLERS, "schema"])
    parser.add_argument("file", nargs="?", help="a file, or - for standard input; for schema: its name")
    parser.add_argument("--lines", action="store_true", help="one JSON object a line in, one a line out")
    parser.add_argument("--list", metavar="WHAT", help="list catalogue ids (cuts)")
    try:
        options = parser.parse_intermixed_args(arguments)
        if options.list:
            return _list(options.list)
        if options.verb == "schema":
            known = schemas()
            if options.file not in known:
                return _fail(BadInput(f"unknown schema; there is: {', '.join(known)}"))
            print(json.dumps(known[options.file](), indent=2, ensure_ascii=False))
            return 0
        if options.file is None:
            return _fail(BadInput("give a file, or - for standard input"))
        handler = HANDLERS[options.verb]
        if options.lines:
            return _lines(options.verb, options.file)
        text, ok = _answer(handler, _read(options.file))
    except EmberError as error:
        return _fail(error)
    print(text)
    return 0 if ok else 2


def _run() -> int:
    try:
        code = main(sys.argv[1:])
        sys.stdout.flush()
    except BrokenPipeError:
        return 0
    return code


if __name__ == "__main__":
    # Taking the compiler apart again would take longer than most answers.
    os._exit(_run())
