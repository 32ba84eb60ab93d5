"""Copies that can be trusted, one put back, and a folder that one server uses at a time."""

from __future__ import annotations

import multiprocessing
import os
import sqlite3
import threading
import time
from contextlib import closing, suppress
from datetime import UTC, datetime, timedelta
from itertools import count
from pathlib import Path

import pytest
from click.testing import CliRunner
from sqlalchemy import func, insert, select

from tests.conftest import NOON, Crew
from thermion.cli import main
from thermion.records.database import Database
from thermion.records.errors import Busy, Refused
from thermion.records.keeping import copies
from thermion.records.keeping.folder import used_by
from thermion.records.revisions import HEAD
from thermion.records.tables import Reading

NOW = datetime(2026, 6, 1, 8, 0, tzinfo=UTC)


def run(*words) -> object:
    return CliRunner().invoke(main, [str(w) for w in words])


def readings(folder: Path) -> int:
    database = Database(folder)
    with database.session() as session:
        found = session.scalar(select(func.count()).select_from(Reading))
    database.close()
    return found


@pytest.fixture
def read(crew: Crew):
    """A run in which so many values have been typed."""
    entry = crew.entries(crew.run(crew.plan("Avocet")))["Avocet"]
    numbers = count()

    def type_in(many: int) -> None:
        with crew.database.writing() as session:
            for _ in range(many):
                n = next(numbers)
                session.add(
                    Reading(
                        entry_id=entry,
                        phase="heating",
                        time_s=float(n),
                        value=20.0,
                        client_id=f"r{n}",
                        entered_at=NOON,
                        arrived_at=NOON,
                    )
                )

    return type_in


class TestACopy:
    def test_is_one_file_that_reads_back_and_only_its_owner_can_read(self, crew: Crew, read, tmp_path):
        read(30)
        made = copies.copy(crew.database.path, tmp_path / "copies" / "a.sqlite3")
        assert (made.counts["readings"], made.revision, made.is_current) == (30, HEAD, True)
        assert sorted(p.name for p in made.path.parent.iterdir()) == ["a.sqlite3"]
        assert made.path.stat().st_mode & 0o077 == 0

    def test_made_while_others_write_is_of_one_moment(self, crew: Crew, read, tmp_path):
        """A correction and what it corrects are both there, or neither."""
        read(5)
        stop = threading.Event()

        def busy() -> None:
            while not stop.is_set():
                read(20)

        writer = threading.Thread(target=busy)
        writer.start()
        try:
            made = [copies.copy(crew.database.path, tmp_path / f"{i}.sqlite3") for i in range(5)]
        finally:
            stop.set()
            writer.join()
        assert all(m.counts["readings"] % 20 == 5 for m in made)
        assert made[0].counts["readings"] <= made[-1].counts["readings"]

    def test_never_overwrites_and_leaves_nothing_half(self, crew: Crew, tmp_path, monkeypatch):
        target = tmp_path / "a.sqlite3"
        target.write_text("mine")
        with pytest.raises(FileExistsError):
            copies.copy(crew.database.path, target)
        assert target.read_text() == "mine"

        def full(path: Path) -> None:
            raise OSError(28, "No space left on device")

        monkeypatch.setattr(copies, "_settled", full)
        with pytest.raises(OSError, match="No space"):
            copies.copy(crew.database.path, tmp_path / "b.sqlite3")
        assert sorted(p.name for p in tmp_path.iterdir() if "b." in p.name) == []


