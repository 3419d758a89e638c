"""Photographs of cut faces: made-up ones of which everything is known, pictures of other things, files of any kind."""

from __future__ import annotations

import glob
import io
import json
import subprocess
import sys
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
import skimage.data
from PIL import Image

from ember.bench.face_render import Scene, photograph
from ember.bench.face_study import errors_of, scenes
from ember.errors import BadInput
from ember.evaluate import evaluate
from ember.face.answer import answer_photo, told
from ember.face.bands import valley
from ember.face.compare import Difference, compared
from ember.face.frame import Frame
from ember.face.label import homography, mapped, plane_of
from ember.face.light import encoded, light_at, linear
from ember.face.outline import propose
from ember.face.palette import palette_of
from ember.face.picture import MOST_BYTES, decoded
from ember.face.profile import profile_of
from ember.face.promise import promised_face
from ember.face.reading import NoFaceError, read_face
from ember.files.plan import parse_plan

SMALL = Scene(mm=24.0, wide_mm=30.0, edge_mm=(3.0, 3.0), px_mm=12.0)
SEED = 20261201


def framed(scene, white=True):
    taken = photograph(scene)
    point = taken.white if white else None
    return taken, Frame.of(taken.top, taken.under, scene.mm, taken.rgb.shape, point)


def saved(rgb, form="JPEG", **more):
    file = io.BytesIO()
    Image.fromarray(rgb).save(file, form, **more)
    return file.getvalue()


@pytest.fixture(scope="module")
def read_scenes():
    """Twelve faces in all lights, tilts and cuts, at 12 px a millimetre and above."""
    return [errors_of(replace(s, mm=0.7 * s.mm, wide_mm=0.75 * s.mm, px_mm=12.0)) for s in scenes(12, SEED)]


def test_edges_of_bands_are_found_to_the_millimetre(read_scenes):
    """At 12 px/mm, by warm to cool light, tilted to 25°, with glare, noise and blur."""
    edges = np.abs([edge for row in read_scenes if row for edge in row.edges_mm])
    assert len(edges) > 25
    assert np.median(edges) <= 0.5
    assert (edges <= 1.0).mean() >= 0.85


def test_the_word_of_the_middle_is_right_and_its_band_is_honest(read_scenes):
    read = [row for row in read_scenes if row is not None]
    assert len(read) == len(read_scenes), "none of them is refused"
    assert np.mean([row.word_is_right for row in read]) >= 0.9
    assert np.mean([row.band_holds for row in read]) >= 0.85


@pytest.mark.parametrize("kelvin", [2700.0, 4000.0, 6500.0])
def test_what_is_white_makes_colours_comparable(kelvin):
    """ΔE (CIE 1976) of the face in warm and in cool light from its true colours, by the white of a plate."""
    taken, frame = framed(replace(SMALL, kelvin=kelvin, vignette=0.3, exposure=0.8))
    profile = profile_of(taken.rgb, frame)
    looks = np.interp(profile.depth_mm, taken.depth_mm, taken.looks_c)
    palette = palette_of(SMALL.cut)
    true = np.stack([np.interp(looks, palette.looks_c, palette.lab[:, i]) for i in range(3)], axis=-1)
    inside = (profile.depth_mm > 2) & (profile.depth_mm < SMALL.mm - 2)
    assert np.linalg.norm(profile.lab - true, axis=1)[inside].mean() < 4.0


def test_a_label_tells_the_tilt_and_the_scale():
    """A 20 mm label beside a face tilted by 22°: found within its plane, its scale within 2 %, no edge worse for it."""
    scene = replace(SMALL, label=True, tilt=22.0, turn=4.0, mm=26.0)
    taken = photograph(scene)
    plane = plane_of(taken.rgb)
    plain, by_label = (
        Frame.of(taken.top, taken.under, 26.0, taken.rgb.shape, taken.white, plane=p) for p in (None, plane)
    )
    assert by_label.label_mm == pytest.approx(26.0, rel=0.02)
    errors = [
        abs(sum(band.mm for band in read_face(taken.rgb, frame, scene.cut).top[:2]) - taken.edge_mm(65.0))
        for frame in (plain, by_label)
    ]
    assert errors[1] <= 0.5
    thick = Frame.of(taken.top, taken.under, 34.0, taken.rgb.shape, taken.white, plane=plane)
    assert any("By the label the piece is 26 mm" in doubt for doubt in read_face(taken.rgb, thick, scene.cut).doubts)


def test_nothing_else_is_taken_for_a_label():
    for name in ("astronaut", "chelsea", "coffee", "checkerboard", "page", "brick", "coins"):
        picture = np.asarray(getattr(skimage.data, name)())
        colours = picture if picture.ndim == 3 else np.stack([picture] * 3, axis=-1)
        assert plane_of(colours.astype(np.uint8)) is None, name
    assert plane_of(photograph(SMALL).rgb) is None


