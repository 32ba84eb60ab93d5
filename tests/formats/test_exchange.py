"""One challenge as one file: out, in, out again, the same; damaged files change nothing."""

from __future__ import annotations

import json
import re
from dataclasses import replace
from datetime import UTC, datetime
from pathlib import Path

import pytest
from sqlalchemy import func, select

from tests.conftest import Crew, initial, photograph
from tests.records.test_attempts import Station
from thermion.core.kinds.criteria import criterion
from thermion.formats.exchange import challenge_file, export_challenge, import_challenge
from thermion.formats.intake import read_file
from thermion.formats.package.wordless import Nameless, without_words
from thermion.formats.pictures import encode_anew
from thermion.formats.tables import Column, Table, to_csv, to_json
from thermion.records.building.attachments import attach
from thermion.records.building.ideas import IdeaInput, add_idea, take_from
from thermion.records.errors import Refused
from thermion.records.judging.conclusions import conclude
from thermion.records.judging.evidence import load_evidence
from thermion.records.planning.briefs import brief_of, get_challenge
from thermion.records.planning.own import add_word
from thermion.records.planning.rungs import put_on_rungs
from thermion.records.planning.understanding import turn_mark
from thermion.records.planning.week import save_step, save_timing, timing_of
from thermion.records.running.rig import save_check
from thermion.records.running.runs import get_run
from thermion.records.running.set_apart import set_apart
from thermion.records.tables import Base, Challenge, Judged, Reading, StepRow, Team, Version


@pytest.fixture
def full(crew: Crew) -> Crew:
    """A challenge with versions, a run, a corrected slip, a doubtful and a taken-back value."""
    first, full_teams = crew.plan("Avocet"), crew.teams
    run = crew.run(first, crew.plan("Dunlin"), air_c=19.0)
    crew.plan("Avocet", note="Same <b>again</b> & 'more'", until="waiting")
    rows = crew.entries(run)
    slip = crew.read(rows["Avocet"], 0, "25").reading
    crew.read(rows["Avocet"], 0, "20.5", supersedes_id=slip.id)
    for minute, value in ((0, "20"), (5, "24"), (10, "27"), (15, "81")):
        crew.read(rows["Dunlin"], minute, value)
    gone = crew.read(rows["Air"], 0, "19").reading
    crew.read(rows["Air"], 0, "", supersedes_id=gone.id)
    with crew.database.writing() as session:
        challenge = get_challenge(session, crew.challenge_id)
        brief = brief_of(challenge)
        given = IdeaInput([[1, 2, 3, 4]], {"wall": "straw"}, "It is full of air.", "idea")
        add_idea(session, challenge, crew.teams["Avocet"], given)
        take_from(session, challenge, crew.teams["Avocet"], crew.teams["Dunlin"], "the seal")
        turn_mark(session, challenge, crew.teams["Avocet"], "plan-why", "")
        put_on_rungs(session, challenge, {crew.teams["Godwit"]: "harder"})
        add_word(session, crew.class_id, challenge.kind, "steam on the window", "Where does it go?")
        save_step(session, challenge.id, "build", length_s=1500, not_before=1)
        save_timing(session, challenge.id, replace(timing_of(session, challenge, brief), readers=2))
        save_check(session, challenge, brief, "agree", {"A": 20.0, "D": 20.5, "G": 20.0})
        set_apart(session, get_run(session, run), "rain", phase="cooling", after_s=300.0)
        conclude(session, challenge, "Closed seams kept the warmth.")
        version = session.get_one(Version, first)
        version.idea_team_id = full_teams["Dunlin"]
        looks, at = criterion("Looks").key, datetime(2026, 6, 1, tzinfo=UTC)
        version.judged = [Judged(criterion=looks, judge=2, value=3.0, at=at)]
        attach(session, version.id, *encode_anew(photograph()))
    return crew


def export(crew: Crew, challenge_id: int | None = None) -> str:
    with crew.database.session() as session:
        return export_challenge(session, challenge_id or crew.challenge_id)


def test_out_and_in_again_without_loss(full: Crew):
    text = export(full)
    with full.database.writing() as session:
        made = import_challenge(session, read_file(text.encode()), "token").id
    again, before = json.loads(export(full, made)), json.loads(text)
    for file in (again, before):  # encoded anew on the way in, so the bytes differ
        picture = file["challenge"]["builds"][0]["versions"][0]["pictures"][0]
        assert len(picture.pop("data")) > 1000
    # so that two of one file are told apart
    assert (before["school_class"].pop("name"), again["school_class"].pop("name")) == (
        "Relief crew",
        "Relief crew (2)",
    )
    assert again == before


def test_without_what_was_typed_it_still_comes_in(full: Crew):
    with full.database.session() as session:
        text = without_words(challenge_file(session, full.challenge_id), Nameless())
    file = read_file(text.encode())
    assert file.challenge.runs[0].aparts[0].why == "–"
    for typed in ("Relief crew", "Keeper's supper", "Avocet", "rain", "the seal", "steam", "Closed seams"):
        assert typed not in text, typed
    assert "full of air" not in text
    with full.database.writing() as session:
        import_challenge(session, file, "token")


def test_into_the_class_it_came_from_or_one_with_the_same_teams(full: Crew):
    file = read_file(export(full).encode())
    with full.database.writing() as session:
        made = import_challenge(session, file, "token", class_id=full.class_id)
        assert (made.class_id, made.position) == (full.class_id, 1)
    other = Crew(full.database)
    with full.database.writing() as session:
        session.get_one(Team, other.teams["Dunlin"]).name = "Plover"
    with pytest.raises(Refused, match="no team D Dunlin"), full.database.writing() as session:
        import_challenge(session, file, "again", class_id=other.class_id)


