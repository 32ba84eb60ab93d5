"""Probes that send: each value once, at its own time, in its own row; the first after a mark is the mark's."""

from __future__ import annotations

import json
from datetime import timedelta

import pytest
from sqlalchemy import select

from tests.conftest import NOON
from thermion.core.judging.probing import Measured
from thermion.formats.senml import read_pack
from thermion.records.errors import Gone, Refused
from thermion.records.judging.evidence import load_evidence
from thermion.records.planning import briefs
from thermion.records.running import placed_probes, probes, rig, runs
from thermion.records.running.series import series_of
from thermion.records.tables import Probe, ProbeChannel, Reading


def cel(name: str, celsius: float, at=None, unit: str = "Cel", stored: str = "degC") -> Measured:
    return Measured(
        name=name, unit=unit, stored_unit=stored, value=celsius, time_s=None if at is None else at.timestamp()
    )


class Board:
    """A probe with a key, put into builds of a run."""

    def __init__(self, crew, run: int) -> None:
        self.crew, self.run = crew, run
        with crew.database.writing() as session:
            _, self.key = probes.make_probe(session, "board")

    def sends(self, *measured: Measured, now):
        with self.crew.database.writing() as session:
            probe = probes.probe_of_key(session, self.key)
            return probes.receive(session, probe, measured, now)

    def stands(self, **rows: int) -> None:
        with self.crew.database.writing() as session:
            run = runs.get_run(session, self.run)
            brief = briefs.brief_of(briefs.get_challenge(session, run.challenge_id))
            for name, entry in rows.items():
                channel = session.scalar(select(ProbeChannel).where(ProbeChannel.name == name))
                placed_probes.put_in(session, channel.id, f"row-{entry}", run, brief)

    def read(self, entry: int) -> list[tuple[float | None, float, float]]:
        """Mark, seconds and value of each reading of a row."""
        with self.crew.database.session() as session:
            found = select(Reading).where(Reading.entry_id == entry).order_by(Reading.time_s)
            return [(r.mark_s, r.time_s, round(r.value, 3)) for r in session.scalars(found)]


@pytest.fixture
def board(crew):
    run = crew.run(crew.plan("Avocet"), crew.plan("Dunlin"))
    made = Board(crew, run)
    made.sends(cel("A", 20.0), cel("B", 20.4), now=NOON - timedelta(minutes=1))
    rows = crew.entries(run)
    made.stands(A=rows["Avocet"], B=rows["Dunlin"])
    return made, rows


def test_the_first_value_after_a_mark_is_the_marks_and_the_curve_grows_between(board):
    made, rows = board
    for second in range(0, 320, 40):
        at = NOON + timedelta(seconds=second + 2)
        made.sends(cel("A", 20 + second / 100, at), now=at)
    assert made.read(rows["Avocet"]) == [
        (0, 2, 20.0),
        *[(None, s + 2, 20 + s / 100) for s in range(40, 280, 40)],
        (None, 282, 22.8),
    ]
    made.sends(cel("A", 23.5), now=NOON + timedelta(seconds=304))
    assert made.read(rows["Avocet"])[-1] == (300, 304, 23.5)


def test_a_value_sent_again_changes_nothing_also_long_after(board):
    made, rows = board
    at = NOON + timedelta(seconds=70)
    first = made.sends(cel("A", 25, at), now=at)
    again = made.sends(
        cel("A", 25, at), cel("A", 26, at + timedelta(seconds=1)), now=at + timedelta(seconds=1)
    )
    much_later = made.sends(cel("A", 25, at), now=at + timedelta(hours=3))
    assert (first.stored, again.stored, again.repeated) == (1, 1, 1)
    assert much_later.stored + much_later.repeated == 1
    assert made.read(rows["Avocet"]) == [(0, 70, 25), (None, 71, 26)]


