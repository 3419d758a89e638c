"""Who may do what: the table of docs/permissions.md, checked address by address."""

from __future__ import annotations

import uuid

import pytest
from django.urls import reverse

SOME = uuid.UUID(int=7)
# What only a chef may send: name, arguments. What does not exist is refused for its role first.
ONLY_CHEFS = [
    ("plans:delete", [SOME]), ("plans:restore", [SOME]), ("eggs:put-away", [SOME]), ("eggs:put-back", [SOME]),
    ("brines:put-away", [SOME]), ("brines:put-back", [SOME]), ("services:put-away", [SOME]),
    ("services:put-back", [SOME]), ("services:begin", [SOME]), ("services:end", [SOME]), ("services:answer", [SOME]),
    ("cuts:new", []), ("cuts:own", [SOME]), ("cuts:remove", [SOME]), ("cuts:restore", [SOME]),
    ("logbook:sign", [SOME]), ("kit:new-equipment", []), ("kit:equipment", [7]), ("kit:remove", [7]),
    ("kit:restore", [7]), ("kit:fix-probe", [7]), ("kit:altitude", []), ("kit:add-device", []), ("kit:revoke", [7]),
    ("accounts:enrol-tablet", []), ("accounts:revoke-tablet", [7]), ("learning:look", []), ("learning:accept", [SOME]),
    ("learning:undo", [7]), ("standards:choose", []), ("standards:house", []), ("accounts:kitchen", []),
    ("book:keep", []), ("accounts:people", []), ("accounts:change-role", [7]), ("accounts:password-link", [7]),
    ("accounts:leave", [7]), ("accounts:come-back", [7]),
]  # fmt: skip


@pytest.mark.parametrize(("name", "args"), ONLY_CHEFS, ids=[name for name, _ in ONLY_CHEFS])
def test_a_cook_is_refused(signed_in, name, args):
    assert signed_in.post(reverse(name, args=args)).status_code == 403


@pytest.mark.parametrize("name", ["book:everything", "book:chain"])
def test_all_data_goes_out_to_chefs_alone(signed_in, name):
    assert signed_in.get(reverse(name)).status_code == 403


@pytest.mark.parametrize(("name", "args"), ONLY_CHEFS, ids=[name for name, _ in ONLY_CHEFS])
def test_a_chef_is_not_refused_for_the_role(client, chef, name, args):
    client.force_login(chef)
    assert client.post(reverse(name, args=args)).status_code != 403
