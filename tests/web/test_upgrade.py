"""A kitchen as an earlier version left it is brought up to date, to the last row, and its records hold; backups too."""

from __future__ import annotations

import os
import subprocess
import sys
from pathlib import Path

import psycopg
import pytest
from django.conf import settings

from kitchen.backup import database, restoring
from kitchen.backup.make import ENDING, digest_of, keep_newest, make_backup
from kitchen.backup.restoring import BackupError, unpacked, verify_backup

DUMP = Path(__file__).parent / "data" / "kitchen-of-part-12.dump"
COUNTED = ("line_reading", "line_cookevent", "logbook_signoff", "book_link", "plans_planversion", "kit_kitcheck")


@pytest.fixture(scope="module")
def older(django_db_setup):
    """The name of a database as it was; dropped afterwards."""
    with database.scratch() as name:
        database.restore(DUMP, name)
        yield name


def manage(name, folder, *arguments, **more):
    env = {**os.environ, "EMBER_DB_NAME": name, "EMBER_DB_PATIENT": "1", "EMBER_LOCAL": str(folder), **more}
    command = [sys.executable, "-m", "django", *arguments]
    return subprocess.run(command, env=env, capture_output=True, text=True, check=False)


def counts(name):
    with database.asked(name) as ask:
        rows = database.tables(ask)
    return {table: rows[table] for table in COUNTED}


def test_an_older_kitchen_is_brought_up_to_date_and_its_records_hold(older, tmp_path):
    before = counts(older)
    assert before["book_link"] > 300
    backup = manage(older, tmp_path, "backup", str(tmp_path / "before"))  # as before every migration
    assert backup.returncode == 0, backup.stderr
    for command in (("migrate", "--no-input", "--verbosity=0"), ("grant",)):
        done = manage(older, tmp_path, *command)
        assert done.returncode == 0, done.stderr
    assert counts(older) == before
    verified = manage(older, tmp_path, "verify_log")
    assert verified.returncode == 0, verified.stdout
    assert f"{before['book_link']} records hold" in verified.stdout
    after = manage(older, tmp_path, "backup", str(tmp_path / "after"))
    assert after.returncode == 0, after.stderr


@pytest.mark.django_db(transaction=True)
def test_a_backup_holds_every_row_head_and_picture(kitchen, chef, plan, tmp_path, monkeypatch, settings):
    monkeypatch.setenv("EMBER_BACKUP_PASSPHRASE", "salt and sea")
    settings.FILES = str(tmp_path / "files")
    picture = tmp_path / "files" / "faces" / "1" / "a.jpg"
    picture.parent.mkdir(parents=True)
    picture.write_bytes(b"a face")
    path = tmp_path / "now.ember-backup"
    about = make_backup(path)
    assert about["files"]["faces/1/a.jpg"] == digest_of(picture)
    with unpacked(path) as (place, _):
        assert (place / "files" / "faces" / "1" / "a.jpg").read_bytes() == b"a face"
    assert about["rows"]["plans_plan"] == 1
    assert path.stat().st_mode & 0o077 == 0
    assert verify_backup(path)["rows"] == about["rows"]
    with pytest.raises(BackupError, match="There is a kitchen here"):
        restoring.restore_backup(path)
    monkeypatch.setenv("EMBER_BACKUP_PASSPHRASE", "another")
    with pytest.raises(BackupError, match="passphrase is another"):
        verify_backup(path)
    monkeypatch.delenv("EMBER_BACKUP_PASSPHRASE")
    with pytest.raises(BackupError, match="encrypted"):
        verify_backup(path)


@pytest.mark.django_db(transaction=True)
@pytest.mark.parametrize("passphrase", ["", "salt and sea"])
def test_a_damaged_backup_is_refused(kitchen, tmp_path, monkeypatch, passphrase):
    monkeypatch.setenv("EMBER_BACKUP_PASSPHRASE", passphrase)
    path = tmp_path / "now.ember-backup"
    make_backup(path)
    whole = path.read_bytes()
    middle = len(whole) // 2
    changed = whole[:middle] + bytes([whole[middle] ^ 1]) + whole[middle + 1 :]
    for damaged in (whole[:middle], changed, b"hello"):
        path.write_bytes(damaged)
        with pytest.raises(BackupError), unpacked(path):
            pass
    path.unlink()
    with pytest.raises(BackupError, match="There is no"), unpacked(path):
        pass


def test_the_servers_tools_are_found():
    assert database.tool("pg_dump").endswith("pg_dump")
    with pytest.raises(database.DatabaseToolError, match="not installed"):
        database.tool("pg_no_such_tool")


def test_what_the_server_refuses_is_said(db, tmp_path):
    with pytest.raises(database.DatabaseToolError):
        database.restore(DUMP, "no_such_database")
    with pytest.raises(psycopg.OperationalError), database.asked("no_such_database"):
        pass
    assert settings.DATABASES["default"]["NAME"]


def test_only_backups_of_one_occasion_make_room(tmp_path):
    for number in range(4):
        for why in ("nightly", "before-upgrade"):
            path = tmp_path / f"{number}-{why}{ENDING}"
            path.touch()
            os.utime(path, (number, number))
    keep_newest(tmp_path, "nightly", 2)
    left = sorted(path.name for path in tmp_path.iterdir())
    assert [name for name in left if "nightly" in name] == [f"{number}-nightly{ENDING}" for number in (2, 3)]
    assert len([name for name in left if "before-upgrade" in name]) == 4


def test_a_backup_reaches_nothing_outside_its_folder(tmp_path):
    outside = tmp_path / "outside"
    outside.write_text("x")
    place = tmp_path / "in"
    place.mkdir()
    about = {"sha256": {}, "files": {"../../outside": digest_of(outside)}}
    with pytest.raises(BackupError, match="damaged"):
        restoring.digests_agree(place, about)
