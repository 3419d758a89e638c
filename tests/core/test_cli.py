"""The core on the command line: the contract's own example, errors as JSON, one answer a line."""

from __future__ import annotations

import io
import json
from pathlib import Path

import jsonschema
import pytest

from ember.cli import main, schemas
from ember.evaluate import evaluate
from ember.files.plan import parse_plan

EXAMPLE = {
    "format": "open-ember/plan", "version": 1, "name": "Bath, then pan",
    "piece": {"cut": "beef/strip-loin", "shape": {"kind": "slab", "thickness_mm": 38}, "mass_g": 340,
              "count": 6, "start_c": 5, "spread_mm": 4},
    "target": {"doneness": "medium-rare"},
    "standard": "us-food-code-2022", "guests": "general", "advisory": False,
    "stages": [
        {"kind": "temper", "air_c": 21, "minutes": 20},
        {"kind": "bath", "water_c": 54.5, "until": {"core_c": 54.0}},
        {"kind": "pan", "pan_c": 230, "seconds_a_side": 45, "sides": 2},
        {"kind": "rest", "air_c": 22, "cover": "open", "minutes": 4}],
}  # fmt: skip
JUDGE = {
    "format": "open-ember/judge", "version": 1, "phase": "cook",
    "piece": {"cut": "chicken/breast", "history": ["brined"], "mass_g": 180}, "guests": "general",
    "standard": "us-food-code-2022", "readings": [[0, 5.0], [600, 41.2], [1500, 63.0], [2400, 74.1]],
}  # fmt: skip


def run(capsys, monkeypatch, verb, text, *flags):
    monkeypatch.setattr("sys.stdin", io.StringIO(text))
    code = main([verb, *flags, "-"])
    return code, capsys.readouterr().out


def test_the_contracts_plan(capsys, monkeypatch):
    code, out = run(capsys, monkeypatch, "simulate", json.dumps(EXAMPLE))
    result = json.loads(out)
    assert code == 0
    jsonschema.validate(result, schemas()["result"]())
    assert [s["kind"] for s in result["stages"]] == ["temper", "bath", "pan", "rest"]
    assert result["stages"][1]["core_c"][1] == pytest.approx(54.0, abs=0.01)
    assert result["stages"][1]["ended_by"] == "core_c"
    assert len(result["curves"]["t_s"]) <= 600
    assert result["pull"]["stage"] == 1
    assert result["thin"]["peak_c"] > result["core"]["peak_c"] > result["thick"]["peak_c"]
    assert result["safety"][0]["needs_probe"] is True
    assert 80 < result["yield_pct"] < 97
    assert result["thick"]["safety"][0]["rule"] == result["safety"][0]["rule"]
    assert result["thin"]["yield_pct"] < result["thick"]["yield_pct"]


def test_a_core_that_the_pan_carries_over_its_word_is_told_how_to_end():
    stages = [{"kind": "bath", "water_c": 58, "until": {"core_c": 56.5}}, *EXAMPLE["stages"][2:]]
    result = evaluate(parse_plan(EXAMPLE | {"stages": stages}))
    assert result.doneness.word == "medium"
    assert result.advice.peak_c == pytest.approx(54.5, abs=0.1)


def test_the_depth_map_runs_from_the_under_side(capsys, monkeypatch):
    pan_only = EXAMPLE | {
        "depth_map": True,
        "stages": [{"kind": "pan", "pan_c": 200, "seconds_a_side": 60, "sides": 1}],
    }
    _, out = run(capsys, monkeypatch, "simulate", json.dumps(pan_only))
    found = json.loads(out)["depth_map"]
    assert found["depth_m"][0] == 0
    assert found["depth_m"][-1] == pytest.approx(0.038)
    assert found["temperature_c"][-1][0] > found["temperature_c"][-1][-1]


def test_the_contracts_judge_request(capsys, monkeypatch):
    code, out = run(capsys, monkeypatch, "judge", json.dumps(JUDGE))
    answer = json.loads(out)
    assert code == 0
    assert answer["met"] is True
    assert answer["rule"]["section"].startswith("3-401.11")
    assert {row["organism"] for row in answer["lethality"]} == {"salmonella", "listeria", "e-coli-o157", "botulinum-np"}
    assert answer["come_up_min"] > 0
    assert answer["cautions"]


def change(path, value):
    found = json.loads(json.dumps(EXAMPLE))
    place = found
    for key in path[:-1]:
        place = place[key]
    if value is KeyError:
        del place[path[-1]]
    else:
        place[path[-1]] = value
    return found


