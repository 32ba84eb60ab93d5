"""The process that serves: what it says before it begins, what it logs, what does not stop it."""

from __future__ import annotations

import logging
from dataclasses import dataclass, field
from pathlib import Path

import pytest
from click.testing import CliRunner

from thermion import server, supervisor
from thermion.cli import main


@pytest.fixture
def listens(monkeypatch):
    """The server itself, which does not begin to serve."""
    served: list[Path] = []
    monkeypatch.setattr(server, "_serve", lambda _app, folder, *_: served.append(folder))
    monkeypatch.setattr(supervisor, "stop_with_supervisor", lambda: None)
    monkeypatch.setenv(supervisor.CHILD, "2")
    before = logging.getLogger().handlers[:], logging.getLogger().level
    yield served
    logging.getLogger().handlers[:], level = before
    logging.getLogger().setLevel(level)


def run(*words):
    return CliRunner().invoke(main, [str(w) for w in words])


def test_a_disk_too_full_for_the_copy_of_the_day_does_not_stop_the_start(listens, tmp_path, monkeypatch):
    def full(*_):
        raise OSError("the copy could not be written (database or disk is full)")

    monkeypatch.setattr("thermion.records.keeping.copies.daily_copy", full)
    answer = run("serve", "--data", tmp_path / "data")
    assert (answer.exit_code, listens) == (0, [tmp_path / "data"])
    assert "today's copy could not be made" in answer.stderr
    assert "Everything else works" in answer.stderr


def test_what_it_logs_is_a_line_for_a_step_and_stays_small(listens, tmp_path):
    run("serve", "--data", tmp_path)
    for _ in range(3000):  # as when thirty tablets ask at once
        logging.getLogger("waitress.queue").warning("Task queue depth is 9")
        logging.getLogger("thermion.lesson").info("lesson of class 1: next test run")
    for each in logging.getLogger().handlers:
        each.flush()
    text = (tmp_path / "logs" / "thermion.log").read_text()
    assert "started again, time 2" in text
    assert text.count("lesson of class 1: next test run") == 3000
    assert "Task queue" not in text
    for _ in range(80):
        logging.getLogger("thermion").info("x" * 100_000)
    sizes = [path.stat().st_size for path in (tmp_path / "logs").glob("thermion.log*")]
    assert len(sizes) == 4
    assert max(sizes) <= server.LOG_SIZE


def test_a_new_folder_is_named_before_anything_is_made_in_it_and_the_last_one_with_it(tmp_path, monkeypatch):
    monkeypatch.setenv("XDG_STATE_HOME", str(tmp_path / "state"))
    monkeypatch.setattr(supervisor, "keep_serving", lambda *_: 0)
    first = run("serve", "--data", tmp_path / "school")
    assert f"There are no data in {tmp_path / 'school'} yet: a new record is made there.\n" in first.stderr
    mistyped = run("serve", "--data", tmp_path / "shcool")
    assert f"The one used last is {tmp_path / 'school'}." in mistyped.stderr


def test_a_server_that_dies_before_it_ever_answered_is_given_up(tmp_path, monkeypatch):
    said: list[str] = []
    started: list[object] = []

    def dies(words, *_):
        started.append(words)
        return -11, False

    monkeypatch.setattr(supervisor, "_run", dies)
    assert supervisor.keep_serving(["serve", "--fresh"], ["serve"], tmp_path, said.append) == 1
    assert started == [["serve", "--fresh"], ["serve"], ["serve"]]
    assert said[-1] == "thermion: the server died 3 times before it answered (SIGSEGV)."


@dataclass
class Line:
    """A connection that last said something at a moment."""

    last_activity: float
    requests: list[object] = field(default_factory=list)
    will_close: bool = False


def test_a_device_that_opens_connections_and_says_nothing_makes_room_for_the_others():
    silent = [Line(100.0 + i / 1000) for i in range(480)]
    at_work = [Line(100.0, [object()]) for _ in range(30)]  # asked long ago, and still being answered
    young = [Line(109.0) for _ in range(20)]
    assert server.to_close([*silent[:100], *at_work, *young], 110.0) == []
    closed = server.to_close([*young, *at_work, *silent], 110.0)
    assert closed == silent[: 530 - server.ROOM]
    assert server.to_close(at_work * 20, 110.0) == []
