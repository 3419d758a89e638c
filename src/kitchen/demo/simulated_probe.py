"""A simulated probe: a process of its own that cooks "the truth" and posts readings over the real readings API.

The truth is the plan of its cook with a slightly different size, medium and placement. It speaks HTTP only and asks the
API for its cook and the steps done, so that pulling late or early shows.

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
from ember.files.piece import Piece
from ember.files.plan import Plan, parse_plan
from ember.files.result import StageOut
from ember.files.stages import Rest, lasting
from ember.food.catalogue import Cut, cut
from ember.food.geometry import body_size, footprint_mm, with_size
from ember.heat.problem import density_of
from ember.heat.simulate import simulate
from ember.heat.trajectory import Trajectory
from ember.solve.log_ends import with_log_ends
from ember.track.full_steps import BOARD
from ember.track.steps import MOVES, Step, step_from, steps_of

from .simulated_faults import KINDS, SLIPPED_K, Fault, Sender

MEDIUM_KEYS = ("water_c", "air_c", "pan_c", "plate_c", "oil_c")
CHANNEL_SIZE = 0.01
BATH_STARTS_BELOW_K, BATH_CATCHES_UP = 1.5, 0.2  # a step
DEVICES = {"probe": "demo-probe-token", "wires": "demo-wires-token", "bath": "demo-bath-token"}
COOKS = ("bath", "oven", "pan", "plancha", "fry", "simmer", "poach", "reheat", "hold")


class Api:
    """The readings API as a device uses it."""

    def __init__(self, url: str, token: str) -> None:
        self.url, self.token = url.rstrip("/"), token

    def call(self, path: str, body: dict[str, Any] | None = None) -> dict[str, Any]:
        """Send one request. Raises OSError if the server does not respond, RuntimeError with its message if it
        refuses.
        """
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


def _scaled(piece: Piece, cut_entry: Cut, density: float, times: float) -> Piece:
    """The piece bigger in all its parts."""
    wide, long = footprint_mm(piece, cut_entry, density)
    found = with_size(piece, cut_entry, density, times * body_size(piece, cut_entry, density).size_mm)
    if piece.shape.kind not in ("slab", "cylinder"):
        return found
    mass_g = None if piece.mass_g is None else piece.mass_g * times**3
    if piece.outline is not None:
        mms = {name: getattr(piece, name) for name in ("width_mm", "length_mm")}
        sizes = {name: mm * times for name, mm in mms.items() if mm is not None}
        return found.model_copy(update={**sizes, "outline": piece.outline.bigger(times), "mass_g": mass_g})
    sizes = {"length_mm": long * times} | ({"width_mm": wide * times} if piece.shape.kind == "slab" else {})
    return found.model_copy(update={**sizes, "mass_g": mass_g})


def truth_of(plan: Plan, size: float, medium_k: float) -> Plan:
    """The plan with another size and other media."""
    stages = []
    for stage in plan.stages:
        keys = [key for key in MEDIUM_KEYS if stage.kind in COOKS and getattr(stage, key, None) is not None]
        stages.append(stage.model_copy(update={key: getattr(stage, key) + medium_k for key in keys}))
    piece = _scaled(plan.piece, cut(plan.piece.cut), density_of(plan), size)
    return plan.model_copy(update={"piece": piece, "stages": stages})


def cooked_so_far(
    truth: Plan, steps: list[Step], events: list[dict[str, Any]], started: dt.datetime, now: dt.datetime
) -> Trajectory:
    """The truth simulated through the stages as they were really timed, until now."""
    now_s = max((now - started).total_seconds(), 1.0)
    done = _done_at_s(events, started)
    begun, exposures, left_s = _gone_through(len(truth.stages), steps, done)
    stages = []
    for i in sorted(begun):
        end_s = begun.get(i + 1, now_s if left_s is None else min(left_s, now_s))
        stages.append(lasting(truth.stages[i], end_s - begun[i], exposures.get(i, 1)))
    if left_s is not None and now_s > left_s:
        stages.append(lasting(_cooling(), now_s - left_s))
    return simulate(truth.model_copy(update={"stages": stages or [truth.stages[0]]}))


def reading_now(
    truth: Plan, steps: list[Step], events: list[dict[str, Any]], started: dt.datetime, now: dt.datetime
) -> float:
    """What the probe shows now, °C."""
    ran = cooked_so_far(truth, steps, events, started, now)
    return float(ran.reading_c(ran.end_s)[0])


def _done_at_s(events: list[dict[str, Any]], started: dt.datetime) -> dict[int, float]:
    """When each step was done, s from the start, without those that were undone."""
    done: dict[int, float] = {}
    for event in events:
        if event["kind"] == "undone":
            done.pop(event["step"], None)
        else:
            done[event["step"]] = (dt.datetime.fromisoformat(event["at"]) - started).total_seconds()
    return done


def _gone_through(
    count: int, steps: list[Step], done: dict[int, float]
) -> tuple[dict[int, float], dict[int, int], float | None]:
    """(start of each stage, number of sides laid down in it, end of the last stage), s."""
    begun: dict[int, float] = {}
    exposures: dict[int, int] = {}
    left: list[float] = []
    for number, at_s in done.items():
        step = steps[number]
        if step.kind == "turn":
            exposures[step.stage] = exposures.get(step.stage, 1) + 1
        elif step.kind in MOVES and step.stage == count:
            left.append(at_s)
        elif step.kind in MOVES and step.to_place != BOARD:
            begun[step.stage] = at_s
    return begun, exposures, min(left, default=None)


def _cooling() -> Any:
    return Rest(kind="rest", air_c=22, minutes=1)


def _as_planned(plan: Plan) -> list[StageOut]:
    """The stages of a plan as planned, for a cook without stored steps."""
    runs = simulate(with_log_ends(plan)).stages
    kept: list[dict[str, Any]] = [
        {"kind": run.kind, "start_s": run.start_s, "end_s": run.end_s, "reading_c": 0.0} for run in runs
    ]
    return [StageOut.model_construct(None, **run) for run in kept]


def channel_size(code: str) -> float:
    """The size of a channel's piece, as a factor: each is slightly thicker than the one before."""
    return 1.0 + CHANNEL_SIZE * (int(code) - 1 if code.isdigit() else 0)


