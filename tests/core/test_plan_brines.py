"""A brine stage with a recipe: salt and nitrite for the plan's own meat, and what stands against starting it."""

from __future__ import annotations

import pytest

from ember.cure.answer import answer_brine
from ember.cure.mixing import equilibrium_ppm, scaled
from ember.errors import BadInput
from ember.evaluate import evaluate
from ember.files.brine import parse_brine
from ember.food.catalogue import cut
from ember.report.brines import refused
from ember.track.full_steps import full_steps_of

from .plans import plan

RECIPE = {
    "format": "open-ember/brine", "version": 1, "school": "equilibrium", "meat_g": 2400, "water_g": 1500,
    "salt_pct": 1.5, "cure": {"grams": 9, "nitrite_pct": 6.25},
}  # fmt: skip
BATH = {"kind": "bath", "water_c": 60, "minutes": 70}


def brined(recipe, *, mass_g=300, count=8, minutes=1440, form="liquid", **piece):
    stage = {"kind": "brine", "minutes": minutes, "form": form, "recipe": recipe}
    return plan([stage, BATH], "pork/chop", mass_g=mass_g, count=count, **piece)


def test_nitrite_is_the_formula_of_its_school():
    out = evaluate(brined(RECIPE)).brines[0]
    assert out.nitrite_ppm == pytest.approx(equilibrium_ppm(9, 0.0625, 2400, 1500), abs=0.01)
    assert (out.allowed, out.fits, refused(out)) == (True, True, "")


def test_the_middle_is_saltier_the_longer_the_stage_and_the_thinner_the_piece():
    def middle(minutes, mm):
        found = brined(RECIPE, minutes=minutes, shape={"kind": "slab", "thickness_mm": mm})
        return evaluate(found).brines[0].centre_salt_pct

    assert middle(300, 40) < middle(1440, 40) < middle(1440, 20)


def test_over_the_limit_is_said_and_refused():
    result = evaluate(brined(RECIPE | {"cure": {"grams": 40, "nitrite_pct": 6.25}}))
    assert "over" in refused(result.brines[0])
    assert "nitrite-over" in [warning.code for warning in result.warnings]


@pytest.mark.parametrize(("mass_g", "fits"), [(300, True), (312, True), (320, False), (280, False)])
def test_curing_salt_is_for_the_meat_it_was_weighed_for(mass_g, fits):
    result = evaluate(brined(RECIPE, mass_g=mass_g))
    assert result.brines[0].fits is fits
    assert bool(refused(result.brines[0])) is not fits
    assert ("brine-meat" in [warning.code for warning in result.warnings]) is not fits


def test_plain_salt_for_other_meat_is_warned_of_and_not_refused():
    plain = {key: value for key, value in RECIPE.items() if key != "cure"}
    result = evaluate(brined(plain, mass_g=400))
    assert [warning.code for warning in result.warnings if warning.code.startswith("brine")] == ["brine-meat"]
    assert refused(result.brines[0]) == ""


def test_what_is_weighed_stands_in_the_step():
    chain = brined(RECIPE)
    step = full_steps_of(chain, evaluate(chain).stages, cut("pork/chop"))[0]
    assert step.how == "50 g salt, 9 g curing salt in 1500 g of water"


@pytest.mark.parametrize(
    ("recipe", "form", "at"),
    [
        (RECIPE, "dry", "stages[0]"),
        (RECIPE | {"school": "dry"}, "liquid", "stages[0]"),
        (RECIPE | {"cure": {"grams": 9, "nitrite_pct": 0}}, "liquid", "stages[0].recipe.cure.nitrite_pct"),
        (RECIPE | {"salt_g": 4}, "liquid", "stages[0].recipe"),
    ],
)
def test_a_recipe_that_cannot_be_is_bad_input_with_its_place(recipe, form, at):
    with pytest.raises(BadInput) as caught:
        brined(recipe, form=form)
    assert caught.value.at == at


def test_injecting_counts_as_injected_not_as_brined():
    injected = RECIPE | {"school": "injected", "salt_pct": 8, "pickup_pct": 12}
    assert "injected" in brined(injected).history
    assert "brined" not in brined(injected).history


@pytest.mark.parametrize("school", ["equilibrium", "dry", "gradient", "injected"])
def test_weighed_for_other_meat_the_parts_per_million_stay(school):
    recipe = RECIPE | {"school": school, "pickup_pct": 10}
    before, after = (answer_brine(parse_brine(found)) for found in (recipe, scaled(recipe, 3700)))
    assert after.nitrite_ppm == pytest.approx(before.nitrite_ppm, rel=2e-3)
    assert after.salt_pct_meat == pytest.approx(before.salt_pct_meat, rel=2e-3)
