"""Boards are shared between screens and processes, and none from before the last tap is shown after it."""

from __future__ import annotations

import re
import time
from unittest.mock import patch

import pytest
from django.urls import reverse

from kitchen.line import lane_text, shared_board
from kitchen.line.queries import status_of
from kitchen.line.starting import start

from .pages import body_of


@pytest.fixture
def folder(settings, tmp_path):
    """Boards in a folder, as the web processes share them."""
    settings.CACHES = {
        **settings.CACHES,
        "boards": {"BACKEND": "django.core.cache.backends.filebased.FileBasedCache", "LOCATION": tmp_path},
    }
    shared_board._boards.clear()
    lane_text._kept.clear()
    yield tmp_path
    shared_board._boards.clear()
    lane_text._kept.clear()


def another_process():
    """What this process keeps in mind as if it were put aside for another's."""
    boards, lanes = dict(shared_board._boards), dict(lane_text._kept)
    shared_board._boards.clear()
    lane_text._kept.clear()
    return boards, lanes


def look(client):
    """The board as a screen asks for it, without the token that each screen has of its own."""
    body = body_of(client.get(reverse("line:board"), headers={"HX-Request": "true"}))
    return re.sub(r'csrfmiddlewaretoken" value="\w+"', "", body)


def test_what_one_process_rendered_another_shows(signed_in, running, folder):
    first = look(signed_in)
    another_process()
    with patch.object(shared_board, "render_to_string", side_effect=AssertionError("rendered again")):
        assert look(signed_in) == first


def test_a_cook_is_on_the_board_however_it_was_begun(
    signed_in, plan, cook_person, folder, django_capture_on_commit_callbacks
):
    assert "Nothing is cooking" in look(signed_in)
    with django_capture_on_commit_callbacks(execute=True):
        start(plan, cook_person)
    assert plan.name in look(signed_in)


def test_no_process_shows_a_board_from_before_the_last_tap(
    signed_in, running, folder, django_capture_on_commit_callbacks
):
    before = look(signed_in)
    assert "Pull Test strip" in before
    boards, lanes = another_process()
    time.sleep(0.01)
    step = status_of(running).progress.next
    with django_capture_on_commit_callbacks(execute=True):
        signed_in.post(reverse("line:do", args=[running.pk]), {"step": str(step.number), "sure": "1"})
    shared_board._boards.update(boards)  # the other process knows of no tap
    lane_text._kept.update(lanes)
    after = look(signed_in)
    assert "Pull Test strip" not in after


def test_a_lane_in_which_nothing_happened_is_drawn_once(signed_in, running, kitchen, folder):
    lane_text._kept.clear()
    signed_in.get(reverse("line:board"))
    (kept,) = lane_text._kept.values()
    signed_in.post(reverse("line:reading", args=[running.pk]), {"celsius": "30"}, headers={"HX-Request": "true"})
    (new,) = lane_text._kept.values()
    assert new[0] != kept[0], "a reading is another lane"
    assert "csrfmiddlewaretoken" in new[2]
    assert lane_text.TOKEN in new[2]


def tap(client, cook, capture):
    step = status_of(cook).progress.next
    with capture(execute=True):
        return client.post(
            reverse("line:do", args=[cook.pk]), {"step": str(step.number)}, headers={"HX-Request": "true"}
        )


@pytest.fixture
def at_once(monkeypatch):
    """What is written for other processes is written before the test goes on; a commit is at once."""

    class AtOnce:
        def submit(self, call, *arguments):
            call(*arguments)

    monkeypatch.setattr(shared_board, "_renderer", AtOnce())
    monkeypatch.setattr(shared_board.transaction, "on_commit", lambda call: call())


def test_the_board_of_a_tap_is_everybodys(signed_in, running, folder, at_once, django_capture_on_commit_callbacks):
    look(signed_in)
    tap(signed_in, running, django_capture_on_commit_callbacks)
    another_process()
    with patch.object(shared_board, "render_to_string", side_effect=AssertionError("rendered again")):
        assert "Pull Test strip" not in look(signed_in)


def test_the_board_of_a_tap_is_not_shown_when_something_else_was_done_meanwhile(
    signed_in, running, folder, at_once, django_capture_on_commit_callbacks
):
    def render_while_somebody_else_taps(*arguments):
        shared_board.drop(running.kitchen_id)
        return "an old board"

    with patch.object(shared_board, "render_to_string", side_effect=render_while_somebody_else_taps):
        tap(signed_in, running, django_capture_on_commit_callbacks)
    assert 'id="board"' in look(signed_in)


def test_a_screen_is_never_shown_an_empty_board(signed_in, running, folder):
    def drop(kitchen, key):
        rendered = render(kitchen, key)
        shared_board.drop(kitchen.pk)
        return rendered

    render = shared_board._render
    with patch.object(shared_board, "_render", side_effect=drop):
        assert 'id="board"' in look(signed_in)
