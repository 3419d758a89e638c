"""Planning goes on in the worker: a page shows how far it is, may stop it, and a plan for an older menu is dropped."""

from __future__ import annotations

import datetime as dt
from unittest.mock import patch

import pytest
from django.urls import reverse

from ember.service.hearing import Stopped
from kitchen.services import actions, day
from kitchen.services.models import PlanningJob, Service
from kitchen.services.planning import JobHearing, run

from ..planned import planned
from .a_service import add, task
from .pages import body_of


@pytest.fixture
def later(settings):
    """A worker that is busy: jobs wait until they are run."""
    settings.PLANNING_AT_ONCE = False
    with patch("kitchen.services.tasks.plan_soon") as asked:
        yield asked


def newest(service) -> PlanningJob:
    return service.planning_jobs.first()


def test_the_page_waits_for_nothing_and_shows_how_far_it_is(signed_in, later, service, chef, plan, evening):
    add(service, chef, "Strip", plan, evening)
    with patch("kitchen.services.planning.plan_service", side_effect=AssertionError("in the request")):
        body = body_of(signed_in.get(reverse("services:service", args=[service.pk])))
    assert "Waiting for the planner" in body
    assert later.call_count == 1
    url = reverse("services:planning", args=[service.pk])
    JobHearing(newest(service)).say("Looking for the best plan")
    assert "Looking for the best plan" in body_of(signed_in.get(url, headers={"HX-Request": "true"}))
    run(newest(service), JobHearing(newest(service)))
    done = signed_in.get(url, headers={"HX-Request": "true"})
    assert done.headers["HX-Redirect"] == reverse("services:service", args=[service.pk])
    assert Service.objects.get(pk=service.pk).fits


def test_a_plan_for_an_older_menu_is_dropped(later, service, chef, plan, evening):
    dish = add(service, chef, "Strip", plan, evening)
    job = actions.work_out(service, chef)
    actions.put_dish(service, chef, {"portions": 9}, dish)
    run(job, JobHearing(job))
    job.refresh_from_db()
    assert job.state == PlanningJob.State.DROPPED
    assert Service.objects.get(pk=service.pk).schedule is None


def test_a_newer_plan_stops_the_one_before(later, service, chef, plan, evening):
    add(service, chef, "Strip", plan, evening)
    first = actions.work_out(service, chef)
    second = actions.work_out(service, chef)
    first.refresh_from_db()
    assert first.stop
    assert not second.stop
    run(first, JobHearing(first))
    first.refresh_from_db()
    assert first.state == PlanningJob.State.STOPPED


def test_the_stop_button_stops_it_and_it_is_said(signed_in, later, service, chef, plan, evening):
    add(service, chef, "Strip", plan, evening)
    job = actions.work_out(service, chef)
    signed_in.post(reverse("services:stop", args=[service.pk]))
    run(job, JobHearing(job))
    body = body_of(signed_in.get(reverse("services:service", args=[service.pk])))
    assert "Stopped: there is no plan yet." in body
    assert ">Plan<" in body


def test_it_is_run_once_however_many_workers_take_it(later, service, chef, plan, evening):
    add(service, chef, "Strip", plan, evening)
    job = actions.work_out(service, chef)
    run(job, JobHearing(job))
    with patch("kitchen.services.planning.plan_service", side_effect=AssertionError("twice")):
        run(PlanningJob.objects.get(pk=job.pk), None)
    assert PlanningJob.objects.get(pk=job.pk).state == PlanningJob.State.DONE


def test_a_planner_that_died_is_told_and_asked_again(signed_in, later, service, chef, plan, evening):
    add(service, chef, "Strip", plan, evening)
    job = actions.work_out(service, chef)
    PlanningJob.objects.filter(pk=job.pk).update(begun_at=job.begun_at - dt.timedelta(minutes=5))
    body = body_of(signed_in.get(reverse("services:service", args=[service.pk])))
    assert "The planner stopped responding" in body
    signed_in.post(reverse("services:plan", args=[service.pk]))
    assert later.call_count == 2


