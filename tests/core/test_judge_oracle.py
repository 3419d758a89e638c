"""The judge against the second judge of judge_oracle.py, and what must hold whatever the record is."""

from __future__ import annotations

import os
from itertools import pairwise

import pytest
from hypothesis import HealthCheck, assume, given, settings
from hypothesis import strategies as st

from ember.files.judge import parse_judge
from ember.judge.readings import as_json, judge_readings

from .judge_oracle import ALL, ANZ, CODEX, CUTS, FSIS, UK, US, oracle

PHASES = ("cook", "cool", "reheat", "hold-hot", "hold-cold", "time-control", "freeze")
HAS = {"time-control": (US, FSIS, UK, ANZ), "freeze": (US, UK, CODEX)}
# Limits and what lies just beside them, so that plateaus land on them.
LIMITS = {
    "cook": [54.4, 54.5, 55.0, 57.8, 60.0, 62.7, 62.8, 63.0, 65.0, 66.0, 67.9, 68.0, 68.4,
              70.0, 71.1, 73.8, 73.9, 74.0, 75.0],
    "cool": [57.0, 57.2, 57.3, 54.4, 60.0, 21.0, 21.1, 21.2, 26.7, 26.8, 10.0, 8.0, 8.1, 5.0, 5.1, 4.4, 4.5, 4.0],
    "reheat": [5.0, 59.9, 60.0, 69.9, 70.0, 73.8, 73.9, 74.0, 75.0],
    "hold-hot": [53.9, 54.0, 54.4, 56.9, 57.0, 57.2, 59.9, 60.0, 62.9, 63.0],
    "hold-cold": [3.9, 4.0, 4.1, 4.4, 4.5, 5.0, 5.1, 8.0, 8.1],
    "time-control": [4.9, 5.0, 5.1, 21.0, 21.1, 21.2, 56.9, 57.0, 57.2, 60.0],
    "freeze": [-19.9, -20.0, -20.1, -34.9, -35.0, -35.1],
}  # fmt: skip
RANGE = {
    "cook": (0, 95), "cool": (0, 80), "reheat": (0, 95), "hold-hot": (40, 80), "hold-cold": (0, 20),
    "time-control": (0, 70), "freeze": (-40, 5),
}  # fmt: skip
STEPS = {"freeze": [600, 3600, 7200, 36000, 86400]}
QUICK = [1, 5, 10, 14, 15, 16, 30, 60, 119, 120, 180, 300, 301, 600, 1200, 1800, 3600, 7200, 14400]


def answer(request):
    return as_json(judge_readings(parse_judge({"format": "open-ember/judge", "version": 1, **request})))


@st.composite
def records(draw, phase):
    """Ramps, plateaus on and beside limits, spikes and holes, to a tenth of a degree."""
    low, high = RANGE[phase]
    level = st.one_of(st.sampled_from(LIMITS[phase]), st.integers(10 * low, 10 * high).map(lambda n: n / 10))
    t, readings = 0, [[0, draw(level)]]
    for _ in range(draw(st.integers(1, 12))):
        t += draw(st.sampled_from(STEPS.get(phase, QUICK)))
        kind = draw(st.integers(0, 4))
        celsius = readings[-1][1] if kind == 0 else draw(level)
        readings.append([t, celsius])
        if kind == 1:  # one stray reading
            readings[-1][1] = draw(st.sampled_from([low, high]))
            t += draw(st.sampled_from([1, 5, 30, 60]))
            readings.append([t, readings[-2][1]])
        if t > 40_000 and phase != "freeze":
            break
    return readings


@st.composite
def requests(draw, phase):
    standard = draw(st.sampled_from(HAS.get(phase, ALL)))
    piece = {"cut": draw(st.sampled_from(sorted(CUTS)))}
    if phase == "cook":
        history = [None, "injected", "tenderised", "minced", "pierced", "stuffed", "brined"]
        done = draw(st.sampled_from(history))
        piece |= {"history": [done]} if done else {}
        piece |= {"treated": True} if draw(st.booleans()) else {}
        piece |= {"origin": "wild"} if draw(st.booleans()) else {}
    request = {"phase": phase, "standard": standard, "piece": piece, "readings": draw(records(phase))}
    if draw(st.booleans()):
        request["max_gap_s"] = 300
    if draw(st.booleans()):
        request |= {"advisory": True, "guests": draw(st.sampled_from(["general", "susceptible"]))}
    if draw(st.booleans()):
        moved = request["readings"].pop(draw(st.integers(0, len(request["readings"]) - 1)))
        request["checks"] = [moved]
    return request


# A few at each run; EMBER_ORACLE_EXAMPLES=2000 with HYPOTHESIS_PROFILE=explore looks further.
EXAMPLES = int(os.environ.get("EMBER_ORACLE_EXAMPLES", "25"))
LOOK = settings(max_examples=EXAMPLES, deadline=None, suppress_health_check=list(HealthCheck))


@pytest.mark.parametrize("phase", PHASES)
def test_the_two_judges_agree(phase):
    @LOOK
    @given(requests(phase))
    def agree(request):
        expected = oracle(request)
        judged = answer(request)
        assume(not expected.near)
        assert judged["state"] == expected.state, (judged["words"], expected)
        if expected.unit and f"margin_{expected.unit}" in judged:
            assert abs(judged[f"margin_{expected.unit}"] - max(min(expected.margin, 1e6), -1e6)) <= 0.06, (
                judged,
                expected,
            )

    agree()


