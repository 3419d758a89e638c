"""Brines and cures: worked examples, the exact series, the trade's brines, limits row by row, and refusals."""

from __future__ import annotations

import json
import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.special import jn_zeros

from ember.cli import HANDLERS, schemas
from ember.cure.answer import answer_brine, words
from ember.cure.diffusion import hours_even, hours_until, make_body, soak
from ember.cure.mixing import KNO2_OVER_NANO2, NANO2_OVER_ION, dry_ppm, equilibrium_ppm, pickup_ppm
from ember.cure.rows import limits, salt_data
from ember.cure.same_salt import with_method
from ember.errors import BadInput
from ember.files.brine import parse_brine
from ember.judge.standards import standards

OZ, LB, GAL_LB = 28.3495, 453.592, 10.0


def asked(**keys):
    """A brine request, answered."""
    return answer_brine(parse_brine({"format": "open-ember/brine", "version": 1, **keys}))


# Nitrite: USDA FSIS, Processing Inspectors' Calculations Handbook, 1995, from memory ----------------------------------


@pytest.mark.parametrize(("ounces", "ppm"), [(0.25, 156.25), (1.0, 625.0), (2.75, 1718.75), (3.5, 2187.5)])
def test_ounces_in_a_hundred_pounds(ounces, ppm):
    """A quarter ounce in 100 lb of mince, an ounce rubbed on 100 lb; nitrate's 2¾ and 3½."""
    assert dry_ppm(ounces * OZ, 1.0, 100 * LB) == pytest.approx(ppm, rel=1e-4)


@pytest.mark.parametrize(("pounds", "ppm"), [(2.0, 200.0), (7.0, 700.0)])
def test_pickle_pumped_to_a_tenth(pounds, ppm):
    """2 lb of nitrite in 100 gal of pickle (10 lb a gallon), pumped to 10 %: 200 ppm; 7 lb of nitrate: 700."""
    assert pickup_ppm(pounds * LB, 1.0, 100 * GAL_LB * LB, 0.10) == pytest.approx(ppm)


def test_a_teaspoon_of_the_strong_cure_and_as_much_of_the_weak():
    """2.5 g of 6.25 % in a kilo is 156 ppm; 2.5 g of 0.5 % is 12.5: the difference is what poisons."""
    assert dry_ppm(2.5, 0.0625, 1000) == pytest.approx(156.25)
    assert dry_ppm(2.5, 0.005, 1000) == pytest.approx(12.5)
    assert dry_ppm(20.0, 0.005, 1000) == pytest.approx(100.0), "the weak one is used as salt: 20 g a kilo"


def test_method_one_and_two_differ_by_the_pickup():
    """The same brine, all taken up: (2)/(1) = 1 + P."""
    brine, meat, cure = 100.0, 1000.0, 4.0
    one = pickup_ppm(cure, 0.0625, brine, brine / meat)
    two = equilibrium_ppm(cure, 0.0625, meat, brine)
    assert one / two == pytest.approx(1.1)


def test_salts_of_nitrite():
    """120 ppm NaNO2 is 148 ppm KNO2; 80 mg of the ion is 120 of sodium nitrite."""
    assert pytest.approx(148.0, abs=0.1) == 120 * KNO2_OVER_NANO2
    assert pytest.approx(120.0) == 80 * NANO2_OVER_ION


@pytest.mark.parametrize("school", ["equilibrium", "gradient", "dry", "injected"])
def test_one_formula_a_school(school):
    keys = {"school": school, "meat_g": 2000, "salt_g": 60, "cure": {"grams": 5, "nitrite_pct": 6.25}}
    if school != "dry":
        keys |= {"water_g": 1000, "pickup_pct": 12}
    found = asked(**keys)
    nitrite = 5 * 0.0625
    by_hand = {
        "equilibrium": nitrite / 3000, "dry": nitrite / 2000, "gradient": nitrite / 1065 * 0.12,
        "injected": nitrite / 1065 * 0.12,
    }[school]  # fmt: skip
    assert found.nitrite_ppm == pytest.approx(1e6 * by_hand, abs=0.01)


def test_every_standard_has_a_limit_for_every_product():
    assert set(limits()) == set(standards())
    for row in limits().values():
        assert set(row.limits) == {
            "immersion", "pumped", "dry", "comminuted", "bacon-pumped", "bacon-immersion", "bacon-dry"
        }  # fmt: skip


