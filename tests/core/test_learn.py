"""Learning from finished cooks: evidence, pooling against a closed form, simulated kitchens, held-out cooks."""

from __future__ import annotations

import numpy as np
import pytest

from ember.bench.learn_kitchens import Kitchen, _face, _lived, a_kitchen, cooks_of, menu, steaks
from ember.errors import BadInput
from ember.files.plan import parse_plan
from ember.heat.simulate import simulate
from ember.learn.evidence import Evidence, believed_of, watching
from ember.learn.face_evidence import FaceSeen
from ember.learn.pool import COMMON, USUAL, WIDE, Observed, _Model, pool
from ember.learn.recovery import LEAST_DOORS, door_of, recovery_of, usual_rate_k_min
from ember.learn.study import LEAST_COOKS, study
from ember.track.estimate import planned

OVEN = ("oven", "1")
BY_MASS = {"kind": "from_mass"}


def exact(medium_k, deviation_k, believed=(0.0, 0.0, 0.0)):
    """Evidence that speaks of the medium alone."""
    information = np.diag([0.0, deviation_k**-2, 0.0])
    return Evidence(information, information @ np.array([0.0, medium_k, 0.0]), np.array(believed))


def observed(evidence, thing=OVEN):
    return Observed(evidence, (None, thing, None), ("size:measured", "medium:oven", "transfer:other"))


def plan_of(stages, shape=None, **piece):
    return parse_plan({
        "format": "open-ember/plan", "version": 1, "name": "x", "stages": stages,
        "piece": {"cut": "turkey/whole", "mass_g": 5000, "start_c": 5, "shape": shape or BY_MASS, **piece},
    })  # fmt: skip


# Pooling ------------------------------------------------------------------------------------------------------------


def test_pooling_is_the_random_effects_mean():
    """With the deviations known the pooled value is the inverse-variance mean (DerSimonian & Laird 1986, Control Clin
    Trials 7:177, eq. 8, from memory), drawn a little to nought by what is believed of ovens beforehand."""
    values, own = np.array([-8.0, -12.0, -9.5, -7.0]), np.array([1.0, 2.0, 0.5, 3.0])
    model = _Model([observed(exact(v, s)) for v, s in zip(values, own, strict=True)])
    between = 2.5
    spread = np.log([USUAL[name] for name in model.spreads])
    spread[model.spreads.index("medium:oven")] = np.log(between)
    found, covariance, _ = model.solve(spread)
    weight = 1.0 / (own**2 + between**2)
    precision = weight.sum() + WIDE["oven"] ** -2
    assert found[0] == pytest.approx((weight * values).sum() / precision)
    assert covariance[0, 0] == pytest.approx(1.0 / precision)


def test_the_marginal_likelihood_is_that_of_the_normal():
    """Against the density of the values themselves: N(0, own² + between² + wide²) with what they share."""
    values, own, between = np.array([-3.0, 1.0, 4.0]), np.array([1.0, 1.5, 0.7]), 2.0
    model = _Model([observed(exact(v, s)) for v, s in zip(values, own, strict=True)])

    def by_density(b):
        covariance = np.diag(own**2 + b**2) + WIDE["oven"] ** 2
        return -0.5 * (np.linalg.slogdet(covariance)[1] + values @ np.linalg.solve(covariance, values))

    def by_model(b):
        spread = np.log([USUAL[name] for name in model.spreads])
        spread[model.spreads.index("medium:oven")] = np.log(b)
        return model.solve(spread)[2]

    assert by_model(between) - by_model(5.0) == pytest.approx(by_density(between) - by_density(5.0))


def test_more_cooks_narrow_the_interval_but_not_beyond_what_the_model_is_off():
    rng = np.random.default_rng(4)
    few, many = (
        pool([observed(exact(float(rng.normal(-9, 3)), 1.0)) for _ in range(n)]).estimates[OVEN] for n in (5, 400)
    )
    assert many.half_width < few.half_width
    assert many.half_width > 1.9 * COMMON["oven"]
    assert many.low < -9 < many.high
    assert many.cooks == 400


