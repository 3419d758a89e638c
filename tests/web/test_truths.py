"""The simulated galley's truths follow the model that estimates and calibrations take for granted."""

from __future__ import annotations

import numpy as np
import pytest

from ember.files.plan import parse_plan
from ember.food.catalogue import cut
from ember.food.geometry import body_size, footprint_mm, mass_of
from ember.heat.ensemble_runner import ensemble, members_of
from ember.heat.problem import density_of
from ember.heat.simulate import simulate
from kitchen.demo.kitchen import PLANS
from kitchen.demo.simulated_probe import truth_of

DOCUMENTS = {document["name"]: document for document in PLANS}
MEASURED = [name for name, document in DOCUMENTS.items() if document["piece"]["shape"]["kind"] in ("slab", "cylinder")]


@pytest.mark.parametrize("name", MEASURED)
@pytest.mark.parametrize("times", [0.92, 1.1])
def test_a_bigger_piece_is_bigger_in_all_its_parts(name, times):
    """Thickness, width and length alike; and the mass, where it was weighed, by their product."""
    plan = parse_plan(DOCUMENTS[name])
    truth = truth_of(plan, times, 0.0)
    entry, density = cut(plan.piece.cut), density_of(plan)
    before, after = (body_size(p.piece, entry, density).size_mm for p in (plan, truth))
    assert after == pytest.approx(before * times)
    was, now = (footprint_mm(p.piece, entry, density) for p in (plan, truth))
    assert now == pytest.approx([mm * times for mm in was])
    masses = [mass_of(p.piece, entry, density) for p in (plan, truth)]
    assert masses[1] == pytest.approx(masses[0] * times**3, rel=0.02)


@pytest.mark.parametrize("name", MEASURED)
def test_members_of_an_ensemble_cook_as_the_truth_does(name):
    """The member of a forecast that is a tenth bigger has the core of a piece that is; else calibration learns an oven
    from what is a size."""
    plan = parse_plan(DOCUMENTS[name])
    planned = simulate(plan)
    timed = plan.model_copy(update={"stages": [
        stage.model_copy(update={"minutes": (run.end_s - run.start_s) / 60.0, "until": None})
        if stage.until is not None else stage
        for stage, run in zip(plan.stages, planned.stages, strict=True)
    ]})  # fmt: skip
    truth = simulate(truth_of(timed, 1.1, 0.0))
    at = np.linspace(0.0, planned.end_s, 24)
    members = members_of(np.array([1.1]), np.full(1, plan.piece.start_c), np.zeros(1), np.ones(1))
    core = ensemble(timed, members, at)[0]
    # An outline is followed in one dimension by a factor that holds within a hundredth for a tenth of size.
    within_k = 0.6 if plan.piece.outline is None else 0.8
    assert np.abs(core - truth.node_c(np.minimum(at, truth.end_s), truth.grid.core)).max() < within_k