@pytest.mark.parametrize(
    ("product", "ppm"),
    [("immersion", 200), ("pumped", 200), ("dry", 625), ("comminuted", 156), ("bacon-pumped", 120), ("bacon-dry", 200)],
)
def test_limits_row_by_row(product, ppm):
    """9 CFR 424.21(c), FSIS Directive 7620.3; from memory. At the limit it is let, a hundredth over it is not."""
    for factor, allowed in ((1.0, True), (1.01, False)):
        grams = factor * ppm * 1e-6 * 1000 / 0.0625
        found = asked(
            school="dry", meat_g=1000, salt_pct=2, product=product, cure={"grams": grams, "nitrite_pct": 6.25}
        )
        assert found.limit_ppm == ppm
        assert found.allowed is allowed
        assert "9 CFR 424.21" in found.why


def test_the_quarter_ounce_is_let():
    found = asked(school="dry", meat_g=1000, salt_pct=2, product="comminuted", cure={"grams": 2.5, "nitrite_pct": 6.25})
    assert found.allowed


def test_too_much_is_refused_with_the_reason():
    found = asked(school="equilibrium", meat_g=1000, water_g=1000, salt_g=50, cure={"grams": 20, "nitrite_pct": 6.25})
    assert found.allowed is False
    assert "425 over" in found.why
    assert found.nitrite_ppm == 625.0


def test_strength_is_never_taken_for_granted():
    with pytest.raises(BadInput, match="the difference poisons") as refused:
        asked(school="dry", meat_g=1000, salt_pct=2, cure={"grams": 3})
    assert refused.value.at == "cure.nitrite_pct"
    odd = asked(school="dry", meat_g=1000, salt_pct=2, cure={"grams": 3, "nitrite_pct": 2.5})
    assert any("no usual strength" in text for text in odd.warnings)
    usual = asked(school="dry", meat_g=1000, salt_pct=2, cure={"grams": 3, "nitrite_pct": 0.5})
    assert not any("no usual strength" in text for text in usual.warnings)


def test_curing_salt_is_salt_too():
    """20 g of 0.5 % curing salt is 19.9 g of salt: 2 % of a kilo are nearly all of it."""
    found = asked(school="dry", meat_g=1000, salt_pct=2, cure={"grams": 20, "nitrite_pct": 0.5})
    assert found.salt_g == pytest.approx(0.1, abs=0.01)
    assert found.salt_pct_meat == pytest.approx(2.0)


# Salt ----------------------------------------------------------------------------------------------------------------


@pytest.mark.parametrize(
    ("exponent", "fo"), [(0.0, 0.05), (0.0, 0.3), (1.0, 0.02), (1.0, 0.2), (2.0, 0.02), (2.0, 0.1)]
)
def test_uptake_by_the_exact_series(exponent, fo):
    """Mean uptake of slab, cylinder and ball in a brine that does not weaken: Crank 1975, The Mathematics of Diffusion,
    4.18, 5.23, 6.20; from memory."""
    d, size = 4e-10, 40.0
    half = size / 2e3
    seconds = fo * half * half / d
    if exponent == 0.0:
        n = np.arange(400)
        left = float((8 / ((2 * n + 1) ** 2 * math.pi**2) * np.exp(-((2 * n + 1) ** 2) * math.pi**2 * fo / 4)).sum())
    elif exponent == 1.0:
        z = jn_zeros(0, 400)
        left = float((4 / z**2 * np.exp(-(z**2) * fo)).sum())
    else:
        n = np.arange(1, 400)
        left = float((6 / (n**2 * math.pi**2) * np.exp(-(n**2) * math.pi**2 * fo)).sum())
    taken = soak(make_body(size, exponent), 0.0, 10.0, seconds, d)
    assert float(taken.mean(seconds)[0]) == pytest.approx(10.0 * (1.0 - left), rel=0.01)


@given(ratio=st.floats(0.2, 5), exponent=st.sampled_from([0.0, 0.6, 1.0, 2.0]), size=st.floats(5, 120))
@settings(max_examples=20, deadline=None)
def test_no_salt_is_lost_between_brine_and_meat(ratio, exponent, size):
    body = make_body(size, exponent)
    hours = 3600.0 * 30
    taken = soak(body, 0.3, 8.0, hours, 4e-10, ratio)
    whole = 0.3 + ratio * 8.0
    assert float(taken.mean(hours)[0]) + ratio * float(taken.brine[-1]) == pytest.approx(whole, rel=2e-3)


def test_four_times_as_thick_takes_sixteen_times_as_long():
    thin, thick = (hours_even(make_body(size, 0.0), 5.0, 0.2, 4e-10, None) for size in (15.0, 60.0))
    assert thick / thin == pytest.approx(16.0, rel=0.02)


def test_a_middle_that_never_comes_there_says_so():
    assert hours_until(make_body(30.0, 0.0), 5.0, 0.2, 6.0, 4e-10, None) is None
    found = asked(
        school="equilibrium", meat_g=1000, water_g=1000, salt_pct=1.0, size={"kind": "slab", "thickness_mm": 30},
        want_pct=4.0,
    )  # fmt: skip
    assert found.hours_to_want is None
    assert any("never comes to 4 %" in text for text in found.warnings)