def test_a_mark_that_was_read_by_hand_stays_and_a_probes_value_can_be_overruled(board):
    made, rows = board
    made.crew.read(rows["Avocet"], 0, "20.5")
    made.sends(cel("A", 21), now=NOON + timedelta(seconds=8))
    assert (0, 5, 20.5) in made.read(rows["Avocet"])
    made.sends(cel("B", 21), now=NOON + timedelta(seconds=8))
    with made.crew.database.session() as session:
        of_probe = session.scalar(select(Reading).where(Reading.entry_id == rows["Dunlin"]))
    assert (of_probe.mark_s, of_probe.source) == (0, "probe")
    made.crew.read(rows["Dunlin"], 0, "20.5", supersedes_id=of_probe.id, late_s=30, client_id="hand")
    with made.crew.database.session() as session:
        found = series_of(session, [runs.get_run(session, made.run)])
    assert found[rows["Dunlin"], "heating"].trace.value == (20.5,)


def test_what_cannot_be_is_not_stored_and_the_other_channels_are_unharmed(board):
    made, rows = board
    at = NOON + timedelta(seconds=70)
    found = made.sends(
        cel("A", 900, at),  # no oven
        cel("B", 22, at),
        cel("C", 5, at + timedelta(minutes=5)),
        cel("D", 5, at - timedelta(days=2)),
        cel("A", 5, at, "g", "kilogram"),
        now=at,
    )
    assert made.read(rows["Avocet"]) == []
    assert made.read(rows["Dunlin"]) == [(0, 70, 22)]
    assert [(name, why.split(":")[0]) for name, why in found.refused] == [
        ("C", "its time is 300 s in the future"),
        ("D", "its time is more than a day ago"),
        ("A", "it was sent in Cel before"),
    ]


def test_a_probe_whose_clock_was_never_right_reads_nothing_into_the_test(crew):
    run = crew.run(crew.plan("Avocet"))
    made, rows = Board(crew, run), crew.entries(run)
    for second in (0, 60, 120):
        now = NOON + timedelta(seconds=second)
        made.sends(cel("A", 21, now - timedelta(minutes=10)), now=now)
        made.stands(A=rows["Avocet"])
    assert made.read(rows["Avocet"]) == []
    with crew.database.session() as session:
        (seen,) = probes.latest(session, NOON + timedelta(seconds=120)).values()
    assert seen.late_s == 600


def test_what_waited_while_the_network_was_away_stands_at_its_own_time(board):
    made, rows = board
    now = NOON + timedelta(minutes=12)
    made.sends(*(cel("A", 20 + i, NOON + timedelta(seconds=30 + 60 * i)) for i in range(6)), now=now)
    assert made.read(rows["Avocet"])[:2] == [(0, 30, 20), (None, 90, 21)]


def test_all_in_one_glass_are_set_alike_and_one_on_the_table_is_named(board):
    made, rows = board
    at = NOON + timedelta(seconds=200)
    with made.crew.database.writing() as session, pytest.raises(Refused, match="At least two"):
        probes.check_in_one_glass(session, at)
    made.sends(cel("A", 20.0, at), cel("B", 21.0, at), cel("C", 20.4, at), now=at)
    with made.crew.database.writing() as session:
        assert probes.check_in_one_glass(session, at) == 3
    later = at + timedelta(seconds=150)
    made.sends(cel("A", 40.0, later), cel("B", 41.0, later), now=later)
    assert made.read(rows["Avocet"])[-1][2] == made.read(rows["Dunlin"])[-1][2] == 40.4
    made.sends(cel("D", 25.0, later), now=later)
    with made.crew.database.writing() as session, pytest.raises(Refused, match="D is far off"):
        probes.check_in_one_glass(session, later)


def test_a_key_is_told_once_and_opens_nothing_once_it_is_revoked(board):
    made, _ = board
    with made.crew.database.writing() as session:
        probe = session.scalar(select(Probe))
        assert made.key not in str(vars(probe))
        assert probes.probe_of_key(session, made.key + "x") is None
        with pytest.raises(Refused, match="a probe of that name"):
            probes.make_probe(session, " BOARD ")
        probes.revoke(session, probe.id)
    with made.crew.database.session() as session:
        assert probes.probe_of_key(session, made.key) is None
        assert probes.probes_of(session) == []


def test_two_probes_cannot_stand_in_one_row_and_none_in_another_runs(board):
    made, rows = board
    made.stands(B=rows["Avocet"])
    with made.crew.database.session() as session:
        channels = {c.name: c.entry_id for c in session.scalars(select(ProbeChannel))}
    assert channels == {"A": None, "B": rows["Avocet"]}
    with pytest.raises(Gone):
        made.stands(A=9999)


