"""The egg verb: the contract's own examples, every method, wrong input, and anything a program may send."""

from __future__ import annotations

import json
import math

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from ember.cli import HANDLERS, schemas
from ember.errors import EmberError
from ember.files.egg import BY_METHOD, parse_egg
from ember.judge.standards import standards

HEAD = {"format": "open-ember/egg", "version": 1}
EXAMPLE = {
    **HEAD, "egg": {"kind": "hen", "mass_g": 57, "start_c": 4}, "count": 1, "method": "boil", "start": "hot",
    "water_c": 100, "minutes": 6, "then": {"kind": "ice_bath", "minutes": 5},
}  # fmt: skip
LEAST = {
    "boil": {"minutes": 6}, "steam": {"minutes": 7}, "circulator": {"water_c": 63, "minutes": 60},
    "poach": {"minutes": 4}, "scramble": {}, "omelette": {}, "custard": {}, "stirred": {}, "pasta": {},
    "emulsion": {"yolks_g": 36, "liquid_g": 30, "butter_g": 140, "yolk_c": 64, "minutes": 3},
}  # fmt: skip


def told(data):
    """What the command line answers."""
    return json.loads(HANDLERS["egg"](data))


def test_the_contracts_example():
    found = told(EXAMPLE)
    assert found["minutes"] == 6
    assert set(found["yolk_centre_c"]) >= {"end", "peak"}
    assert found["yolk"] in ("runny", "syrupy")
    assert found["white"] in ("set", "firm")
    assert found["rules"][0]["rule"] == "egg-served"
    assert not found["rules"][0]["met"]
    assert found["goes_out"] == "advisory"
    assert len(found["curves"]["t_s"]) == len(found["curves"]["yolk_centre_c"])


def test_targets_of_the_contract():
    assert told({**HEAD, "method": "boil", "target": {"yolk_c": 63}})["yolk_edge_c"] == pytest.approx(63, abs=0.3)
    assert told({**HEAD, "method": "boil", "target": {"yolk": "jammy"}})["yolk"] == "jammy"


def test_emulsion_and_custard_of_the_contract():
    sauce = told({**HEAD, "method": "emulsion", **LEAST["emulsion"]})
    assert sauce["state"] == "thick"
    assert sauce["ratio_ok"] is True
    custard = {"ramekin_mm": [80, 40], "bath_c": 82, "oven_c": 160, "start_c": 10, "yolk_pct": 20}
    found = told({**HEAD, "method": "custard", **custard})
    assert found["pull_c"] < found["peak_c"] < 82
    assert found["minutes"] > 20


@pytest.mark.parametrize("method", list(BY_METHOD))
def test_every_method_answers_with_rules_steps_and_cautions(method):
    found = told({**HEAD, "method": method, **LEAST[method]})
    assert found["method"] == method
    assert found["rules"][0]["standard"] == "us-food-code-2022"
    assert found["steps"]
    assert len(found["cautions"]) >= 3
    assert any("cold" in text.lower() for text in found["cautions"]), "eggs are kept in the cold: always said"
    assert "safe" not in json.dumps(found).lower()


@pytest.mark.parametrize(
    ("change", "at"),
    [
        ({"method": "fry"}, "method"), ({"colour": "red"}, "colour"), ({"minutes": -1}, "minutes"),
        ({"egg": {"kind": "dodo"}}, "egg.kind"), ({"egg": {"kind": "hen", "mass_g": 900}}, "egg.mass_g"),
        ({"egg": {"kind": "hen", "mass_g": 58, "size": "M"}}, "egg"), ({"count": 0}, "count"),
        ({"water_c": 120}, "water_c"), ({"standard": "mine"}, "standard"), ({"version": 2}, "version"),
        ({"then": {"kind": "oven"}}, "then.kind"), ({"minutes": None}, ""),
    ],
)  # fmt: skip
def test_wrong_input_is_named(change, at):
    with pytest.raises(EmberError) as refused:
        told({**EXAMPLE, **change})
    assert refused.value.at == at


def test_guests_at_risk_take_no_advisory():
    runny = {**EXAMPLE, "guests": "susceptible"}
    assert told(runny)["goes_out"] == "no"
    assert any("at risk" in text for text in told(runny)["cautions"])
    assert told({**runny, "pasteurised": True})["goes_out"] == "pasteurised"
    assert told({**EXAMPLE, "minutes": 12})["goes_out"] == "met"


@pytest.mark.parametrize("standard", list(standards()))
def test_every_standard_judges_an_egg(standard):
    soft = told({**EXAMPLE, "standard": standard})
    hard = told({**EXAMPLE, "minutes": 14, "standard": standard})
    assert hard["rules"][0]["met"]
    assert not soft["rules"][0]["met"]


NUMBER = st.one_of(st.floats(allow_nan=False, allow_infinity=False), st.integers(-5, 2000), st.floats(0, 120))
EGGS = st.fixed_dictionaries(
    {},
    optional={
        "kind": st.sampled_from(["hen", "quail", "duck", "goose", "ostrich", "x"]), "mass_g": st.floats(1, 2500),
        "start_c": st.floats(-5, 60), "girth_mm": st.floats(10, 700),
    },
)  # fmt: skip


@given(
    method=st.sampled_from(sorted(BY_METHOD)),
    egg=EGGS,
    keys=st.dictionaries(
        st.sampled_from(
            ["count", "minutes", "water_c", "altitude_m", "eggs", "pan_mm", "pan_c", "seconds", "yolks_g", "liquid_g",
             "butter_g", "yolk_c", "sugar_g", "bath_c", "oven_c", "start_c", "cream_c", "pours", "to_c", "pasta_c",
             "egg_c", "off_c", "power_w", "stop_g"]
        ),
        NUMBER, max_size=5,
    ),
)  # fmt: skip
@settings(max_examples=150, deadline=None, suppress_health_check=[HealthCheck.too_slow])
def test_whatever_is_asked_there_is_an_answer_or_a_reason(method, egg, keys):
    data = {**HEAD, "method": method, **LEAST[method], **keys}
    if egg and method in ("boil", "steam", "circulator", "poach", "scramble", "omelette"):
        data["egg"] = egg
    try:
        found = told(data)
    except EmberError as error:
        found = error.as_json()

    def finite(value):
        if isinstance(value, dict):
            return all(finite(v) for v in value.values())
        if isinstance(value, list):
            return all(finite(v) for v in value)
        return not isinstance(value, float) or math.isfinite(value)

    assert found
    assert finite(found)


def test_the_schema_takes_what_the_parser_takes():
    import jsonschema

    schema = jsonschema.Draft202012Validator(schemas()["egg"]())
    for method, keys in LEAST.items():
        data = {**HEAD, "method": method, **keys}
        schema.validate(data)
        parse_egg(data)
    jsonschema.validate(told(EXAMPLE), schemas()["egg-answer"]())
