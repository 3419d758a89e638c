"""The pan map: pieces laid, turned and lifted, once however often it is tapped, in several pans."""

from __future__ import annotations

import itertools
import math
import uuid

import pytest
from django.urls import reverse

from ember.files.plan import parse_plan
from kitchen.drawings.pan_drawing import spots
from kitchen.line import actions, queries, starting
from kitchen.line.models import Cook, CookEvent
from kitchen.plans.actions import create

from .pages import body_of

VESSEL = {"mass_kg": 2.2, "material": "carbon-steel", "diameter_mm": 300}
PAN = [
    {"kind": "pan", "pan_c": 210, "seconds_a_side": 60, "sides": 2, "pan": VESSEL},
    {"kind": "rest", "minutes": 4},
]
BAD_TAPS = [("0", "lay"), ("8", "lay"), ("x", "lay"), ("1", "eat"), ("", ""), ("9999", "lay")]


@pytest.fixture
def chops(kitchen, chef, document):
    """Seven chops, sent to the line."""
    piece = {"cut": "pork/chop", "shape": {"kind": "slab", "thickness_mm": 24}, "mass_g": 260, "start_c": 6, "count": 7}
    plan = {**document, "piece": piece, "stages": PAN, "target": {"doneness": "medium"}, "name": "Chops"}
    return starting.start(create(kitchen, chef, parse_plan(plan)), chef)


def url(cook, name="pan"):
    return reverse(f"line:{name}", args=[cook.pk, 0])


def tap(client, cook, piece, did, token=None, **more):
    data = {"piece": str(piece), "did": did, "token": str(token or uuid.uuid4())} | more
    return client.post(url(cook, "pan-tap"), data, follow=True)


def test_the_map_leads_from_piece_to_piece(signed_in, chops):
    context = signed_in.get(url(chops)).context
    assert context["next"].piece.next == "lay"
    assert context["next"].at.number == 1
    for piece in range(1, 4):
        tap(signed_in, chops, piece, "lay")
    context = signed_in.get(url(chops)).context
    assert context["map"].laid == 3
    assert [spot.piece.next for spot in context["spots"]][:3] == ["turn"] * 3
    body = body_of(signed_in.get("/line/"))
    assert url(chops) in body


def test_two_people_one_tap_and_undo(signed_in, chops):
    token = uuid.uuid4()
    for _ in range(2):
        tap(signed_in, chops, 1, "lay", token)
    assert CookEvent.objects.filter(kind="piece").count() == 1
    tap(signed_in, chops, 1, "undo")
    assert signed_in.get(url(chops)).context["map"].laid == 0
    assert CookEvent.objects.filter(kind="piece").count() == 2  # nothing is erased


@pytest.mark.parametrize(
    ("piece", "did"), [("0", "lay"), ("8", "lay"), ("x", "lay"), ("1", "eat"), ("", ""), ("9999", "lay")]
)
def test_a_piece_that_is_not_there_is_told(signed_in, chops, piece, did):
    response = tap(signed_in, chops, piece, did)
    assert response.status_code == 200
    assert "no such piece" in body_of(response) or "Which piece" in body_of(response)
    assert not CookEvent.objects.filter(kind="piece").exists()


def test_more_than_a_pan_takes_goes_into_several(signed_in, kitchen, chef, chops):
    document = {**chops.document, "piece": {**chops.document["piece"], "count": 30}, "name": "Many"}
    many = starting.start(create(kitchen, chef, parse_plan(document)), chef)
    context = signed_in.get(url(many)).context
    assert len(context["pans"]) > 2
    assert sorted(n for pan in context["pans"] for n in pan) == list(range(1, 31))
    second = signed_in.get(url(many) + "?pan=2").context
    assert second["spots"][0].at.number == context["pans"][1][0]
    tap(signed_in, many, context["pans"][1][0], "lay", pan="2")
    assert signed_in.get(url(many) + "?pan=2").context["map"].laid == 1
    assert signed_in.get(url(many)).context["map"].laid == 0
    assert signed_in.get(url(many) + "?pan=99x").status_code == 200


