"""A table brought into a test: looked at first, all of it or nothing, and out again with one key."""

from __future__ import annotations

import csv
import io

import pytest
from sqlalchemy import select

from tests.web.conftest import fields_of, flat
from thermion.formats.results import results_table
from thermion.formats.spreadsheet.of_run import wanted_of
from thermion.records import moments
from thermion.records.planning import briefs
from thermion.records.running import runs
from thermion.records.tables import Challenge, Run
from thermion.web import create_app


@pytest.fixture(scope="module")
def week(demo_copy):
    made = create_app({"DATA": demo_copy(), "TESTING": True, "WTF_CSRF_ENABLED": False})
    yield made
    made.extensions["thermion"].close()


def new_run(app, kind: str) -> int:
    """One more test of what was tested last in the demo's challenge of this family."""
    with app.extensions["thermion"].writing() as session:
        tested = select(Run).join(Challenge).where(Challenge.kind == kind, Run.rehearsal.is_(False))
        last = runs.get_run(session, session.scalars(tested.order_by(Run.id.desc())).first().id)
        made = runs.create_run(
            session,
            briefs.get_challenge(session, last.challenge_id),
            version_ids={e.version_id for e in last.entries if e.version_id},
            conditions={c.key: c.value for c in last.conditions},
            control=any(e.is_control for e in last.entries),
        )
        return made.id


def filled(app, run_id: int) -> list[list[str]]:
    """The table to fill in with something possible in each cell."""
    client = app.test_client()
    text = client.get(f"/runs/{run_id}/table.csv").get_data(as_text=True).removeprefix("\ufeff")
    rows = list(csv.reader(io.StringIO(text)))
    with app.extensions["thermion"].session() as session:
        run = runs.get_run(session, run_id)
        wanted = wanted_of(session, run, briefs.brief_of(run.challenge))
    reads = {r.label: r for r in (*wanted.reads, *([wanted.later] if wanted.later else []))}
    for number, row in enumerate(rows[1:], 1):
        for column in range(2 if wanted.reads else 1, len(row)):
            read = reads.get(rows[0][column].split(" [")[0], wanted.read)
            if rows[0][column] in ("Seen", "Note") or (row[0] == "Air" and read is wanted.later):
                continue
            row[column] = possible(read, row[0], number + column)
    return rows