def test_a_homography_takes_four_points_onto_four():
    """And any fifth as projective geometry does: cross-ratios stay (Hartley & Zisserman 2004, 2.4; from memory)."""
    points = np.array([[10.0, 12.0], [200.0, 30.0], [220.0, 190.0], [5.0, 170.0]])
    onto = np.array([[0.0, 0.0], [20.0, 0.0], [20.0, 20.0], [0.0, 20.0]])
    matrix = homography(points, onto)
    assert mapped(matrix, points) == pytest.approx(onto)
    line = points[0] + np.array([[0.0], [0.2], [0.5], [1.0]]) * (points[2] - points[0])

    def ratio(row):
        a, b, c, d = (np.linalg.norm(point - row[0]) for point in row)
        return (c - a) * (d - b) / ((c - b) * (d - a))

    assert ratio(mapped(matrix, line)) == pytest.approx(ratio(line))
    assert homography(np.array([[0, 0], [1, 1], [2, 2], [3, 3]], dtype=float), onto) is None


@pytest.mark.parametrize(("blur_mm", "is_refused"), [(0.1, False), (1.6, True), (3.0, True)])
def test_a_blurred_picture_is_refused(blur_mm, is_refused):
    taken, frame = framed(replace(SMALL, blur_mm=blur_mm))
    if is_refused:
        with pytest.raises(NoFaceError, match="blurred"):
            read_face(taken.rgb, frame, SMALL.cut)
    else:
        read_face(taken.rgb, frame, SMALL.cut)


def test_where_the_middle_has_one_colour_its_coldest_place_is_not_told():
    scene = replace(SMALL, cut="chicken/breast", core_c=74.0)
    taken, frame = framed(scene)
    reading = read_face(taken.rgb, frame, scene.cut)
    assert reading.give_or_take_mm > 0.25 * scene.mm
    assert any("one colour" in doubt for doubt in reading.doubts)
    same = compared(scene.cut, told(reading, scene.cut), None, scene.mm)
    assert Difference.OFF_MIDDLE not in [finding.what for finding in same.findings]


def test_a_face_is_held_against_the_face_its_plan_promised():
    """Rendered from the promise itself, it comes as promised; with the heat twice as deep, its bands say so."""
    plan = parse_plan({
        "format": "open-ember/plan", "version": 1, "name": "Rump", "depth_map": True, "target": {"core_c": 54},
        "piece": {"cut": "beef/ribeye", "shape": {"kind": "slab", "thickness_mm": 30}, "mass_g": 300, "start_c": 5},
        "stages": [
            {"kind": "pan", "pan_c": 220, "turn_every_s": 30, "until": {"core_c": 46}}, {"kind": "rest", "minutes": 5},
        ],
    })  # fmt: skip
    promise = promised_face("beef/ribeye", evaluate(plan))
    wanted = told(promise, "beef/ribeye")
    assert promise.coldest_mm == pytest.approx(15.0, abs=2.0)
    faces = {}
    for deeper in (1.0, 1.6):
        depth = np.array(promise.depth_mm)
        inwards = np.minimum(depth, 30.0 - depth) / deeper
        looks = np.interp(np.where(depth < 15.0, inwards, 30.0 - inwards), depth, promise.looks_c)
        scene = Scene(
            mm=30.0, wide_mm=36.0, px_mm=12.0, profile=(tuple(depth.tolist()), tuple(looks.tolist())), kelvin=3200.0
        )
        taken = photograph(scene)
        frame = Frame.of(taken.top, taken.under, 30.0, taken.rgb.shape, taken.white)
        faces[deeper] = compared(scene.cut, told(read_face(taken.rgb, frame, scene.cut), scene.cut), wanted, 30.0)
    assert [finding.what for finding in faces[1.0].findings] == []
    assert Difference.RIM in [finding.what for finding in faces[1.6].findings]
    grey = {deeper: next(row for row in face.rows if row.word == "grey") for deeper, face in faces.items()}
    assert abs(grey[1.0].off_mm) < 1.0
    assert grey[1.6].off_mm > 1.0


def test_light_goes_through_the_curve_of_srgb_and_back():
    """IEC 61966-2-1: 18 % grey is coded as 118 of 255."""
    assert np.rint(255 * encoded(np.array([0.18])))[0] == 118
    values = np.arange(256.0)
    assert np.allclose(255 * encoded(linear(values)), values)