def test_prawns_take_a_quarter_of_an_hour():
    """Common practice: 55 g of salt and 25 g of sugar in a litre, 15 min: about 1 % in the prawn."""
    found = asked(
        school="gradient", meat_g=900, water_g=1000, salt_g=55, sugar_g=25, flesh="shellfish", hours=0.25, temp_c=4,
        size={"kind": "cylinder", "diameter_mm": 17},
    )  # fmt: skip
    assert 0.7 <= found.mean_salt_pct <= 1.6
    assert found.sugar_pct_brine == pytest.approx(100 * 25 / 1080, abs=0.01)


@pytest.mark.parametrize(("size_mm", "low_h", "high_h"), [(17, 0.1, 1.0), (28, 2, 12), (60, 6, 48), (140, 48, 500)])
def test_from_prawns_over_chops_and_ribs_to_hams_it_is_one_model(size_mm, low_h, high_h):
    """Common practice: prawns a quarter of an hour, chops some hours, ribs a day, hams days, in a brine of 5 %: hours
    until the mean is 1 %."""
    flesh = "shellfish" if size_mm < 20 else "meat"
    body = make_body(float(size_mm), 1.0 if size_mm < 20 else 0.6)
    row = salt_data().diffusivity[flesh]
    course = soak(body, row.salt_pct / row.water_share, 5.3, 3600.0 * 600, row.diffusivity(4.0))
    times = np.linspace(0, 3600.0 * 600, 200_000)
    hours = float(times[np.argmax(course.mean(times) * row.water_share >= 1.0)]) / 3600.0
    assert low_h <= hours <= high_h


def test_a_curing_brine_of_five_per_cent_for_a_day():
    """Common practice: a rib of 35 mm is seasoned through by a day or two, and not yet even."""
    found = asked(
        school="gradient", meat_g=2000, water_g=2500, salt_pct=5, hours=24, temp_c=4,
        size={"kind": "slab", "thickness_mm": 35}, cure={"grams": 12, "nitrite_pct": 6.25}, pickup_pct=8,
    )  # fmt: skip
    assert 1.0 <= found.mean_salt_pct <= 2.6
    assert found.centre_salt_pct < found.mean_salt_pct
    assert found.hours_to_equilibrium > 24


def test_warmer_is_quicker():
    cold, warm = (
        asked(school="gradient", meat_g=1000, water_g=1000, salt_pct=6, hours=2, temp_c=t, flesh="fish",
              size={"kind": "slab", "thickness_mm": 25}).mean_salt_pct
        for t in (2, 15)
    )  # fmt: skip
    assert warm > cold


def test_soaking_back_takes_salt_out_again():
    keys = {
        "school": "gradient", "meat_g": 1500, "water_g": 3000, "salt_pct": 12, "hours": 36,
        "size": {"kind": "slab", "thickness_mm": 40},
    }  # fmt: skip
    salted = asked(**keys)
    back = asked(**keys, soak={"hours": 12, "water_g": 6000})
    assert 0 < back.after_soak_pct < salted.mean_salt_pct
    longer = asked(**keys, soak={"hours": 24, "water_g": 6000})
    assert longer.after_soak_pct < back.after_soak_pct


def test_equilibrium_is_a_share_of_meat_and_water():
    found = asked(
        school="equilibrium", meat_g=2000, water_g=1000, salt_pct=1.5, size={"kind": "slab", "thickness_mm": 30}
    )
    assert found.salt_g == pytest.approx(45.0)
    assert found.salt_pct_meat == pytest.approx(1.5)
    long = asked(
        school="equilibrium", meat_g=2000, water_g=1000, salt_pct=1.5, size={"kind": "slab", "thickness_mm": 30},
        hours=2000,
    )  # fmt: skip
    assert long.centre_salt_pct == pytest.approx(long.salt_pct_even, abs=0.02), "it stays there, however long"


def test_dry_salt_goes_all_in():
    found = asked(school="dry", meat_g=1000, salt_pct=2.2, size={"kind": "slab", "thickness_mm": 30}, hours=700)
    assert found.mean_salt_pct == pytest.approx(2.2 + 0.2 * 0.9, abs=0.25)
    assert found.salt_pct_brine is None


def test_injected_is_even_at_once_and_no_longer_intact():
    found = asked(school="injected", meat_g=5000, water_g=1000, salt_pct=10, pickup_pct=10, hours=1,
                  size={"kind": "general", "thickness_mm": 120, "exponent": 1.2})  # fmt: skip
    assert found.hours_to_equilibrium == 0.0
    assert found.centre_salt_pct == pytest.approx(found.mean_salt_pct, abs=0.01)
    assert any("non-intact" in text for text in found.cautions)


