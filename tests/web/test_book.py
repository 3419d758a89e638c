"""The book: entries against their rule, additions to signed records, the chain and whoever tampers with it."""

from __future__ import annotations

import io
import json
import subprocess
import sys
import uuid
import zipfile
from io import StringIO
from pathlib import Path

import pytest
from django.core.management import CommandError, call_command
from django.db import DatabaseError, connection, transaction
from django.urls import reverse

from kitchen.book import actions, check_chain
from kitchen.book.export import SECRETS, our_models, path_to_kitchen
from kitchen.book.models import Entry, Link
from kitchen.book.verify import links_of, walk
from kitchen.kit.models import Equipment
from kitchen.line.actions import finish
from kitchen.logbook.actions import sign
from kitchen.logbook.queries import found

from ..seen import has_word
from .pages import body_of

COLD = {"what": "Deck fridge", "celsius": "3.4", "note": ""}
# Every table whose rows are linked, with a statement that would change one.
CHAINED = ("line_cookevent", "logbook_signoff", "book_entry", "book_link")


def write(client, kind="cold", **typed):
    return client.post(reverse("book:write", args=[kind]), COLD | {"token": str(uuid.uuid4())} | typed)


@pytest.fixture
def signed(running, chef):
    cook = finish(running, chef, "stopped for the test")
    return sign(cook, chef, "password").cook


# Entries ------------------------------------------------------------------------------------------------------------


@pytest.mark.parametrize(
    ("kind", "celsius", "met", "margin"),
    [("cold", 5.0, True, 0.0), ("cold", 3.4, True, 1.6), ("cold", 6.0, False, -1.0), ("hot", 57.0, True, 0.0),
     ("hot", 56.9, False, -0.1), ("hot", 63.0, True, 6.0), ("hot", 50.0, False, -7.0), ("delivery", 4.0, True, 1.0)],
)  # fmt: skip
def test_a_reading_is_held_against_its_rule(kitchen, kind, celsius, met, margin):
    """US Food Code 3-501.16: 41 °F (5 °C) or below, 135 °F (57 °C) or above; from memory."""
    found = actions.held_against(kitchen, kind, celsius)
    assert found["met"] is met
    assert found["margin_c"] == pytest.approx(margin, abs=0.05)


def test_a_house_rule_that_is_stricter_counts(kitchen):
    kitchen.house = {"hold_cold_c": 4.0}
    assert not actions.held_against(kitchen, "cold", 4.6)["met"]
    kitchen.house = {"hold_cold_c": 8.0}
    assert actions.held_against(kitchen, "cold", 4.6)["met"], "a laxer one does not"


def test_it_is_written_down_once_and_found(signed_in, kitchen):
    assert "No entries yet" in body_of(signed_in.get(reverse("book:book")))
    token = str(uuid.uuid4())
    for _ in range(2):
        write(signed_in, token=token)
    write(signed_in, "note", what="Ice machine", note="descaled")
    assert Entry.objects.of(kitchen).count() == 2
    body = body_of(signed_in.get(reverse("book:book")))
    assert "limit 5.0 °C" in body
    assert "not met" not in body
    assert " style=" not in body
    assert not has_word(body, "safe")
    found = body_of(signed_in.get(reverse("book:book"), {"q": "descal"}))
    assert "Ice machine" in found
    assert "Deck fridge" not in found
    assert "No entries match" in body_of(signed_in.get(reverse("book:book"), {"q": "anchor"}))


@pytest.mark.parametrize(
    ("kind", "typed", "words"),
    [
        ("cold", {"celsius": ""}, "enter a number"),
        ("cold", {"celsius": "cold"}, "cold"),
        ("cold", {"what": " "}, "Enter the place or item"),
        ("note", {"note": ""}, "Enter a note"),
        ("cold", {"celsius": "9"}, "Enter the corrective action"),
        ("hot", {"celsius": "400"}, "Read must be from"),
    ],
)
def test_what_is_wrong_comes_back_and_nothing_is_lost(signed_in, kitchen, kind, typed, words):
    response = write(signed_in, kind, **typed)
    assert response.status_code == 422
    body = body_of(response)
    assert words in body
    assert not Entry.objects.exists()
    if typed.get("what") != " ":
        assert "Deck fridge" in body


def test_a_missed_rule_stands_with_what_was_done(signed_in, kitchen):
    write(signed_in, celsius="9", note="door seal; moved to the walk-in")
    assert Entry.objects.get().rule["met"] is False
    write(signed_in, "delivery", celsius="11", accepted="no", what="Herring, harbour")
    assert Entry.objects.filter(accepted=False).exists(), "what was sent back needs no more words"


def test_a_fridge_of_the_kit_names_itself(signed_in, kitchen):
    fridge = Equipment.objects.create(kitchen=kitchen, kind="fridge", name="Pantry fridge")
    write(signed_in, equipment=str(fridge.pk), what="")
    assert Entry.objects.get().what == "Pantry fridge"


