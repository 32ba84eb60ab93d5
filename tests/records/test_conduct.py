"""Lessons as they are held: steps in order, two desks, bells, what it took, and what can go wrong meanwhile."""

from __future__ import annotations

from datetime import UTC, datetime, timedelta

import pytest

from tests.conftest import Crew
from tests.records.test_planning import add_lessons
from thermion.core.planning.boards import Put
from thermion.records.errors import Gone, Refused
from thermion.records.planning import boards, briefs, conduct, pace, week
from thermion.records.planning.classes import get_class
from thermion.records.planning.conduct import Done
from thermion.records.running import bells, runs

MONDAY = datetime(2026, 6, 1, 9, 0, tzinfo=UTC)


class Desk:
    """A screen at the Desk: what it sees, and its keys."""

    def __init__(self, crew: Crew) -> None:
        self.crew, self.seen = crew, ""

    def look(self, at: datetime):
        with self.crew.database.session() as session:
            made = get_class(session, self.crew.class_id)
            found = conduct.lesson_now(session, made, week.week_of(session, made.id), at)
            on = [(each.row.phase, each.row.act, each.clock.left_s(at)) for each in found.on]
            self.seen = found.mark
            return found, on

    def press(self, what: str, at: datetime, **more) -> str:
        with self.crew.database.writing() as session:
            made = get_class(session, self.crew.class_id)
            plan = week.week_of(session, made.id)
            return conduct.carry_out(session, made, plan, Done(what=what, seen=self.seen, **more), at)


@pytest.fixture
def desk(crew) -> Desk:
    add_lessons(crew)
    made = Desk(crew)
    made.look(MONDAY)
    return made


def minute(number: float) -> datetime:
    return MONDAY + timedelta(minutes=number)


def test_a_lesson_is_conducted_step_by_step_and_what_it_took_stands_beside_the_plan(desk):
    for at, act in ((0, "tell"), (8, "question"), (12, "silent"), (16, "talk")):
        assert desk.press("next", minute(at)) == ""
        found, on = desk.look(minute(at))
        assert [each[1] for each in on] == [act]
    took = {h.item.act: round(h.took_s / 60) for h in found.held if h.state == "done"}
    assert took == {"tell": 8, "question": 4, "silent": 4}
    assert found.next.act == "agree"
    with desk.crew.database.session() as session:
        assert pace.pace_of(session, desk.crew.class_id, minute(20)) is None  # a quarter of an hour is little
    desk.press("next", minute(20))
    desk.look(minute(20))
    desk.press("end", minute(30))
    with desk.crew.database.session() as session:
        steps = {t.phase: t for t in pace.what_it_took(session, desk.crew.class_id, minute(31))}
        assert steps["task"].planned_s == 600
        assert steps["task"].took_s == 12 * 60
        assert pace.pace_of(session, desk.crew.class_id, minute(31)) == pytest.approx(30 / 21)


def test_minutes_pauses_and_going_back_lose_no_second(desk):
    desk.press("next", minute(0))
    desk.look(minute(1))
    desk.press("minute", minute(1), by=1)
    assert desk.look(minute(1))[1][0][2] == 6 * 60 + 60 - 60
    desk.press("pause", minute(2))
    desk.look(minute(12))  # the laptop slept, or the fire bell rang
    desk.press("go", minute(12))
    assert desk.look(minute(12))[1][0][2] == pytest.approx(7 * 60 - 120)
    desk.press("next", minute(13))
    desk.look(minute(15))
    desk.press("back", minute(15))  # it was not done after all: its clock goes on where it was left
    assert desk.look(minute(16))[1][0][1:] == ("tell", pytest.approx(7 * 60 - 180 - 60))
    desk.look(minute(30))
    desk.press("minute", minute(30), by=1)  # long over: a minute from now, not from then
    assert desk.look(minute(30))[1][0][2] == pytest.approx(60)


def test_a_step_started_twice_on_two_desks_is_started_once(desk, crew):
    other = Desk(crew)
    other.look(minute(0))
    assert desk.press("next", minute(0)) == ""
    assert "Another screen was first" in other.press("next", minute(0.01))
    found, on = other.look(minute(0.01))
    assert [each[1] for each in on] == ["tell"]
    assert found.next.act == "question"


def test_a_sentence_for_a_step_is_kept_whatever_another_desk_did_meanwhile(desk, crew):
    other = Desk(crew)
    desk.press("next", minute(0))
    found, _ = other.look(minute(1))
    row = found.on[0].row.id
    desk.look(minute(2))
    desk.press("minute", minute(2), by=1)
    assert other.press("says", minute(2.1), row=row, says="Look first.") == ""
    found, _ = desk.look(minute(3))
    assert (found.on[0].row.says, found.on[0].row.allowed_s) == ("Look first.", 7 * 60)