def test_what_was_bought_treated_is_not_brined_again():
    assert any("not brined again" in text for text in asked(
        school="equilibrium", meat_g=1000, water_g=500, salt_pct=1, treated=True).warnings)  # fmt: skip


def test_a_size_from_its_mass_needs_the_cut():
    with pytest.raises(BadInput, match="needs the cut"):
        asked(school="dry", meat_g=1000, salt_pct=2, size={"kind": "from_mass"})
    found = asked(school="dry", meat_g=6000, salt_pct=2, size={"kind": "from_mass"}, cut="ham/whole")
    assert found.hours_to_equilibrium > 24 * 7, "a ham takes weeks"


# The verb ------------------------------------------------------------------------------------------------------------

BASE = {
    "format": "open-ember/brine", "version": 1, "school": "equilibrium", "meat_g": 1000, "water_g": 800,
    "salt_pct": 1.4,
}  # fmt: skip


def told(data):
    return json.loads(HANDLERS["brine"](data))


def test_the_answer_has_the_contracts_keys():
    found = told(
        {**BASE, "cure": {"grams": 3, "nitrite_pct": 6.25}, "size": {"kind": "slab", "thickness_mm": 30}, "hours": 24}
    )
    for key in ("salt_pct_meat", "salt_pct_brine", "nitrite_ppm", "limit_ppm", "allowed", "why", "centre_salt_pct",
                "hours_to_equilibrium"):  # fmt: skip
        assert found[key] is not None


@pytest.mark.parametrize(
    ("change", "at"),
    [
        ({"school": "wet"}, "school"), ({"meat_g": 0}, "meat_g"), ({"salt_pct": None}, ""), ({"salt_g": 5}, ""),
        ({"cure": {"grams": -1, "nitrite_pct": 5}}, "cure.grams"), ({"standard": "x"}, "standard"),
        ({"water_g": 0}, ""),
        ({"x": 1}, "x"), ({"cut": "beef/soup"}, "piece.cut"), ({"size": {"kind": "slab"}}, "size.thickness_mm"),
    ],
)  # fmt: skip
def test_wrong_input_is_named(change, at):
    with pytest.raises(BadInput) as refused:
        told({**BASE, **change})
    assert refused.value.at == at


NUMBERS = st.one_of(st.floats(-10, 1e4), st.integers(0, 5000))


@given(
    school=st.sampled_from(["equilibrium", "gradient", "dry", "injected"]),
    keys=st.dictionaries(
        st.sampled_from(["meat_g", "water_g", "sugar_g", "hours", "temp_c", "pickup_pct", "want_pct", "salt_pct"]),
        NUMBERS, max_size=5,
    ),
    size=st.one_of(st.none(), st.fixed_dictionaries({"kind": st.just("slab"), "thickness_mm": st.floats(0, 700)})),
)  # fmt: skip
@settings(max_examples=80, deadline=None)
def test_whatever_is_asked_there_is_an_answer_or_a_reason(school, keys, size):
    data = {**BASE, "school": school, **keys} | ({"size": size} if size else {})
    try:
        found = told(data)
    except BadInput as error:
        found = error.as_json()
    assert found
    assert "NaN" not in json.dumps(found)
    assert "Infinity" not in json.dumps(found)


def test_spoons_are_a_weighing_with_its_error():
    """Common practice: a level tablespoon is 18 g of fine table salt, and half of that of light flakes."""
    spoons = salt_data().spoon
    assert spoons["fine"].g_tbsp / spoons["flakes"].g_tbsp == pytest.approx(2.0)
    assert all(0 < row.off_g < row.g_tbsp for row in spoons.values())
    assert set(words()["schools"]) == {"equilibrium", "gradient", "dry", "injected"}


def test_the_schema_takes_it():
    import jsonschema

    jsonschema.validate(BASE, schemas()["brine"]())
    jsonschema.validate(told(BASE), schemas()["brine-answer"]())


@pytest.mark.parametrize("school", ["equilibrium", "dry", "injected"])
def test_the_same_salt_by_another_method_is_the_same_salt(school):
    """By the simple calculation: shared evenly, rubbed in, or taken up."""
    request = {"format": "open-ember/brine", "version": 1, "school": "equilibrium", "meat_g": 1000.0, "water_g": 900.0,
               "salt_pct": 1.8, "temp_c": 4.0}  # fmt: skip
    answer = answer_brine(parse_brine(with_method(request, school, 1.8)))
    assert answer.salt_pct_meat == pytest.approx(1.8, rel=0.02)
