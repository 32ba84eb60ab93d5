"""A package explains itself: tidy tables that an outside validator reads, and challenges that come back whole."""

from __future__ import annotations

import csv
import io
import json
import random
import zipfile
from dataclasses import replace
from html import escape
from math import isfinite, isnan
from pathlib import Path
from runpy import run_path
from urllib.parse import unquote

import pytest
from frictionless import Package, system
from sqlalchemy import select

from tests.conftest import GOOD
from thermion.core.physics.materials import own_key
from thermion.core.plans import Offer, Part
from thermion.formats.exchange import export_challenge
from thermion.formats.package import changed_tables, read_package, write_package
from thermion.records.errors import Refused
from thermion.records.judging.evidence import load_evidence
from thermion.records.planning import briefs
from thermion.records.tables import Challenge
from thermion.web import create_app

SCRIPT = Path(__file__).parents[2] / "docs" / "scores_from_a_package.py"


@pytest.fixture(scope="module")
def demo(demo_copy):
    made = create_app({"DATA": demo_copy()})
    yield made
    made.extensions["thermion"].close()


def unpacked(data: bytes, folder) -> zipfile.ZipFile:
    zipped = zipfile.ZipFile(io.BytesIO(data))
    assert zipped.testzip() is None
    zipped.extractall(folder)
    return zipped


def rows_of(zipped: zipfile.ZipFile, name: str) -> list[dict[str, str]]:
    return list(csv.DictReader(io.TextIOWrapper(zipped.open(f"data/{name}.csv"), "utf-8", newline="")))


@pytest.mark.parametrize("address", ["/package.zip", "/classes/1/package.zip?words=0"])
def test_an_outside_validator_finds_nothing_wrong_with_it(demo, tmp_path, address):
    answer = demo.test_client().get(address)
    assert answer.mimetype == "application/zip"
    unpacked(answer.get_data(), tmp_path)
    with system.use_context(trusted=True):
        report = Package(str(tmp_path / "datapackage.json")).validate()
    assert report.valid, report.flatten(["title", "note", "fieldName", "rowNumber"])[:5]
    assert {t.name for t in report.tasks} >= {"values", "figures", "versions"}
    assert sum(t.stats.get("rows", 0) for t in report.tasks) > 1000


def test_every_value_of_a_run_is_a_row_with_its_unit_in_a_field_of_its_own(demo, tmp_path):
    found = rows_of(
        unpacked(demo.test_client().get("/challenges/1/package.zip").get_data(), tmp_path), "values"
    )
    assert {(r["row"], r["unit"]) for r in found} == {("build", "degC"), ("air", "degC")}
    described = json.loads((tmp_path / "datapackage.json").read_text())
    (values,) = (r for r in described["resources"] if r["name"] == "values")
    names = [f["name"] for f in values["schema"]["fields"]]
    assert list(found[0]) == names
    assert not any("[" in name or "(" in name for name in names)
    assert {f["name"]: f.get("unit") for f in values["schema"]["fields"]}["taken"] == "s"


@pytest.mark.parametrize("which", range(6))
def test_pandas_alone_comes_to_every_score_and_place(demo_copy, tmp_path, which):
    """By docs/scores_from_a_package.py, under each way of scoring, in °C and in °F."""
    app = create_app({"DATA": demo_copy()})
    with app.extensions["thermion"].writing() as session:
        for challenge in session.scalars(select(Challenge)):
            if which % 2:
                challenge.school_class.temp_unit = "degF"
            schools = briefs.brief_of(challenge).kind.brief.schools_for(briefs.brief_of(challenge).choices)
            briefs.use_school(challenge, schools[which % len(schools)].key)
    package, found = tmp_path / "p.zip", 0
    with app.extensions["thermion"].session() as session:
        challenges = session.scalars(select(Challenge)).all()
        package.write_bytes(b"".join(write_package(session, [c.id for c in challenges], "all", words=False)))
        worked_out = run_path(str(SCRIPT))["worked_out"](str(package))
        for challenge in challenges:
            evidence = load_evidence(session, challenge, briefs.brief_of(challenge), school=challenge.school)
            letters = {t.id: t.letter for t in challenge.school_class.teams}
            for v in evidence.findings.versions if evidence.findings else ():
                mine = worked_out.loc[challenge.id, letters[v.subject.team_id], v.subject.version]
                place = evidence.findings.facts.get(v.subject)
                assert [None if isnan(x) else x for x in mine] == [pytest.approx(v.score.total), place]
                found += v.score.total is not None
    app.extensions["thermion"].close()
    assert found > 30
    assert len(SCRIPT.read_text().splitlines()) < 80