def test_another_kitchens_book_is_its_own(client, stranger, signed_in, signed):
    write(signed_in)
    client.force_login(stranger)
    assert "Deck fridge" not in body_of(client.get(reverse("book:book")))
    assert client.post(reverse("book:add", args=[signed.pk]), {"note": "x"}).status_code == 404
    assert signed_in.get(reverse("book:book"), {"kind": "addition"}).status_code == 200
    assert signed_in.post(reverse("book:write", args=["addition"]), COLD).status_code == 404


# Signed records -----------------------------------------------------------------------------------------------------


def test_a_signed_record_is_put_right_by_a_new_entry(client, chef, signed):
    client.force_login(chef)
    before = signed.sign_off.record
    url = reverse("book:add", args=[signed.pk])
    token = str(uuid.uuid4())
    for _ in range(2):
        client.post(url, {"note": "second needle read 0.4 high", "token": token})
    assert signed.additions.count() == 1
    body = body_of(client.get(reverse("logbook:record", args=[signed.pk])))
    assert "Added: second needle read 0.4 high" in body
    signed.sign_off.refresh_from_db()
    assert signed.sign_off.record == before
    assert "Enter the note to add" in body_of(client.post(url, {"note": " "}, follow=True))


def test_an_open_record_takes_no_addition(running, chef):
    with pytest.raises(actions.BookError, match="not signed"):
        actions.add_to(running, chef, "x", uuid.uuid4())


@pytest.mark.parametrize("table", CHAINED)
@pytest.mark.parametrize("how", ["UPDATE {} SET id = id", "DELETE FROM {}"])
def test_the_database_refuses_to_change_what_stands(signed, chef, table, how):
    actions.add_to(signed, chef, "weighed again", uuid.uuid4())
    with pytest.raises(DatabaseError), transaction.atomic(), connection.cursor() as cursor:
        cursor.execute(how.format(table))


@pytest.mark.parametrize("text", ["Test strip", "strip", "beef strip loin", "stopped for", "Runa"])
def test_a_cook_is_found_by_name_cut_person_or_note(signed, kitchen, text):
    if text == "Runa":
        text = str(signed.started_by)
    assert list(found(kitchen, text)) == [signed]


def test_a_cook_is_found_by_its_day_and_by_what_was_added(signed, kitchen, chef):
    day = signed.finished_at.astimezone(kitchen.zone).date()
    assert list(found(kitchen, day.isoformat())) == [signed]
    assert not found(kitchen, "2001-01-01")
    assert not found(kitchen, "walrus")
    actions.add_to(signed, chef, "needle of the walrus box", uuid.uuid4())
    assert list(found(kitchen, "walrus")) == [signed]


def test_the_log_is_searched(signed_in, signed):
    url = reverse("logbook:record", args=[signed.pk])
    assert "No cooks match" in body_of(signed_in.get(url, {"q": "walrus"}))
    assert "No cooks match" not in body_of(signed_in.get(url, {"q": "strip"}))


# The chain ----------------------------------------------------------------------------------------------------------


def test_every_record_is_linked_by_the_database(kitchen, signed, chef):
    actions.add_to(signed, chef, "weighed again", uuid.uuid4())
    tables = set(Link.objects.of(kitchen).values_list("table", flat=True))
    assert {"line_cookevent", "logbook_signoff", "book_entry"} <= tables
    numbers = list(Link.objects.of(kitchen).order_by("number").values_list("number", flat=True))
    assert numbers == list(range(1, len(numbers) + 1))
    assert walk(kitchen).holds
    assert walk(kitchen).records == len(numbers)


def test_each_kitchen_has_a_chain_of_its_own(kitchen, signed, stranger):
    other = stranger.memberships.get().kitchen
    actions.write(other, stranger, {"kind": "note", "what": "x", "note": "y"}, uuid.uuid4())
    assert Link.objects.of(other).get().number == 1
    assert walk(other).holds
    assert walk(kitchen).holds


def tampered(table, change, *values):
    """What somebody with the database's own key could do: the guard taken down for a moment."""
    with connection.cursor() as cursor:
        cursor.execute("SET CONSTRAINTS ALL IMMEDIATE")
        cursor.execute(f"ALTER TABLE {table} DISABLE TRIGGER USER")
        cursor.execute(f"UPDATE {table} {change}", values)
        cursor.execute(f"ALTER TABLE {table} ENABLE TRIGGER USER")


def test_a_changed_row_is_found(kitchen, signed):
    tampered("logbook_signoff", "SET record = jsonb_set(record, '{pieces}', '99')")
    found = walk(kitchen)
    assert not found.holds
    assert "differs from" in found.why
    out = StringIO()
    with pytest.raises(SystemExit):
        call_command("verify_log", stdout=out)
    assert f"BROKEN at record {found.broken_at}" in out.getvalue()


