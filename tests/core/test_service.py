"""Back-planning: what must hold holds, small cases against every plan there is, a published benchmark, wrong input."""

from __future__ import annotations

import datetime as dt
import itertools
import random

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from ember.bench.service_made import made_service
from ember.errors import BadInput
from ember.files.service import parse_service
from ember.service.answer import may_begin, plan_service
from ember.service.check import broken
from ember.service.problem import make_problem
from ember.service.reading import waits_of

NOW = dt.datetime(2031, 5, 7, 12, 0, tzinfo=dt.timezone(dt.timedelta(hours=2)))


def clock(minutes):
    return (NOW + dt.timedelta(minutes=minutes)).isoformat()


def task(name, minutes, *uses, **more):
    return {"id": name, "minutes": minutes, "uses": list(uses), **more}


def use(equipment, setting_c=None, amount=1, **more):
    return {"equipment": equipment, "amount": amount, **({"setting_c": setting_c} if setting_c else {}), **more}


def asked(dishes, equipment=(), **more):
    """A service of {dish: (plate-up in minutes from now, tasks)}."""
    rows = [{"id": key, "plate_up": clock(at), "tasks": tasks} for key, (at, tasks) in dishes.items()]
    data = {"format": "open-ember/service", "version": 1, "now": NOW.isoformat(), "dishes": rows, "explain": False}
    return parse_service(data | {"equipment": list(equipment)} | more)


def planned(dishes, equipment=(), **more):
    return plan_service(asked(dishes, equipment, **more))


def starts_of(request, answer):
    """Starts by step of a problem, as an answer tells them."""
    problem = make_problem(request)
    told = {(row.dish, row.id, row.n): row.start for row in answer.tasks}
    return problem, {s.index: problem.at_down(told[s.dish.id, s.task.id, s.n]) for s in problem.steps}


def at(answer, name, n=0):
    """Minutes from now of a task's start."""
    row = next(row for row in answer.tasks if row.id == name and row.n == n)
    return (row.start - NOW).total_seconds() / 60


OVEN = {"id": "oven", "kind": "oven", "capacity": 2}
HANDS = {"id": "hands", "kind": "hands", "capacity": 1}


# By hand ----------------------------------------------------------------------------------------------------------


def test_backwards_from_the_plate():
    """Roast 60, rest at once for 20, carve 10: up at 18:00, in at 16:30, and nothing waits."""
    tasks = [task("roast", 60), task("rest", 20, after=["roast"], max_gap_min=0), task("carve", 10, after=["rest"])]
    found = planned({"bird": (360, tasks)})
    assert (at(found, "roast"), at(found, "rest"), at(found, "carve")) == (270, 330, 350)
    assert (found.status, found.objective, found.gap) == ("optimal", 0, 0)


def test_one_pair_of_hands_carves_one_after_the_other():
    """Two plates of 10 min at the same time and one pair of hands: one waits 10 min."""
    dishes = {key: (120, [task("plate", 10, use("hands"))]) for key in ("a", "b")}
    found = planned(dishes, [HANDS])
    assert sorted((row.start - NOW).total_seconds() / 60 for row in found.tasks) == [100, 110]
    assert found.objective == 10
    fresh = {"a": (120, [task("plate", 10, use("hands"), freshness=5)]), "b": dishes["b"]}
    assert next(row.waits_min for row in planned(fresh, [HANDS]).tasks if row.dish == "a") == 0


def test_an_oven_is_one_temperature_at_a_time_and_takes_its_time():
    """180 and 120 °C in one oven: it falls 60 K at 4 K a minute in 15 min, or climbs at 12 in 5."""
    oven = OVEN | {"heat_c_per_min": 12, "cool_c_per_min": 4}
    dishes = {
        "hot": (300, [task("hot", 30, use("oven", 180))]),
        "low": (300, [task("low", 40, use("oven", 120))]),
    }  # fmt: skip
    found = planned(dishes, [oven])
    assert found.objective == 35, "low first, then 5 min up: better than hot first, then 15 min down"
    assert (at(found, "low"), at(found, "hot")) == (225, 270)
    assert [row.setting_c for row in found.settings] == [120, 180]
    assert found.setting_changes == 1
    together = planned(dishes, [oven | {"setting_tolerance_c": 60}])
    assert together.objective == 0


