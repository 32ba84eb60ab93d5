"""The published description: valid for others, complete, and what is really answered."""

from __future__ import annotations

import ast
import json
import re
from pathlib import Path

import pytest
from jsonschema import Draft202012Validator
from openapi_spec_validator import validate

from thermion.formats.senml import read_pack
from thermion.probes.lines import read_line
from thermion.web import create_app
from thermion.web.described import challenge_file_schema, openapi, spoken

PLACES = Path(__file__).parents[2] / "thermion/web/places"


@pytest.fixture(scope="module")
def app(demo_copy):
    made = create_app({"DATA": demo_copy()})
    yield made
    made.extensions["thermion"].close()


def test_an_outside_validator_finds_nothing_wrong_with_the_description(app):
    found = app.test_client().get("/openapi.json").json
    validate(found)
    assert len(found["paths"]) > 30


def test_every_address_that_gives_or_takes_json_is_in_it(app):
    described = {rule.endpoint for rule, _, _ in spoken(app)}
    files = {"described", "challenge_schema", "token"}
    for rule in app.url_map.iter_rules():
        assert "json" not in rule.rule or rule.endpoint in described | files, rule
    for path in PLACES.glob("*/views*.py"):
        tree = ast.parse(path.read_text())
        for view in (n for n in tree.body if isinstance(n, ast.FunctionDef) and n.decorator_list):
            takes = any(
                isinstance(n, ast.Call) and getattr(n.func, "id", "") == "sent" for n in ast.walk(view)
            )
            marked = any(getattr(getattr(d, "func", None), "id", "") == "speaks" for d in view.decorator_list)
            assert marked or not takes, f"{path.name}: {view.name}"


def test_what_is_answered_is_what_is_described(app):
    client, found = app.test_client(), openapi(app)
    asked = 0
    for address, operations in found["paths"].items():
        if "get" not in operations or "{key}" in address or address.endswith(".zip"):
            continue
        given = {"class_id": 1, "challenge_id": 2, "run_id": 4, "version_id": 1, "reading_id": 1}
        answer = client.get(address.format(**given))
        if answer.status_code != 200:
            continue
        schema = operations["get"]["responses"]["200"]["content"]["application/json"]["schema"]
        Draft202012Validator({**schema, "components": found["components"]}).validate(answer.json)
        asked += 1
    assert asked >= 14


def test_a_challenge_file_keeps_to_the_published_schema(app):
    schema = app.test_client().get("/schema/challenge.json").json
    assert schema == json.loads(json.dumps(challenge_file_schema()))
    Draft202012Validator.check_schema(schema)
    checked = Draft202012Validator(schema)
    for number in range(1, 13):
        checked.validate(app.test_client().get(f"/challenges/{number}/record.thermion.json").json)
    wrong = app.test_client().get("/challenges/1/record.thermion.json").json | {"surprise": 1}
    assert not checked.is_valid(wrong)


def test_the_examples_of_the_documents_are_read_as_they_say():
    text = (Path(__file__).parents[2] / "docs/devices.md").read_text()
    pack = re.search(r"^\[.*\]$", text, re.M)[0]
    found, unread = read_pack(pack.encode())
    assert [(m.name, m.value, m.ago_s) for m in found] == [("box:A", 21.5, 0), ("box:B", 22.0, 2)]
    assert unread == []
    for line in re.search(r"reads lines such as (.*?) or a\s", text, re.S)[1].replace("`", "").split(", "):
        assert read_line(line), line
    program = re.search(r"```python\n(.*?)```", text, re.S)[1]
    compile(program, "ten lines", "exec")
    assert len([line for line in program.splitlines() if line.strip()]) <= 10
