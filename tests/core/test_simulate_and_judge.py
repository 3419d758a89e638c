"""A plan and the log of its curve get one verdict, in every phase and every standard."""

from __future__ import annotations

import numpy as np
import pytest

from ember.evaluate import evaluate
from ember.files.judge import parse_judge
from ember.files.plan import parse_plan
from ember.food.catalogue import cut
from ember.heat.simulate import simulate
from ember.judge.readings import as_json, judge_readings
from ember.judge.standards import standard, standards
from ember.report.outcome import question_of

CHICKEN = {"cut": "chicken/breast", "shape": {"kind": "slab", "thickness_mm": 28}, "start_c": 5}
ROAST = {"cut": "beef/rump-roast", "shape": {"kind": "cylinder", "diameter_mm": 90, "length_mm": 200}, "start_c": 5}
LOIN = {"cut": "pork/chop", "shape": {"kind": "slab", "thickness_mm": 32}, "start_c": 5}
PLANS = {
    "bath": (CHICKEN, [{"kind": "bath", "water_c": 62, "minutes": 70}]),
    "short bath": (CHICKEN, [{"kind": "bath", "water_c": 62, "minutes": 40}]),
    "cool bath": (LOIN, [{"kind": "bath", "water_c": 57, "minutes": 240}]),
    "oven": (ROAST, [{"kind": "oven", "air_c": 180, "until": {"core_c": 56}}, {"kind": "rest", "minutes": 40}]),
    "low oven": (ROAST, [{"kind": "oven", "air_c": 90, "until": {"core_c": 59}}, {"kind": "rest", "minutes": 30}]),
    "pan": (LOIN, [{"kind": "pan", "pan_c": 200, "seconds_a_side": 300, "sides": 2}, {"kind": "rest", "minutes": 6}]),
    "fast chill": (CHICKEN, [{"kind": "bath", "water_c": 66, "minutes": 60}, {"kind": "ice_bath", "minutes": 60}]),
    "slow chill": (ROAST, [
        {"kind": "bath", "water_c": 66, "minutes": 300}, {"kind": "chill", "air_c": 3, "minutes": 1200},
    ]),
    "held": (CHICKEN, [{"kind": "bath", "water_c": 66, "minutes": 60}, {"kind": "hold", "air_c": 59, "minutes": 90}]),
    "back": ({**CHICKEN, "start_c": 60}, [
        {"kind": "ice_bath", "minutes": 90}, {"kind": "reheat", "in": "bath", "water_c": 78, "minutes": 50},
    ]),
}  # fmt: skip
BY_FACES = ("rare-whole", "steak-surface")  # a log of the coldest point knows nothing of the faces


@pytest.mark.parametrize("name", sorted(standards()))
@pytest.mark.parametrize("which", sorted(PLANS))
def test_the_log_of_a_plans_coldest_point_has_the_plans_verdict(name, which):
    piece, stages = PLANS[which]
    plan = parse_plan(
        {"format": "open-ember/plan", "version": 1, "piece": piece, "standard": name, "stages": stages}
    )  # fmt: skip
    planned = evaluate(plan).safety
    trajectory = simulate(plan)
    question = question_of(plan, cut(plan.piece.cut), standard(name), trajectory)
    ovens = question.food.ovens
    request = {
        "format": "open-ember/judge", "version": 1, "standard": name,
        "piece": {"cut": piece["cut"], "mass_g": question.food.mass_g, "shape": piece["shape"]},
    }  # fmt: skip

    def judged(phase, t, T):
        readings = [[float(s), float(c)] for s, c in zip(t, T, strict=True)]
        at = None if ovens is None else [{"air": oven.air, "celsius": oven.celsius} for oven in ovens]
        return as_json(judge_readings(parse_judge({**request, "phase": phase, "readings": readings, "ovens": at})))

    def same(found, asked):
        assert found["state"] == asked.state, (found["words"], asked.words)
        margin = found[f"margin_{asked.margin_unit}"]
        assert min(margin, 999.0) == pytest.approx(asked.margin, rel=2e-3, abs=0.02)

    if planned[0].rule not in BY_FACES:
        same(judged("cook", question.time_s, question.coldest_c), planned[0])
    for entry in planned[1:]:
        if entry.kind not in ("cool", "hold-hot", "reheat"):
            continue
        kinds = {"cool": ("chill", "ice_bath"), "hold-hot": ("hold",), "reheat": ("reheat",)}[entry.kind]
        runs = [run for run in trajectory.stages if run.kind in kinds]
        fine = trajectory.fine_s
        begin, end = runs[0].start_s, runs[-1].end_s
        t = np.unique(np.concatenate([[begin], fine[(fine > begin) & (fine < end)], [end]]))
        T = trajectory.profile(t)
        same(judged(entry.kind, t, T.max(axis=1) if entry.kind == "cool" else T.min(axis=1)), entry)