@pytest.mark.parametrize(
    ("paint", "why"),
    [((255, 255, 255), "burnt out"), ((2, 2, 2), "in the dark"), ((240, 20, 20), "not white")],
)  # fmt: skip
def test_a_white_that_is_none_is_said(paint, why):
    picture = np.full((300, 300, 3), 120, dtype=np.uint8)
    picture[100:200, 100:200] = paint
    light = light_at(picture, (150.0, 150.0))
    assert not light.is_known
    assert why in light.why_not


def test_without_white_it_says_so_and_is_less_sure():
    taken, with_white = framed(SMALL)
    without = replace(with_white, white=None)
    sure, unsure = (read_face(taken.rgb, frame, SMALL.cut) for frame in (with_white, without))
    assert any("light is not known" in doubt for doubt in unsure.doubts)
    assert unsure.core_high_c - unsure.core_low_c > sure.core_high_c - sure.core_low_c


def test_what_differs_from_left_to_right_and_from_the_middle_is_told():
    taken, frame = framed(replace(SMALL, edge_mm=(2.0, 5.0)))
    reading = read_face(taken.rgb, frame, SMALL.cut)
    true = float(taken.depth_mm[np.argmin(taken.looks_c)])
    assert reading.coldest_mm == pytest.approx(true, abs=1.5)
    assert reading.off_middle_mm < -2.0
    even = read_face(*reversed_frame(SMALL), SMALL.cut)
    uneven = read_face(*reversed_frame(replace(SMALL, uneven_mm=2.5)), SMALL.cut)
    assert uneven.uneven_mm > even.uneven_mm


def reversed_frame(scene):
    taken, frame = framed(scene)
    return taken.rgb, frame


def test_a_profile_falls_to_one_place_and_rises_from_it():
    """Isotonic on both sides: what is given so is left so, a bump is levelled."""
    v = np.abs(np.arange(-20.0, 21.0)) + 50
    place, fitted = valley(v, None)
    assert place == 20
    assert np.allclose(fitted, v)
    v[8] += 30
    _, fitted = valley(v, None)
    assert (np.diff(fitted[:21]) <= 1e-9).all()
    assert (np.diff(fitted[20:]) >= -1e-9).all()


# What is no face -----------------------------------------------------------------------------------------------------


def other_pictures():
    folder = Path(skimage.data.__file__).parent
    for name in sorted(glob.glob(f"{folder}/*.png") + glob.glob(f"{folder}/*.jpg")):
        picture = np.asarray(Image.open(name).convert("RGB"))
        if min(picture.shape[:2]) >= 200:
            yield picture


def test_pictures_of_other_things_are_refused():
    """The public-domain pictures that come with scikit-image: a cat, coffee, a retina, bricks, the moon, a page."""
    random, passed, tried = np.random.default_rng(SEED), 0, 0
    cuts = ("beef/ribeye", "pork/loin", "salmon/fillet", "chicken/breast")
    for number, picture in enumerate(other_pictures()):
        rows, columns = picture.shape[:2]
        for cut in (cuts[number % 2], cuts[2 + number % 2]):
            middle = random.uniform(0.35, 0.65, 2) * (columns, rows)
            turn, reach = random.uniform(-0.4, 0.4), random.uniform(0.2, 0.35) * min(rows, columns)
            along = reach * np.array([np.sin(turn), np.cos(turn)])
            white = np.unravel_index(picture.sum(axis=2).argmax(), (rows, columns))[::-1]
            frame = Frame.of(
                tuple(middle - along), tuple(middle + along), 34.0, picture.shape, (float(white[0]), float(white[1]))
            )
            tried += 1
            try:
                read_face(picture, frame, cut)
                passed += 1
            except NoFaceError:
                pass
    assert tried > 30
    assert passed <= 0.05 * tried


@pytest.mark.parametrize(
    ("change", "why"),
    [
        ({"glare": 0.6}, "shines|does not end"), ({"exposure": 4.0}, "burnt out|shines|not the colours|does not end"),
        ({"blur_mm": 3.0}, "blurred|does not end"),
    ],
)  # fmt: skip
def test_a_face_that_cannot_be_read_says_why(change, why):
    taken, frame = framed(replace(SMALL, **change))
    with pytest.raises(NoFaceError, match=why):
        read_face(taken.rgb, frame, SMALL.cut)


@pytest.mark.parametrize(
    ("wrong", "at"),
    [
        ({"top": (-1.0, 5.0)}, "top"), ({"under": (1e6, 5.0)}, "under"), ({"mm": 3.0}, "mm"), ({"mm": 900.0}, "mm"),
        ({"under": (150.0, 60.0)}, "under"), ({"white": (0.0, 301.0)}, "white"),
    ],
)  # fmt: skip
def test_an_impossible_frame_names_what_is_wrong(wrong, at):
    values = {"top": (150.0, 50.0), "under": (150.0, 250.0), "mm": 30.0, "shape": (300, 300, 3), "white": None} | wrong
    with pytest.raises(BadInput) as caught:
        Frame.of(**values)
    assert caught.value.at == at