def spoil(path: Path, how: str) -> None:
    match how:
        case "text":
            path.write_text("Crane the stores " * 50)
        case "empty":
            path.write_bytes(b"")
        case "other":
            sqlite3.connect(path).executescript("CREATE TABLE fish (name); INSERT INTO fish VALUES ('cod')")
        case "newer":
            with sqlite3.connect(path) as found:
                found.execute("UPDATE alembic_version SET version_num = '9999'")
        case "cut":
            content = path.read_bytes()
            path.write_bytes(content[: len(content) // 2])


@pytest.mark.parametrize(
    ("how", "says"),
    [
        ("text", "cannot be read as Thermion data"),
        ("empty", "holds no Thermion data"),
        ("other", "holds no Thermion data"),
        ("newer", "written by a newer Thermion"),
        ("cut", "damaged|cannot be read"),
    ],
)
def test_what_is_no_good_copy_is_refused_and_changes_nothing(crew: Crew, read, tmp_path, how, says):
    read(30)
    file = tmp_path / "copy.sqlite3"
    if how in ("newer", "cut"):
        copies.copy(crew.database.path, file)
    spoil(file, how)
    crew.database.close()
    answer = run("restore", file, "--data", crew.database.folder)
    assert (answer.exit_code, answer.stdout) == (1, "")
    assert len([line for line in answer.stderr.splitlines() if line]) == 1
    with pytest.raises(Refused, match=says):
        copies.check(file)
    assert readings(crew.database.folder) == 30


class TestRestoring:
    def test_brings_back_exactly_the_rows_of_the_copy_and_keeps_what_was_there(
        self, crew: Crew, read, tmp_path
    ):
        """Seen: a copy laid over the file by hand, after a kill, came back with the old log's rows."""
        read(30)
        folder, file = crew.database.folder, tmp_path / "monday.sqlite3"
        assert "30 readings, read back and whole" in run("backup", file, "--data", folder).output
        read(60)  # these stand in the write-ahead log
        crew.database.close()
        answer = run("restore", file, "--data", folder)
        assert answer.exit_code == 0
        assert "30 readings" in answer.output
        assert readings(folder) == 30
        (kept,) = copies.copies_of(folder)
        assert kept.path.name.startswith("before-restore-")
        assert kept.counts["readings"] == 90

    def test_of_a_broken_record_keeps_the_pieces(self, crew: Crew, read, tmp_path):
        read(30)
        folder, file = crew.database.folder, tmp_path / "monday.sqlite3"
        copies.copy(crew.database.path, file)
        crew.database.close()
        spoil(crew.database.path, "text")
        assert run("restore", file, "--data", folder).exit_code == 0
        assert readings(folder) == 30
        assert [p.name.split("-")[0] for p in (folder / copies.FOLDER).iterdir()] == ["broken"]

    def test_of_an_older_form_is_brought_up_to_date(self, tmp_path):
        old = Database(tmp_path / "old")
        old.migrate("0005")
        file = tmp_path / "old.sqlite3"
        copies.copy(old.path, file)
        assert run("restore", file, "--data", tmp_path / "new").exit_code == 0
        opened = Database(tmp_path / "new")
        assert opened.migrate() is True  # there were older data
        assert copies.check(opened.path).revision == HEAD
        (before,) = copies.copies_of(tmp_path / "new")
        assert (before.revision, before.path.name.startswith(f"before-form-{HEAD}")) == ("0005", True)

    def test_is_refused_while_a_server_uses_the_folder(self, crew: Crew, tmp_path):
        file = tmp_path / "copy.sqlite3"
        copies.copy(crew.database.path, file)
        with used_by(crew.database.folder, "http://127.0.0.1:8000"):
            answer = run("restore", file, "--data", crew.database.folder)
        assert answer.exit_code == 1
        assert "already runs" in answer.stderr
        assert "at http://127.0.0.1:8000" in answer.stderr

    def test_in_the_running_application_changes_all_at_once(self, crew: Crew, read, tmp_path):
        read(30)
        file = tmp_path / "copy.sqlite3"
        copies.copy(crew.database.path, file)
        read(12)
        crew.database.put_back(file)
        with crew.database.session() as session:
            assert session.scalar(select(func.count()).select_from(Reading)) == 30
        (kept,) = copies.copies_of(crew.database.folder)
        assert kept.counts["readings"] == 42
        with pytest.raises(Refused, match="no file"):
            crew.database.put_back(tmp_path / "none")

    def test_while_screens_save_loses_nothing_that_was_acknowledged(self, crew: Crew, read, tmp_path):
        """Every value stands in the copy of what was there, or in what came back."""
        read(30)
        file = tmp_path / "copy.sqlite3"
        copies.copy(crew.database.path, file)
        with crew.database.session() as session:
            entry = session.scalars(select(Reading.entry_id)).first()
        kept: list[str] = []
        going = threading.Event()

        def save(screen: int) -> None:
            number = 0
            while not going.is_set():
                number += 1
                name = f"{screen}-{number}"
                row = {"entry_id": entry, "phase": "heating", "time_s": number, "value": 20.0}
                with suppress(Busy):
                    with crew.database.writing() as session:
                        moments = {"entered_at": NOW, "arrived_at": NOW}
                        session.execute(insert(Reading), {**row, **moments, "client_id": name})
                    kept.append(name)

        screens = [threading.Thread(target=save, args=(i,)) for i in range(3)]
        for screen in screens:
            screen.start()
        backs = [threading.Thread(target=crew.database.put_back, args=(file,)) for _ in range(2)]
        for back in backs:  # two people at once
            while len(kept) < 20:
                time.sleep(0.01)
            back.start()
        for back in backs:
            back.join()
        after = len(kept)
        while len(kept) < after + 20:
            time.sleep(0.01)
        going.set()
        for screen in screens:
            screen.join()
        there = set()
        for path in [crew.database.path, *(crew.database.folder / copies.FOLDER).glob("*.sqlite3")]:
            with closing(sqlite3.connect(path)) as record:
                there |= {row[0] for row in record.execute("SELECT client_id FROM readings")}
        assert set(kept) - there == set()
        assert len(copies.copies_of(crew.database.folder)) == 2

    @pytest.mark.parametrize(
        ("spoil_with", "says"),
        [
            ("UPDATE alembic_version SET version_num = '0003b'", "of a form that Thermion never had"),
            ("UPDATE alembic_version SET version_num = ''", "of a form that Thermion never had"),
            ("DROP TABLE readings", "holds no Thermion data"),
            ("DROP TABLE attempts", "lacks what Thermion keeps (attempts)"),
            ("INSERT INTO alembic_version VALUES ('0001')", "holds no Thermion data"),
            (
                "CREATE TRIGGER mine AFTER INSERT ON runs BEGIN DELETE FROM runs; END",
                "a trigger or a view (mine)",
            ),
        ],
    )
    def test_of_what_is_no_copy_of_ours_changes_nothing(self, crew: Crew, read, tmp_path, spoil_with, says):
        read(3)
        file = tmp_path / "copy.sqlite3"
        copies.copy(crew.database.path, file)
        with closing(sqlite3.connect(file)) as raw, raw:
            raw.execute("PRAGMA foreign_keys = OFF")
            raw.execute(spoil_with)
        with pytest.raises(Refused) as refused:
            crew.database.put_back(file)
        assert says in refused.value.message
        crew.database.close()
        assert says in run("restore", file, "--data", crew.database.folder).stderr
        assert readings(crew.database.folder) == 3

    def test_of_the_record_itself_is_refused(self, crew: Crew):
        crew.database.close()
        answer = run("restore", crew.database.path, "--data", crew.database.folder)
        assert "choose a copy" in answer.stderr


class TestDailyCopies:
    def test_are_one_a_day_and_the_newest_seven_stay(self, crew: Crew):
        folder = crew.database.folder
        for day in range(10):
            at = NOW + timedelta(days=day)
            assert copies.daily_copy(folder, at) is not None
            assert copies.daily_copy(folder, at + timedelta(hours=3)) is None
        names = sorted(p.name for p in (folder / copies.FOLDER).iterdir())
        assert names == [f"day-2026-06-{d:02}.sqlite3" for d in range(4, 11)]

    def test_others_are_left_alone_and_a_broken_one_is_not_offered(self, crew: Crew):
        folder = crew.database.folder
        mine = copies.copy_before(folder, "summer", NOW)
        again = copies.copy_before(folder, "summer", NOW)
        assert mine.path != again.path
        spoil(again.path, "text")
        for day in range(9):
            copies.daily_copy(folder, NOW + timedelta(days=day))
        assert mine.path.exists()
        assert again.path not in [c.path for c in copies.copies_of(folder)]

    def test_an_empty_folder_has_none(self, tmp_path):
        assert copies.daily_copy(tmp_path, NOW) is None
        assert copies.copies_of(tmp_path) == []


def _hold(folder: Path, ready, leave) -> None:
    with used_by(folder, "http://127.0.0.1:8123"):
        ready.set()
        leave.wait(20)


def test_a_folder_is_free_again_when_its_server_was_killed(tmp_path):
    context = multiprocessing.get_context("spawn")
    ready, leave = context.Event(), context.Event()
    holder = context.Process(target=_hold, args=(tmp_path, ready, leave))
    holder.start()
    assert ready.wait(20)
    with pytest.raises(Refused, match=r"already runs .* at http://127.0.0.1:8123"), used_by(tmp_path, "x"):
        pass
    holder.kill()
    holder.join()
    with used_by(tmp_path, "http://127.0.0.1:8000"):
        pass


class TestFaultsOfTheFolder:
    def said(self, folder: Path) -> str:
        answer = run("serve", "--data", folder, "--port", "1")
        assert answer.exit_code == 1
        assert answer.stderr.count("\n") == 1
        return answer.stderr

    def test_a_broken_record_names_the_newest_copy_that_reads(self, crew: Crew):
        copies.daily_copy(crew.database.folder, NOW)
        crew.database.close()
        for end in ("-wal", "-shm"):
            Path(f"{crew.database.path}{end}").unlink(missing_ok=True)
        spoil(crew.database.path, "text")
        said = self.said(crew.database.folder)
        assert "file is not a database" in said
        assert f"thermion restore {crew.database.folder / copies.FOLDER}" in said

    @pytest.mark.parametrize("content", [b"", b"short", b"\xff\xfe\x00"])
    def test_a_key_that_is_none_is_said(self, crew: Crew, content):
        (crew.database.folder / "secret_key").write_bytes(content)
        assert "holds no key" in self.said(crew.database.folder)

    def test_the_key_is_made_whole_once_and_private(self, crew: Crew):
        first = crew.database.secret_key()
        assert (len(first), crew.database.secret_key()) == (64, first)
        path = crew.database.folder / "secret_key"
        assert path.stat().st_mode & 0o077 == 0
        assert [p.name for p in crew.database.folder.glob(".secret_key*")] == []

    def test_the_record_is_for_its_owner_only(self, crew: Crew):
        assert crew.database.path.stat().st_mode & 0o077 == 0

    @pytest.mark.skipif(os.geteuid() == 0, reason="the superuser may write anywhere")
    def test_a_folder_that_may_not_be_written(self, tmp_path):
        locked = tmp_path / "locked"
        locked.mkdir(mode=0o500)
        assert "Permission denied" in self.said(locked)

    def test_a_backup_of_a_mistyped_folder_makes_nothing(self, tmp_path):
        answer = run("backup", tmp_path / "x.sqlite3", "--data", tmp_path / "mistyped")
        assert "There are no Thermion data" in answer.stderr
        assert list(tmp_path.iterdir()) == []


def test_a_file_of_another_name_or_place_is_looked_at_without_a_trace(crew: Crew, tmp_path):
    file = tmp_path / "on a stick.sqlite3"
    copies.copy(crew.database.path, file)
    os.chmod(file, 0o400)
    before = sorted(p.name for p in tmp_path.iterdir())
    assert copies.check(file).counts["challenges"] == 1
    assert sorted(p.name for p in tmp_path.iterdir()) == before
