"""The database: durable, migrated from every released state, safe to write from two sides."""

from __future__ import annotations

import sqlite3
import threading
from datetime import UTC, datetime

import pytest
from alembic.autogenerate import compare_metadata
from alembic.migration import MigrationContext
from sqlalchemy import select
from sqlalchemy.exc import IntegrityError

from tests.conftest import Crew
from thermion.records.database import Database
from thermion.records.tables import Base, Entry, Reading, SchoolClass

RELEASED = ["0001", "0002", "0003"]


@pytest.mark.parametrize("revision", RELEASED)
def test_every_released_state_migrates_up_to_the_models(tmp_path, revision):
    database = Database(tmp_path)
    database.migrate(revision)
    database.migrate()
    with database.engine.connect() as connection:
        differences = compare_metadata(MigrationContext.configure(connection), Base.metadata)
    assert differences == []


def test_no_reading_is_lost_when_a_table_under_it_is_copied(tmp_path):
    database = Database(tmp_path)
    database.migrate("0003")
    when = "2026-06-01 12:00:00"
    with sqlite3.connect(database.path) as raw:
        raw.execute("INSERT INTO classes VALUES (1,'Crew','degC','point','UTC',24,1,1,0,?)", [when])
        for sql in (
            "INSERT INTO teams VALUES (1,1,'Avocet','A','circle','rust',0)",
            "INSERT INTO challenges (id,class_id,kind,title,story,success,age_band,position,tools,"
            "school,credit,created_at) VALUES (1,1,'solar_oven','S','','','9-12',0,'','raw',1,'x')",
            "INSERT INTO builds VALUES (1,1,1)",
            "INSERT INTO versions (id,build_id,number,state,change_note,remark,revision,created_at)"
            " VALUES (1,1,1,'issued','','',1,'x')",
            "INSERT INTO runs (id,challenge_id,number,speed,rehearsal,seed,note,created_at)"
            " VALUES (1,1,1,1,0,0,'','x')",
            "INSERT INTO entries (id,run_id,version_id,position,offset_s) VALUES (1,1,1,1,0)",
            "INSERT INTO readings (id,entry_id,phase,mark_s,time_s,timed,value,source,question,"
            "client_id,entered_at,arrived_at) VALUES "
            "(1,1,'heating',0,3,1,20,'hand','','c','x','x')",
        ):
            raw.execute(sql.replace("'x'", f"'{when}'"))
    database.migrate()
    with database.session() as session:
        assert session.scalars(select(Reading.value)).all() == [20.0]
        assert session.scalars(select(Entry.device)).all() == [""]
    with database.engine.connect() as connection:
        assert connection.exec_driver_sql("PRAGMA foreign_keys").scalar() == 1


def test_a_commit_is_on_the_disk_and_readers_never_wait(database):
    with database.engine.connect() as connection:
        found = {
            name: connection.exec_driver_sql(f"PRAGMA {name}").scalar()
            for name in ("journal_mode", "synchronous", "foreign_keys", "busy_timeout")
        }
    assert found == {"journal_mode": "wal", "synchronous": 2, "foreign_keys": 1, "busy_timeout": 5000}


def test_times_come_back_with_their_zone_and_go_in_only_with_one(database):
    moment = datetime(2026, 6, 1, 12, 0, tzinfo=UTC)
    with database.writing() as session:
        session.add(SchoolClass(name="Relief crew", created_at=moment))
    with database.session() as session:
        assert session.scalars(select(SchoolClass.created_at)).one() == moment
    with pytest.raises(Exception, match="zone"), database.writing() as session:
        session.add(SchoolClass(name="x", created_at=datetime(2026, 6, 1)))  # noqa: DTZ001


def test_two_screens_writing_at_once_both_get_through(crew: Crew):
    run = crew.run(crew.plan("Avocet"), crew.plan("Dunlin"))
    rows = crew.entries(run)
    problems = []

    def screen(name: str) -> None:
        try:
            for minute in (0, 5, 10, 15, 20, 25, 30):
                crew.read(rows[name], minute, "20.5", client_id=f"{name}-{minute}")
        except Exception as error:
            problems.append(error)

    screens = [threading.Thread(target=screen, args=(n,)) for n in ("Air", "Avocet", "Dunlin")]
    for each in screens:
        each.start()
    for each in screens:
        each.join()
    assert problems == []
    with crew.database.session() as session:
        assert len(session.scalars(select(Reading)).all()) == 21


def test_the_database_itself_refuses_a_second_first_reading_in_a_cell(crew: Crew):
    run = crew.run(crew.plan("Avocet"))
    entry = crew.entries(run)["Avocet"]
    crew.read(entry, 0, "20.5")
    now = datetime.now(UTC)
    twin = Reading(
        entry_id=entry,
        phase="heating",
        mark_s=0.0,
        time_s=1.0,
        value=21.0,
        client_id="other",
        entered_at=now,
        arrived_at=now,
    )
    with pytest.raises(IntegrityError), crew.database.writing() as session:
        session.add(twin)


def test_a_backup_is_whole_while_the_application_runs_and_never_overwrites(crew: Crew, tmp_path):
    run = crew.run(crew.plan("Avocet"))
    crew.read(crew.entries(run)["Avocet"], 0, "20.5")
    target = tmp_path / "copy.sqlite3"
    crew.database.backup(target)
    copy = sqlite3.connect(target)
    assert copy.execute("select value from readings").fetchall() == [(20.5,)]
    assert copy.execute("pragma integrity_check").fetchone() == ("ok",)
    copy.close()
    with pytest.raises(FileExistsError):
        crew.database.backup(target)


def test_deleting_a_class_takes_everything_of_it_and_leaves_no_orphans(crew: Crew):
    run = crew.run(crew.plan("Avocet"))
    crew.read(crew.entries(run)["Avocet"], 0, "20.5")
    with crew.database.writing() as session:
        session.delete(session.get_one(SchoolClass, crew.class_id))
    with crew.database.session() as session:
        assert session.scalars(select(Entry)).all() == []
        assert session.scalars(select(Reading)).all() == []


def test_the_key_of_the_cookies_is_made_once_and_is_only_for_the_owner(database):
    first = database.secret_key()
    assert first == database.secret_key()
    assert len(first) == 64
    assert (database.folder / "secret_key").stat().st_mode & 0o077 == 0