ORDER = {"met": 2, "advisory": 1, "not-met": 0, "no-verdict": 0}
UP = {"cook", "reheat", "hold-hot"}


def steady(request, phase):
    """Whether no reading of a record is stray: then what was read is what is judged."""
    bound = (20 if phase in ("cook", "reheat") else 5) / 60
    return all(
        abs(b[1] - a[1]) <= bound * (b[0] - a[0]) + 1e-9 for a, b in pairwise(request["readings"])
    )  # fmt: skip


@pytest.mark.parametrize("standard", ALL)
def test_hotter_or_longer_never_hurts_cooking(standard):
    @LOOK
    @given(requests("cook"), st.integers(1, 30), st.sampled_from([0, 60, 900]))
    def better(request, tenths, longer_s):
        request = {k: v for k, v in request.items() if k not in ("max_gap_s", "checks")} | {"standard": standard}
        corners = request["readings"]
        assume(len(corners) > 1 and steady(request, "cook"))
        # Hotter where it is hot already, longer at its end: its way up is the same.
        hot = [[t, c + tenths / 10 if c >= 54.5 else c] for t, c in corners]
        hot += [[hot[-1][0] + longer_s, hot[-1][1]]] if longer_s else []
        assume(steady({"readings": hot}, "cook"))
        before, after = answer(request), answer({**request, "readings": hot})
        assert ORDER[after["state"]] >= ORDER[before["state"]], (before["words"], after["words"])

    better()


@pytest.mark.parametrize("standard", ALL)
def test_colder_or_sooner_never_hurts_cooling(standard):
    @LOOK
    @given(records("cool"), st.integers(1, 30), st.floats(0.3, 1.0))
    def better(corners, tenths, share):
        # From hot on: a clock that starts sooner is another cooling.
        corners = [[0, 75.0], [600, 62.0], *([t + 1200, min(c, 57.0)] for t, c in corners)]
        request = {"phase": "cool", "standard": standard, "piece": {"cut": "beef/mince"}, "readings": corners}
        assume(steady(request, "cool"))
        colder = [[t, c if c > 54.4 else c - tenths / 10] for t, c in corners]
        sooner = [[t if t <= 1200 else 1200 + share * (t - 1200), c] for t, c in corners]
        before = answer(request)
        for other in (colder, sooner):
            if steady({"readings": other}, "cool"):
                after = answer({**request, "readings": other})
                assert ORDER[after["state"]] >= ORDER[before["state"]], (before["words"], after["words"])

    better()


@pytest.mark.parametrize("phase", ["cook", "hold-hot", "hold-cold"])
def test_rounding_to_the_worse_side_never_helps(phase):
    @LOOK
    @given(requests(phase))
    def worse(request):
        request.pop("checks", None)
        assume(len(request["readings"]) > 1 and steady(request, phase))
        down = -0.5 if phase in UP else 0.5
        other = [[t, c + down] for t, c in request["readings"]]
        before, after = answer(request), answer({**request, "readings": other})
        assume(phase != "cook" or request["standard"] not in (FSIS, ANZ) or before["rule"]["id"] != "come-up")
        assume("only one period" not in before["words"])  # warmer, two of them are one
        assert ORDER[after["state"]] <= ORDER[before["state"]]

    worse()


@pytest.mark.parametrize("phase", PHASES)
def test_leaving_readings_out_never_helps(phase):
    """Holes longer than the gap, in a record that goes straight on between its corners: they hide no dip."""

    @LOOK
    @given(requests(phase), st.integers(2, 6))
    def thinned(request, keep_each):
        request = {k: v for k, v in request.items() if k not in ("checks", "max_gap_s")}
        corners = request["readings"]
        assume(len(corners) > 1 and steady(request, phase))
        dense = [corners[0]]
        for (t0, a), (t1, b) in pairwise(corners):
            steps = max(int((t1 - t0) // 300) + 1, 1)
            dense += [[t0 + (t1 - t0) * i / steps, a + (b - a) * i / steps] for i in range(1, steps + 1)]
        corner_times = {t for t, _ in corners}
        thin = [
            reading for i, reading in enumerate(dense) if reading[0] in corner_times or i % keep_each == 0
        ]  # fmt: skip
        gap = 299.0 if phase != "freeze" else 300.0
        thin = [thin[0], *(b for a, b in pairwise(thin) if True)]
        before = answer({**request, "readings": dense, "max_gap_s": 300.1})
        after = answer({**request, "readings": thin, "max_gap_s": gap})
        assert ORDER[after["state"]] <= ORDER[before["state"]], (before["words"], after["words"])

    thinned()


HISTORIES = ["injected", "tenderised", "pierced", "minced", "stuffed"]


@pytest.mark.parametrize("history", HISTORIES)
def test_what_was_done_to_a_piece_never_helps_it(history):
    @LOOK
    @given(requests("cook"))
    def never(request):
        plain = {**request, "piece": {k: v for k, v in request["piece"].items() if k not in ("history", "treated")}}
        done = {**plain, "piece": {**plain["piece"], "history": [history]}}
        before, after = answer(plain), answer(done)
        if {before["state"], after["state"]} <= {"met", "not-met"}:
            assert ORDER[after["state"]] <= ORDER[before["state"]], (before["words"], after["words"])

    never()