def test_the_first_setting_takes_its_time_too():
    """From 20 °C to 200 at 12 K a minute: 15 min from now on."""
    oven = OVEN | {"start_c": 20, "heat_c_per_min": 12}
    dish = {"pie": (60, [task("bake", 45, use("oven", 200))])}
    assert at(planned(dish, [oven]), "bake") == 15
    assert planned({"pie": (59, dish["pie"][1])}, [oven]).status == "infeasible"


def test_basting_every_forty_minutes_while_it_roasts():
    """165 min: at 40, 80, 120 and 160; with slack hands may be a little off."""
    roast = [task("roast", 165), task("baste", 3, use("hands"), during={"task": "roast", "every_min": 40})]
    found = planned({"goose": (200, roast)}, [HANDS])
    assert [at(found, "baste", n) - at(found, "roast") for n in (1, 2, 3, 4)] == [40, 80, 120, 160]
    busy = {"goose": (165, roast), "sauce": (60, [task("whisk", 25, use("hands"), max_wait_min=0)])}
    assert planned(busy, [HANDS]).status == "infeasible", "whisking from 35 to 60 meets the baste at 40"
    roast[1]["during"]["slack_min"] = 20
    assert planned(busy, [HANDS]).status == "optimal"


def test_what_ends_and_begins_together_does_to_the_minute():
    tasks = [task("roast", 90), task("dumplings", 35, ends_with="roast"), task("roots", 50, starts_with="roast")]
    found = planned({"bird": (180, tasks)})
    assert at(found, "dumplings") == at(found, "roast") + 55
    assert at(found, "roots") == at(found, "roast")


def test_hands_are_there_in_their_shifts():
    """Hands from 14:00 on: what is cut at 13:00 waits for them; over night nothing is begun."""
    hands = HANDS | {"shifts": [[clock(120), clock(300)], [clock(1400), clock(1500)]]}
    assert at(planned({"a": (1400, [task("cut", 30, use("hands"))])}, [hands]), "cut") == 270
    assert planned({"a": (149, [task("cut", 30, use("hands"))])}, [hands]).status == "infeasible"
    assert planned({"a": (150, [task("cut", 30, use("hands"))])}, [hands]).status == "optimal"


def test_hands_only_at_the_beginning_or_the_end():
    """Two roasts of an hour want hands for 2 min each to go in: one pair does for both."""
    dishes = {
        key: (240, [task("roast", 60, use("oven", 180), use("hands", first_min=2), max_wait_min=5)])
        for key in ("a", "b")
    }
    found = planned(dishes, [OVEN, HANDS])
    assert found.objective == 2
    late = {key: (240, [task("roast", 60, use("hands", last_min=2), max_wait_min=1)]) for key in ("a", "b")}
    assert planned(late, [HANDS]).status == "infeasible"


def test_chilled_food_may_wait_for_days_and_hot_food_may_not():
    tasks = [task("braise", 600, use("hands", first_min=10)), task("glaze", 15, after=["braise"], max_wait_min=30)]
    hands = HANDS | {"shifts": [[clock(0), clock(60)]]}
    assert planned({"rib": (3000, [tasks[0] | {"max_wait_min": 60}, tasks[1]])}, [hands]).status == "infeasible"
    assert planned({"rib": (3000, [tasks[0] | {"chilled_wait_max_min": 2880}, tasks[1]])}, [hands]).status == "optimal"


def test_where_a_hand_put_it_it_stays_and_the_rest_follows():
    tasks = [task("roast", 60), task("rest", 20, after=["roast"], max_gap_min=0), task("carve", 10, after=["rest"])]
    tasks[0]["at"] = clock(200)
    found = planned({"bird": (360, tasks)})
    assert (at(found, "roast"), at(found, "rest")) == (200, 260)
    tasks[0]["at"] = clock(290)
    assert planned({"bird": (360, tasks)}).status == "infeasible"


def test_from_when_to_when_a_task_may_begin():
    """Roast 60, rest 20 at once, carve 10 that waits 15 at most, up at 360 from now: from 255 to 270."""
    tasks = [task("roast", 60), task("rest", 20, after=["roast"], max_gap_min=0),
             task("carve", 10, after=["rest"], max_wait_min=15)]  # fmt: skip
    tasks[1]["max_wait_min"] = 0
    first, last = may_begin(asked({"bird": (360, tasks)}), "bird", "roast")
    assert [(moment - NOW).total_seconds() / 60 for moment in (first, last)] == [255, 270]
    assert may_begin(asked({"bird": (360, tasks)}), "bird", "fry") is None
    assert may_begin(asked({"bird": (80, tasks)}), "bird", "roast") is None