@pytest.mark.parametrize(
    ("change", "why"),
    [
        ("SET payload = replace(payload, 'started', 'stopped') WHERE number = 1", "changed after"),
        ("SET before = repeat('1', 64) WHERE number = 2", "does not follow"),
        ("SET number = number + 1000 WHERE number >= 2", "missing"),
    ],
)
def test_a_changed_link_is_found(kitchen, signed, change, why):
    tampered("book_link", change)
    found = walk(kitchen)
    assert why in found.why


def test_the_command_says_that_all_holds(kitchen, signed):
    out = StringIO()
    call_command("verify_log", stdout=out)
    assert f"{walk(kitchen).records} records hold" in out.getvalue()


def test_an_exported_chain_is_checked_by_the_script_alone(client, chef, kitchen, signed, tmp_path):
    """A reader without an account: the file, the script, and Python."""
    client.force_login(chef)
    text = b"".join(client.get(reverse("book:chain")).streaming_content).decode()
    assert len(text.splitlines()) == walk(kitchen).records
    script = tmp_path / "check_chain.py"
    script.write_bytes(client.get(reverse("book:script")).content)
    good, bad = tmp_path / "chain.jsonl", tmp_path / "bad.jsonl"
    good.write_text(text)
    bad.write_text(text.replace("stopped for the test", "nothing happened"))

    def check(path):
        return subprocess.run([sys.executable, "-I", script, path], capture_output=True, text=True, check=False)

    assert check(good).returncode == 0
    assert "records hold" in check(good).stdout
    assert check(bad).returncode == 1
    assert "was changed after it was written" in check(bad).stdout


@pytest.mark.parametrize("name", ["chain", "everything"])
def test_a_cook_does_not_take_the_chain_away(signed_in, name):
    assert signed_in.get(reverse(f"book:{name}")).status_code == 403


# Everything ---------------------------------------------------------------------------------------------------------


def test_every_model_is_taken_away_or_belongs_to_no_kitchen():
    """A table that is added later is in the archive by itself, or is named here."""
    without = {model._meta.label_lower for model in our_models() if path_to_kitchen(model) is None}
    # People are found by their membership, links and codes are secrets; signs of life are the installation's, and a
    # group is of no one kitchen.
    here_only = {
        "accounts.person", "accounts.passwordlink", "worker.beat", "groups.group", "groups.grouprole",
        "groups.joincode",
    }  # fmt: skip
    assert without == here_only


def test_no_secret_is_taken_away():
    fields = {field.name for model in our_models() for field in model._meta.concrete_fields}
    assert {name for name in fields if "hash" in name or "password" in name} - {"must_change_password"} <= SECRETS


def test_all_of_a_kitchens_data_and_nobody_elses(client, chef, kitchen, signed, stranger):
    other = stranger.memberships.get().kitchen
    actions.write(other, stranger, {"kind": "note", "what": "theirs", "note": "secret ballast"}, uuid.uuid4())
    client.force_login(chef)
    content = b"".join(client.get(reverse("book:everything")).streaming_content)
    with zipfile.ZipFile(io.BytesIO(content)) as archive:
        about = json.loads(archive.read("about.json"))
        text = b"".join(archive.read(name) for name in archive.namelist()).decode()
        cooks = archive.read("tables/line.cook.jsonl").decode().splitlines()
        people = archive.read("tables/accounts.person.jsonl").decode()
        links = [json.loads(line) for line in archive.read("chain.jsonl").decode().splitlines()]
    assert about["rows"]["line.cook"] == len(cooks) == 1
    assert about["chain"]["holds"]
    assert check_chain.first_break(links) is None
    assert "secret ballast" not in text
    assert "Cy Other" not in people
    assert "Ada Chef" in people
    assert "argon2" not in text
    assert "token_hash" not in text


def test_the_archive_by_command(kitchen, signed, tmp_path):
    out = StringIO()
    call_command("export_kitchen", str(kitchen.pk), str(tmp_path / "all.zip"), stdout=out)
    assert "rows of" in out.getvalue()
    assert zipfile.is_zipfile(tmp_path / "all.zip")
    with pytest.raises(CommandError, match="Which kitchen"):
        call_command("export_kitchen", "Nowhere", str(tmp_path / "none.zip"))


def test_a_digest_is_what_anybody_would_reckon(kitchen, signed):
    """SHA-256 of the digest before, a line feed and the payload, by another tool on this machine."""
    first = next(links_of(kitchen))
    assert json.loads(first["payload"])["table"] == first["table"]
    told = subprocess.run(
        ["sha256sum"], input=f"{check_chain.NOTHING}\n{first['payload']}", capture_output=True, text=True, check=True
    )
    assert told.stdout.split()[0] == first["digest"]
    assert Path(check_chain.__file__).read_text().count("import") <= 8, "it stays a small script"