def change(text: str, path: list, value: object) -> bytes:
    data = json.loads(text)
    at = data
    for key in path[:-1]:
        at = at[key]
    at[path[-1]] = value
    return json.dumps(data).encode()


@pytest.mark.parametrize(
    ("path", "value", "says"),
    [
        (["version"], 99, "Update Thermion"),
        (["format"], "other", "does not hold a Thermion challenge"),
        (["challenge", "kind"], "kite", "family “kite”"),
        (["challenge", "offers", 0, "material"], "gold", "material “gold”"),
        (["challenge", "builds", 0, "team"], "Z", "team Z"),
        (["challenge", "runs", 0, "entries", 1, "version"], 9, "A9, which is not there"),
        (["challenge", "runs", 0, "readings", 0, "entry"], 99, "has no row"),
        (["challenge", "runs", 0, "readings", 1, "supersedes"], 1, "corrects nothing"),
        (["challenge", "runs", 0, "readings", 0, "value"], "hot", "readings → 0 → value"),
        (["challenge", "surprise"], 1, "surprise"),
        (["challenge", "builds", 0, "versions", 0, "idea"], "Z", "not in the file"),
        (
            ["challenge", "runs", 0, "readings", 0, "value"],
            40.44e6,
            r"runs\[0\].readings\[0\].value: .*cannot be",
        ),
    ],
)
def test_a_damaged_or_newer_file_is_refused_before_anything_is_stored(full, path, value, says):
    before = counts(full)
    with pytest.raises(Refused, match=says):
        read_file(change(export(full), path, value))
    assert counts(full) == before


def counts(crew: Crew) -> list[int]:
    with crew.database.session() as session:
        tables = (Challenge, Reading)
        return [session.scalar(select(func.count()).select_from(t)) for t in tables]


@pytest.mark.parametrize("data", [b"", b"{", b"[1]", b"\x89PNG", b'"text"'])
def test_what_is_no_challenge_file_is_said(data):
    with pytest.raises(Refused):
        read_file(data)


def test_nothing_in_the_tables_is_forgotten_by_the_file(full: Crew):
    """A column added later must be exported, or be named here with the reason."""
    station = Station(full)
    station.attempt("Avocet", "4", "34.6", "3", free=True, note="by hand", seen=("slipped",))
    oven, hoist = export(full), export(full, station.challenge_id)
    left_out = {"id", "position", "revision", "client_id"}  # made anew on import
    of_the_class = ("receipts", "repeats", "classes", "lessons", "kit_items", "stock_moves")
    of_the_class += ("house", "deleted")  # of this computer
    of_the_class += ("logger_layouts", "probes", "probe_channels", "probe_values")  # and its devices
    of_the_class += ("doorway", "join_codes", "devices")
    of_the_class += ("conducted", "boards", "own_materials", "shelf")  # whose keys say all of them
    left_out |= {"beside", "bell_at"}  # which challenges share lessons, and which bell was answered
    left_out |= {"joined_at", "left_at"}  # a file's teams are there
    left_out |= {"hidden"}  # what a learner wrote and the Desk has hidden leaves with no file
    left_out |= {"gone_at"}  # a word that came in a file is offered
    text = oven + hoist
    for table in Base.metadata.sorted_tables:
        if table.name in of_the_class:
            continue
        for column in table.columns:
            if column.name not in left_out and not column.name.endswith("_id"):
                assert f'"{column.name}"' in text, f"{table.name}.{column.name}"


def test_tables_in_the_classs_style_and_safe_in_a_spreadsheet():
    table = Table(
        "Findings",
        (Column("team", "Team"), Column("peak", "Hottest", "°C", 1), Column("note", "Note")),
        [("A", 61.25, "=HYPERLINK(1)"), ("D", None, 'says "hot"; very')],
    )
    assert to_csv(table) == ('team,peak [°C],note\r\nA,61.2,\'=HYPERLINK(1)\r\nD,,"says ""hot""; very"\r\n')
    assert "A;61,2;" in to_csv(table, "comma")
    data = json.loads(to_json(table))
    assert data["columns"][1] == {"key": "peak", "label": "Hottest", "unit": "°C"}
    assert data["rows"][1] == {"team": "D", "peak": None, "note": 'says "hot"; very'}


@pytest.mark.parametrize("version", [1, 2, 3, 4, 5, 6, 7, 9, 10, 11])
def test_a_file_of_every_released_version_still_opens(database, version):
    """Files as those versions of Thermion wrote them."""
    data = (Path(__file__).parent / "released" / f"{version}.json").read_bytes()
    with database.writing() as session:
        made = import_challenge(session, read_file(data), "token")
        found = load_evidence(session, made, brief_of(made), school="raw").findings
        (peak,) = (v.figures["peak"] for v in found.versions if initial(v.subject) == "A")
    assert (peak.value, peak.partial) == (40.0, True)  # its test was never ended


def test_what_families_and_steps_were_called_before_is_led_on(database):
    """A hoist of version 8, whose steps were called otherwise."""
    data = (Path(__file__).parent / "released" / "8.json").read_bytes()
    assert {"wind_lift", "create"} <= {*re.findall(r'"(?:kind|phase)": "(\w+)"', data.decode())}
    with database.writing() as session:
        made = import_challenge(session, read_file(data), "token")
        session.flush()
        steps = {row.phase: row.length_s for row in session.scalars(select(StepRow))}
        found = load_evidence(session, made, brief_of(made), school="raw").findings
    assert made.kind == "wind_hoist"
    assert steps == {"build": 1500.0, "show": 600.0}
    assert max(v.figures["load"].value for v in found.versions) == 17
