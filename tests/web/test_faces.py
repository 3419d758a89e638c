"""Photographs of cut faces: taken, framed, measured against the plan, kept with their record."""

from __future__ import annotations

import datetime as dt
import hashlib
import io
import json
import uuid
import zipfile
from pathlib import Path

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from django.db import IntegrityError, transaction
from PIL import Image

from ember.bench.face_render import Scene, photograph
from kitchen.accounts.models import Kitchen
from kitchen.book.export import write_export
from kitchen.book.paper import paper_of
from kitchen.book.report import report_of
from kitchen.book.verify import verify
from kitchen.errors import Busy
from kitchen.faces import actions, store
from kitchen.faces.eyes import score_of
from kitchen.faces.models import FaceMeasure, FacePhoto
from kitchen.faces.study import study_of
from kitchen.line import actions as line_actions
from kitchen.line.models import Cook
from kitchen.line.starting import start
from kitchen.logbook import actions as log_actions
from kitchen.logbook.record import record_of
from kitchen.work import Gate

from .pages import body_of

SCENE = Scene(cut="beef/strip-loin", mm=26.0, wide_mm=34.0, core_c=56.0, edge_mm=(3.2, 3.2), px_mm=9.0)


@pytest.fixture(scope="module")
def taken():
    """A made-up photograph, and where its face is."""
    return photograph(SCENE)


@pytest.fixture(scope="module")
def jpeg(taken):
    """It as a phone would send it: with a place and a device in it."""
    exif = Image.Exif()
    exif[0x010F] = "Maker of the phone"
    exif[0x8825] = {1: "N", 2: (51.0, 30.0, 0.0)}
    out = io.BytesIO()
    Image.fromarray(taken.rgb).save(out, "JPEG", quality=90, exif=exif)
    return out.getvalue()


@pytest.fixture(autouse=True)
def folder(settings, tmp_path):
    settings.FILES = str(tmp_path / "files")
    settings.PHOTOS = str(tmp_path / "files" / "faces")
    return Path(settings.PHOTOS)


@pytest.fixture
def cook(plan, cook_person):
    return start(plan, cook_person)


def sent(client, jpeg, cook=None, token=None, **more):
    file = SimpleUploadedFile("face.jpg", jpeg, "image/jpeg")
    body = {"photo": file, "token": str(token or uuid.uuid4())} | ({"cook": str(cook.pk)} if cook else {})
    headers = more.pop("headers", {})
    return client.post("/faces/take/", body | more, headers=headers)


def framed(client, photo, taken, **more):
    points = {name: f"{x:.1f},{y:.1f}" for name, (x, y) in
              (("top", taken.top), ("under", taken.under), ("white", taken.white))}  # fmt: skip
    body = points | {"mm": "26", "token": str(uuid.uuid4())} | more
    return client.post(f"/faces/{photo.pk}/measure/", body)


@pytest.fixture
def photo(signed_in, jpeg, cook):
    assert sent(signed_in, jpeg, cook).status_code == 302
    return FacePhoto.objects.get()


def test_a_photograph_is_taken_framed_and_held_against_the_plan(signed_in, jpeg, taken, cook):
    page = signed_in.get(f"/line/{cook.pk}/check/")
    assert "Photograph the cut face" in page.content.decode()
    answer = sent(signed_in, jpeg, cook)
    photo = FacePhoto.objects.get()
    assert answer.headers["Location"] == f"/faces/{photo.pk}/frame/"
    frame = signed_in.get(answer.headers["Location"]).content.decode()
    assert "face-outline" in frame
    assert 'name="mm" value="26"' in frame, "the thickness is the plan's"
    assert "what do you say?" in frame
    answer = framed(signed_in, photo, taken, guess_word="pink", guess_mm="2")
    assert answer.headers["Location"] == f"/faces/{photo.pk}/"
    text = body_of(signed_in.get(f"/faces/{photo.pk}/"))
    measure = FaceMeasure.objects.get()
    assert not measure.refused
    assert measure.reading["core_c"]["p50"] == pytest.approx(SCENE.core_c, abs=3.0)
    assert measure.promised["middle"] in text
    assert measure.promised["heat"] == "pan"
    for words in ("As it was cut", "As planned", "Half cut, half planned", "You said", "never by colour"):
        assert words in text
    assert f"/faces/{photo.pk}/" in signed_in.get(f"/line/{cook.pk}/check/").content.decode()