class SimulatedProbe:
    """Probes in pieces; each channel's piece is slightly thicker than the one before."""

    def __init__(
        self, api: Api, size: float, medium_k: float, noise_k: float, seed: int, slipped_in: str = ""
    ) -> None:  # fmt: skip
        """`slipped_in`: name of the cook whose probe slid outwards, until somebody reports it reinserted."""
        self.api, self.size, self.medium_k, self.noise_k = api, size, medium_k, noise_k
        self.slipped_in = slipped_in
        self.random = random.Random(seed)  # noqa: S311
        self.plans: dict[tuple[str, str], tuple[Plan, list[Step]]] = {}

    def _known(self, cook: dict[str, Any], code: str) -> tuple[Plan, list[Step]]:
        key = (cook["id"], code)
        if key not in self.plans:
            plan = parse_plan(cook["plan"])
            steps = [step_from(step) for step in cook["steps"]] or steps_of(plan, _as_planned(plan))
            size = self.size * channel_size(code)
            self.plans[key] = truth_of(plan, size, self.medium_k), steps
        return self.plans[key]

    def _is_slipped(self, cook: dict[str, Any]) -> bool:
        reinserted = any(report["what"] == "probe-moved" for report in cook.get("reports", ()))
        return bool(self.slipped_in) and cook["name"] == self.slipped_in and not reinserted

    def measure(self) -> tuple[list[dict[str, Any]], dt.datetime]:
        """A reading of each probe that is in a piece, and the kitchen's time."""
        answer = self.api.call("cooks")
        now = dt.datetime.fromisoformat(answer["now"])
        measured = []
        for cook in answer["cooks"]:
            started = dt.datetime.fromisoformat(cook["started_at"])
            for code in cook["probes"]:
                truth, steps = self._known(cook, code)
                celsius = reading_now(truth, steps, cook["events"], started, now) + self.random.gauss(0, self.noise_k)
                celsius += SLIPPED_K if self._is_slipped(cook) else 0.0
                measured.append({"probe": code, "at": now.isoformat(), "celsius": round(celsius, 2)})
        return measured, now


