"""The database: durable, migrated from every released state, safe to write from two sides."""

from __future__ import annotations

import sqlite3
import threading
import time
from concurrent.futures import ThreadPoolExecutor
from datetime import UTC, datetime

import pytest
from alembic.autogenerate import compare_metadata
from alembic.migration import MigrationContext
from sqlalchemy import event, select
from sqlalchemy.exc import IntegrityError

from tests.conftest import Crew
from thermion.core.planning.week import FORMER, PHASES
from thermion.records.database import WAITING, Database
from thermion.records.errors import Busy
from thermion.records.running import probes
from thermion.records.tables import Base, Challenge, Entry, Reading, SchoolClass, StepRow, Version

RELEASED = ["0001", "0002", "0003", "0004", "0007", "0008", "0009", "0013", "0015", "0016", "0017"]


@pytest.mark.parametrize("revision", RELEASED)
def test_every_released_state_migrates_up_to_the_models(tmp_path, revision):
    database = Database(tmp_path)
    database.migrate(revision)
    database.migrate()
    with database.engine.connect() as connection:
        differences = compare_metadata(MigrationContext.configure(connection), Base.metadata)
    assert differences == []


WHEN = "2026-06-01 12:00:00"
ROWS = {
    "classes": {"name": "Crew", "temp_unit": "degC", "decimal": "point", "zone": "UTC"},
    "teams": {"class_id": 1, "name": "Avocet", "letter": "A", "shape": "circle", "colour": "rust"},
    "challenges": {"class_id": 1, "kind": "solar_oven", "title": "S", "age_band": "9-12", "school": "raw"},
    "builds": {"challenge_id": 1, "team_id": 1},
    "versions": {"build_id": 1, "number": 1, "state": "issued", "prediction": 60, "revision": 1},
    "runs": {"challenge_id": 1, "number": 1, "speed": 1, "rehearsal": 0, "seed": 0},
    "entries": {"run_id": 1, "version_id": 1, "position": 1, "offset_s": 0},
    "readings": {
        "entry_id": 1,
        "phase": "heating",
        "mark_s": 0,
        "time_s": 3,
        "timed": 1,
        "value": 20,
        "source": "hand",
        "client_id": "c",
    },
}


def fill(raw: sqlite3.Connection) -> None:
    """One row in each table of a class's path, whatever its columns were then."""
    for table, row in ROWS.items():
        columns = raw.execute(f"PRAGMA table_info({table})").fetchall()
        kept = {"id": 1} | {name: row[name] for _, name, *_ in columns if name in row}
        for _, name, kind, needed, default, _ in columns:
            if needed and default is None and name not in kept:
                kept[name] = WHEN if "DATE" in kind else ("" if "CHAR" in kind else 0)
        places = ",".join("?" * len(kept))
        raw.execute(f"INSERT INTO {table} ({','.join(kept)}) VALUES ({places})", list(kept.values()))


@pytest.mark.parametrize("revision", RELEASED)
def test_no_row_is_lost_on_the_way_up(tmp_path, revision):
    database = Database(tmp_path)
    database.migrate(revision)
    with sqlite3.connect(database.path) as raw:
        fill(raw)
    database.migrate()
    with database.session() as session:
        assert session.scalars(select(Reading.value)).all() == [20.0]
        assert session.scalars(select(Entry.device)).all() == [""]
        version = session.scalars(select(Version)).one()
        assert (version.prediction, version.prediction_typed) == (60.0, "")
    with database.engine.connect() as connection:
        assert connection.exec_driver_sql("PRAGMA foreign_keys").scalar() == 1


def test_families_and_steps_of_before_have_their_names_of_today(tmp_path):
    database = Database(tmp_path)
    database.migrate("0017")
    with sqlite3.connect(database.path) as raw:
        fill(raw)
        raw.execute("UPDATE challenges SET kind = 'wind_lift'")
        for number, step in enumerate(FORMER):
            raw.execute("INSERT INTO steps VALUES (?, 1, ?, 600, 0)", (number + 1, step))
    database.migrate()
    with database.session() as session:
        assert session.scalars(select(Challenge.kind)).all() == ["wind_hoist"]
        assert session.scalars(select(StepRow.phase).order_by(StepRow.id)).all() == list(FORMER.values())
    assert set(FORMER.values()) < {phase.key for phase in PHASES}


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


def test_writers_of_one_process_wait_for_their_turn_however_long_it_takes(database):
    """SQLite lets them try again at random: one board of four was told after 5 s that the data are held."""

    @event.listens_for(database.engine, "connect")
    def impatient(connection, _record) -> None:
        connection.execute("PRAGMA busy_timeout = 1")

    def writes(number: int) -> None:
        with database.writing() as session:
            probes.make_probe(session, f"board {number}")
            time.sleep(0.05)

    with ThreadPoolExecutor(4) as together:
        list(together.map(writes, range(4)))
    with database.session() as session:
        assert len(probes.probes_of(session)) == 4


def test_writers_that_would_wait_too_long_are_told_so_and_readers_go_on(database):
    writes, leave = threading.Event(), threading.Event()

    def large() -> None:
        with database.writing() as session:
            probes.make_probe(session, "large")
            writes.set()
            leave.wait()

    def small(number: int) -> str:
        try:
            with database.turn.taken(0.2), database.writing() as session:
                probes.make_probe(session, f"small {number}")
        except Busy:
            return "busy"
        return "stored"

    with ThreadPoolExecutor(WAITING + 4) as together:
        first = together.submit(large)
        writes.wait()
        assert list(together.map(small, range(WAITING + 3))) == ["busy"] * (WAITING + 3)
        with database.session() as session:
            assert probes.probes_of(session) == []
        leave.set()
        first.result()
    assert small(99) == "stored"
