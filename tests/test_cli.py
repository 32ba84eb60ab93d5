"""The thermion command."""

from __future__ import annotations

import os
import re
import socket
import subprocess
import sys

import pytest
from click.testing import CliRunner

from tests.conftest import Crew
from thermion import supervisor
from thermion.cli import main
from thermion.records.database import Database
from thermion.records.planning.classes import TeamInput, list_classes, save_class


def run(*words: str):
    return CliRunner().invoke(main, [str(w) for w in words])


def test_export_import_and_backup_without_the_browser(crew: Crew, tmp_path):
    crew.plan("Avocet")
    data, file = crew.database.folder, tmp_path / "supper.json"
    assert run("export", 1, file, "--data", data).output == f"Wrote {file}\n"
    again = run("export", 1, file, "--data", data)
    assert (again.exit_code, "left as it is" in again.output) == (1, True)
    assert "challenge 2" in run("import", file, "--data", data).output
    assert "no longer there" in run("export", 99, tmp_path / "x", "--data", data).output
    copy = tmp_path / "copy.sqlite3"
    assert run("backup", copy, "--data", data).exit_code == 0
    assert copy.stat().st_size > 10_000


def test_a_challenge_goes_through_a_pipe(crew: Crew, tmp_path):
    out = run("export", 1, "-", "--data", crew.database.folder)
    assert out.exit_code == 0
    back = CliRunner().invoke(main, ["import", "-", "--data", str(tmp_path)], input=out.stdout_bytes)
    assert back.output == "Imported “Keeper's supper” as challenge 1\n"
    copy = run("backup", "-", "--data", crew.database.folder)
    assert copy.stdout_bytes.startswith(b"SQLite format 3\0")


@pytest.mark.parametrize(
    ("words", "code", "says"),
    [
        (("serv",), 2, "No such command 'serv'"),
        (("export", "x", "-"), 2, "'x' is not a valid integer"),
        (("serve", "--port", "70000"), 2, "70000 is not in the range"),
        (("export", "1", "-", "--data", "{empty}"), 1, "There are no Thermion data in"),
        (("backup", "--data", "{empty}"), 1, "There are no Thermion data in"),
        (("import", "{empty}/none.json", "--data", "{empty}"), 1, "No such file"),
        (("import", "{junk}", "--data", "{empty}"), 1, "not a JSON file"),
        (("serve", "--data", "{spoilt}"), 1, "file is not a database"),
        (("serve", "--data", "{newer}"), 1, "written by a newer Thermion"),
    ],
)
def test_what_goes_wrong_is_one_sentence_and_an_exit_code(words, code, says, tmp_path):
    places = {name: tmp_path / name for name in ("empty", "junk", "spoilt", "newer")}
    for name in ("empty", "spoilt", "newer"):
        places[name].mkdir()
    places["junk"].write_text("Crane the stores")
    (places["spoilt"] / "thermion.sqlite3").write_text("no table in here " * 99)
    ahead = Database(places["newer"])
    ahead.migrate()
    with ahead.engine.begin() as connection:
        connection.exec_driver_sql("UPDATE alembic_version SET version_num = '9999'")
    answer = run(*(word.format(**places) for word in words))
    assert (answer.exit_code, answer.stdout) == (code, "")
    assert answer.stderr.startswith("thermion: ")
    assert says in answer.stderr
    assert answer.stderr.count("\n") == 1
    assert not (places["empty"] / "thermion.sqlite3").exists() or words[0] == "import"


def test_a_folder_can_be_named_by_the_environment_and_the_module_is_the_command(crew: Crew):
    environment = {**os.environ, "THERMION_DATA": str(crew.database.folder)}
    command = [sys.executable, "-m", "thermion"]
    found = subprocess.run([*command, "export", "1", "-"], env=environment, capture_output=True, check=True)
    assert b"Keeper's supper" in found.stdout
    said = subprocess.run([*command, "--version"], capture_output=True, check=True, text=True).stdout
    assert re.fullmatch(r"thermion \d+\.\d+\.\d+\n", said)


def test_asking_for_help_loads_nothing_that_only_the_application_needs():
    loads = "import sys, thermion.cli; print(*sys.modules)"
    names = subprocess.run([sys.executable, "-c", loads], capture_output=True, check=True, text=True).stdout
    assert not {"flask", "sqlalchemy", "numpy", "pydantic"} & set(names.split())


def test_starting_the_application_loads_no_statistics_pictures_or_sun(tmp_path):
    Database(tmp_path).migrate()
    starts = (
        "import sys; from pathlib import Path; from thermion.web import create_app;"
        f"create_app({{'DATA': Path({str(tmp_path)!r})}}); print(*sys.modules)"
    )
    names = subprocess.run([sys.executable, "-c", starts], capture_output=True, check=True, text=True).stdout
    late = {"numpy", "scipy", "pvlib", "pandas", "PIL", "pint", "alembic", "icalendar", "serial"}
    assert not late & set(names.split())


def test_help_and_a_port_that_is_taken(tmp_path):
    assert "Run the application with your own data" in run("--help").output
    with socket.socket() as taken:
        taken.bind(("127.0.0.1", 0))
        taken.listen()
        port = taken.getsockname()[1]
        answer = run("serve", "--data", tmp_path, "--port", port)
    assert (answer.exit_code, f"--port {port + 1}" in answer.output) == (1, True)


def test_a_demo_that_was_broken_off_while_it_was_made_is_made_anew(tmp_path, monkeypatch):
    made: list[int] = []

    def broken_off(database):
        with database.writing() as session:
            made.append(len(list_classes(session)))
            save_class(
                session,
                name="Half",
                temp_unit="degC",
                decimal="point",
                zone="UTC",
                teams=[TeamInput(name="A")],
            )
        if len(made) == 1:
            raise KeyboardInterrupt

    monkeypatch.setattr("thermion.demo.build_demo", broken_off)
    monkeypatch.setattr("thermion.server.listen", lambda *_, **__: None)
    monkeypatch.setenv(supervisor.CHILD, "0")
    for code in (130, 0, 0):
        assert run("demo", "--data", tmp_path / "demo").exit_code == code
    assert made == [0, 0]  # the second time from nothing, the third time it was there


def test_starting_over_only_ever_deletes_a_demo(tmp_path):
    Database(tmp_path / "mine").migrate()
    answer = run("demo", "--fresh", "--data", tmp_path / "mine")
    assert (answer.exit_code, "left as it is" in answer.output) == (1, True)
    assert (tmp_path / "mine" / "thermion.sqlite3").exists()