def test_other_stages_and_other_kitchens_have_no_map(client, signed_in, chops, stranger):
    assert signed_in.get(reverse("line:pan", args=[chops.pk, 1])).status_code == 404
    assert signed_in.get(reverse("line:pan", args=[chops.pk, 9])).status_code == 404
    rest = reverse("line:pan-tap", args=[chops.pk, 1])
    assert signed_in.post(rest, {"piece": "1", "did": "lay"}, headers={"HX-Request": "true"}).status_code == 404
    assert not CookEvent.objects.filter(kind="piece").exists()
    client.force_login(stranger)
    assert client.get(url(chops)).status_code == 404
    assert client.post(url(chops, "pan-tap"), {"piece": "1", "did": "lay"}).status_code == 404


def test_what_happened_in_the_pan_is_told(signed_in, chops):
    tap(signed_in, chops, 2, "lay")
    body = body_of(signed_in.get(reverse("line:check", args=[chops.pk])))
    assert "Piece 2 laid" in body


def test_a_piece_is_laid_once_turned_while_down_and_lifted_once(signed_in, chops):
    assert "not in the pan yet" in body_of(tap(signed_in, chops, 1, "turn"))
    tap(signed_in, chops, 1, "lay")
    assert "already down" in body_of(tap(signed_in, chops, 1, "lay"))
    tap(signed_in, chops, 1, "turn")
    tap(signed_in, chops, 1, "lift")
    for did in ("lay", "turn", "lift"):
        assert "already out" in body_of(tap(signed_in, chops, 1, did))
    assert CookEvent.objects.filter(kind="piece").count() == 3


def test_what_was_done_last_is_taken_back_whichever_piece_comes_next(signed_in, chops):
    for piece in (1, 2):
        tap(signed_in, chops, piece, "lay")
    tap(signed_in, chops, 3, "undo")  # the next one is the third; the second was laid last
    assert "Piece 2 last tap undone" in body_of(signed_in.get(reverse("line:check", args=[chops.pk])))
    assert signed_in.get(url(chops)).context["map"].laid == 1
    tap(signed_in, chops, 2, "lay")
    assert signed_in.get(url(chops)).context["map"].laid == 2
    for _ in range(2):
        tap(signed_in, chops, 3, "undo")
    assert "nothing to undo" in body_of(tap(signed_in, chops, 3, "undo"))


def test_the_last_lift_can_be_taken_back_too(signed_in, kitchen, chef, chops):
    document = {**chops.document, "piece": {**chops.document["piece"], "count": 1}, "name": "One"}
    one = starting.start(create(kitchen, chef, parse_plan(document)), chef)
    for did in ("lay", "turn", "lift"):
        tap(signed_in, one, 1, did)
    body = body_of(signed_in.get(url(one)))
    assert "All pieces are out" in body
    assert 'value="undo"' in body
    tap(signed_in, one, 1, "undo")
    assert signed_in.get(url(one)).context["next"].piece.next == "lift"


def test_a_finished_cook_takes_no_more(signed_in, chops, chef):
    actions.finish(chops, chef)
    assert "finished" in body_of(tap(signed_in, chops, 1, "lay"))
    assert queries.status_of(Cook.objects.get()).pan_stage == 0


@pytest.mark.parametrize("count", [1, 2, 3, 7, 12])
def test_pieces_lie_clockwise_and_apart(count):
    found = spots(list(range(1, count + 1)))
    for a, b in itertools.pairwise(found):
        turn = math.atan2(a.x * b.y - a.y * b.x, a.x * b.x + a.y * b.y) % (2 * math.pi)
        assert turn == pytest.approx(2 * math.pi / count)  # clockwise on the screen, y pointing down
        assert ((a.x - b.x) ** 2 + (a.y - b.y) ** 2) ** 0.5 > 2 * min(a.r, b.r) * 0.98
    assert all((spot.x**2 + spot.y**2) ** 0.5 + spot.r <= 236 for spot in found)
