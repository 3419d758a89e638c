"""A simulated probe: a process of its own that cooks "the truth" and posts readings over the real readings API.

The truth is the plan it is stuck in with a little different size, medium and placement. It speaks HTTP only and knows
nothing of the database; it asks the API what it is in and which steps were done, so that pulling late or early shows.

    ./ember probe --speed 60
"""

from __future__ import annotations

import argparse
import datetime as dt
import json
import os
import random
import sys
import time
import urllib.error
import urllib.request
from pathlib import Path
from typing import Any

import numpy as np

from ember.errors import EmberError
from ember.files.plan import Plan, parse_plan
from ember.files.result import Result
from ember.files.stages import Rest, lasting
from ember.food.catalogue import cut
from ember.food.geometry import body_size, with_size
from ember.heat.problem import density_of
from ember.heat.simulate import simulate
from ember.solve.log_ends import with_log_ends
from ember.track.hands import WORKTOP
from ember.track.steps import Step, steps_of

MEDIUM_KEYS = ("water_c", "air_c", "pan_c", "plate_c", "oil_c")
MOVES = ("start", "move", "pull", "lay", "end")
COOKS = ("bath", "oven", "pan", "plancha", "fry", "simmer", "poach", "reheat", "hold")


class Api:
    """The readings API, seen from a device."""

    def __init__(self, url: str, token: str) -> None:
        self.url, self.token = url.rstrip("/"), token

    def call(self, path: str, body: dict[str, Any] | None = None) -> dict[str, Any]:
        """One request; raises OSError when the server does not answer, RuntimeError with its words when it refuses."""
        request = urllib.request.Request(  # noqa: S310  (the address is the person's own)
            f"{self.url}/api/v1/{path}",
            data=None if body is None else json.dumps(body).encode(),
            headers={"Authorization": f"Bearer {self.token}", "Content-Type": "application/json"},
        )
        try:
            with urllib.request.urlopen(request, timeout=10) as reply:  # noqa: S310
                return dict(json.load(reply))
        except urllib.error.HTTPError as error:
            text = error.read().decode(errors="replace")
            if error.code >= 500:
                raise OSError(f"server error {error.code}") from None
            raise RuntimeError(f"{error.code}: {text[:300]}") from None


def truth_of(plan: Plan, size: float, medium_k: float) -> Plan:
    """The plan with another size and other media."""
    stages = []
    for stage in plan.stages:
        keys = [key for key in MEDIUM_KEYS if stage.kind in COOKS and getattr(stage, key, None) is not None]
        stages.append(stage.model_copy(update={key: getattr(stage, key) + medium_k for key in keys}))
    row, density = cut(plan.piece.cut), density_of(plan)
    piece = with_size(plan.piece, row, density, size * body_size(plan.piece, row, density).size_mm)
    return plan.model_copy(update={"piece": piece, "stages": stages})


def reading_now(
    truth: Plan, steps: list[Step], events: list[dict[str, Any]], started: dt.datetime, now: dt.datetime
) -> float:
    """What the needle shows now, °C: the truth run through the stages as they were really gone through."""
    done: dict[int, float] = {}
    for event in events:
        at = (dt.datetime.fromisoformat(event["at"]) - started).total_seconds()
        if event["kind"] == "undone":
            done.pop(event["step"], None)
        else:
            done[event["step"]] = at
    now_s = max((now - started).total_seconds(), 1.0)
    begun: dict[int, float] = {}
    exposures: dict[int, int] = {}
    for number, at in done.items():
        step = steps[number]
        if step.kind == "turn":
            exposures[step.stage] = exposures.get(step.stage, 1) + 1
        elif step.stage < len(truth.stages) and step.kind in MOVES and step.to_place != WORKTOP:
            begun[step.stage] = at
    last = [s for s in steps if s.number in done and s.stage == len(truth.stages) and s.kind in MOVES]
    left = min((done[s.number] for s in last), default=None)
    stages = []
    for i in sorted(begun):
        end = begun.get(i + 1, now_s if left is None else min(left, now_s))
        stages.append(lasting(truth.stages[i], end - begun[i], exposures.get(i, 1)))
    if left is not None and now_s > left:
        stages.append(lasting(_cooling(), now_s - left))
    ran = simulate(truth.model_copy(update={"stages": stages or [truth.stages[0]]}))
    return float(ran.reading_c(ran.end_s)[0])


def _cooling() -> Any:
    return Rest(kind="rest", air_c=22, minutes=1)


