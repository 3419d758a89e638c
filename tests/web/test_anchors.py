"""Signed heads: what a superuser of the database can forge, and how each forgery is found."""

from __future__ import annotations

import base64
import json
import subprocess
import sys
from pathlib import Path

import pytest
from cryptography.hazmat.primitives.asymmetric.ed25519 import Ed25519PrivateKey
from django.core.management import call_command
from django.db import connection

from kitchen.book.anchor import anchor, as_row, public_of, signing_key, trusted_keys
from kitchen.book.check_chain import anchored, is_signed
from kitchen.book.models import Anchor, Link
from kitchen.book.verify import verify, walk
from kitchen.kit.actions import check_kit
from kitchen.kit.models import Equipment
from kitchen.line.actions import finish
from kitchen.line.reading_actions import type_reading
from kitchen.line.starting import start
from kitchen.logbook.actions import sign

pytestmark = pytest.mark.django_db
REBUILD = """
WITH RECURSIVE rebuilt AS (
  SELECT number, payload, repeat('0', 64) AS before,
    encode(sha256(convert_to(repeat('0', 64) || E'\\n' || payload, 'UTF8')), 'hex') AS digest
  FROM book_link WHERE kitchen_id = {0} AND number = 1
  UNION ALL
  SELECT l.number, l.payload, r.digest, encode(sha256(convert_to(r.digest || E'\\n' || l.payload, 'UTF8')), 'hex')
  FROM book_link l JOIN rebuilt r ON l.number = r.number + 1 WHERE l.kitchen_id = {0}
)
UPDATE book_link l SET before = r.before, digest = r.digest FROM rebuilt r
WHERE l.kitchen_id = {0} AND l.number = r.number
"""


@pytest.fixture(autouse=True)
def _own_keys(settings, tmp_path):
    settings.ANCHOR_KEY, settings.ANCHOR_KEYS = str(tmp_path / "key.pem"), str(tmp_path / "keys.txt")
    settings.ANCHOR_FILE = str(tmp_path / "anchors.jsonl")


@pytest.fixture
def oven(kitchen):
    return Equipment.objects.create(kitchen=kitchen, kind="oven", name="Oven 7")


@pytest.fixture
def signed(plan, chef, kitchen):
    """A cook with a typed reading, finished and signed, and its chain anchored."""
    cook = start(plan, chef)
    type_reading(cook, chef, 54.0)
    finish(cook, chef, "the ferry turned back")
    cook.refresh_from_db()
    sign(cook, chef, "password")
    anchor(kitchen)
    return cook


def forge(*statements):
    """As only a superuser of the database could."""
    with connection.cursor() as cursor:
        cursor.execute("SET LOCAL session_replication_role = replica")
        for statement in statements:
            cursor.execute(statement)
        cursor.execute("SET LOCAL session_replication_role = origin")


def faults(kitchen):
    walked = verify(kitchen)
    assert not walked.holds
    return f"{walked.why} {'; '.join(walked.faults)}"


def test_an_untouched_chain_holds(signed, kitchen):
    walked = verify(kitchen)
    assert walked.holds, walked
    assert walked.records == Link.objects.of(kitchen).count()
    call_command("verify_log")


def test_a_cut_tail_is_found(signed, kitchen, chef, oven):
    check_kit(oven, chef, {"kind": "setting", "wanted_c": 180.0, "read_c": 171.0})
    anchor(kitchen)
    last = Link.objects.of(kitchen).order_by("-number").first()
    forge(f"DELETE FROM {last.table} WHERE id::text = '{last.row_key}'", f"DELETE FROM book_link WHERE id = {last.pk}")
    assert walk(kitchen).holds
    assert "are missing" in faults(kitchen)


def test_an_emptied_chain_is_found_even_without_the_anchors_in_the_database(signed, kitchen):
    forge("DELETE FROM logbook_signedreadings", "DELETE FROM logbook_signoff", "DELETE FROM line_cookevent",
          "DELETE FROM book_link", "DELETE FROM book_anchor")  # fmt: skip
    assert walk(kitchen).holds
    assert "are missing" in faults(kitchen)


def test_a_chain_written_anew_is_found(signed, kitchen):
    first = Link.objects.of(kitchen).order_by("number").first()
    payload = json.loads(first.payload)
    payload["row"]["data"]["note"] = "another"
    text = json.dumps(payload).replace("'", "''")
    data = json.dumps(payload["row"]["data"]).replace("'", "''")
    forge(
        f"UPDATE book_link SET payload = '{text}' WHERE id = {first.pk}",
        f"UPDATE {first.table} SET data = '{data}' WHERE id::text = '{first.row_key}'", REBUILD.format(kitchen.pk),
    )  # fmt: skip
    assert walk(kitchen).holds
    assert "written anew" in faults(kitchen)


def test_rows_written_past_the_chain_are_found(signed, kitchen, chef, oven):
    forge(
        "INSERT INTO kit_kitcheck (kitchen_id, kind, at, by_id, equipment_id, wanted_c, read_c)"
        f" VALUES ({kitchen.pk}, 'setting', now(), {chef.pk}, {oven.pk}, 100, 100)"
    )
    assert "1 rows of kit_kitcheck are in no record" in faults(kitchen)