def test_what_is_kept_says_nothing_of_place_and_device_and_stands_by_its_digest(photo, folder, jpeg):
    kept = (folder / str(photo.kitchen_id) / f"{photo.sha256}.jpg").read_bytes()
    assert hashlib.sha256(kept).hexdigest() == photo.sha256
    assert b"Maker" not in kept
    assert not Image.open(io.BytesIO(kept)).getexif()
    assert photo.sent_sha256 == hashlib.sha256(jpeg).hexdigest()
    assert (photo.width, photo.height) == Image.open(io.BytesIO(kept)).size
    assert verify(photo.kitchen).holds
    with pytest.raises(IntegrityError), transaction.atomic():
        FacePhoto.objects.filter(pk=photo.pk).update(mm=3.0)
    with pytest.raises(IntegrityError), transaction.atomic():
        FacePhoto.objects.filter(pk=photo.pk).delete()


def test_a_changed_or_missing_picture_is_found_by_the_chain(photo, folder):
    path = store.path_of(photo)
    whole = path.read_bytes()
    path.write_bytes(whole[:-1] + b"x")
    assert "not the one that was taken" in verify(photo.kitchen).faults[0]
    path.unlink()
    assert "missing" in verify(photo.kitchen).faults[0]
    path.write_bytes(whole)
    assert verify(photo.kitchen).holds


def test_nothing_is_kept_twice(signed_in, jpeg, cook, photo, folder):
    for _ in range(2):
        assert sent(signed_in, jpeg, cook).status_code == 302
    assert FacePhoto.objects.count() == 1
    assert len(list((folder / str(cook.kitchen_id)).iterdir())) == 1
    known = signed_in.get(f"/faces/known/?sha256={photo.sent_sha256}&cook={cook.pk}").json()
    assert known == {"url": f"/faces/{photo.pk}/"}
    assert signed_in.get(f"/faces/known/?sha256={'0' * 64}&cook={cook.pk}").json() == {"url": None}


@pytest.mark.parametrize(
    ("data", "says"),
    [(b"", "Choose a photograph"), (b"just some words", "no photograph"), (b"%PDF-1.7 " + b"x" * 999, "no photograph"),
     (b"\xff\xd8\xff\xe0" + b"\0" * 5000, "no photograph")],
)  # fmt: skip
def test_what_is_no_picture_is_refused_in_words(signed_in, cook, data, says):
    answer = sent(signed_in, data, cook)
    assert answer.status_code == 422
    assert says in answer.content.decode()
    assert not FacePhoto.objects.exists()


def test_a_piece_without_a_cook_needs_its_cut_and_thickness(signed_in, jpeg, taken):
    assert signed_in.get("/faces/new/?cut=beef/strip-loin&mm=26").status_code == 200
    answer = sent(signed_in, jpeg, cut="beef/strip-loin", mm="thick")
    assert answer.status_code == 422
    assert "not a length" in answer.content.decode() or "Thickness" in answer.content.decode()
    assert sent(signed_in, jpeg, cut="beef/strip-loin", mm="26").status_code == 302
    photo = FacePhoto.objects.get()
    framed(signed_in, photo, taken)
    assert photo.cook is None
    assert "As planned" not in body_of(signed_in.get(f"/faces/{photo.pk}/"))