def test_nothing_is_learned_of_nothing():
    assert pool([]).estimates == {}
    assert study([]).proposals == ()


def test_what_a_plan_said_already_is_counted_in():
    """A plan that took the oven to be 9 cool, and was right, teaches that it is 9 cool."""
    stages = [{"kind": "oven", "air_c": 180, "offset_k": -9, "until": {"core_c": 68}}, {"kind": "rest", "minutes": 9}]
    shape = {"kind": "from_mass", "size_factor": 1.1}
    assert believed_of(plan_of(stages, shape)) == pytest.approx([np.log(1.1), -9.0, 0.0])
    pan = {"kind": "pan", "pan_c": 200, "pan": {"contact": 0.8}, "seconds_a_side": 60}
    assert believed_of(plan_of([pan], {"kind": "slab", "thickness_mm": 30})) == pytest.approx([0.0, 0.0, np.log(0.8)])


# Evidence -----------------------------------------------------------------------------------------------------------


class Still:
    """No chance: every deviation nought."""

    def normal(self, *args):
        return args[0] if args else 0.0

    def standard_normal(self, n):
        return np.zeros(n)


@pytest.mark.parametrize("index", [2, 4])
def test_one_cook_tells_its_medium_as_well_as_it_can(index):
    plan, _ = menu()[index]
    off_k = 1.0 if plan.stages[0].kind == "bath" else 8.0
    found = {}
    for off in (-off_k, off_k):
        readings, events, end_s = _lived(plan, 1.0, off, 1.0, Still())
        evidence = watching(plan, planned(plan), events, readings, end_s).evidence
        assert np.linalg.eigvalsh(evidence.information).min() > -1e-6 * np.abs(evidence.information).max()
        prior = np.diag([0.06**-2, 0.0, 0.1**-2])
        found[off] = np.linalg.solve(evidence.information + prior + np.eye(3) * 1e-9, evidence.shift)[1]
    assert found[off_k] - found[-off_k] == pytest.approx(2 * off_k, rel=0.35)


def test_a_cook_without_a_pull_or_with_a_dead_probe_says_nothing():
    plan, _ = menu()[2]
    known = planned(plan)
    readings, events, end_s = _lived(plan, 1.0, 0.0, 1.0, Still())
    assert watching(plan, known, events, readings[:3], end_s) is None
    assert watching(plan, known, events[:1], readings, 60.0) is None
    stuck = [(s, 20.0) for s, _ in readings]
    assert watching(plan, known, events, stuck, end_s) is None


def test_the_error_falls_when_the_truth_is_believed():
    plan, _ = menu()[2]
    readings, events, end_s = _lived(plan, 1.0, -12.0, 1.0, Still())
    seen = watching(plan, planned(plan), events, readings, end_s)
    as_planned = seen.error_k(np.zeros(3))
    assert as_planned < -1.0  # colder than foretold
    assert abs(seen.error_k(np.array([0.0, -12.0, 0.0]))) < 0.25 * abs(as_planned)


# Simulated kitchens -------------------------------------------------------------------------------------------------


@pytest.fixture(scope="module")
def kitchen():
    truth = {("oven", "Oven 1"): -11.0, ("oven", "Oven 2"): 1.0, ("bath", "Bath A"): -1.4, ("pan", "Pan 1"): 0.1,
             ("cut", "turkey/whole"): 0.12, ("cut", "chicken/whole"): 0.0}  # fmt: skip
    return Kitchen(truth)


@pytest.fixture(scope="module")
def cooks(kitchen):
    return list(cooks_of(kitchen, 10, np.random.default_rng(21)))