def test_a_service_is_not_sent_while_it_is_planned(two, later, chef):
    actions.work_out(two, chef)
    with pytest.raises(actions.ServiceError, match="being planned"):
        day.begin(two, chef)


def test_what_does_not_fit_is_put_back(two, chef):
    oven = task(two, "Rump, oven")
    dish = two.dishes.get(pk=oven.dish)
    job = actions.choose(two, chef, dish, "s0", {"at": (oven.start + dt.timedelta(hours=3)).isoformat()})
    assert job.state == PlanningJob.State.REFUSED
    assert "can start" in job.problem
    dish.refresh_from_db()
    assert dish.choice("s0") == {}
    assert task(Service.objects.get(pk=two.pk), "Rump, oven").start == oven.start


def test_ways_out_are_taken_back_one_after_the_other(signed_in, clash, chef):
    before = actions.planning.snapshot(clash)
    taken = 0
    while not Service.objects.get(pk=clash.pk).fits and taken < 2:
        signed_in.post(reverse("services:way-out", args=[clash.pk]), {"number": "0"})
        taken += 1
    body = body_of(signed_in.get(reverse("services:service", args=[clash.pk])))
    assert "Undo: " in body
    for _ in range(taken):
        signed_in.post(reverse("services:take-back", args=[clash.pk]))
    found = Service.objects.get(pk=clash.pk)
    assert found.ways_back == []
    assert actions.planning.snapshot(found) == before
    assert not found.fits
    with pytest.raises(actions.ServiceError, match="nothing to undo"):
        actions.take_back(found, chef)


def test_what_if_it_is_late_is_asked_once_for_everybody(signed_in, two, later):
    oven = task(two, "Rump, oven")
    url = f"{reverse('services:late', args=[two.pk])}?task={oven.key}"
    for _ in range(3):
        assert "checking" in body_of(signed_in.get(url))
    assert later.call_count == 1
    run(two.planning_jobs.get(kind="late"), None)
    assert "5 min" in body_of(signed_in.get(url))


def test_planned_is_what_the_worker_would_do(service, chef, plan, evening):
    add(service, chef, "Strip", plan, evening)
    assert planned(Service.objects.get(pk=service.pk)).fits


def at_three_hours_on(two, chef):
    """A choice that no plan holds."""
    oven = task(two, "Rump, oven")
    dish = two.dishes.get(pk=oven.dish)
    return dish, actions.choose(two, chef, dish, "s0", {"at": (oven.start + dt.timedelta(hours=3)).isoformat()})


def test_a_choice_that_was_stopped_is_put_back(signed_in, two, later, chef):
    dish, job = at_three_hours_on(two, chef)
    assert dish.service.dishes.get(pk=dish.pk).choice("s0") != {}
    signed_in.post(reverse("services:stop", args=[two.pk]))
    with patch("kitchen.services.planning.plan_service", side_effect=Stopped):
        run(job, JobHearing(job))
    assert two.dishes.get(pk=dish.pk).choice("s0") == {}


def test_a_refused_choice_goes_back_past_one_that_was_never_planned(two, later, chef):
    dish, first = at_three_hours_on(two, chef)
    _, second = at_three_hours_on(Service.objects.get(pk=two.pk), chef)
    run(first, JobHearing(first))
    run(second, JobHearing(second))
    second.refresh_from_db()
    assert second.state == PlanningJob.State.REFUSED
    assert two.dishes.get(pk=dish.pk).choice("s0") == {}


def test_a_replan_of_a_service_that_ended_meanwhile_proposes_nothing(on_the_day, later, chef):
    job = day.replan(on_the_day, chef)
    day.end(on_the_day, chef)
    run(job, JobHearing(job))
    job.refresh_from_db()
    assert job.state == PlanningJob.State.DROPPED
    assert Service.objects.get(pk=on_the_day.pk).proposal is None