def _as_planned(plan: Plan) -> Result:
    """The stages of a plan's result, for a cook that was started before cooks kept their steps."""
    stage = Result.model_fields["stages"].annotation.__args__[0]  # type: ignore[union-attr]
    ran = simulate(with_log_ends(plan))
    runs = [
        stage.model_construct(kind=run.kind, start_s=run.start_s, end_s=run.end_s, reading_c=0.0) for run in ran.stages
    ]
    return Result.model_construct(stages=runs)


class SimulatedProbe:
    """The probe's own life: one tick a period."""

    def __init__(self, api: Api, size: float, medium_k: float, noise_k: float, seed: int) -> None:
        self.api, self.size, self.medium_k, self.noise_k = api, size, medium_k, noise_k
        self.random = random.Random(seed)  # noqa: S311
        self.plans: dict[str, tuple[Plan, list[Step]]] = {}
        self.unsent: list[dict[str, Any]] = []

    def _known(self, cook: dict[str, Any]) -> tuple[Plan, list[Step]]:
        if cook["id"] not in self.plans:
            plan = parse_plan(cook["plan"])
            steps = [Step(**step) for step in cook["steps"]] or steps_of(plan, _as_planned(plan))
            self.plans[cook["id"]] = truth_of(plan, self.size, self.medium_k), steps
        return self.plans[cook["id"]]

    def tick(self) -> list[dict[str, Any]]:
        """Measure and send. Readings that could not be sent are kept and sent with the next ones."""
        answer = self.api.call("cooks")
        now = dt.datetime.fromisoformat(answer["now"])
        for cook in answer["cooks"]:
            truth, steps = self._known(cook)
            started = dt.datetime.fromisoformat(cook["started_at"])
            celsius = reading_now(truth, steps, cook["events"], started, now)
            celsius += self.random.gauss(0.0, self.noise_k)
            for code in cook["probes"]:
                self.unsent.append({"probe": code, "at": now.isoformat(), "celsius": round(celsius, 2)})
        sent = self.unsent[:2000]
        if sent:
            self.api.call("readings", {"readings": sent})
            self.unsent = self.unsent[len(sent) :]
        return sent


def _defaults() -> tuple[str, str]:
    root = Path(os.environ.get("EMBER_ROOT", "."))
    port = 8000
    state = root / ".local" / "server.json"
    if state.exists():
        port = json.loads(state.read_text())["port"]
    token = root / ".local" / "demo-probe-token"
    return f"http://127.0.0.1:{port}", token.read_text().strip() if token.exists() else ""


def main(arguments: list[str]) -> int:
    """Run until stopped."""
    url, token = _defaults()
    parser = argparse.ArgumentParser(prog="./ember probe", description="The simulated probe.")
    parser.add_argument("--url", default=url)
    parser.add_argument("--token", default=os.environ.get("EMBER_PROBE_TOKEN", token))
    parser.add_argument("--speed", type=float, default=None, help="pace of the demonstration clock, 1 to 3600")
    parser.add_argument("--every", type=float, default=1.0, help="seconds of real time between readings")
    parser.add_argument("--size", type=float, default=1.03, help="the true size as a share of the plan's")
    parser.add_argument("--medium", type=float, default=-0.4, help="how much hotter the medium truly is, K")
    parser.add_argument("--noise", type=float, default=0.05, help="noise of a reading, K")
    parser.add_argument("--seed", type=int, default=7)
    parser.add_argument("--ticks", type=int, default=0, help="stop after so many readings")
    options = parser.parse_args(arguments)
    api = Api(options.url, options.token)
    probe = SimulatedProbe(api, options.size, options.medium, options.noise, options.seed)
    try:
        if options.speed is not None:
            api.call("clock", {"rate": options.speed})
        count = 0
        while options.ticks == 0 or count < options.ticks:
            began = time.monotonic()
            try:
                sent = probe.tick()
                print(" ".join(f"{r['celsius']:.1f}" for r in sent) or "not in a piece", flush=True)
            except (OSError, EmberError) as error:
                print(f"waiting: {error}", file=sys.stderr, flush=True)
            count += 1
            time.sleep(max(0.0, options.every - (time.monotonic() - began)))
    except RuntimeError as error:
        print(f"The kitchen refused: {error}", file=sys.stderr)
        return 1
    except KeyboardInterrupt:
        pass
    return 0


if __name__ == "__main__":
    np.seterr(all="ignore")
    sys.exit(main(sys.argv[1:]))
