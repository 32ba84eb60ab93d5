"""Boards on a line, pretended probes, and the sender between them and Thermion: nothing torn, nothing lost."""

from __future__ import annotations

import os
import pty
import subprocess
import sys
import time
from datetime import UTC, datetime

import pytest
from hypothesis import given
from hypothesis import strategies as st
from sqlalchemy import func, select

from tests.conftest import Crew
from tests.serving import Server
from thermion.cli_probe import UNITS as OFFERED
from thermion.core.kinds import get_kind
from thermion.formats.senml import UNITS as SENML
from thermion.probes.lines import UNITS, as_sent, read_line
from thermion.probes.pretend import Pretended, PretendedStation, stations
from thermion.probes.sending import MOST_KEPT, Sender
from thermion.records.database import Database
from thermion.records.planning.briefs import brief_of, get_challenge
from thermion.records.running import placed_probes, probes, runs
from thermion.records.tables import ProbeChannel, ProbeValue, Reading


@pytest.mark.parametrize(
    ("line", "found"),
    [
        ("A:21.5 B:22.0", [("A", 21.5, ""), ("B", 22.0, "")]),
        ("temp=21.5C\r\n", [("temp", 21.5, "C")]),
        ("T1 = 70.7 °F; T2 = 71 °F", [("T1", 70.7, "F"), ("T2", 71.0, "F")]),
        ("21.5", [("1", 21.5, "")]),
        ("21,5;22,0", [("1", 21.5, ""), ("2", 22.0, "")]),
        ("1,21.5,22.0", [("1", 1.0, ""), ("2", 21.5, ""), ("3", 22.0, "")]),
        ("21.5\t-3.25", [("1", 21.5, ""), ("2", -3.25, "")]),
        ('{"A": 21.5, "ok": true, "s": "x"}', [("A", 21.5, "")]),
        ("", []),
        ("booting v1.2 ...", []),
        ("A:21.5 err", []),
        ("A:nan", []),
        ("21,5", []),
        ("21,5,22,0", []),
        ("21,22,23", [("1", 21.0, ""), ("2", 22.0, ""), ("3", 23.0, "")]),
        ("A:2", [("A", 2.0, "")]),
        ("t=120 A:21.5", [("A", 21.5, "")]),
        ('{"millis": 81234, "A": 21.5, "B": 22}', [("A", 21.5, ""), ("B", 22.0, "")]),
        ("t:21.5", [("t", 21.5, "")]),
        ("t:21.5C B:22C", [("t", 21.5, "C"), ("B", 22.0, "C")]),
        ("store: 412.5 g", [("store", 412.5, "g")]),
        ("caught=124ml shaft:17", [("caught", 124.0, "mL"), ("shaft", 17.0, "")]),
        ("d: 61.2 cm/s", []),
        ("m: 3 CM", [("m", 3.0, "cm")]),
        ("x" * 500, []),
        ('{"A": 1e999}', []),
    ],
)
def test_lines_as_boards_write_them(line, found):
    assert read_line(line) == found


def test_a_balance_a_counter_and_a_distance_are_sent_in_units_that_thermion_takes():
    assert set(OFFERED) == set(UNITS)
    assert {unit: as_sent(50.0, unit) for unit in ("F", "mL", "cm", "ms", "count")} == {
        "F": (pytest.approx(10.0), "Cel"),
        "mL": (pytest.approx(0.05), "l"),
        "cm": (pytest.approx(0.5), "m"),
        "ms": (pytest.approx(0.05), "s"),
        "count": (50.0, "count"),
    }
    assert set(UNITS.values()) <= set(SENML)


@given(st.text(max_size=120))
def test_no_line_can_break_the_reader(line):
    for name, value, unit in read_line(line):
        assert name
        assert abs(value) < float("inf") or value != value
        assert unit in ("", "C", "F", "K")


def test_pretended_probes_are_the_same_each_time_and_sometimes_silent():
    one, same, other = (list(Pretended(seed=s).course(600, 10)) for s in (1, 1, 2))
    assert one == same != other
    assert 0.9 < len(one) / (61 * 8) < 1.0
    ends = {name: [c for _, n, c, _ in one if n == name] for name in "ABCDEFGH"}
    assert max(c[-1] - c[0] for c in ends.values()) > 5  # some design warms
    assert min(min(c) for c in ends.values()) > 15
    race = [
        c
        for _, n, c, _ in Pretended(channels=1, family="heat_through", drop_out=0.0).course(120, 1)
        if n == "A"
    ]
    assert race[0] < 22 < 35 < race[-1]  # it comes from the start to a target within minutes
    drink = [
        c
        for _, n, c, _ in Pretended(channels=1, family="keep_temp", drop_out=0.0).course(1200, 60)
        if n == "A"
    ]
    assert drink[0] > drink[-1] + 2


@pytest.mark.parametrize("family", stations())
def test_pretended_machines_show_what_each_turn_gave_whatever_they_showed_before(family):
    test, there = get_kind(family).test, PretendedStation(family, seed=3, drop_out=0.0)
    turn_s = test.bench.fit_s + test.bench.run_s + test.bench.reset_s
    shown = {(name, at): value for at, name, value, _ in there.course(8 * turn_s, 1)}
    rig, step = get_kind(family).brief.default_rig(), {"meter**3": 1e-3, "kilogram": 1, "meter": 1}
    for name, read, gauge in there._machines:
        for n, turn in enumerate(there._turns[:8]):
            before, after = (
                n * turn_s + x for x in (test.bench.fit_s - 1, test.bench.fit_s + test.bench.run_s)
            )
            moved = shown[name, after] - (shown[name, before] if gauge.zeroed else 0)
            if read == "time_s" and turn.get(read, 0) > test.bench.run_s:
                continue  # a turn that takes longer than usual is still under way
            one = 2 * abs(gauge.of(1, rig)) * (1 if gauge.unit == "count" else 1e-3) + 0.1 * (
                read == "time_s"
            )
            there_s = gauge.of(moved * step.get(gauge.unit, 1), rig)
            assert there_s == pytest.approx(turn.get(read, 0), abs=one), (name, n)