@pytest.mark.parametrize(
    ("path", "value", "code", "at"),
    [
        (["piece", "shape", "thickness_mm"], 0, "bad-input", "piece.shape.thickness_mm"),
        (["piece", "shape", "thickness_mm"], -5, "bad-input", "piece.shape.thickness_mm"),
        (["piece", "shape", "thickness_mm"], 5000, "bad-input", "piece.shape.thickness_mm"),
        (["piece", "shape", "thickness_mm"], "abc", "bad-input", "piece.shape.thickness_mm"),
        (["piece", "shape", "kind"], "cube", "bad-input", "piece.shape"),
        (["piece", "cut"], "beef/unicorn", "bad-input", "piece.cut"),
        (["piece", "start_c"], -42, "bad-input", "piece.start_c"),
        (["piece", "colour"], "red", "bad-input", "piece.colour"),
        (["stages", 0, "minutes"], 0, "bad-input", "stages[0].minutes"),
        (["stages", 0, "minutes"], 1e9, "bad-input", "stages[0].minutes"),
        (["stages", 1, "water_c"], 250, "bad-input", "stages[1].water_c"),
        (["stages", 1, "until"], {"core_c": 56}, "never-reached", "stages[1].until"),
        (["stages", 1, "kind"], "microwave", "bad-input", "stages[1]"),
        (["stages", 2, "pan_c"], 5000, "bad-input", "stages[2].pan_c"),
        (["stages"], [], "bad-input", "stages"),
        (["target"], {"doneness": "crunchy"}, "bad-input", "target.doneness"),
        (["target"], {"doneness": "rare", "core_c": 50}, "bad-input", "target"),
        (["standard"], "made-up", "bad-input", "standard"),
        (["version"], 2, "bad-input", "version"),
        (["format"], KeyError, "bad-input", "format"),
    ],
)  # fmt: skip
def test_bad_plans_are_named(capsys, monkeypatch, path, value, code, at):
    exit_code, out = run(capsys, monkeypatch, "simulate", json.dumps(change(path, value)))
    error = json.loads(out)["error"]
    assert exit_code == 2
    assert (error["code"], error.get("at")) == (code, at)
    assert len(error["message"]) > 4


@pytest.mark.parametrize("text", ["", "{", "NaN", '{"a": Infinity}', "[" * 100_000, "null", '"x"', "\ufeff{}"])
def test_what_is_not_a_plan_is_an_error_not_a_traceback(capsys, monkeypatch, text):
    code, out = run(capsys, monkeypatch, "simulate", text)
    assert code == 2
    assert json.loads(out)["error"]["code"] == "bad-input"


def test_lines_answer_one_a_line_and_go_on(capsys, monkeypatch):
    short = EXAMPLE | {"stages": [{"kind": "rest", "minutes": 1}]}
    text = "\n".join([json.dumps(short), "nonsense", "", json.dumps(short)])
    code, out = run(capsys, monkeypatch, "simulate", text, "--lines")
    answers = [json.loads(line) for line in out.splitlines()]
    assert code == 0
    assert ["error" in answer for answer in answers] == [False, True, False]


def test_a_file_that_is_not_there(capsys, tmp_path):
    assert main(["simulate", str(tmp_path / "none.json")]) == 2
    assert "cannot read" in json.loads(capsys.readouterr().out)["error"]["message"]


@pytest.mark.parametrize(
    "arguments", [[], ["fry"], ["simulate"], ["schema"], ["schema", "soup"], ["simulate", "--x", "-"]]
)
def test_wrong_calls_are_json_too(capsys, arguments):
    assert main(arguments) == 2
    assert "error" in json.loads(capsys.readouterr().out)


def test_cuts_can_be_listed(capsys):
    assert main(["simulate", "--list", "cuts"]) == 0
    assert "beef/strip-loin" in {row["id"] for row in json.loads(capsys.readouterr().out)}


@pytest.mark.parametrize("name", list(schemas()))
def test_schemas_are_schemas(capsys, name):
    assert main(["schema", name]) == 0
    jsonschema.Draft202012Validator.check_schema(json.loads(capsys.readouterr().out))


@pytest.mark.parametrize("name", list(schemas()))
def test_the_schemas_in_the_docs_are_these(name):
    path = Path(__file__).resolve().parents[2] / "docs" / "schemas" / f"{name}.json"
    assert json.loads(path.read_text("utf-8")) == schemas()[name](), (
        f"run ./ember schema {name} > docs/schemas/{name}.json"
    )