def test_it_comes_back_whole_into_one_class(demo, client, database):
    data = demo.test_client().get("/classes/1/package.zip").get_data()
    sent = {"file": (io.BytesIO(data), "week.zip"), "once": "token"}
    assert client.post("/import", data=sent).status_code == 303
    theirs, ours = demo.extensions["thermion"], database
    files = read_package(data)
    with ours.session() as session, theirs.session() as other:
        for number, file in enumerate(files, 1):
            again = json.loads(export_challenge(session, number))
            before = json.loads(export_challenge(other, numbered(data)[number - 1]))
            for each in (again, before):
                for build in each["challenge"]["builds"]:
                    for version in build["versions"]:
                        version["pictures"] = []  # encoded anew
            assert again["challenge"] == before["challenge"], file.challenge.title
    assert "Relief crew" in client.get("/").get_data(as_text=True)


def numbered(data: bytes) -> list[int]:
    names = [n for n in zipfile.ZipFile(io.BytesIO(data)).namelist() if n.startswith("challenges/")]
    return sorted(int(n.split("/")[1].split(".")[0]) for n in names)


def test_without_free_text_nothing_that_was_typed_goes_out(demo):
    zipped = zipfile.ZipFile(io.BytesIO(demo.test_client().get("/package.zip?words=0").get_data()))
    names = zipped.namelist()
    text = unquote("\n".join(zipped.read(n).decode() for n in names))
    assert "Team A" in text
    assert "Criterion 1" in text
    for typed in (
        "Avocet",
        "Keeper's supper",
        "Relief crew",
        "Fan on step",
        "It is full of air",
        "Runs straight",
    ):
        assert typed not in text, typed
        assert escape(typed) not in text, typed
    assert read_package(zipped.fp.getvalue())  # and still it can be read


def test_it_is_written_piece_by_piece(demo):
    answer = demo.test_client().get("/package.zip", buffered=False)
    pieces = [len(piece) for piece in answer.iter_encoded()]
    assert len(pieces) > 20
    assert max(pieces) < sum(pieces) / 2


@pytest.mark.parametrize(
    ("name", "content", "says"),
    [
        ("readme.txt", b"hello", "holds no challenges"),
        ("challenges/1.thermion.json", b"{}", "does not hold a Thermion challenge"),
        ("challenges/1.thermion.json", b"[" * 100_000, "not a JSON file"),
    ],
)
def test_a_zip_of_something_else_is_refused_in_words(name, content, says):
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as made:
        made.writestr(name, content)
    with pytest.raises(Refused, match=says):
        read_package(out.getvalue())
    with pytest.raises(Refused, match=r"damaged|holds no"):
        read_package(out.getvalue()[:-40])


def test_a_zip_that_unfolds_without_end_is_not_unfolded():
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as made:
        made.writestr("challenges/1.thermion.json", b" " * 300_000_000)
    with pytest.raises(Refused, match="too large"):
        read_package(out.getvalue())