def test_a_sender_keeps_what_was_not_answered(monkeypatch):
    sender, answers = Sender(url="http://127.0.0.1:9/senml", key="key"), []
    for i in range(1200):
        sender.put("A", 20 + i / 1000, "Cel", i)
    assert not sender.flush()
    assert len(sender.waiting) == 1200 <= MOST_KEPT
    monkeypatch.setattr(Sender, "_post", lambda self, body: answers.append(body) or {"refused": []})
    assert sender.drain(1)
    assert (sender.sent, len(answers), len(sender.waiting)) == (1200, 3, 0)


def served(folder) -> tuple[Server, Database, str]:
    database = Database(folder)
    with database.writing() as session:
        _, key = probes.make_probe(session, "board")
    return Server(folder), database, key


def command(server: Server, key: str, *more: str, **how) -> subprocess.Popen:
    asked = [sys.executable, "-m", "thermion", "probe", *more, "--url", f"{server.url}/senml", "--key", key]
    return subprocess.Popen(asked, stdout=subprocess.PIPE, stderr=subprocess.STDOUT, text=True, **how)


def names(database: Database) -> dict[str, float | None]:
    with database.session() as session:
        return {c.name: c.last_value for p in probes.probes_of(session) for c in p.channels}


def test_standard_input_and_a_serial_line_are_sent_on_and_a_cable_may_be_pulled_out(folder, migrated):
    server, database, key = served(folder)
    try:
        piped = command(server, key, "send", "--unit", "F", stdin=subprocess.PIPE)
        said, _ = piped.communicate("hello\nA:68.0 B:71.6\n")
        assert "1 lines read, 1 not." in said
        assert "2 values sent." in said
        assert names(database) == {"A": pytest.approx(20.0), "B": pytest.approx(22.0)}
        ours, theirs = pty.openpty()
        port = folder / "board"
        port.symlink_to(os.ttyname(theirs))
        reading = command(server, key, "send", "--serial", str(port))
        while names(database).get("S") != 23.25 and reading.poll() is None:
            os.write(ours, b"5\r\nS:23.25\r\nS:2")  # it stutters, and stops in the middle of a line
            time.sleep(0.3)
            os.write(ours, b"3.25\r\n")
        assert names(database)["S"] == 23.25
        os.close(ours)  # the cable is pulled out, and plugged in again
        os.close(theirs)
        ours, theirs = pty.openpty()
        port.unlink()
        port.symlink_to(os.ttyname(theirs))
        while names(database).get("S") != 24.5 and reading.poll() is None:
            os.write(ours, b"x\r\nS:24.5\r\n")
            time.sleep(0.3)
        assert names(database)["S"] == 24.5
        reading.kill()
    finally:
        server.kill()


def test_two_hours_of_eight_probes_at_sixty_times_are_whole_although_the_server_was_killed(folder, migrated):
    server, database, key = served(folder)
    crew = Crew(database)
    run = crew.run(crew.plan("Avocet"), crew.plan("Dunlin"), crew.plan("Godwit"), start=False)
    rows = [entry for name, entry in crew.entries(run).items() if name != "Air"]
    course = list(Pretended(seed=3).course(7200, 60, 60))  # two minutes of the wall, sent at once
    began = time.time() - 125
    try:
        sender = Sender(url=f"{server.url}/senml", key=key, said=pytest.fail)
        for name in "ABCDEFGH":
            sender.put(name, 20.0, "Cel", time.time())
        sender.flush()
        stand(database, run, rows, began)
        for i, (at, name, celsius, _) in enumerate(course):
            sender.put(name, celsius, "Cel", began + at + 0.01)
            if i == len(course) // 2:
                server.kill()
                assert not sender.flush()
                server.start()
            elif i % 100 == 0:
                sender.flush()
        assert sender.drain(30)
        sent = {name: [c for _, n, c, _ in course if n == name] for name in "ABCDEFGH"}
        with database.session() as session:
            stored = counted(session)
        assert stored == {name: len(values) + 1 for name, values in sent.items()}
        for name, entry in zip("ABC", rows, strict=False):
            assert readings_of(database, entry) == sent[name], name
    finally:
        server.kill()


def stand(database: Database, run: int, rows: list[int], began: float) -> None:
    """The run goes at sixty times; the first probes stand in its rows."""
    with database.writing() as session:
        item = runs.get_run(session, run)
        item.speed = 60.0
        brief = brief_of(get_challenge(session, item.challenge_id))
        runs.start_phase(session, item, brief, "heating", datetime.fromtimestamp(began, UTC))
        (probe,) = probes.probes_of(session)
        for channel, entry in zip(probe.channels, rows, strict=False):
            placed_probes.put_in(session, channel.id, f"row-{entry}", item, brief)


def counted(session) -> dict[str, int]:
    found = select(ProbeChannel.name, func.count()).join(ProbeValue).group_by(ProbeChannel.name)
    return dict(session.execute(found).all())


def readings_of(database: Database, entry: int) -> list[float]:
    with database.session() as session:
        rows = select(Reading.value).where(Reading.entry_id == entry).order_by(Reading.time_s)
        return [round(v, 4) for v in session.scalars(rows)]
