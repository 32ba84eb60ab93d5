"""What is deleted comes back as it was, also when something else has taken its place meanwhile."""

from __future__ import annotations

from datetime import timedelta

import pytest
from sqlalchemy import text

from tests.conftest import NOON, Crew
from thermion.records import deleting, moments
from thermion.records.building import builds
from thermion.records.errors import Gone, Refused
from thermion.records.planning import briefs, classes
from thermion.records.running import runs
from thermion.records.tables import Base, Challenge, Run, SchoolClass, Version


@pytest.fixture
def full(crew: Crew) -> Crew:
    """A class with plans, a run with readings of which one was corrected, a rehearsal and a draft."""
    avocet, dunlin = crew.plan("Avocet"), crew.plan("Dunlin")
    entry = crew.entries(crew.run(avocet, dunlin))["Avocet"]
    first = crew.read(entry, 0, "20")
    crew.read(entry, 0, "20.5", supersedes_id=first.reading.id)
    crew.plan("Godwit", until="draft")
    with crew.database.writing() as session:
        challenge = briefs.get_challenge(session, crew.challenge_id)
        runs.create_run(session, challenge, version_ids=[avocet], conditions={}, rehearsal=True, now=NOON)
    return crew


def content(crew: Crew) -> dict[str, list[tuple]]:
    """Every row of the record but of what was deleted."""
    with crew.database.session() as session:
        return {
            t.name: sorted(map(tuple, session.execute(text(f'SELECT * FROM "{t.name}"'))), key=repr)
            for t in Base.metadata.sorted_tables
            if t.name != "deleted"
        }


def newest(crew: Crew) -> int:
    with crew.database.session() as session:
        return deleting.deleted(session)[0].id


def back(crew: Crew) -> tuple[str, int]:
    with crew.database.writing() as session:
        return deleting.bring_back(session, deleting.deleted(session)[0].id)


def delete_class(crew: Crew) -> None:
    with crew.database.writing() as session:
        classes.delete_class(session, session.get_one(SchoolClass, 1))


def delete_challenge(crew: Crew) -> None:
    with crew.database.writing() as session:
        briefs.delete_challenge(session, briefs.get_challenge(session, crew.challenge_id))


def delete_rehearsal(crew: Crew) -> None:
    with crew.database.writing() as session:
        runs.delete_run(session, session.query(Run).filter(Run.rehearsal).one())


def delete_draft(crew: Crew) -> None:
    with crew.database.writing() as session:
        builds.delete_version(session, session.query(Version).filter(Version.state == "draft").one())


@pytest.mark.parametrize("delete", [delete_class, delete_challenge, delete_rehearsal, delete_draft])
def test_every_row_comes_back_as_it_was(full, delete):
    before = content(full)
    delete(full)
    assert content(full) != before
    back(full)
    assert content(full) == before
    with full.database.session() as session:
        assert not deleting.deleted(session)


def test_a_challenge_comes_back_beside_another_that_got_its_numbers(full):
    before = content(full)
    delete_challenge(full)
    with full.database.writing() as session:  # SQLite gives the free number again
        again = briefs.create_challenge(
            session, session.get_one(SchoolClass, 1), "keep_temp", "Second supper", "9-12"
        )
        assert again.id == full.challenge_id
    what, row_id = back(full)
    assert what == "challenge"
    assert row_id != full.challenge_id
    with full.database.session() as session:
        found = session.get_one(Challenge, row_id)
        assert len(found.runs) == 2
        readings = runs.all_readings(session, found.runs[0].id)
        assert [r.value for r in readings] == [20.0, 20.5]
        assert readings[1].supersedes_id == readings[0].id
    assert len(content(full)["readings"]) == len(before["readings"])


def test_a_rehearsal_that_comes_back_takes_the_next_number(full):
    delete_rehearsal(full)
    with full.database.writing() as session:
        challenge = briefs.get_challenge(session, full.challenge_id)
        made = runs.create_run(session, challenge, version_ids=[1], conditions={}, rehearsal=True, now=NOON)
        assert made.number == 2
    _, row_id = back(full)
    with full.database.session() as session:
        assert session.get_one(Run, row_id).number == 3


def test_a_draft_comes_back_into_the_plan_that_its_team_began_meanwhile(full):
    delete_draft(full)
    full.plan("Godwit", until="draft")
    back(full)
    with full.database.session() as session:
        found = session.query(Version).filter(Version.state == "draft").order_by(Version.number)
        assert [(v.build.team.name, v.number) for v in found] == [("Godwit", 1), ("Godwit", 2)]


def test_what_belonged_to_something_deleted_waits_until_that_is_back(full):
    delete_rehearsal(full)
    rehearsal = newest(full)
    delete_challenge(full)
    before = content(full)
    with pytest.raises(Refused, match="Bring that back first"), full.database.writing() as session:
        deleting.bring_back(session, rehearsal)
    assert content(full) == before
    back(full)
    assert back(full)[0] == "run"


def test_nothing_comes_back_into_another_class_that_got_the_number(full):
    delete_challenge(full)
    delete_class(full)
    with full.database.writing() as session:
        other = classes.save_class(
            session,
            name="Supply crew",
            temp_unit="degC",
            decimal="point",
            zone="UTC",
            teams=[classes.TeamInput(name=name) for name in ("Avocet", "Dunlin", "Godwit")],
        )
        assert other.id == 1  # SQLite gives the free number again
    with full.database.session() as session:
        of_class, challenge = (kept.id for kept in deleting.deleted(session))
    with pytest.raises(Refused, match="Bring that back first"), full.database.writing() as session:
        deleting.bring_back(session, challenge)
    with full.database.writing() as session:
        assert deleting.bring_back(session, of_class) == ("class", 2)
        _, row_id = deleting.bring_back(session, challenge)
        found = session.get_one(Challenge, row_id)
        assert found.school_class.name == "Relief crew"
        assert {b.team.class_id for b in found.builds} == {2}


def test_after_thirty_days_it_is_gone_for_good(full, monkeypatch):
    delete_rehearsal(full)
    kept = newest(full)
    later = moments.now() + timedelta(days=30, seconds=1)
    monkeypatch.setattr(moments, "now", lambda: later)
    with full.database.session() as session:
        assert not deleting.deleted(session)
    delete_draft(full)  # which clears what is old
    with pytest.raises(Gone), full.database.writing() as session:
        deleting.bring_back(session, kept)
