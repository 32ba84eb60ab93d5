"""Turns at a station: whose turn it is, what is kept, and what is refused."""

from __future__ import annotations

from dataclasses import replace
from datetime import timedelta
from itertools import count

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.conftest import NOON, initial
from thermion.core.planning.schedule import turn_order
from thermion.core.plans import Part, Plan
from thermion.records.building import builds
from thermion.records.building.builds import Draft
from thermion.records.errors import Conflict, Gone, Refused
from thermion.records.judging.evidence import load_evidence
from thermion.records.planning import briefs, week
from thermion.records.planning.classes import get_class
from thermion.records.running import attempts, runs
from thermion.records.running.attempts import AttemptInput

IDS = count()


@given(st.lists(st.integers(0, 5), min_size=1, max_size=12), st.integers(1, 5))
def test_nobody_goes_twice_before_everyone_went_once(done, each):
    order = turn_order(done, each)
    have = list(done)
    for i in order:
        assert have[i] == min(h for h in have if h < each)
        have[i] += 1
    assert all(h >= each for h in have)


class Station:
    """A wind hoist of three teams at one station, driven as a teacher would."""

    def __init__(self, crew) -> None:
        self.database = crew.database
        with crew.database.writing() as session:
            school_class = get_class(session, crew.class_id)
            made = briefs.create_challenge(session, school_class, "wind_hoist", "Crane the stores")
            briefs.acknowledge_cautions(made)
            briefs.finish_brief(made)
            brief = briefs.brief_of(made)
            versions = []
            for team in crew.teams.values():
                version = builds.start_version(session, made, team)
                parts = (
                    Part(place="blade", material="card", form="flat", units=1),
                    Part(place="fix", material="tape", form="flat", units=2),
                )
                usual = {f.key: f.si("default") for f in brief.kind.build.factors}
                builds.save_draft(version, 1, Draft(plan=Plan(parts, usual), prediction=5.0, change_note=""))
                for step in (builds.hand_in, builds.sign):
                    step(version, brief)
                builds.issue(version)
                versions.append(version)
            session.flush()
            run = runs.create_run(
                session, made, version_ids=[v.id for v in versions], conditions={"wind_m_s": 4.0}
            )
            self.challenge_id, self.run_id = made.id, run.id
            self.entries = {e.version.build.team.name: e.id for e in run.entries}

    def attempt(self, team: str, load: str, rise: str, time: str = "", **more):
        item = AttemptInput(
            entry_id=self.entries.get(team, 0),
            typed={"load": load, "rise_m": rise, "time_s": time},
            client_id=more.pop("client_id", f"a{next(IDS)}"),
            **more,
        )
        with self.database.writing() as session:
            run = runs.get_run(session, self.run_id)
            brief = briefs.brief_of(briefs.get_challenge(session, self.challenge_id))
            return attempts.save_attempt(session, run, brief, item).id

    def look(self):
        with self.database.session() as session:
            run = runs.get_run(session, self.run_id)
            challenge = briefs.get_challenge(session, self.challenge_id)
            brief = briefs.brief_of(challenge)
            rows = attempts.current_attempts(session, [run.id])
            timing = week.timing_of(session, challenge, brief)
            return (
                rows,
                attempts.queue_of(run, rows, timing),
                load_evidence(session, challenge, brief, school="raw"),
            )

    def leave(self, team: str, state: str) -> None:
        with self.database.writing() as session:
            attempts.leave(session, runs.get_run(session, self.run_id), self.entries[team], state)


@pytest.fixture
def station(crew) -> Station:
    return Station(crew)


def test_the_queue_goes_round_the_room(station):
    order = []
    for _ in range(4):
        queue = station.look()[1]
        name = next(n for n, i in station.entries.items() if i == queue.on[0])
        order.append(name)
        station.attempt(name, "4", "60", "3.0")
    assert order == ["Avocet", "Dunlin", "Godwit", "Avocet"]
    queue = station.look()[1]
    assert queue.wait_s(queue.on[0], 110) == 0
    assert queue.wait_s(station.entries["Avocet"], 110) == 220
    assert len(queue.on) + len(queue.after) == 9 - 4


def test_two_stations_have_a_queue_each_and_one_that_is_through_helps_the_other(station):
    with station.database.writing() as session:
        challenge = briefs.get_challenge(session, station.challenge_id)
        now = week.timing_of(session, challenge, briefs.brief_of(challenge))
        week.save_timing(session, challenge.id, replace(now, stations=2, attempts=2))
    a, d, g = (station.entries[name] for name in ("Avocet", "Dunlin", "Godwit"))
    queue = station.look()[1]
    assert queue.stations == ((a, g, a, g), (d, d))
    assert [queue.wait_s(i, 110) for i in (a, d, g)] == [0, 0, 110]
    assert queue.of_station(2) == (d, d, a, g, a, g)
    for name in ("Dunlin", "Dunlin"):
        station.attempt(name, "4", "60", "3.0")
    assert station.look()[1].stations == ((a, a), (g, g))  # Godwit goes over
    station.leave("Avocet", "absent")
    assert station.look()[1].stations == ((g, g), ())


def test_with_all_tries_in_a_row_a_team_stays_on_and_the_next_one_knows_how_long(station):
    with station.database.writing() as session:
        challenge = briefs.get_challenge(session, station.challenge_id)
        timing = week.timing_of(session, challenge, briefs.brief_of(challenge))
        week.save_timing(session, station.challenge_id, replace(timing, in_row=True))
    order = []
    for number in range(4):
        queue = station.look()[1]
        if number == 1:  # two tries of Avocet are left, then Dunlin is fitted
            assert queue.wait_s(station.entries["Dunlin"], 110, 70) == 180
        name = next(n for n, i in station.entries.items() if i == queue.on[0])
        order.append(name)
        station.attempt(name, "4", "60", "3.0")
    assert order == ["Avocet", "Avocet", "Avocet", "Dunlin"]


