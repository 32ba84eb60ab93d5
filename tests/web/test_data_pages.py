"""The page about the data: where they lie, a copy now, one put back, and a disk that does not take it."""

from __future__ import annotations

import sqlite3

import pytest
from sqlalchemy import event, func, select

from tests.conftest import Crew
from tests.web.conftest import flat
from thermion.records.keeping import copies
from thermion.records.tables import Challenge, Reading


def look(client) -> str:
    return flat(client.get("/data"))


def names(crew: Crew) -> list[str]:
    return [c.path.name for c in copies.copies_of(crew.database.folder)]


def test_it_says_where_the_data_are_and_makes_a_copy(client, crew):
    assert str(crew.database.folder) in look(client)
    assert "No copy yet" in look(client)
    for _ in range(2):  # twice in one second is two copies
        assert client.post("/data/copies").status_code == 303
    shown = look(client)
    assert shown.count("made here") == 2
    assert "1 challenge, 0 runs, 0 readings and attempts" in shown


def test_a_copy_is_downloaded_as_a_file_that_reads(client, crew, tmp_path):
    client.post("/data/copies")
    (name,) = names(crew)
    answer = client.get(f"/data/copies/{name}")
    assert answer.headers["Content-Disposition"].startswith("attachment")
    file = tmp_path / "downloaded.sqlite3"
    file.write_bytes(answer.get_data())
    assert copies.check(file).counts["challenges"] == 1


def test_a_copy_put_back_undoes_what_came_after_and_can_be_undone(client, crew):
    client.post("/data/copies")
    (name,) = names(crew)
    entry = crew.entries(crew.run(crew.plan("Avocet")))["Avocet"]
    crew.read(entry, 0, "20.5")
    assert client.get("/challenges/1/findings").status_code == 200  # remembered from here on
    assert client.post(f"/data/copies/{name}/back").status_code == 303
    with crew.database.session() as session:
        assert session.scalar(select(func.count()).select_from(Reading)) == 0
    assert "Nothing has been read yet" in flat(client.get("/challenges/1/findings"))
    before = next(n for n in names(crew) if n.startswith("before-restore-"))
    assert client.post(f"/data/copies/{before}/back").status_code == 303
    with crew.database.session() as session:
        assert session.scalar(select(func.count()).select_from(Reading)) == 1


@pytest.mark.parametrize("name", ["none.sqlite3", "..%2Fthermion.sqlite3", "..%2Fsecret_key", ".sqlite3"])
def test_nothing_but_a_copy_can_be_named(client, crew, name):
    client.post("/data/copies")
    for answer in (client.get(f"/data/copies/{name}"), client.post(f"/data/copies/{name}/back")):
        assert answer.status_code in (404, 410)
    with crew.database.session() as session:
        assert session.scalar(select(func.count()).select_from(Challenge)) == 1


@pytest.mark.parametrize(
    ("said", "title"),
    [
        ("database or disk is full", "is full. Make room on it"),
        ("attempt to write a readonly database", "the file or its folder is read-only"),
        ("disk I/O error", "does not answer as it should"),
        ("database is locked", "Another program holds the data"),
    ],
)
def test_a_disk_that_does_not_take_it_is_said_in_words(client, crew, said, title):
    def fail(*_: object) -> None:
        raise sqlite3.OperationalError(said)

    event.listen(crew.database.engine, "before_cursor_execute", fail)
    try:
        answer = client.get("/no such page")
        page = client.get("/")
    finally:
        event.remove(crew.database.engine, "before_cursor_execute", fail)
    assert answer.status_code == 404
    assert page.status_code == 507
    assert title in flat(page)
    assert "Nothing was stored." in flat(page)
    assert client.get("/").status_code == 200