def test_a_changed_document_of_a_signed_cook_is_found(signed, kitchen):
    forge(f"UPDATE line_cook SET document = jsonb_set(document, '{{piece,start_c}}', '9') WHERE id = '{signed.pk}'")
    assert "its plan or result is not the one that was signed" in faults(kitchen)


@pytest.mark.parametrize(
    "statement",
    [
        "UPDATE line_reading SET celsius = 75", "DELETE FROM line_reading",
        "UPDATE logbook_signedreadings SET packed = '\\x00'", "DELETE FROM logbook_signedreadings",
    ],
)  # fmt: skip
def test_changed_readings_of_a_signed_cook_are_found(signed, kitchen, statement):
    forge(statement)
    assert "readings" in faults(kitchen)


def test_an_anchor_by_another_key_is_found(signed, kitchen):
    stranger, real = Ed25519PrivateKey.generate(), Anchor.objects.of(kitchen).get()
    text = anchored(kitchen.pk, real.number, real.digest, real.at)
    signature = base64.b64encode(stranger.sign(text.encode())).decode()
    forge(f"UPDATE book_anchor SET public_key = '{public_of(stranger)}', signature = '{signature}'")
    assert "not signed by a key of this installation" in faults(kitchen)


def test_an_anchor_is_made_once_for_a_head_and_kept_outside(signed, kitchen, settings):
    assert anchor(kitchen).pk == anchor(kitchen).pk
    (line,) = Path(settings.ANCHOR_FILE).read_text().splitlines()
    assert json.loads(line) == as_row(Anchor.objects.get())
    assert trusted_keys() == {public_of(signing_key())}


def exported(client, chef, folder):
    client.force_login(chef)
    links = b"".join(client.get("/book/chain.jsonl").streaming_content)
    (folder / "chain.jsonl").write_bytes(links)
    (folder / "anchors.jsonl").write_text("".join(json.dumps(as_row(row)) + "\n" for row in Anchor.objects.all()))
    script = client.get("/book/check_chain.py").content
    (folder / "check_chain.py").write_bytes(script)


def checked(folder, *more):
    command = [sys.executable, "-I", "check_chain.py", "chain.jsonl", "anchors.jsonl", *more]
    return subprocess.run(command, cwd=folder, capture_output=True, text=True, check=False)


def test_the_script_without_an_account_checks_the_signature(signed, client, chef, tmp_path):
    exported(client, chef, tmp_path)
    done = checked(tmp_path, public_of(signing_key()))
    assert done.returncode == 0, done.stdout
    assert "1 anchors agree" in done.stdout
    assert "by another key" in checked(tmp_path, "ab" * 32).stdout
    genuine = json.loads((tmp_path / "anchors.jsonl").read_text())
    (tmp_path / "anchors.jsonl").write_text(json.dumps(genuine | {"digest": "0" * 64}))
    forged = checked(tmp_path)
    assert forged.returncode == 1
    assert "is not signed by its key" in forged.stdout
    lines = (tmp_path / "chain.jsonl").read_text().splitlines()
    (tmp_path / "chain.jsonl").write_text("\n".join(lines[:-1]))
    (tmp_path / "anchors.jsonl").write_text(json.dumps(genuine))
    assert "are missing" in checked(tmp_path).stdout


# RFC 8032, section 7.1, tests 1 to 3: secret key, public key, message, signature.
VECTORS = [
    ("9d61b19deffd5a60ba844af492ec2cc44449c5697b326919703bac031cae7f60",
     "d75a980182b10ab7d54bfed3c964073a0ee172f3daa62325af021a68f707511a", "",
     "e5564300c360ac729086e2cc806e828a84877f1eb8e5d974d873e065224901555fb8821590a33bacc61e39701cf9b46bd25bf5f0595bbe24655"
     "141438e7a100b"),
    ("4ccd089b28ff96da9db6c346ec114e0f5b8a319f35aba624da8cf6ed4fb8a6fb",
     "3d4017c3e843895a92b70aa74d1b7ebc9c982ccf2ec4968cc0cd55f12af4660c", "72",
     "92a009a9f0d4cab8720e820b5f642540a2b27b5416503f8fb3762223ebdb69da085ac1e43e15996e458f3613d0f11d8c387b2eaeb4302aeeb00"
     "d291612bb0c00"),
]  # fmt: skip


@pytest.mark.parametrize(("_secret", "public", "message", "signature"), VECTORS)
def test_signatures_are_checked_as_published(_secret, public, message, signature):
    key, text, sent = bytes.fromhex(public), bytes.fromhex(message), bytes.fromhex(signature)
    assert is_signed(key, text, sent)
    assert not is_signed(key, text + b"x", sent)
    assert not is_signed(key, text, bytes([sent[0] ^ 1]) + sent[1:])
    assert not is_signed(key, text, sent[:-1])


@pytest.mark.parametrize("length", [0, 1, 63, 64, 1000])
def test_signatures_are_checked_as_by_the_library(length):
    key = Ed25519PrivateKey.from_private_bytes(bytes(range(32)))
    message = bytes(index % 251 for index in range(length))
    assert is_signed(bytes.fromhex(public_of(key)), message, key.sign(message))