@pytest.mark.parametrize(
    ("field", "value"), [("mm", "0"), ("mm", "999"), ("mm", ""), ("top", "a,b"), ("under", "nan,4"), ("guess_mm", "-3"),
                         ("guess_word", "purple")],
)  # fmt: skip
def test_a_wrong_frame_gets_its_message_and_loses_nothing(signed_in, photo, taken, field, value):
    answer = framed(signed_in, photo, taken, **{field: value})
    assert answer.status_code == 422
    page = answer.content.decode()
    assert 'class="problem"' in page
    assert not FaceMeasure.objects.exists()
    if field != "top":
        assert f'name="top" value="{taken.top[0]:.1f},{taken.top[1]:.1f}"' in " ".join(page.split())


def test_a_line_beside_the_face_is_refused_and_said_so(signed_in, photo, taken):
    framed(signed_in, photo, taken, top="5,5", under="90,5")
    assert FaceMeasure.objects.get().refused
    text = body_of(signed_in.get(f"/faces/{photo.pk}/"))
    assert "Not measured:" in text
    assert "Frame it again" in text


def test_a_guess_counts_only_before_the_first_answer(signed_in, photo, taken):
    framed(signed_in, photo, taken, guess_word="rosy", guess_mm="3")
    framed(signed_in, photo, taken, guess_word="pink", guess_mm="4")
    first, second = FaceMeasure.objects.order_by("pk")
    assert (first.guess_word, first.guess_mm) == ("rosy", 3.0)
    assert (second.guess_word, second.guess_mm) == ("", None)


def test_practice_scores_the_eye(signed_in, photo, taken, kitchen, cook_person):
    assert score_of(kitchen, cook_person) is None
    framed(signed_in, photo, taken, guess_word="red", guess_mm="0.5")
    score = score_of(kitchen, cook_person)
    assert (score.words_right, score.words, score.edges_near, score.edges) == (0, 1, 0, 1)
    assert score.off_mm < -1.0
    page = body_of(signed_in.get("/practice/"))
    assert "Cut faces by eye" in page
    assert "0 of 1" in page


def test_corrections_move_the_proposal(signed_in, photo, taken):
    url = f"/faces/{photo.pk}/proposal/"
    plain = signed_in.post(url, {"inside": "", "outside": ""}).json()
    assert len(plain["outline"]) > 6
    x, y = taken.under
    moved = signed_in.post(url, {"outside": f"{x:.0f},{y - 20:.0f} nonsense 1"}).json()
    assert moved["under"][1] < plain["under"][1] - 5


def test_cured_meat_is_not_read_by_its_colour(signed_in, jpeg, taken):
    assert sent(signed_in, jpeg, cut="ham/whole", mm="26").status_code == 302
    photo = FacePhoto.objects.get()
    framed(signed_in, photo, taken)
    assert "keeps its red" in FaceMeasure.objects.get().refused


def test_a_photograph_that_waited_has_the_time_it_was_taken(signed_in, jpeg, cook):
    at = cook.kitchen.now() - dt.timedelta(minutes=20)
    answer = sent(signed_in, jpeg, cook, headers={"X-Kept-Tap": str(round(at.timestamp() * 1000))})
    assert answer.json() == {"result": "done"}
    assert abs((FacePhoto.objects.get().at - at).total_seconds()) < 1
    refused = sent(signed_in, b"words", cook, headers={"X-Kept-Tap": str(round(at.timestamp() * 1000))})
    assert refused.json()["result"] == "refused"
    assert "no photograph" in refused.json()["why"]


def test_where_there_is_no_place_to_work_the_photograph_waits(signed_in, jpeg, cook, photo, taken, monkeypatch):
    def full(gate, is_wanted):
        raise Busy

    monkeypatch.setattr(Gate, "place", full)
    other = jpeg + b"\0"
    for headers in ({}, {"X-Kept-Tap": str(round(cook.kitchen.now().timestamp() * 1000))}):
        answer = sent(signed_in, other, cook, headers=headers)
        assert answer.status_code == 503, "a device keeps it, and sends it again"
        assert answer.headers["Retry-After"]
    assert framed(signed_in, photo, taken).status_code == 503
    assert FacePhoto.objects.count() == 1
    assert not FaceMeasure.objects.exists()
    monkeypatch.undo()
    assert sent(signed_in, other, cook).status_code == 302
    assert framed(signed_in, photo, taken).status_code == 302
    assert FaceMeasure.objects.get().promised, "the promise was worked out, not given up"