def test_a_task_of_another_dish_is_gone_by():
    dishes = {
        "meat": (120, [task("sear", 8)]),
        "sauce": (120, [task("deglaze", 6, after=["meat:sear"], max_gap_min=2)]),
    }
    found = planned(dishes)
    assert at(found, "deglaze") - at(found, "sear") in (8, 9, 10)


# What must hold, and nothing better ---------------------------------------------------------------------------------


@pytest.mark.parametrize(("dishes", "seed"), [(3, 1), (6, 2), (9, 3), (12, 4), (12, 5), (12, 6)])
def test_a_made_service_breaks_nothing(dishes, seed):
    """Held limit by limit by code that does not know the solver."""
    request = parse_service(made_service(dishes, seed))
    answer = plan_service(request)
    problem, starts = starts_of(request, answer)
    assert broken(problem, starts) == []
    assert max(row.end for row in answer.tasks) <= max(dish.plate_up for dish in request.dishes)


@st.composite
def small(draw):
    """Two or three dishes of one or two tasks on one oven and one pair of hands, half an hour apart."""
    dishes = {}
    for i in range(draw(st.integers(2, 3))):
        one = task("cook", draw(st.integers(1, 4)), use("oven", draw(st.sampled_from([100, 130]))))
        rows = [one]
        if draw(st.booleans()):
            rows.append(task("plate", draw(st.integers(1, 2)), use("hands"), after=["cook"], **draw(_GAPS)))
        if draw(st.booleans()):
            rows[-1]["max_wait_min"] = draw(st.integers(0, 3))
        dishes[f"d{i}"] = (draw(st.integers(6, 9)), rows)
    oven = {
        "id": "oven",
        "kind": "oven",
        "capacity": draw(st.integers(1, 2)),
        "heat_c_per_min": 30,
        "cool_c_per_min": 15,
    }
    return dishes, [oven, HANDS]


_GAPS = st.sampled_from([{}, {"max_gap_min": 0}, {"max_gap_min": 2}])


def least_by_trying(request):
    """The least waiting of all plans there are, by trying every start of every step; None where none holds."""
    problem = make_problem(request)
    least = None
    ranges = [range(step.lo, step.hi - step.length + 1) for step in problem.steps]
    for starts in itertools.product(*ranges):
        there = dict(enumerate(starts))
        if any(starts[row.after] < starts[row.before] + problem.steps[row.before].length for row in problem.follows):
            continue
        if broken(problem, there):
            continue
        waiting = sum(waits_of(problem, there).values())
        least = waiting if least is None else min(least, waiting)
    return least


@settings(max_examples=40, deadline=None, derandomize=True)
@given(small())
def test_no_plan_of_all_there_are_waits_less(case):
    request = asked(*case)
    answer = plan_service(request)
    least = least_by_trying(request)
    assert answer.objective == least
    assert (answer.status == "infeasible") is (least is None)


def test_of_two_plans_that_wait_as_long_the_calmer_oven():
    """Four bakes at two settings, each plated an hour after the one before: like with like where it costs nothing."""
    dishes = {f"d{i}": (600, [task("bake", 30, use("oven", 150 if i % 2 else 200), freshness=0)]) for i in range(4)}
    assert planned(dishes, [OVEN | {"capacity": 1}]).setting_changes == 1


def test_hands_are_spread_where_it_costs_nothing():
    """Four jobs nobody waits for: never two pairs of hands at once, though there are three."""
    dishes = {f"d{i}": (600, [task("peel", 20, use("hands"), freshness=0)]) for i in range(4)}
    assert planned(dishes, [HANDS | {"capacity": 3}]).hands_peak == 1


# A published benchmark ----------------------------------------------------------------------------------------------