def test_a_kitchens_truth_is_recovered_and_other_cooks_are_foretold_better(kitchen, cooks):
    found = study(cooks)
    inside = [p.estimate.low <= kitchen.truth[(p.estimate.kind, p.estimate.name)] <= p.estimate.high
              for p in found.proposals]  # fmt: skip
    assert sum(inside) >= 5  # of six
    by_name = {p.estimate.name: p for p in found.proposals}
    oven = by_name["Oven 1"]
    assert not oven.why_not
    assert oven.held_out.after_k < oven.held_out.before_k
    assert oven.estimate.value == pytest.approx(-11.0, abs=3.5)
    assert "within the interval" in by_name["Oven 2"].why_not
    assert found.proposals[0].held_out.fall_k >= found.proposals[1].held_out.fall_k or found.proposals[1].why_not


def test_few_cooks_are_not_enough(cooks):
    few = [cook for cook in cooks if ("oven", "Oven 1") in cook.observed.things][: LEAST_COOKS - 1]
    oven = next(p for p in study(few).proposals if p.estimate.name == "Oven 1")
    assert oven.why_not.startswith("not enough data")


def test_held_out_means_held_out(cooks):
    """Errors after are those of other cooks' teaching: a cook alone in its fold of one thing is not its own teacher."""
    told = []
    found = study(cooks[:12], lambda done, of: told.append((done, of)))
    assert told[-1] == (12, 12)
    assert sum(len(p.errors) for p in found.proposals) == sum(
        sum(thing is not None for thing in cook.observed.things) for cook in cooks[:12]
    )


def test_a_kitchen_of_chance_is_another_each_time():
    assert a_kitchen(np.random.default_rng(1)) != a_kitchen(np.random.default_rng(2))


# What plans do with it ----------------------------------------------------------------------------------------------


def core_after(stages, shape=None, **piece):
    return float(simulate(plan_of(stages, shape, **piece)).core_c[-1])


def test_an_offset_is_the_same_as_another_setting():
    slab = {"kind": "slab", "thickness_mm": 30}
    for kind, key in (("bath", "water_c"), ("oven", "air_c")):
        said = core_after([{"kind": kind, key: 60, "offset_k": -3, "minutes": 20}], slab)
        assert said == pytest.approx(core_after([{"kind": kind, key: 57, "minutes": 20}], slab), abs=1e-6)


def test_a_pan_of_less_contact_cooks_slower_and_a_thicker_bird_too():
    slab = {"kind": "slab", "thickness_mm": 25}

    def in_pan(contact):
        stage = {"kind": "pan", "pan_c": 200, "pan": {"contact": contact}, "seconds_a_side": 120, "sides": 2}
        return core_after([stage], slab, cut="pork/chop", mass_g=200)

    assert in_pan(0.6) < in_pan(1.0) < in_pan(1.6)
    oven = [{"kind": "oven", "air_c": 180, "minutes": 90}]
    assert core_after(oven, {"kind": "from_mass", "size_factor": 1.15}) < core_after(oven) - 2


@pytest.mark.parametrize("factor", [0.1, 5])
def test_a_factor_that_cannot_be_is_refused(factor):
    with pytest.raises(BadInput):
        plan_of([{"kind": "oven", "air_c": 180, "minutes": 9}], {"kind": "from_mass", "size_factor": factor})


# After the door -----------------------------------------------------------------------------------------------------


def air_of(back_k_min, doors=8, noise_k=0.4, seed=3):
    """The air of an oven opened every 20 min, by the heat model, as its own probe shows it."""
    stage = {"kind": "oven", "air_c": 180, "minutes": 20 * doors + 18, "open_every_min": 20, "back_k_min": back_k_min}
    run = simulate(plan_of([stage]))
    t = np.arange(0.0, run.end_s, 10.0)
    shown = np.interp(t, run.t_s, run.around_c) + noise_k * np.random.default_rng(seed).standard_normal(len(t))
    return [(float(s), float(c)) for s, c in zip(t, shown, strict=True)], [
        1200.0 * (i + 1) - 30.0 for i in range(doors)
    ]


@pytest.mark.parametrize("rate", [7.0, 14.0])
def test_an_oven_that_comes_back_slowly_is_found_by_its_doors(rate):
    air, opened = air_of(rate)
    said = usual_rate_k_min(180.0)
    found = recovery_of([(door, said) for s in opened if (door := door_of(air, s)) is not None])
    assert found.doors == len(opened)
    assert found.rate_k_min == pytest.approx(rate, rel=0.12)
    assert found.low < found.rate_k_min < found.high
    assert found.high < said
    assert found.after_min < 0.4 * found.before_min


