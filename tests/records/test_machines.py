"""Machines at a station: a counter, a balance and the one probe of a race fill what is noted."""

from __future__ import annotations

from datetime import timedelta
from math import pi

import pytest

from tests.conftest import NOON
from tests.records.test_attempts import Station
from tests.records.test_families import Test
from thermion.core.judging.probing import Measured
from thermion.records.errors import Gone, Refused
from thermion.records.planning import briefs
from thermion.records.running import placed_probes, probes, races, runs
from thermion.records.running.series import series_of


class Machine:
    """A board with one channel, at the station of a run."""

    def __init__(self, database, challenge: int, run: int, unit: str, spot: str) -> None:
        self.database, self.challenge, self.run_id = database, challenge, run
        self.unit, self.stored = unit, placed_probes.STORED[unit]
        self.now = NOON
        with database.writing() as session:
            _, self.key = probes.make_probe(session, "board")
        self.sends(0.0, at=NOON - timedelta(minutes=1))
        self.act(placed_probes.put_in, spot)

    def sends(self, value: float, at=None) -> None:
        self.now = at or self.now + timedelta(seconds=1)
        with self.database.writing() as session:
            probe = probes.probe_of_key(session, self.key)
            probes.receive(
                session,
                probe,
                [Measured(name="A", unit=self.unit, stored_unit=self.stored, value=value, time_s=None)],
                self.now,
            )

    def act(self, does, *args):
        """Call an action on the one channel in this run."""
        with self.database.writing() as session:
            run = runs.get_run(session, self.run_id)
            brief = briefs.brief_of(briefs.get_challenge(session, self.challenge))
            channel = probes.probes_of(session)[0].channels[0].id
            if does is placed_probes.put_in:
                return does(session, channel, *args, run, brief)
            return does(session, channel, run, self.now)

    def shows(self, later_s: float = 1.0):
        with self.database.session() as session:
            run = runs.get_run(session, self.run_id)
            brief = briefs.brief_of(briefs.get_challenge(session, self.challenge))
            (shown,) = placed_probes.at_station(session, run, brief, self.now + timedelta(seconds=later_s))
            return shown


def test_a_counter_of_turns_is_a_rise_from_its_zero_on_and_for_one_attempt(crew):
    station = Station(crew)
    counter = Machine(crew.database, station.challenge_id, station.run_id, "count", "read-rise_m")
    counter.sends(107, at=NOON)
    assert (counter.shows().to_zero, counter.shows().value) == (True, None)
    counter.act(placed_probes.set_to_zero)
    counter.sends(117)
    assert counter.shows().value == pytest.approx(10 * pi * 0.011)  # spool of 10 mm, string of 1 mm
    assert counter.shows().end is None
    counter.sends(124)  # 58.7 cm of 60: with a spool measured to 0.3 mm it may have been all the way
    assert counter.shows().end == pytest.approx(0.6)
    station.attempt("Avocet", "4", "34.6", "3", machine=("rise_m", "unheard_of"))
    (row,), _, _ = station.look()
    assert row.machine == "rise_m"
    counter.sends(125, at=row.at)
    assert counter.shows().to_zero  # what it counted belongs to the attempt that was noted


def test_a_silent_machine_fills_nothing_and_cannot_be_set_to_zero(crew):
    station = Station(crew)
    counter = Machine(crew.database, station.challenge_id, station.run_id, "count", "read-rise_m")
    counter.sends(107, at=NOON)
    counter.act(placed_probes.set_to_zero)
    shown = counter.shows(later_s=40)
    assert (shown.value, shown.silent_s) == (None, 40)
    counter.now += timedelta(seconds=40)
    with pytest.raises(Refused, match="silent"):
        counter.act(placed_probes.set_to_zero)


def test_a_balance_under_the_store_is_water_and_a_thermometer_there_is_refused(crew):
    rain = Test(crew, "rain_catch")
    balance = Machine(crew.database, rain.id, rain.run_id, "g", "read-caught_m3")
    balance.sends(0.412, at=NOON)
    balance.act(placed_probes.set_to_zero)
    balance.sends(0.4119)  # it trembles by a tenth of a gram: that is nothing, not less than nothing
    assert balance.shows().value == 0.0
    balance.sends(0.536)
    assert balance.shows().value == pytest.approx(124e-6)
    balance.sends(0.3)
    assert balance.shows().value < 0  # which the door refuses, as from anybody
    with pytest.raises(Gone):
        balance.act(placed_probes.put_in, "read-poured_m3")
    balance.act(placed_probes.put_in, "read-caught_m3")
    assert balance.shows().to_zero  # put up anew, it is set to zero anew
    with crew.database.writing() as session:
        probe = probes.probe_of_key(session, balance.key)
        probes.receive(
            session,
            probe,
            [Measured(name="T", unit="Cel", stored_unit="degC", value=20.0, time_s=None)],
            NOON,
        )
        run = runs.get_run(session, rain.run_id)
        brief = briefs.brief_of(briefs.get_challenge(session, rain.id))
        with pytest.raises(Refused, match="T sends Cel"):
            placed_probes.put_in(session, probe.channels[1].id, "read-caught_m3", run, brief)


def test_the_one_probe_of_a_race_reads_the_race_that_is_on_and_no_other(crew):
    race = Test(crew, "heat_through")
    probe = Machine(crew.database, race.id, race.run_id, "Cel", "read-start_c")
    probe.sends(20.0, at=NOON)
    assert probe.shows().value == 20.0

    def begins(row: str, after_s: float):
        at = NOON + timedelta(seconds=after_s)
        more = {"typed": "20", "pressed_at": at, "client_id": f"start-{row}", "now": at}
        return race.act(races.start_race, entry_id=race.rows[row], **more)

    first = begins("control", 10)
    for second in (12, 20, 30):
        probe.sends(20 + second / 2, at=NOON + timedelta(seconds=second))
    end = NOON + timedelta(seconds=31)
    stopped = {"pressed_at": end, "client_id": "stop", "at_target": False, "now": end}
    race.act(races.stop_race, key=first.key, **stopped)
    probe.sends(36.0, at=NOON + timedelta(seconds=35))  # between races: nobody's
    second = begins("Avocet", 100)
    probe.sends(21.0, at=NOON + timedelta(seconds=104))
    with crew.database.session() as session:
        found = series_of(session, [runs.get_run(session, race.run_id)])
    assert found[race.rows["control"], first.key].trace.time_s == (0, 2, 10, 20)
    assert found[race.rows["Avocet"], second.key].trace.value == (20, 21)