def j30_1(path):
    """Jobs as {number: (minutes, uses by resource, successors)} and the resources' capacities, of a .sm file."""
    lines = path.read_text().splitlines()
    first = next(i for i, line in enumerate(lines) if line.startswith("PRECEDENCE")) + 2
    times = next(i for i, line in enumerate(lines) if line.startswith("REQUESTS")) + 3
    room = next(i for i, line in enumerate(lines) if line.startswith("RESOURCEAVAIL")) + 2
    after = {int(row[0]): [int(v) for v in row[3:]] for row in (line.split() for line in lines[first : first + 32])}
    rows = [[int(v) for v in line.split()] for line in lines[times : times + 32]]
    return {r[0]: (r[2], r[3:], after[r[0]]) for r in rows}, [int(v) for v in lines[room].split()]


def test_the_known_best_of_a_published_benchmark(request):
    """PSPLIB j301_1 (Kolisch and Sprecher 1997), as shipped with the MIT-licensed source package psplib 0.4.0: its
    optimal makespan is 43 (PSPLIB's table of optima; from memory). In 43 minutes it can be done, in 42 it cannot.
    """
    jobs, room = j30_1(request.path.parent / "data" / "j301_1.sm")
    before = {number: [a for a, row in jobs.items() if number in row[2]] for number in jobs}
    equipment = [{"id": f"R{k}", "kind": "shelf", "capacity": most} for k, most in enumerate(room)]
    tasks = [
        task(
            str(n),
            minutes,
            *(use(f"R{k}", amount=a) for k, a in enumerate(uses) if a),
            after=[str(b) for b in before[n]],
        )
        for n, (minutes, uses, _) in jobs.items()
    ]
    assert planned({"project": (43, tasks)}, equipment).status in ("optimal", "feasible")
    assert planned({"project": (42, tasks)}, equipment).status == "infeasible"


# Replanning ---------------------------------------------------------------------------------------------------------


def test_what_has_begun_stays_and_the_rest_moves_as_little_as_it_must():
    """A roast that is 20 min late moves its rest and its carving; the other dish stays where it was."""
    was = {"rest": clock(200), "carve": clock(220), "soup": clock(150)}
    late = [
        task("roast", 140, started=clock(-60), ended=clock(80)) | {"minutes": 160},
        task("rest", 20, after=["roast"], max_gap_min=0, was=was["rest"]),
        task("carve", 10, use("hands"), after=["rest"], was=was["carve"]),
    ]  # fmt: skip
    del late[0]["ended"]
    soup = [task("soup", 30, use("hands"), was=was["soup"])]
    found = planned({"bird": (400, late), "soup": (400, soup)}, [HANDS])
    assert at(found, "roast") == -60
    assert at(found, "soup") == 150
    assert at(found, "rest") == 100
    assert found.moved_min == 100, "the rest follows at once; the carving stays"


def test_an_overdue_task_is_over_now_at_the_earliest():
    found = planned({"a": (60, [task("roast", 30, started=clock(-50)), task("rest", 5, after=["roast"])])})
    roast = next(row for row in found.tasks if row.id == "roast")
    assert roast.end == NOW
    assert at(found, "rest") >= 0


def test_a_stage_that_began_the_moment_another_ended_does_not_overlap_it():
    """Taps fall between the minutes of the grid: the end of one stage is the start of the next, to the second."""
    turned = clock(-30.35)
    tasks = [
        task("sear", 6, started=clock(-36.2), ended=turned), task("oven", 40, after=["sear"], started=turned),
        task("rest", 5, after=["oven"]),
    ]  # fmt: skip
    found = planned({"a": (60, tasks)})
    assert found.status == "optimal"
    assert at(found, "oven") == pytest.approx(-31, abs=1)


def test_replanning_a_whole_evening_moves_nothing_that_need_not():
    request = parse_service(made_service(12, 4))
    first = plan_service(request)
    told = {(row.dish, row.id): row.start.isoformat() for row in first.tasks if row.n == 0}
    data = made_service(12, 4)
    for dish in data["dishes"]:
        for row in dish["tasks"]:
            row["was"] = told.get((dish["id"], row["id"]))
    again = plan_service(parse_service(data | {"seconds": 1}))
    assert again.moved_min == 0


# No plan: what clashes, what would fit ------------------------------------------------------------------------------


def clash_of(dishes, equipment=(), **more):
    found = planned(dishes, equipment, explain=True, **more)
    assert found.status == "infeasible"
    return found.conflict


