"""The fence between kitchens, over every address that names a row: a chef of another sees and changes nothing."""

from __future__ import annotations

import json
import re
import uuid

import pytest
from django.core.serializers.json import DjangoJSONEncoder
from django.test import Client
from django.urls import URLPattern, URLResolver, get_resolver

from kitchen.accounts.tablets import enrol
from kitchen.book.export import our_models, path_to_kitchen, rows_of
from kitchen.groups import belonging, sharing
from kitchen.kit.models import Equipment

from .test_everything import full  # noqa: F401  (a kitchen with one of each kind)

PARAMETER = re.compile(r"<(\w+):(\w+)>")
OTHERS = {"kind": "cold", "method": "boil", "what": "face", "standard_id": "us-food-code-2022", "secret": "none"}
WORDS = ("Test galley", "Ada Chef", "Bo Cook", "Test strip", "Cured loin", "Belly, back", "Oven 9")
NEAR = ("line", "plans", "accounts")  # whose rows many addresses name
OPEN = ("/password/", "/set-up/", "/doneness/", "/standards/")  # of everybody


def addresses(resolver=None, before="/"):
    """Every address with a parameter that numbers a row, and the app it belongs to."""
    for entry in (resolver or get_resolver()).url_patterns:
        path = before + str(entry.pattern)
        if isinstance(entry, URLResolver):
            yield from addresses(entry, path)
        elif isinstance(entry, URLPattern) and {kind for kind, _ in PARAMETER.findall(path)} & {"uuid", "int"}:
            yield path, entry.callback.__module__.split(".")[1]


def keys_of(kitchen):
    """A number or an id of each kind of row of a kitchen: by kind of key, {(app, key)}."""
    found = {"int": set(), "uuid": set()}
    for model in our_models():
        if (path := path_to_kitchen(model)) is None:
            continue
        for pk in model._default_manager.filter(**{path: kitchen.pk}).values_list("pk", flat=True)[:1]:
            found["uuid" if isinstance(pk, uuid.UUID) else "int"].add((model._meta.app_label, str(pk)))
    return found


def everything(kitchen):
    return {
        model._meta.label: json.dumps(list(rows_of(kitchen, model)), cls=DjangoJSONEncoder, default=str)
        for model in our_models() if path_to_kitchen(model) is not None
    }  # fmt: skip


@pytest.fixture
def mine(full, on_the_day, plan, kitchen, chef, device):  # noqa: F811
    """The kitchen whose rows nobody else may see."""
    Equipment.objects.create(kitchen=kitchen, kind="oven", name="Oven 9")
    enrol(kitchen, "Pass tablet", 5, chef)
    sharing.share_plan(belonging.begin_group(kitchen, chef, "Coast"), plan, chef)
    return kitchen


def test_no_address_shows_or_changes_another_kitchens_row(mine, stranger):
    client, keys, before = Client(raise_request_exception=True), keys_of(mine), everything(mine)
    assert len(keys["uuid"]) > 6
    assert len(keys["int"]) > 6
    client.force_login(stranger)
    asked = 0
    for pattern, app in addresses():
        if pattern.startswith(OPEN):
            continue
        kind = next(kind for kind, _ in PARAMETER.findall(pattern) if kind in keys)
        for key in {key for of, key in keys[kind] if of in (app, *NEAR)}:
            path = PARAMETER.sub(lambda found: key if found[1] == kind else OTHERS.get(found[2], "1"), pattern)  # noqa: B023
            for response in (client.get(path), client.post(path, {"n": "0", "months": "12"})):
                asked += 1
                body = b"".join(response) if response.streaming else response.content
                assert not any(word.encode() in body for word in WORDS), (path, response.status_code)
                assert response.status_code < 500, path
    assert asked > 500
    after = everything(mine)
    assert [label for label in before if before[label] != after[label]] == []