def test_what_a_check_in_one_glass_said_of_a_thermometer_is_not_taken_off_a_probe(board):
    """The team's thermometer shows 0.8 K too much; its build was read with a probe first, then by hand."""
    made, rows = board
    with made.crew.database.writing() as session:
        challenge = briefs.get_challenge(session, made.crew.challenge_id)
        shown = {"A": 20.8, "D": 20.0, "G": 20.0, rig.AIR: 20.0}
        rig.save_check(session, challenge, briefs.brief_of(challenge), "agree", shown)
    made.sends(cel("A", 21), now=NOON + timedelta(seconds=8))
    made.sends(cel("B", 21), now=NOON + timedelta(seconds=8))
    made.crew.read(rows["Avocet"], 5, "33")

    def trials():
        with made.crew.database.session() as session:
            challenge = briefs.get_challenge(session, made.crew.challenge_id)
            brief = briefs.brief_of(challenge)
            return [t.trial for t in load_evidence(session, challenge, brief, school="raw").tried]

    avocet, dunlin = trials()
    assert avocet.traces["heating"].value == pytest.approx((21, 32.2))
    assert [t.off("thermometer", 0) for t in (avocet, dunlin)] == [0.5, 0.5]  # the probes were in no glass
    at = NOON + timedelta(seconds=100)
    made.sends(cel("A", 21, at), cel("B", 21, at), now=at)
    with made.crew.database.writing() as session:
        probes.check_in_one_glass(session, at)
    made.sends(cel("A", 24), cel("B", 24), now=at + timedelta(seconds=210))
    assert trials()[1].off("thermometer", 0) == 0.5  # some of it was read before the check


def test_what_a_probe_says_of_its_battery_and_signal_is_kept_and_is_no_reading(board):
    made, _ = board
    at = NOON + timedelta(seconds=70)
    pack = [
        {"bn": "box:", "n": "A", "u": "Cel", "v": 25},
        {"n": "power", "u": "%EL", "v": 12},
        {"n": "radio", "u": "dBm", "v": -71},
        {"n": "odd", "u": "%EL", "vs": "full"},
    ]
    measured, unread = read_pack(json.dumps(pack).encode())
    assert [u.name for u in unread] == ["box:odd"]
    assert made.sends(*measured, now=at).stored == 3
    with made.crew.database.session() as session:
        (probe,) = probes.probes_of(session)
        assert (probe.battery, probe.signal) == (12, -71)
        assert [c.name for c in probe.channels] == ["A", "B", "box:A"]
    made.sends(*read_pack(b'[{"n":"power","u":"%EL","v":180}]')[0], now=at)
    with made.crew.database.session() as session:
        assert probes.probes_of(session)[0].battery == 100


def test_a_late_pack_sent_twice_hours_apart_is_known_by_channel_and_time_wherever_the_channel_stands(board):
    made, rows = board
    minutes = [2, 40, 80, 120, 160, 200]
    late = [cel("A", 20 + m / 100, NOON + timedelta(seconds=m)) for m in minutes]
    first = made.sends(cel("A", 20.0), now=NOON + timedelta(seconds=1))  # its clock is right
    hours = NOON + timedelta(hours=2)
    assert first.stored == 1
    assert (made.sends(*late, now=hours).stored, made.read(rows["Avocet"])[1][2]) == (6, 20.02)
    there = made.read(rows["Avocet"])
    again = made.sends(*late, now=hours + timedelta(hours=1))
    assert (again.stored, again.repeated) == (0, 6)
    assert made.read(rows["Avocet"]) == there
    made.stands(A=rows["Dunlin"])
    assert made.sends(*late, now=hours + timedelta(hours=1)).repeated == 6
    assert made.read(rows["Dunlin"]) == []


def test_an_old_value_that_nobody_keeps_is_not_said_to_be_stored(board):
    made, rows = board
    made.sends(cel("A", 20.0), now=NOON - timedelta(seconds=9))
    old = made.sends(cel("A", 19.0, NOON - timedelta(hours=1)), now=NOON)  # before the test began
    assert (old.stored, old.refused[0][0]) == (0, "A")
    assert "of no time of an open test" in old.refused[0][1]
    assert made.read(rows["Avocet"]) == []