def test_two_settings_in_one_oven_and_each_way_out_was_tried():
    dishes = {
        "bird": (300, [task("roast", 120, use("oven", 160), max_wait_min=0)]),
        "potatoes": (300, [task("potatoes", 60, use("oven", 200), max_wait_min=0,
                                other_settings=[{"setting_c": 160, "minutes": 80}])]),
        "soup": (300, [task("soup", 20, use("oven", 160))]),
    }  # fmt: skip
    ovens = [OVEN, {"id": "oven-2", "kind": "oven", "capacity": 1, "name": "Oven 2"}]
    found = clash_of(dishes, ovens)
    assert found.tasks == ["bird:roast", "potatoes:potatoes"]
    assert found.equipment == ["oven"]
    assert found.text == "oven is wanted at 160 and 200 °C at once: roast and potatoes."
    texts = [fit.text for fit in found.would_fit]
    assert "potatoes in Oven 2" in texts
    assert "roast in Oven 2" in texts
    assert "potatoes at 160 °C, 20 min longer" in texts
    assert any("later" in text for text in texts)
    assert [fit.price_min for fit in found.would_fit] == sorted(fit.price_min for fit in found.would_fit)


def test_too_few_hands_and_the_least_that_is_later():
    dishes = {key: (60, [task("plate", 10, use("hands"), max_wait_min=5)]) for key in ("a", "b")}
    found = clash_of(dishes, [HANDS])
    assert "not enough cooks (1)" in found.text
    later = [fit for fit in found.would_fit if "plate_up" in fit.change]
    assert {fit.price_min for fit in later} == {5}
    assert any(fit.text == "One more cook" for fit in found.would_fit)


def test_of_two_clashes_one_is_told_with_what_settles_it():
    """Two ovens, each wanted twice: one clash at a time, and it is said that another remains."""
    ovens = [OVEN, {"id": "deck", "kind": "deck-oven", "capacity": 2}]
    dishes = {
        f"{oven}-{celsius}": (300, [task("bake", 60, use(oven, celsius), max_wait_min=0)])
        for oven in ("oven", "deck") for celsius in (160, 200)
    }  # fmt: skip
    found = clash_of(dishes, ovens)
    assert len(found.equipment) == 1
    assert len(found.tasks) == 2
    single = [fit for fit in found.would_fit if "plate_ups" not in fit.change]
    assert single
    assert not any(fit.settles_all for fit in single)


def with_plates(dishes, change):
    """The dishes with the plate-ups of a way out, minutes from the start of the clock."""
    begins = dt.datetime.fromisoformat(clock(0))
    late = {key: (dt.datetime.fromisoformat(at) - begins).total_seconds() / 60 for key, at in change.items()}
    return {key: (late.get(key, plate), tasks) for key, (plate, tasks) in dishes.items()}


def test_plates_that_clash_alone_are_staggered():
    dishes = {key: (60, [task("plate", 10, use("hands"), max_wait_min=2)]) for key in ("a", "b", "c")}
    found = clash_of(dishes, [HANDS])
    stagger = next(fit for fit in found.would_fit if "plate_ups" in fit.change)
    assert stagger.text.startswith("Stagger the plates: ")
    assert len(stagger.change["plate_ups"]) == 2
    assert stagger.price_min == 8 + 18  # ten minutes of hands each, of which two may be waited
    answer = planned(with_plates(dishes, stagger.change["plate_ups"]), [HANDS])
    assert answer.status != "infeasible"


def test_where_nothing_small_would_do_it_is_said_what_large_would():
    """Eight tasks of an hour for one pair of hands, all up together: hours later, or many more hands."""
    dishes = {f"d{i}": (70, [task("carve", 60, use("hands"), max_wait_min=0)]) for i in range(8)}
    found = clash_of(dishes, [HANDS])
    assert found.would_fit
    assert all(fit.large == fit.settles_all for fit in found.would_fit)
    assert any("more cooks" in fit.text for fit in found.would_fit)
    stagger = next(fit for fit in found.would_fit if "plate_ups" in fit.change)
    answer = planned(with_plates(dishes, stagger.change["plate_ups"]), [HANDS])
    assert answer.status != "infeasible"


def test_tasks_that_cannot_be_get_an_honest_answer():
    first, then = task("rest", 30, max_wait_min=0), task("carve", 10, after=["rest"], at=clock(90))
    found = clash_of({"a": (200, [first | {"at": clock(10)}, then])})
    assert found.would_fit[-1].large
    assert "Change the plan" in found.would_fit[-1].text


