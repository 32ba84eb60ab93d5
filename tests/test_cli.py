"""The thermion command."""

from __future__ import annotations

import socket

from click.testing import CliRunner

from tests.conftest import Crew
from thermion.cli import main
from thermion.records.database import Database


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


def test_help_and_a_port_that_is_taken(tmp_path):
    assert "Run the application with your own data" in run("--help").output
    with socket.socket() as taken:
        taken.bind(("127.0.0.1", 0))
        taken.listen()
        port = taken.getsockname()[1]
        answer = run("serve", "--data", tmp_path, "--port", port)
    assert (answer.exit_code, f"--port {port + 1}" in answer.output) == (1, True)


def test_starting_over_only_ever_deletes_a_demo(tmp_path):
    Database(tmp_path / "mine").migrate()
    answer = run("demo", "--fresh", "--data", tmp_path / "mine")
    assert (answer.exit_code, "left as it is" in answer.output) == (1, True)
    assert (tmp_path / "mine" / "thermion.sqlite3").exists()
