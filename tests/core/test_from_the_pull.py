"""What is worked out from the pull on, and the table's credit in one sweep: against the long way round."""

from __future__ import annotations

import numpy as np
import pytest

from ember.evaluate import evaluate
from ember.files.plan import Plan
from ember.heat.simulate import peak_after, simulate, simulate_from
from ember.judge.standards import standard
from ember.judge.verdict import table_share
from ember.solve.pull import for_peak

from .plans import plan

CHAINS = {
    "bath": [
        {"kind": "bath", "water_c": 58, "until": {"core_c": 50}},
        {"kind": "pan", "pan_c": 225, "seconds_a_side": 40, "sides": 2},
        {"kind": "rest", "minutes": 6},
    ],
    "oven": [{"kind": "oven", "air_c": 160, "until": {"core_c": 46}}, {"kind": "rest", "minutes": 12}],
    "after": [
        {"kind": "pan", "pan_c": 225, "seconds_a_side": 60, "sides": 2},
        {"kind": "oven", "air_c": 120, "until": {"core_c": 45}},
        {"kind": "rest", "minutes": 8},
    ],
}


def with_pull(recipe: Plan, index: int, stage: object) -> Plan:
    """The plan with another pull stage."""
    return recipe.model_copy(update={"stages": [stage if i == index else old for i, old in enumerate(recipe.stages)]})


@pytest.mark.parametrize("name", CHAINS)
def test_the_end_of_a_plan_runs_alike_from_the_state_before_it(name):
    recipe = plan(CHAINS[name])
    whole = simulate(recipe)
    for index, run in enumerate(whole.stages):
        tail = simulate_from(recipe, index, run.state)
        assert tail.end_s == pytest.approx(whole.end_s - run.start_s, rel=0.01)
        assert tail.core_c[-1] == pytest.approx(whole.core_c[-1], abs=0.1)
        assert len(tail.stages) == len(whole.stages) - index


@pytest.mark.parametrize("name", CHAINS)
def test_the_rough_grid_finds_the_peak_to_a_quarter_of_a_degree(name):
    recipe = plan(CHAINS[name])
    whole = simulate(recipe)
    index = recipe.pull_stage
    rough = peak_after(recipe, index, whole.stages[index].state, rough=True)
    assert rough == pytest.approx(whole.core_c[whole.stages[index].first :].max(), abs=0.25)


@pytest.mark.parametrize("name", CHAINS)
@pytest.mark.parametrize("peak_c", [50.0, 54.5])
def test_the_advice_leads_where_it_says(name, peak_c):
    recipe = plan(CHAINS[name])
    known = simulate(recipe)
    better = for_peak(recipe, peak_c, known)
    assert better is not None
    taken = simulate(with_pull(recipe, recipe.pull_stage, better.stage))
    run = taken.stages[recipe.pull_stage]
    assert taken.peak()[0] == pytest.approx(peak_c, abs=0.25)
    assert taken.peak()[0] == pytest.approx(better.peak_c, abs=0.1)
    assert run.end_s - run.start_s == pytest.approx(better.seconds, abs=1.0)
    assert float(taken.reading_c(run.end_s)[0]) == pytest.approx(better.reading_c, abs=0.15)


@pytest.mark.parametrize("peak_c", [30.0, 75.0])
def test_what_no_length_of_the_pull_leads_to_has_no_advice(peak_c):
    """Colder than the bath before made it, hotter than any medium that is left."""
    recipe = plan(
        [
            {"kind": "bath", "water_c": 56, "minutes": 90},
            {"kind": "ice_bath", "minutes": 20},
            {"kind": "reheat", "in": "bath", "water_c": 57, "until": {"core_c": 50}},
        ]
    )
    assert for_peak(recipe, peak_c, simulate(recipe)) is None


@pytest.mark.parametrize("peak_c", [47.0, 51.0, 55.0, 59.0, 63.0])
@pytest.mark.parametrize("air_c", [105, 220])
def test_a_peak_that_is_asked_for_is_reached_whatever_the_carryover(peak_c, air_c):
    recipe = plan([{"kind": "oven", "air_c": air_c, "until": {"peak_c": peak_c}}, {"kind": "rest", "minutes": 30}])
    assert evaluate(recipe).core.peak_c == pytest.approx(peak_c, abs=0.05)


def test_the_tables_credit_is_the_sum_over_its_intervals():
    """Each interval by itself, split finely: Σ Δt / needed(T), nothing below the first row."""
    rule = next(rule for rule in standard("us-food-code-2022").rules.values() if rule.kind == "table")
    rows = [(c, s) for c, s in rule.points_c if s > 0]
    first = rows[0][0]
    t = np.array([0.0, 300.0, 900.0, 1800.0, 3600.0, 5400.0])
    T = np.array([first - 20, first - 1, first + 1.5, first + 3, first + 2.2, first - 4])

    def rate(celsius: float) -> float:
        if celsius < first - 1e-9:
            return 0.0
        return 1.0 / 10 ** float(np.interp(celsius, [c for c, _ in rows], np.log10([s for _, s in rows])))

    wanted = 0.0
    for a, b, c0, c1 in zip(t, t[1:], T, T[1:], strict=False):
        parts = 4000
        middles = (np.arange(parts) + 0.5) / parts
        wanted += sum(rate(c0 + (c1 - c0) * m) for m in middles) / parts * (b - a)
    assert table_share(rule, (t, T)) == pytest.approx(wanted, rel=0.02)
    assert table_share(rule, (t, np.full(6, first - 5.0))) == 0.0