def test_a_slip_of_a_few_seconds_leaves_no_trace(desk):
    desk.press("next", minute(0))
    desk.look(minute(5))
    desk.press("next", minute(5))
    desk.look(minute(5.1))
    desk.press("back", minute(5.1))
    found, on = desk.look(minute(6))
    assert [each[1] for each in on] == ["tell"]
    assert [h.item.act for h in found.held if h.state] == ["tell"]
    with pytest.raises(Refused):
        desk.press("back", minute(6))


def test_a_lesson_that_is_moved_shortened_or_dropped_while_it_runs_takes_no_step_with_it(desk, crew):
    desk.press("next", minute(0))
    with crew.database.writing() as session:
        first = week.lessons_of(session, crew.class_id)[0]
        week.save_lesson(session, crew.class_id, MONDAY, 1200, 300, first.id)
        assert first.length_s == 1200
    assert [each[1] for each in desk.look(minute(2))[1]] == ["tell"]
    with crew.database.writing() as session:
        week.delete_lesson(session, crew.class_id, first.id)
    assert [each[1] for each in desk.look(minute(3))[1]] == ["tell"]
    assert desk.press("end", minute(4)) == ""
    desk.look(minute(4))
    with pytest.raises(Gone):
        desk.press("pause", minute(4))


def test_challenges_side_by_side_go_on_together_and_others_one_after_the_other(desk, crew):
    with crew.database.writing() as session:
        made = get_class(session, crew.class_id)
        second = briefs.create_challenge(session, made, "sail_run", "Cross the causeway")
        second.beside = True
        third = briefs.create_challenge(session, made, "wind_hoist", "Crane the stores")
        ids = [str(c) for c in (crew.challenge_id, second.id, third.id)]
    for i, at in enumerate((0, 2)):
        desk.look(minute(at))
        desk.press("start", minute(at), challenge=ids[i], phase="build", act="build")
    found, _ = desk.look(minute(3))
    assert [each.row.challenge_id for each in found.on] == [int(i) for i in ids[:2]]
    desk.press("end", minute(3), row=found.on[0].row.id)  # one of them is done
    desk.look(minute(4))
    desk.press("start", minute(4), challenge=ids[2], phase="task", act="tell")
    found, _ = desk.look(minute(4))
    assert [each.row.challenge_id for each in found.on] == [int(ids[2])]


def test_what_nobody_ended_ends_with_its_bell_and_tells_nothing_of_how_long_it_takes(desk, crew):
    desk.press("next", minute(50))
    tuesday = minute(24 * 60)
    found, on = desk.look(tuesday)
    assert on == []
    left = [h.item.act for h in found.held if h.left_over]
    assert left[:2] == ["question", "silent"]  # what Monday did not reach comes first
    desk.press("next", tuesday)
    with crew.database.session() as session:
        (ask,) = [t for t in pace.what_it_took(session, crew.class_id, tuesday) if t.phase == "task"]
        assert ask.cut
        assert ask.took_s == 600  # to the bell at ten


def test_the_bell_in_a_test_is_asked_about_once(desk, crew):
    run_id = crew.run(crew.plan("Avocet"), at=minute(40))

    def asked(at: datetime):
        with crew.database.session() as session:
            lessons = week.week_of(session, crew.class_id).lessons
            found = bells.run_at_the_bell(session, crew.class_id, lessons, at)
            return None if found is None else found[0].id

    assert asked(minute(50)) is None  # before packing up nobody asks
    assert asked(minute(56)) == run_id
    assert asked(minute(70)) == run_id
    with crew.database.writing() as session:
        bells.go_on(runs.get_run(session, run_id), minute(57))
    assert asked(minute(58)) is None
    assert asked(minute(24 * 60 + 56)) == run_id  # the next lesson has a bell of its own


def test_the_board_keeps_what_was_put_on_it_and_only_of_its_own_class(crew):
    with crew.database.writing() as session:
        boards.put_on(session, crew.class_id, Put("results", crew.challenge_id, 0, 2))
    with crew.database.session() as session:
        assert boards.what_is_put(session, crew.class_id) == Put("results", crew.challenge_id, 0, 2)
    with pytest.raises(Gone), crew.database.writing() as session:
        boards.put_on(session, crew.class_id, Put("results", 99))
    with crew.database.writing() as session:
        briefs.delete_challenge(session, briefs.get_challenge(session, crew.challenge_id))
    with crew.database.session() as session:
        assert boards.what_is_put(session, crew.class_id) is None
