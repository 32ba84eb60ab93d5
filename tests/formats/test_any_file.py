"""A file of any content is refused with its place, or accepted and then every page shows it."""

from __future__ import annotations

import json
import random

import pytest
from sqlalchemy import select

from tests.conftest import NOON, Crew
from tests.formats.test_exchange import change, export, full  # noqa: F401 - the fixture of a whole challenge
from thermion.formats.exchange import import_challenge
from thermion.formats.intake import read_file
from thermion.records.database import Database
from thermion.records.errors import Refused
from thermion.records.tables import Build, Run, Version
from thermion.web import create_app

PLACES = (
    "brief/task",
    "brief/rig",
    "brief/marks",
    "brief/score",
    "brief/lessons",
    "brief/safety",
    "builds",
    "runs",
)
MORE = ("findings", "findings.csv", "record", "sheets/brief", "sheets/data", "record.thermion.json")
ODD = [
    "",
    "x" * 40,
    "x" * 4000,
    "nowhere",
    -1,
    0,
    7,
    1e9,
    1e300,
    2**70,
    None,
    [],
    {},
    True,
    "<b>",
    "\x00",
    "🙂",
    0.5,
]


def paths(item: object, at: tuple = ()) -> list[tuple]:
    """Every place of a file, of each list its first and last."""
    here = [at] if at else []
    if isinstance(item, dict):
        return here + [p for key, value in item.items() for p in paths(value, (*at, key))]
    if isinstance(item, list) and item:
        return here + [p for i in {0, len(item) - 1} for p in paths(item[i], (*at, i))]
    return here


def odd_files(text: str, count: int, seed: int) -> list[tuple[tuple, object, bytes]]:
    """The file with one thing changed to something odd, or one thing of a list there twice."""
    dice, file = random.Random(seed), json.loads(text)
    kinds: dict[tuple, list[tuple]] = {}
    for p in paths(file):
        kinds.setdefault(tuple(0 if isinstance(k, int) else k for k in p), []).append(p)
    out = []
    for _ in range(count):
        path = dice.choice(kinds[dice.choice(list(kinds))])
        if isinstance(path[-1], int) and dice.random() < 0.5:
            data = json.loads(text)
            items = data
            for key in path[:-1]:
                items = items[key]
            items.append(items[path[-1]])
            out.append((path, "twice", json.dumps(data).encode()))
            continue
        value = dice.choice(ODD)
        out.append((path, value, change(text, list(path), value)))
    return out


def broken_pages(client, database: Database, data: bytes, token: str) -> list[tuple[str, int]] | None:
    """Pages that fail on a challenge that was accepted; None when it was refused."""
    try:
        item = read_file(data)
        with database.writing() as session:
            made = import_challenge(session, item, token)
            number, class_id = made.id, made.class_id
    except Refused:
        return None
    with database.session() as session:
        runs = list(session.scalars(select(Run.id).where(Run.challenge_id == number)))
        mine = select(Version.id).join(Version.build).where(Build.challenge_id == number)
        versions = list(session.scalars(mine))
    at = f"/challenges/{number}"
    addresses = ["/", f"/classes/{class_id}/store", f"/classes/{class_id}/kit", f"/classes/{class_id}/week"]
    addresses += [f"{at}/{place}" for place in (*PLACES, *MORE)]
    addresses += [*(f"/runs/{r}" for r in runs), *(f"/board/runs/{r}" for r in runs)]
    addresses += [f"/versions/{v}" for v in versions]
    found = [(a, client.get(a).status_code) for a in addresses]
    return [(a, status) for a, status in found if status >= 500]


def test_an_odd_file_breaks_no_page(full: Crew, tmp_path, caplog):  # noqa: F811
    text, accepted, count = export(full), 0, 36
    app = create_app({"DATA": tmp_path / "other"})
    client, database = app.test_client(), app.extensions["thermion"]
    for i, (path, value, data) in enumerate(odd_files(text, count, 4)):
        broken = broken_pages(client, database, data, str(i))
        accepted += broken is not None
        assert not broken, (path, str(value)[:40])
    database.close()
    assert 0 < accepted < count


@pytest.mark.parametrize(
    ("path", "value", "where"),
    [
        (["school_class", "zone"], "Nowhere/Island", "school_class.zone: “Nowhere/Island” is not known"),
        (["challenge", "age_band"], "7-9", "challenge → age_band"),
        (["challenge", "school"], "guild", "school: “guild” is not known"),
        (["challenge", "settings", 0, "key"], "moon", r"settings\[0\].key: “moon” is not known"),
        (["challenge", "settings", 0, "value"], 1e8, r"settings\[0\].value: 1e\+08 cannot be"),
        (["challenge", "marks", 0, "phase"], "frying", r"marks\[0\].phase: “frying” is not known"),
        (["challenge", "marks", 1, "time_s"], 9e8, r"marks\[1\].time_s: 9e\+08 is not within"),
        (
            ["challenge", "builds", 0, "versions", 0, "parts", 0, "form"],
            "melted",
            r"versions\[0\].parts\[0\].form",
        ),
        (["challenge", "builds", 0, "versions", 0, "parts", 0, "place"], "roof", r"parts\[0\].place: “roof”"),
        (
            ["challenge", "builds", 0, "versions", 0, "factors", 0, "value"],
            9e5,
            r"factors\[0\].value: 900000 cannot be",
        ),
        (["challenge", "builds", 0, "versions", 0, "created_at"], "2026-06-01T12:00:00", "timezone"),
        (["challenge", "runs", 0, "speed"], 7.0, r"runs\[0\].speed"),
        (["challenge", "runs", 0, "conditions", 0, "key"], "moon", r"runs\[0\].conditions\[0\].key"),
        (["challenge", "runs", 0, "entries", 1, "device"], "kite", r"runs\[0\].entries\[1\].device"),
        (["challenge", "runs", 0, "aparts", 0, "entry"], 99, "set apart is not a row"),
        (["challenge", "terms", 0, "divisor"], 0.0, "divisor: expected a number other than zero"),
        (["challenge", "timing", "stations"], 99, "stations"),
    ],
)
def test_what_is_wrong_is_said_with_its_place(full: Crew, path, value, where):  # noqa: F811
    with pytest.raises(Refused, match=where):
        read_file(change(export(full), path, value))


def test_a_hundred_thousand_marks_and_a_hundred_deep_are_refused_at_once(full: Crew):  # noqa: F811
    text = export(full)
    marks = [{"phase": "heating", "time_s": float(i) / 10} for i in range(100_000)]
    with pytest.raises(Refused, match="marks, heating: At most 40 marks"):
        read_file(change(text, ["challenge", "marks"], marks))
    deep = "[" * 100_000 + "]" * 100_000
    with pytest.raises(Refused, match="not a JSON file"):
        read_file(deep.encode())


def test_a_correction_of_what_was_corrected_and_a_cell_read_twice(full: Crew):  # noqa: F811
    text = export(full)
    readings = json.loads(text)["challenge"]["runs"][0]["readings"]
    twice = [*readings, {**readings[1], "supersedes": readings[1]["supersedes"]}]
    with pytest.raises(Refused, match="corrects what was corrected before"):
        read_file(change(text, ["challenge", "runs", 0, "readings"], twice))
    first = next(r for r in readings if r["supersedes"] is None and r["mark_s"] is not None)
    with pytest.raises(Refused, match="is there twice"):
        read_file(change(text, ["challenge", "runs", 0, "readings"], [*readings, first]))
    assert NOON.year == 2026