def test_the_models_own_oven_is_what_is_usual():
    air, opened = air_of(usual_rate_k_min(180.0), noise_k=0.0)
    assert door_of(air, opened[0]).rate_k_min == pytest.approx(usual_rate_k_min(180.0), rel=0.08)


def test_a_door_that_says_nothing_is_left_out():
    still = [(10.0 * i, 180.0 + 0.3 * (i % 2)) for i in range(200)]
    assert door_of(still, 600.0) is None
    assert door_of(still[:3], 600.0) is None
    cold = [(s, 180.0 if s < 600 else 150.0) for s, _ in still]  # it never came back
    assert door_of(cold, 600.0) is None
    assert recovery_of([(door_of(air_of(14.0)[0], 1170.0), 22.0)] * (LEAST_DOORS - 1)) is None


# Faces --------------------------------------------------------------------------------------------------------------


def test_a_face_alone_tells_of_an_oven_what_a_probe_would():
    """A rump of which only the cut face is known: 35 % more heat transfer is seen, and that there was no probe."""
    plan, _ = menu()[2]
    found = {}
    for transfer in (1.0, 1.35):
        _, events, end_s = _lived(plan, 1.0, 0.0, transfer, Still())
        face = _face(plan, 1.0, 0.0, transfer, 0.0, Still())
        assert face.count == 3  # the grey edge from both sides, and the look of the middle
        seen = watching(plan, planned(plan), events, [], end_s, face)
        assert not seen.has_probe
        evidence = seen.evidence
        prior = np.diag([0.06**-2, 4.0**-2, 0.3**-2])
        found[transfer] = np.linalg.solve(evidence.information + prior, evidence.shift)[2]
    assert found[1.35] - found[1.0] == pytest.approx(np.log(1.35), rel=0.3)


def test_a_face_beside_a_probe_only_adds():
    plan, _ = menu()[2]
    readings, events, end_s = _lived(plan, 1.0, 0.0, 1.2, Still())
    face = _face(plan, 1.0, 0.0, 1.2, 0.0, Still())
    plain, both = (watching(plan, planned(plan), events, readings, end_s, each) for each in (None, face))
    assert both.has_probe
    more = both.evidence.information - plain.evidence.information
    assert np.trace(more) > 0
    assert both.error_k(np.zeros(3)) == pytest.approx(plain.error_k(np.zeros(3)))


def test_cooks_without_a_probe_teach_but_are_no_test():
    things = steaks()[0][1]
    cooks = list(cooks_of(Kitchen({things[2]: 0.2}), 4, np.random.default_rng(3), steaks(), "instead"))
    result = study(cooks)
    assert result.cooks == 4
    assert sum(cook.watching.has_probe for cook in cooks) == 2
    (proposal,) = result.proposals
    assert proposal.held_out.cooks == 2
    assert proposal.estimate.cooks == 4


def test_bands_become_shares_and_the_crust_says_nothing():
    told = {
        "bands_mm": {"crust": [1.0, 1.5], "grey": [3.0, 2.5], "pink": [0.0, 0.0], "rosy": [9.0, 9.0], "red": 0.0},
        "core_c": {"p50": 54.0}, "middle": "rosy",
    }  # fmt: skip
    face = FaceSeen.of("beef/ribeye", told, 40.0, 900.0)
    assert face.edges == ((65.0, True, 0.1), (65.0, False, 0.1), (58.0, True, 0.1), (58.0, False, 0.1))
    assert face.middle_c == 54.0
    through = {"bands_mm": {"crust": [1.0, 1.0], "grey": [19.0, 19.0]}, "core_c": {"p50": 70.0}, "middle": "grey"}
    assert FaceSeen.of("beef/ribeye", through, 40.0, 900.0).count == 0