# The outline --------------------------------------------------------------------------------------------------------


@pytest.mark.parametrize("scene", list(scenes(4, SEED + 1)), ids=lambda scene: scene.cut)
def test_the_piece_is_found_on_its_plate(scene):
    small = replace(scene, mm=30.0, wide_mm=45.0, px_mm=12.0)
    taken = photograph(small)
    found = propose(taken.rgb, small.cut)
    true = np.hypot(*(np.array(taken.top) - taken.under))
    assert np.hypot(*(np.array(found.top) - found.under)) == pytest.approx(true, rel=0.06)
    assert len(found.outline) >= 6
    assert found.white is not None


def test_points_on_and_beside_the_piece_move_the_outline():
    taken = photograph(SMALL)
    right = (taken.top[0] + 12 * SMALL.px_mm, (taken.top[1] + taken.under[1]) / 2)
    before, after = (propose(taken.rgb, SMALL.cut, outside=points) for points in ((), (right,)))
    assert max(x for x, _ in after.outline) < max(x for x, _ in before.outline) - 1


def test_where_there_is_no_piece_none_is_found():
    with pytest.raises(BadInput, match="No piece"):
        propose(np.full((400, 400, 3), 200, dtype=np.uint8), "beef/ribeye")


# Files --------------------------------------------------------------------------------------------------------------


def test_a_picture_is_upright_and_says_nothing_of_place_and_device():
    rgb = np.zeros((240, 320, 3), dtype=np.uint8)
    rgb[:40, :40] = 255
    exif = Image.Exif()
    exif[0x0112] = 6  # to be turned by a quarter
    exif[0x010F], exif[0x8825] = "A camera", {1: "N", 2: (59.0, 0.0, 0.0)}
    kept = decoded(saved(rgb, exif=exif))
    assert kept.rgb.shape == (320, 240, 3)
    assert kept.rgb[5, -5].mean() > 200
    again = Image.open(io.BytesIO(kept.jpeg))
    assert not again.getexif()
    assert "exif" not in again.info


@pytest.mark.parametrize("form", ["JPEG", "PNG", "WEBP", "HEIF"])
def test_every_kind_of_photograph_is_read(form):
    from pillow_heif import register_heif_opener

    register_heif_opener()
    assert decoded(saved(np.full((300, 300, 3), 90, dtype=np.uint8), form)).rgb.shape == (300, 300, 3)


@pytest.mark.parametrize(
    ("data", "why"),
    [
        (b"", "no photograph"), (b"not a picture", "no photograph"), (b"GIF89a" + bytes(200), "no photograph"),
        (saved(np.zeros((300, 300, 3), dtype=np.uint8))[:400], "no photograph"), (bytes(MOST_BYTES + 1), "20 MB"),
        (saved(np.zeros((100, 300, 3), dtype=np.uint8)), "too small"),
    ],
    ids=["empty", "text", "gif", "cut off", "large", "small"],
)  # fmt: skip
def test_a_file_that_is_none_is_refused_in_words(data, why):
    with pytest.raises(BadInput, match=why):
        decoded(data)


def test_a_picture_that_unpacks_too_large_is_refused():
    bomb = io.BytesIO()
    Image.new("1", (20_000, 20_000)).save(bomb, "PNG")
    with pytest.raises(BadInput):
        decoded(bomb.getvalue())


def test_the_command_line_reads_a_photograph(tmp_path):
    """As the contract has it: bands from the top and from the underside, the red as one; the heat of the middle."""
    taken = photograph(replace(SMALL, core_c=47.0))
    photo = tmp_path / "face.jpg"
    photo.write_bytes(saved(taken.rgb))
    done = subprocess.run(
        [sys.executable, "-m", "ember.cli", "face", str(photo), "--mm", "24", "--cut", SMALL.cut],
        capture_output=True, text=True, check=True,
    )  # fmt: skip
    answer = json.loads(done.stdout)
    assert answer["refused"] is None
    assert answer["bands_mm"]["red"] > 2.0
    assert [len(answer["bands_mm"][word]) for word in ("crust", "grey", "pink", "rosy")] == [2] * 4
    assert answer["core_c"]["p10"] <= 47.5 <= answer["core_c"]["p90"] + 1.0
    total = sum(sum(band) if isinstance(band, list) else band for band in answer["bands_mm"].values())
    assert total == pytest.approx(24.0, abs=0.5)


def test_a_file_that_is_no_photograph_is_refused_in_the_answer_and_a_wrong_cut_is_an_error():
    assert "no photograph" in answer_photo(b"text", 30.0)["refused"]
    with pytest.raises(BadInput):
        answer_photo(b"text", 30.0, "beef/of-nowhere")
