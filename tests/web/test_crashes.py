"""Odd dates, endless numbers, long names, the addresses of forms opened by hand: each is answered in words."""

from __future__ import annotations

import json

import pytest
from django.urls import URLPattern, URLResolver, get_resolver, reverse

from kitchen.kit.actions import add_device

from .pages import body_of


@pytest.fixture
def device(kitchen):
    return add_device(kitchen, "Test box", 2)


def send(client, device, body):
    return client.post(
        "/api/v1/readings", body if isinstance(body, str) else json.dumps(body), "application/json",
        headers={"Authorization": f"Bearer {device[1]}"},
    )  # fmt: skip


@pytest.mark.parametrize("at", ["0001-01-01T00:00:00Z", "9999-12-31T23:59:59Z", "9999-12-31T23:59:59-14:00", "soon"])
def test_an_impossible_time_is_refused_alone(client, kitchen, device, at):
    now = kitchen.now().isoformat()
    body = {"readings": [
        {"probe": "1", "at": now, "celsius": 54.0}, {"probe": "1", "at": at, "celsius": 54.1},
        {"probe": "1", "at": now, "celsius": "warm"}, {"probe": "2", "at": now, "celsius": 54.2, "unit": "rankine"},
    ]}  # fmt: skip
    response = send(client, device, body)
    assert response.status_code == 200
    answer = response.json()
    assert answer["kept"] == 1
    assert [row["index"] for row in answer["refused"]] == [1, 2, 3]
    assert all(row["message"] for row in answer["refused"])


@pytest.mark.parametrize("sent_at", ["0001-01-01T00:00:00Z", "9999-12-31T23:59:59Z"])
def test_an_impossible_clock_is_said(client, kitchen, device, sent_at):
    reading = {"probe": "1", "at": kitchen.now().isoformat(), "celsius": 54.0}
    response = send(client, device, {"sent_at": sent_at, "readings": [reading]})
    assert response.status_code == 422
    assert response["Content-Type"] == "application/problem+json"
    assert response.json()["error"]["at"] == "sent_at"
    assert response.json()["status"] == 422


@pytest.mark.parametrize("body", ["", "[", "9" * 5000, '{"readings": ' + "9" * 5000 + "}", "null"])
def test_every_failure_of_the_api_is_a_problem_document(client, device, body):
    response = send(client, device, body)
    assert response.status_code == 422
    assert response["Content-Type"] == "application/problem+json"
    assert response.json()["detail"]


def test_a_body_over_the_limit_is_said(client, device, settings):
    settings.DATA_UPLOAD_MAX_MEMORY_SIZE = 100
    response = send(client, device, {"readings": [{"probe": "1", "at": "2031-01-01T00:00:00Z", "celsius": 1}] * 5})
    assert response.status_code == 413
    assert response["Content-Type"] == "application/problem+json"


ENDLESS = "9" * 4000
PAGES = [
    ("book:report", {"from": "9999-12-31", "to": "9999-12-31"}), ("book:report", {"from": "0001-01-01"}),
    ("book:report-csv", {"from": "9999-12-31"}), ("search", {"q": "9999-12-31"}),
    ("logbook:log", {"q": "9999-12-31"}),
    ("book:trends", {"weeks": ENDLESS}), ("plans:list", {"page": ENDLESS}), ("line:board", {"all": ENDLESS}),
]  # fmt: skip


@pytest.mark.parametrize(("name", "query"), PAGES)
def test_odd_questions_are_answered_in_words(client, chef, name, query):
    client.force_login(chef)
    assert client.get(reverse(name), query, follow=True).status_code in (200, 422)


def test_months_without_end_and_names_too_long(client, chef, kitchen):
    client.force_login(chef)
    for months in ("1000000000", ENDLESS, "-3", "²"):
        page = client.post(reverse("book:keep"), {"months": months}, follow=True)
        assert page.status_code == 200
        assert "Choose how long" in body_of(page)
    page = body_of(client.post(reverse("kit:add-device"), {"name": "x" * 61, "probes": "1"}, follow=True))
    assert "at most" in page


def addresses(resolver=None, before=""):
    for entry in (resolver or get_resolver()).url_patterns:
        path = before + str(entry.pattern)
        if isinstance(entry, URLResolver):
            yield from addresses(entry, path)
        elif isinstance(entry, URLPattern) and "<" not in path and "^" not in path:
            yield "/" + path


def test_no_address_shows_a_blank_page_when_it_is_opened(client, chef):
    client.force_login(chef)
    opened = 0
    for path in addresses():
        if path.startswith(("/api/", "/static")) or path.endswith((".pdf", ".zip")):
            continue
        response = client.get(path)
        if response.status_code == 405:
            opened += 1
            assert "This address only accepts forms sent from a page" in body_of(response), path
            assert response["Allow"]
    assert opened > 8