def test_an_own_material_goes_out_without_its_name_in_every_table_file_and_drawing(client, crew):
    key = own_key("Foil of the lighthouse", "old roll", "newspaper")
    plan = replace(GOOD, parts=(*GOOD.parts, Part(place="wall", material=key, form="flat", units=1.0)))
    with crew.database.writing() as session:
        challenge = briefs.get_challenge(session, crew.challenge_id)
        briefs.save_offers(session, challenge, [*briefs.brief_of(challenge).offers, Offer(key, 4.0, 1.0)])
    crew.plan("Avocet", plan)
    named = zipfile.ZipFile(io.BytesIO(client.get("/package.zip").get_data()))
    assert sum(b"lighthouse" in named.read(n) for n in named.namelist()) > 2
    data = client.get("/package.zip?words=0").get_data()
    zipped = zipfile.ZipFile(io.BytesIO(data))
    text = {n: unquote(zipped.read(n).decode()) for n in zipped.namelist()}
    assert not [n for n, said in text.items() if "lighthouse" in said or "old roll" in said]
    assert sum("Material 1" in said for said in text.values()) >= 2
    assert read_package(data)


def edited(data: bytes, changes: dict[str, bytes | None]) -> bytes:
    """The package with some of its files other than they were, or without them."""
    out = io.BytesIO()
    with zipfile.ZipFile(io.BytesIO(data)) as old, zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as new:
        for name in old.namelist():
            content = changes.get(name, old.read(name))
            if content is not None:
                new.writestr(name, content)
    return out.getvalue()


def test_tables_that_were_edited_doubled_or_lost_are_named_and_not_read(crew, client, tmp_path):
    crew.plan("Avocet")
    data = client.get("/package.zip").data
    assert changed_tables(data) == []
    teams = zipfile.ZipFile(io.BytesIO(data)).read("data/teams.csv")
    bent = edited(data, {"data/teams.csv": teams.replace(b"Avocet", b"Bvocet"), "data/parts.csv": None})
    assert changed_tables(bent) == ["data/teams.csv", "data/parts.csv"]
    doubled = edited(data, {"data/teams.csv": teams + teams.partition(b"\n")[2]})
    assert changed_tables(doubled) == ["data/teams.csv"]
    unpacked(doubled, tmp_path)
    with system.use_context(trusted=True):
        report = Package(str(tmp_path / "datapackage.json")).validate()
    assert "hash-count" in {e.type for t in report.tasks for e in t.errors}
    sent = {"file": (io.BytesIO(bent), "p.zip"), "again": "beside", "once": "t"}
    said = client.post("/import", data=sent, follow_redirects=True).text
    assert "data/teams.csv and data/parts.csv" in said
    assert "Bvocet" not in said


def zipped(level: int = 6, **files: bytes) -> bytes:
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED, compresslevel=level) as made:
        for name, content in files.items():
            made.writestr(f"challenges/{name}.thermion.json", content)
    return out.getvalue()


def test_a_zip_that_swells_is_refused_before_a_byte_of_it_is_unpacked(client, monkeypatch):
    bomb = zipped(a=b'{"format": "' + b" " * 20_000_000)
    assert len(bomb) < 25_000
    half = bin(random.Random(1).getrandbits(400_000)).encode() * 5  # shrinks to a sixth
    many = zipped(1, **{f"x{i}": half for i in range(28)})

    def unpacks(*_):
        raise AssertionError("it was unpacked")

    monkeypatch.setattr(zipfile.ZipFile, "open", unpacks)
    for data in (bomb, many):
        answer = client.post("/import", data={"file": (io.BytesIO(data), "crew.zip")})
        assert (answer.status_code, "too large to be read" in answer.text) == (422, True)


def test_no_cell_of_a_package_is_run_as_a_formula(crew, client):
    with crew.database.writing() as session:
        briefs.get_challenge(session, 1).title = '=HYPERLINK("http://x","y")'
    for name, table in tables_of(client.get("/package.zip").data).items():
        for row in table:
            for cell in row:
                assert not cell or cell[0] not in "=+@" or number(cell), (name, cell)


def tables_of(data: bytes) -> dict[str, list[list[str]]]:
    with zipfile.ZipFile(io.BytesIO(data)) as found:
        return {
            name: list(csv.reader(io.TextIOWrapper(found.open(name), "utf-8", newline="")))
            for name in found.namelist()
            if name.endswith(".csv")
        }


def number(cell: str) -> bool:
    try:
        return isfinite(float(cell))
    except ValueError:
        return False