def test_of_many_that_clash_a_few_are_named():
    dishes = {f"d{i}": (60, [task("plate", 20, use("hands"), max_wait_min=5)]) for i in range(9)}
    found = clash_of(dishes, [HANDS | {"capacity": 7}])
    assert len(found.tasks) == 8
    assert found.text.endswith("plate (d4) and 4 more in that time.")


def test_too_late_to_begin():
    """It takes longer than there is: said with how much, and no equipment is blamed."""
    found = clash_of({"bird": (100, [task("roast", 90), task("rest", 30, after=["roast"])])}, [OVEN])
    assert found.equipment == []
    assert "bird takes 20 min longer than there is" in found.text
    assert [fit.price_min for fit in found.would_fit] == [20]


def test_tasks_that_contradict_each_other():
    tasks = [task("a", 10), task("b", 20, starts_with="a", after=["a"])]
    assert "contradict" in clash_of({"x": (100, tasks)}).text


# Wrong input --------------------------------------------------------------------------------------------------------


@pytest.mark.parametrize(
    ("change", "words"),
    [
        ({"tasks": [task("a", 5, after=["b"])]}, "no task “b”"),
        ({"tasks": [task("a", 5, after=["b"]), task("b", 5, after=["a"])]}, "wait for each other"),
        ({"tasks": [task("a", 5, after=["a"])]}, "wait for each other"),
        ({"tasks": [task("a", 5), task("a", 6)]}, "there twice"),
        ({"tasks": [task("a", 5, use("grill"))]}, "not among the equipment"),
        ({"tasks": [task("a", 5, use("oven", amount=9))]}, "wants 9"),
        ({"tasks": [task("a", -1)]}, "at least 0"),
        ({"tasks": [task("a", 5, during={"task": "a", "every_min": 3}, after=["a"])]}, "has its times from it"),
        ({"tasks": []}, "at least 1"),
        ({"plate_up": "2031-05-07T12:00"}, "timezone"),
        ({"plate_up": clock(60 * 24 * 20)}, "more than 14 days"),
    ],
)
def test_wrong_input_says_what(change, words):
    data = {"id": "d", "plate_up": clock(60), "tasks": [task("a", 5)], **change}
    request = {"format": "open-ember/service", "version": 1, "now": NOW.isoformat(), "dishes": [data]}
    with pytest.raises(BadInput, match=words):
        plan_service(parse_service(request | {"equipment": [OVEN]}))


def test_halves_of_minutes_and_other_time_zones():
    """A time zone of its own for the plate, seconds in a length: the same moment, no drift."""
    there = (NOW + dt.timedelta(minutes=30)).astimezone(dt.timezone(dt.timedelta(hours=-5)))
    dish = {"id": "egg", "plate_up": there.isoformat(), "tasks": [task("boil", 6.25)]}
    request = {"format": "open-ember/service", "version": 1, "now": NOW.isoformat(), "dishes": [dish]}
    found = plan_service(parse_service(request))
    assert found.tasks[0].end == there
    assert (found.tasks[0].end - found.tasks[0].start).total_seconds() == 375


def test_slack_is_what_one_task_alone_may_be_late():
    tasks = [task("boil", 10), task("peel", 10, after=["boil"], max_wait_min=15, not_before=clock(70))]
    found = planned({"eggs": (100, tasks)})
    by_id = {row.id: row.slack_min for row in found.tasks}
    assert by_id == {"boil": 0, "peel": 0}
    early = plan_service(asked({"eggs": (100, [task("boil", 10, was=clock(20))])}))
    assert early.tasks[0].slack_min == 70


def test_random_services_never_break_the_command_line():
    """Whatever is asked, an answer or a named error."""
    rng = random.Random(3)
    for _ in range(30):
        rows = []
        for k in range(5):
            uses = [use("oven", rng.choice([100, 180]))] if rng.random() < 0.5 else []
            after = [f"t{rng.randrange(5)}"] if rng.random() < 0.4 else []
            rows.append(task(f"t{k}", rng.choice([0, 1, 7, 90]), *uses, after=after))
            if rng.random() < 0.3:
                rows[-1]["max_wait_min"] = rng.choice([0, 5])
        try:
            found = planned({"x": (rng.choice([0, 30, 300]), rows)}, [OVEN], seconds=0.5)
        except BadInput:
            continue
        assert found.status in ("optimal", "feasible", "infeasible")