def test_another_kitchen_sees_nothing_of_it(client, stranger, photo, jpeg, cook, taken):
    client.force_login(stranger)
    for path in ("", "photo.jpg", "frame/"):
        assert client.get(f"/faces/{photo.pk}/{path}").status_code == 404
    for path in ("measure/", "proposal/", "ruler/", "remove/"):
        assert client.post(f"/faces/{photo.pk}/{path}", {"mm": "26"}).status_code == 404
    assert sent(client, jpeg, cook).status_code == 404
    assert client.get(f"/faces/known/?sha256={photo.sent_sha256}").json() == {"url": None}


def test_only_a_chef_removes_a_picture_and_its_record_stays(signed_in, chef_in, photo, taken):
    framed(signed_in, photo, taken)
    assert signed_in.post(f"/faces/{photo.pk}/remove/", {"why": "a face"}).status_code == 403
    assert store.path_of(photo).exists()
    chef_in.post(f"/faces/{photo.pk}/remove/", {"why": ""})
    assert store.path_of(photo).exists()
    chef_in.post(f"/faces/{photo.pk}/remove/", {"why": "A guest is in it."})
    assert not store.path_of(photo).exists()
    text = body_of(signed_in.get(f"/faces/{photo.pk}/"))
    assert "no longer kept: A guest is in it." in text
    assert "each side" in text
    assert signed_in.get(f"/faces/{photo.pk}/photo.jpg").status_code == 404
    assert verify(Kitchen.objects.get(pk=photo.kitchen_id)).holds


def test_a_kitchen_has_so_much_room_and_keeps_for_so_long(signed_in, chef_in, jpeg, cook, settings, taken):
    settings.PHOTO_QUOTA_B = 1000
    answer = sent(signed_in, jpeg, cook)
    assert answer.status_code == 422
    assert "fill their" in answer.content.decode()
    settings.PHOTO_QUOTA_B = 10_000_000
    sent(signed_in, jpeg, cook)
    photo = FacePhoto.objects.select_related("kitchen").get()
    assert chef_in.post("/book/keep/", {"photos": "3"}).status_code == 302
    kitchen = Kitchen.objects.get(pk=photo.kitchen_id)
    assert kitchen.photos_kept_months == 3
    assert actions.retire(kitchen) == 0
    Kitchen.objects.filter(pk=kitchen.pk).update(
        is_demo=True, clock_showed=kitchen.now() + dt.timedelta(days=95), clock_set_at=kitchen.now()
    )
    assert actions.retire(Kitchen.objects.get(pk=kitchen.pk)) == 1
    assert not store.path_of(photo).exists()


def test_files_that_no_row_wants_are_swept_after_a_day(photo, folder):
    orphan = folder / str(photo.kitchen_id) / f"{'a' * 64}.jpg"
    orphan.write_bytes(b"x")
    assert store.sweep(photo.kitchen) == 0
    import os

    os.utime(orphan, (0, 0))
    os.utime(store.path_of(photo), (0, 0))
    assert store.sweep(photo.kitchen) == 1
    assert store.path_of(photo).exists()


def test_the_record_and_its_signature_hold_what_was_measured(signed_in, photo, taken, cook, chef):
    framed(signed_in, photo, taken)
    line_actions.finish(cook, chef)
    finished = Cook.objects.get(pk=cook.pk)
    row = record_of(finished)["faces"][0]
    assert row["sha256"] == photo.sha256
    assert row["bands_mm"]["grey"]
    assert row["says"]
    line_actions.correct(finished, chef, "Served to the crew.")
    signature = log_actions.sign(Cook.objects.get(pk=cook.pk), chef, "password")
    assert signature.record["faces"] == [row]
    page = signed_in.get(f"/log/{cook.pk}/").content.decode()
    assert f"/faces/{photo.pk}/photo.jpg?w=240" in page