class SimulatedBath:
    """A bath controller: the water's temperature around its set point, which it reports."""

    def __init__(self, api: Api, set_c: float, noise_k: float, seed: int) -> None:
        self.api, self.set_c, self.noise_k = api, set_c, noise_k
        self.random = random.Random(seed)  # noqa: S311
        self.water_c = set_c - BATH_STARTS_BELOW_K

    def measure(self) -> tuple[list[dict[str, Any]], dt.datetime]:
        """One reading of the water, and the kitchen's time."""
        now = dt.datetime.fromisoformat(self.api.call("clock")["now"])
        self.water_c += BATH_CATCHES_UP * (self.set_c - self.water_c)
        celsius = self.water_c + self.random.gauss(0.0, self.noise_k)
        reading = {"probe": "1", "at": now.isoformat(), "celsius": round(celsius, 2), "set_c": self.set_c}
        return [reading], now


def _defaults() -> tuple[str, Path]:
    root = Path(os.environ.get("EMBER_ROOT", "."))
    port = 8000
    local = Path(os.environ.get("EMBER_LOCAL", root / ".local"))
    state = local / "server.json"
    if state.exists():
        port = json.loads(state.read_text())["port"]
    return f"http://127.0.0.1:{port}", local


def _token(kept_in: Path, device: str) -> str:
    path = kept_in / DEVICES[device]
    return path.read_text().strip() if path.exists() else ""


def main(arguments: list[str]) -> int:
    """Run until stopped."""
    url, kept_in = _defaults()
    parser = argparse.ArgumentParser(prog="./ember probe", description="The simulated probe.")
    parser.add_argument("--url", default=url)
    parser.add_argument("--token", default=os.environ.get("EMBER_PROBE_TOKEN", ""))
    parser.add_argument("--speed", type=float, default=None, help="pace of the demonstration clock, 1 to 3600")
    parser.add_argument("--every", type=float, default=1.0, help="seconds of real time between readings")
    parser.add_argument("--size", type=float, default=1.03, help="the true size as a share of the plan's")
    parser.add_argument("--medium", type=float, default=-0.4, help="how much hotter the medium truly is, K")
    parser.add_argument("--noise", type=float, default=0.05, help="noise of a reading, K")
    parser.add_argument("--seed", type=int, default=7)
    parser.add_argument("--ticks", type=int, default=0, help="stop after so many readings")
    parser.add_argument(
        "--as", dest="device", choices=list(DEVICES), default="probe", help="one needle, four, or a bath"
    )
    parser.add_argument("--set", type=float, default=56.2, help="the bath's set point, °C")
    parser.add_argument(
        "--fault", action="append", default=[], metavar="KIND[@FROM-TO]",
        help="; ".join(f"{kind}: {words}" for kind, words in KINDS.items()) + ". FROM and TO count readings.",
    )  # fmt: skip
    options = parser.parse_args(arguments)
    try:
        faults = [Fault.parse(text) for text in options.fault]
    except ValueError as error:
        parser.error(str(error))
    api = Api(options.url, options.token or _token(kept_in, options.device))
    sender = Sender(api, faults)
    device: SimulatedBath | SimulatedProbe
    if options.device == "bath":
        device = SimulatedBath(api, options.set, options.noise, options.seed)
    else:
        device = SimulatedProbe(api, options.size, options.medium, options.noise, options.seed)
    try:
        if options.speed is not None:
            api.call("clock", {"rate": options.speed})
        count = 0
        while options.ticks == 0 or count < options.ticks:
            began = time.monotonic()
            try:
                sent = sender.send(*device.measure())
                print(" ".join(f"{r['celsius']:.1f}" for r in sent) or "nothing sent", flush=True)
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
