"""Requests no browser sends: nothing may answer with a 500, nothing may be half kept."""

from __future__ import annotations

import json

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from django.urls import reverse
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from .posting import posted

ODD = ["", "\x00", "a\x00b", "\ud800", "9" * 400, "1e400", "-", "½", "²", "<script>", "💥", "None", " ", "０", "١٢"]

SPREAD = 3  # each field of the bench meets every third odd text, each text every third field


@pytest.mark.parametrize("odd", ODD)
def test_odd_text_everywhere(chef_in, running, plan, document, odd):
    def ok(response):
        assert response.status_code < 500, response.content[:400]

    def safe(text):
        return text.encode("utf-8", "replace").decode()  # a browser cannot send a lone surrogate either

    text = safe(odd)
    ok(chef_in.get("/plans/", {"q": text}))
    ok(chef_in.get("/plans/new/", {"cut": text}))
    ok(chef_in.get("/log/", {"page": text}))
    for at, key in enumerate(sorted(posted(document))):
        if (at + ODD.index(odd)) % SPREAD == 0:
            ok(chef_in.post(reverse("plans:bench"), posted(document) | {key: text}))
    for key in ("do", "plan", "was_cut", "probe", "start_token"):
        ok(chef_in.post(reverse("plans:edit", args=[plan.pk]), posted(document) | {key: text}))
    ok(chef_in.post(reverse("line:do", args=[running.pk]), {"step": text, "token": text}))
    ok(chef_in.post(reverse("line:undo", args=[running.pk]), {"token": text}))
    ok(chef_in.post(reverse("line:reading", args=[running.pk]), {"celsius": text}))
    ok(
        chef_in.post(
            reverse("line:check", args=[running.pk]), {"sense": text, "note": text, "core_c": text, "word": text}
        )
    )
    ok(chef_in.post(reverse("line:do", args=[running.pk]), {"tap": f"{running.pk}:{text}:{text}", "how": text}))
    ok(chef_in.post(reverse("line:place", args=[running.pk]), {"stage": text, "equipment": text}))
    ok(chef_in.get(reverse("line:pan", args=[running.pk, 1]), {"pan": text}))
    ok(chef_in.post(reverse("line:pan-tap", args=[running.pk, 1]), {"piece": text, "did": text, "pan": text}))
    ok(chef_in.post(reverse("kit:new-equipment"), {"kind": "pan", "name": text, "mass": text, "diameter": text}))
    ok(chef_in.post(reverse("kit:altitude"), {"altitude": text}))
    ok(chef_in.post(reverse("kit:add-device"), {"name": text, "probes": text}))
    ok(chef_in.post(reverse("accounts:people"), {"name": text, "username": text, "password": text, "role": text}))
    ok(chef_in.post(reverse("accounts:you"), {"temperature_unit": text}))
    ok(chef_in.post(reverse("line:stop", args=[running.pk]), {"why": text}))
    ok(chef_in.post(reverse("logbook:correct", args=[running.pk]), {"note": text}))


@pytest.mark.parametrize("odd", ["\x00", "a\u0000b", "x" * 200, 5, None, [], {}])
def test_odd_names_in_a_file(chef_in, document, odd):
    upload = SimpleUploadedFile("x.json", json.dumps(document | {"name": odd}).encode())
    assert chef_in.post(reverse("plans:import"), {"file": upload}).status_code == 302


@pytest.mark.parametrize("odd", ["\x00", "\u202e", "x" * 30])
def test_odd_probe_codes(client, device, odd):
    body = {"readings": [{"probe": odd, "at": "2026-01-01T00:00:00Z", "celsius": 5}]}
    response = client.post(
        "/api/v1/readings", json.dumps(body), content_type="application/json",
        headers={"Authorization": f"Bearer {device[1]}"},
    )  # fmt: skip
    assert response.status_code == 422


@settings(max_examples=25, deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(
    data=st.dictionaries(
        st.sampled_from(["name", "cut", "size", "shape", "target", "start", "s0-kind", "s0-ends", "s0-end_value", "do",
                         "s1-kind", "s1-sides", "s2-cover", "s3-kind", "s4-kind", "guests", "history"]),
        st.text(max_size=20) | st.sampled_from(["bath", "pan", "rest", "oven", "peak_c", "5", "add:bath", "left:1"]),
    )
)  # fmt: skip
def test_any_form_is_answered(chef_in, document, data):
    clean = {key: value.encode("utf-8", "replace").decode() for key, value in data.items()}
    assert chef_in.post(reverse("plans:bench"), posted(document) | clean).status_code == 200


def test_the_same_start_token_of_another_kitchen_opens_nothing(client, stranger, document, running):
    from ember.files.plan import parse_plan
    from kitchen.line.models import Cook, CookEvent
    from kitchen.plans.actions import create

    theirs = create(stranger.memberships.get().kitchen, stranger, parse_plan(document))
    client.force_login(stranger)
    token = CookEvent.objects.get(cook=running, kind="started").token
    response = client.post(
        reverse("plans:edit", args=[theirs.pk]), posted(document) | {"then": "start", "start_token": str(token)}
    )
    assert response.status_code == 302
    assert CookEvent.objects.get(token=token).cook_id == running.pk
    assert Cook.objects.filter(kitchen=theirs.kitchen).count() == 1