def possible(read, name: str, n: int) -> str:
    if name == "Air":
        return f"{20 + n % 3}"
    if read.words:
        return read.words[min(n // 12, len(read.words) - 1)]
    if read.unit == "degC":
        return f"{20 + n / 10:g}"
    if read.whole:
        return f"{1 + n % 4}" if read.high < 1000 else "100"
    return f"{20 + n}"


def as_file(rows: list[list[str]]) -> bytes:
    out = io.StringIO()
    csv.writer(out).writerows(rows)
    return out.getvalue().encode()


def bring(client, run: int, data: bytes, name: str = "sheet.csv") -> str:
    sent = {"file": (io.BytesIO(data), name)}
    answer = client.post(f"/runs/{run}/table", data=sent, content_type="multipart/form-data")
    assert answer.status_code == 303, flat(answer)
    return answer.location


def answered(client, at: str) -> str:
    """Say yes to what is proposed, until nothing is asked."""
    for _ in range(3):
        page = client.get(at).get_data(as_text=True)
        if "That is right" not in page:
            return page
        client.post(f"{at}/answers", data=fields_of(page))
    return page


def noted(app, run_id: int) -> list[tuple[object, ...]]:
    """What counts in a run, without moments and numbers of rows."""
    with app.extensions["thermion"].session() as session:
        run = runs.get_run(session, run_id)
        table = results_table(session, [run], briefs.brief_of(run.challenge))
        keys = [c.key for c in table.columns]
        rows = [dict(zip(keys, row, strict=True)) for row in table.rows]
    left = {"entered_utc", "reading", "replaces", "current", "time_s"}
    return [tuple(v for k, v in row.items() if k not in left) for row in rows if row.get("current", True)]


FAMILIES = ("solar_oven", "sail_run", "wind_hoist", "keep_temp", "melt_pair", "heat_through", "rain_catch")


@pytest.mark.parametrize("kind", FAMILIES)
def test_the_table_of_every_family_goes_in_either_way_round_and_is_taken_back(week, kind):
    client, run = week.test_client(), new_run(week, kind)
    rows = filled(week, run)
    cells = sum(bool(cell) for row in rows[1:] for cell in row[2 if "Try" in rows[0] else 1 :])
    at = bring(client, run, as_file(rows))
    page = answered(client, at)
    assert noted(week, run) == []  # looked at, not stored
    assert ">Cannot be taken<" not in page, flat(page.split("<main")[1])[-1500:]
    assert client.post(f"{at}/store").status_code == 303
    first = noted(week, run)
    assert len(first) == (len(rows) - 1 if "Try" in rows[0] else cells)
    assert "The table is in" in flat(client.get(at))
    again = client.post(f"{at}/store")  # pressed twice: once
    assert noted(week, run) == first, again.status
    assert client.post(f"{at}/back").status_code == 303
    assert noted(week, run) == []
    turned = bring(client, run, as_file([list(row) for row in zip(*rows, strict=True)]))
    answered(client, turned)
    assert client.post(f"{turned}/store").status_code == 303
    assert sorted(map(str, noted(week, run))) == sorted(map(str, first))


SHEET = b"Team,Heating 0 min,Heating 5 min,Heating 10 min\nAir,19,19,19\nAvocet,21,25,30\nDunlin,20,24,\n"


@pytest.fixture
def run(crew) -> int:
    return crew.run(crew.plan("Avocet"), crew.plan("Dunlin"), start=False)


def readings(crew, run_id: int) -> list[tuple[str, float, str, bool]]:
    """Row, mark, value and whether its time was measured, of what counts."""
    names = {entry: name for name, entry in crew.entries(run_id).items()}
    with crew.database.session() as session:
        cells = runs.cells(session, runs.get_run(session, run_id))
    found = [(spot, cell.reading) for spot, cell in cells.items() if cell.reading.value is not None]
    return sorted((names[entry], mark / 60, f"{r.value:g}", r.timed) for (entry, _, mark), r in found)


def test_values_of_a_test_that_was_never_started_stand_at_planned_minutes_and_as_from_paper(
    client, crew, run
):
    at = bring(client, run, SHEET)
    assert "counts as held on paper" in flat(client.get(at))
    assert client.post(f"{at}/store").status_code == 303
    assert len(readings(crew, run)) == 8
    assert {timed for *_, timed in readings(crew, run)} == {False}
    with crew.database.session() as session:
        assert runs.get_run(session, run).paper


def test_where_another_value_stands_a_person_says_which_counts_and_taking_back_brings_it_again(
    client, crew, run
):
    bring_in(client, run, SHEET)
    correct(crew, run, 5, "26")
    other = SHEET.replace(b"25", b"27").replace(b"24", b"23")
    at = bring(client, run, other)
    page = flat(client.get(at))
    assert "2 values stand there already and are others (C3: 26.0 °C there, 27 in the table)" in page
    assert "6 values stand there already, the same." in page
    early = client.post(f"{at}/store")
    assert (early.status_code, "Answer first what the table leaves open" in flat(early)) == (422, True)
    client.post(f"{at}/answers", data={"q-over": "replace"})
    assert client.post(f"{at}/store").status_code == 303
    values = {(name, mark): value for name, mark, value, _ in readings(crew, run)}
    assert (values["Avocet", 5], values["Dunlin", 5]) == ("27", "23")
    client.post(f"{at}/back")
    values = {(name, mark): value for name, mark, value, _ in readings(crew, run)}
    assert (values["Avocet", 5], values["Dunlin", 5], len(values)) == ("26", "24", 8)


def bring_in(client, run_id: int, data: bytes) -> str:
    at = bring(client, run_id, data)
    assert client.post(f"{at}/store").status_code == 303
    return at


def correct(crew, run_id: int, minute: float, typed: str) -> None:
    """Avocet's value at a minute, as somebody corrects it afterwards."""
    entry = crew.entries(run_id)["Avocet"]
    with crew.database.session() as session:
        before = runs.cells(session, runs.get_run(session, run_id))[entry, "heating", minute * 60].reading.id
    crew.read(entry, minute, typed, moment=moments.now(), supersedes_id=before)


def test_a_cell_that_cannot_be_is_named_with_its_place_and_nothing_is_stored_around_it_unasked(
    client, crew, run
):
    at = bring(client, run, SHEET.replace(b"25", b"=B2+4").replace(b"24", b"2400"))
    page = flat(client.get(at))
    assert "2 cells cannot be taken as written" in page
    assert "<b>C3</b> “=B2+4” is not a number" in page
    assert client.post(f"{at}/store").status_code == 422
    assert readings(crew, run) == []
    client.post(f"{at}/answers", data={"q-wrong": "leave"})
    assert "Store 6 values" in flat(client.get(at))
    client.post(f"{at}/store")
    assert len(readings(crew, run)) == 6


def test_what_was_corrected_since_stays_when_the_table_is_taken_back(client, crew, run):
    at = bring_in(client, run, SHEET)
    correct(crew, run, 10, "31")
    client.post(f"{at}/back")
    assert readings(crew, run) == [("Avocet", 10, "31", False)]


def test_the_programs_own_readings_come_back_with_the_times_that_were_measured(client, crew):
    first = crew.run(crew.plan("Avocet"))
    crew.read(crew.entries(first)["Avocet"], 0, "21")
    crew.read(crew.entries(first)["Avocet"], 5, "25", late_s=40)
    own = client.get(f"/challenges/{crew.challenge_id}/readings.csv").get_data()
    second = crew.run(crew.plan("Dunlin"), start=False)
    at = bring(client, second, own)
    (question,) = [q for q in fields_of(client.get(at).get_data(as_text=True)) if q.startswith("q-")]
    assert question == "q-name-A"  # Avocet is not in that test: whose is it?
    third = crew.run(crew.plan("Avocet", note="again"), start=False)
    at = bring(client, third, own)
    answered(client, at)
    client.post(f"{at}/store")
    with crew.database.session() as session:
        cells = runs.cells(session, runs.get_run(session, third))
    assert sorted((c.reading.time_s, c.reading.value, c.reading.timed) for c in cells.values()) == [
        (5.0, 21.0, True),
        (340.0, 25.0, True),
    ]


@pytest.mark.parametrize("data", [b"", b"\x89PNG", b"PK\x03\x04zip", b"Dear all", b"\x00" * 500, b'"' * 4000])
def test_what_is_no_table_is_said_where_it_was_brought_and_what_was_pasted_stays(client, run, data):
    sent = {"file": (io.BytesIO(data), "x.xlsx"), "text": ""}
    answer = client.post(f"/runs/{run}/table", data=sent, content_type="multipart/form-data")
    assert answer.status_code == 422
    assert 'role="alert"' in flat(answer)
    pasted = client.post(f"/runs/{run}/table", data={"text": "<b>who</b> & what"})
    assert "&lt;b&gt;who&lt;/b&gt; &amp; what" in flat(pasted)


def test_what_is_read_later_of_a_test_on_paper_has_the_minutes_that_were_noted(week):
    client, run = week.test_client(), new_run(week, "keep_temp")
    client.post(f"/runs/{run}/paper", data={"began": ""})
    with week.extensions["thermion"].session() as session:
        entry = next(e.id for e in runs.get_run(session, run).entries if e.version_id)
    sent = {"entry": str(entry), "typed": "80", "once": "a"}
    page = client.post(f"/runs/{run}/later", data=sent, follow_redirects=True)
    assert "how many minutes after the start was it read?" in flat(page)
    for minutes in ("soon", "-3", "99999999"):
        client.post(f"/runs/{run}/later", data={**sent, "minutes": minutes, "once": minutes})
    assert noted(week, run) == []
    page = client.post(f"/runs/{run}/later", data={**sent, "minutes": "45"}, follow_redirects=True)
    assert "minute 45" in flat(page)