def test_two_screens_that_note_one_try_are_asked_and_one_screen_that_is_quick_is_not(station):
    team = {"typed": {"load": "4", "rise_m": "60", "time_s": "3.0"}, "entry_id": station.entries["Avocet"]}

    def notes(name: str, screen: str, seconds: float, *, sure: bool = False):
        with station.database.writing() as session:
            run = runs.get_run(session, station.run_id)
            brief = briefs.brief_of(briefs.get_challenge(session, station.challenge_id))
            item = AttemptInput(client_id=name, screen=screen, sure=sure, **team)
            attempts.save_attempt(session, run, brief, item, NOON + timedelta(seconds=seconds))

    notes("one", "desk", 0)
    with pytest.raises(
        Conflict, match=r"noted load, weights in the cup 4, rise 60\.0 cm, time 3\.0 s here a moment ago"
    ) as asked:
        notes("two", "tablet", 4)
    assert [way.change for way in asked.value.ways] == [{"sure": "1"}]
    notes("one", "desk", 5)  # sent again: nothing
    notes("three", "desk", 6)  # tries again within the minute
    notes("two", "tablet", 8, sure=True)
    notes("four", "desk", 60)
    assert len(station.look()[0]) == 4


def test_an_absent_team_is_passed_over_and_comes_back(station):
    station.leave("Avocet", "absent")
    queue = station.look()[1]
    assert queue.on == (station.entries["Dunlin"],)
    assert queue.wait_s(station.entries["Avocet"], 110) is None
    with pytest.raises(Refused, match="absent"):
        station.attempt("Avocet", "4", "60", "3")
    station.leave("Avocet", "")
    assert station.look()[1].on == (station.entries["Avocet"],)
    with pytest.raises(Gone):
        station.leave("Avocet", "on holiday")


@pytest.mark.parametrize(
    ("load", "rise", "time", "field"),
    [
        ("25", "60", "3", "load"),
        ("4.5", "60", "3", "load"),
        ("4", "61", "3", "rise_m"),
        ("4", "-1", "", "rise_m"),
        ("4", "60", "0", "time_s"),
        ("4", "high", "3", "rise_m"),
        ("", "60", "3", "load"),
        ("4", "60 g", "3", "rise_m"),
    ],
)
def test_what_cannot_be_is_refused_at_its_field_and_nothing_is_kept(station, load, rise, time, field):
    with pytest.raises(Refused) as refused:
        station.attempt("Avocet", load, rise, time)
    assert refused.value.field == field
    assert station.look()[0] == []


def test_a_team_that_is_not_in_the_queue_is_refused(station):
    with pytest.raises(Gone, match="not in the queue"):
        station.attempt("Knot", "4", "60", "3")


def test_a_double_click_stores_once_and_zero_is_a_result(station):
    first = station.attempt("Avocet", "4", "0", client_id="same")
    assert station.attempt("Avocet", "4", "0", client_id="same") == first
    rows, _, evidence = station.look()
    assert [r.values for r in rows] == [{"load": 4.0, "rise_m": 0.0}]
    (version,) = evidence.findings.versions
    assert version.figures["load"].value == 0
    assert version.score.total == 0


def test_corrections_and_take_backs_keep_the_earlier_rows(station):
    wrong = station.attempt("Avocet", "4", "6", "3")
    right = station.attempt("Avocet", "4", "60", "3", supersedes_id=wrong)
    with pytest.raises(Conflict):
        station.attempt("Avocet", "4", "50", "3", supersedes_id=wrong)
    rows, _, _ = station.look()
    assert [(r.id, r.values["rise_m"]) for r in rows] == [(right, pytest.approx(0.6))]
    with station.database.writing() as session:
        run = runs.get_run(session, station.run_id)
        attempts.take_back(session, run, right, "back-1")
        attempts.take_back(session, run, right, "back-2")
    rows, queue, _ = station.look()
    assert rows == []
    assert queue.on == (station.entries["Avocet"],)
    with station.database.session() as session:
        assert session.query(attempts.AttemptRow).count() == 3


def test_changes_on_the_spot_are_lines_of_the_same_version(station):
    station.attempt("Avocet", "4", "20", "6")
    station.attempt("Avocet", "4", "60", "4", adjusted=True, note="Blades turned to 30°.")
    station.attempt("Avocet", "6", "60", "5")
    station.attempt("Avocet", "8", "60", "6", adjusted=True)
    assert [r.adjusted for r in station.look()[0]] == ["", "a", "a", "b"]


def test_hand_held_attempts_are_kept_and_not_ranked(station):
    station.attempt("Avocet", "20", "60", "2", free=True)
    station.attempt("Avocet", "4", "60", "3")
    station.attempt("Dunlin", "6", "60", "3", seen=("slipped", "no such thing"))
    rows, queue, evidence = station.look()
    assert queue.done[station.entries["Avocet"]] == 1
    loads = {initial(v.subject): v.figures["load"].value for v in evidence.findings.versions}
    assert loads == {"A": 4, "D": 6}
    assert rows[-1].seen == "slipped"
    assert {initial(s): place for s, place in evidence.findings.facts.items()} == {"D": 1, "A": 2}