def test_the_report_shows_it_on_screen_and_on_paper(signed_in, chef_in, photo, taken, cook, chef):
    framed(signed_in, photo, taken)
    line_actions.finish(cook, chef)
    day = Cook.objects.get(pk=cook.pk).finished_at.date().isoformat()
    page = body_of(signed_in.get(f"/book/report/?from={day}&to={day}"))
    assert "Cut face:" in page
    kitchen = Kitchen.objects.get(pk=cook.kitchen_id)
    report = report_of(kitchen, dt.date.fromisoformat(day), dt.date.fromisoformat(day))
    with_picture = paper_of(report, chef)
    assert b"/Image" in with_picture
    actions.remove(photo, chef, "A guest is in it.")
    without = paper_of(report_of(kitchen, dt.date.fromisoformat(day), dt.date.fromisoformat(day)), chef)
    assert without.count(b"/Image") < with_picture.count(b"/Image")


def test_an_export_holds_the_pictures(photo, kitchen):
    out = io.BytesIO()
    write_export(kitchen, out)
    with zipfile.ZipFile(out) as archive:
        picture = archive.read(f"photographs/{photo.sha256}.jpg")
        rows = archive.read("tables/faces.facephoto.jsonl").decode().splitlines()
    assert hashlib.sha256(picture).hexdigest() == photo.sha256
    assert json.loads(rows[0])["sha256"] == photo.sha256


def test_a_study_counts_edges_words_and_cores(signed_in, photo, taken, kitchen):
    framed(signed_in, photo, taken)
    told = FaceMeasure.objects.get().reading
    crust, grey = told["bands_mm"]["crust"][0], told["bands_mm"]["grey"][0]
    empty = signed_in.get("/faces/study/").content.decode()
    assert "No slice was measured" in empty
    body = {"word": told["middle"], "top-0": f"{crust + 0.4:.1f}", "top-1": f"{crust + grey + 2.0:.1f}",
            "core_c": f"{told['core_c']['p50'] + 30:.0f}", "token": str(uuid.uuid4())}  # fmt: skip
    assert signed_in.post(f"/faces/{photo.pk}/ruler/", body).status_code == 302
    study = study_of(kitchen)
    assert (study.near.right, study.near.of) == (1, 2)
    assert study.median_mm == pytest.approx(1.2, abs=0.1)
    assert (study.words.right, study.words.of) == (1, 1)
    assert (study.cores.right, study.cores.of) == (0, 1)
    page = body_of(signed_in.get("/faces/study/"))
    assert "1 of 2" in page
    csv = signed_in.get("/faces/study.csv").content.decode().splitlines()
    assert len(csv) == 3
    wrong = signed_in.post(f"/faces/{photo.pk}/ruler/", body | {"top-0": "99", "token": str(uuid.uuid4())})
    assert wrong.status_code == 422
    assert "must be from 0 to 26 mm" in wrong.content.decode()


def test_inches_and_fahrenheit_see_no_metric(signed_in, cook_person, photo, taken):
    cook_person.temperature_unit, cook_person.length_unit = "F", "in"
    cook_person.save()
    framed(signed_in, photo, taken, mm="1.02")
    text = body_of(signed_in.get(f"/faces/{photo.pk}/"))
    assert FaceMeasure.objects.get().mm == pytest.approx(25.9, abs=0.1)
    assert " mm" not in text
    assert "°C" not in text


def test_pages_without_photographs_say_what_will_stand_there(signed_in):
    assert "will stand here" in signed_in.get("/faces/").content.decode()
    assert signed_in.get("/faces/new/").status_code == 200
