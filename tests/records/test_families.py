"""Stages by eye, races with one probe, later readings, calibrations: what is kept and refused."""

from __future__ import annotations

from datetime import timedelta
from itertools import count

import pytest

from tests.conftest import NOON, Crew, initial, photograph
from thermion.core.planning.week import usual_timing
from thermion.core.plans import Part, Plan
from thermion.formats.pictures import encode_anew
from thermion.records.building import attachments, builds
from thermion.records.building.builds import Draft
from thermion.records.errors import Conflict, Gone, Refused
from thermion.records.judging import conclusions
from thermion.records.judging.evidence import ideas_in, load_evidence
from thermion.records.planning import briefs, week
from thermion.records.planning.classes import get_class
from thermion.records.running import attempts, later_readings, races, rig, runs
from thermion.records.running.readings import ReadingInput, save_reading

IDS = count()
PARTS = {
    "melt_pair": "fast_base",
    "heat_through": "sample",
    "rain_catch": "store",
    "keep_temp": "wall",
    "sail_run": "sail",
    "wind_hoist": "blade",
    "solar_oven": "window",
}


class Test:
    """A run of three teams of any family, driven as a teacher would."""

    __test__ = False

    def __init__(self, crew: Crew, key: str, *, control: bool = True, **choices: str) -> None:
        self.database = crew.database
        with crew.database.writing() as session:
            made = briefs.create_challenge(session, get_class(session, crew.class_id), key, key)
            briefs.save_settings(made, {}, choices)
            briefs.acknowledge_cautions(made)
            briefs.finish_brief(made)
            session.flush()
            brief = briefs.brief_of(made)
            usual = {f.key: f.si("default") for f in brief.kind.build.factors}
            ids = []
            for team in crew.teams.values():
                version = builds.start_version(session, made, team)
                plan = Plan(
                    (
                        Part(
                            place=PARTS[key], material=brief.kind.build.materials[0][0], form="flat", units=1
                        ),
                    ),
                    usual,
                )
                builds.save_draft(version, 1, Draft(plan=plan, prediction=5.0, change_note=""))
                for step in (builds.hand_in, builds.sign):
                    step(version, brief)
                builds.issue(version)
                session.flush()
                ids.append(version.id)
            run = runs.create_run(session, made, version_ids=ids, conditions={}, now=NOON, control=control)
            if brief.kind.test.shape == "marks":
                runs.start_phase(session, run, brief, brief.kind.test.phases[0].key, NOON)
            self.id, self.run_id, self.versions = made.id, run.id, ids
            self.rows = {self.name(e): e.id for e in run.entries}

    @staticmethod
    def name(entry) -> str:
        if entry.version is None:
            return "control" if entry.is_control else "air"
        return f"{entry.version.build.team.name} {entry.device}".strip()

    def act(self, does, *args, **more):
        """Call an action with the session, the run and the brief, and commit."""
        with self.database.writing() as session:
            run = runs.get_run(session, self.run_id)
            brief = briefs.brief_of(briefs.get_challenge(session, self.id))
            return does(session, run, brief, *args, **more)

    def see(self, row: str, minute: float, typed: str, *, phase="melting", **more):
        at = NOON + timedelta(minutes=minute, seconds=6)
        item = ReadingInput(
            entry_id=self.rows[row],
            phase=phase,
            mark_s=minute * 60,
            given=typed,
            client_id=f"r{next(IDS)}",
            entered_at=at,
            **more,
        )
        with self.database.writing() as session:
            return save_reading(session, self.run_id, item, at)

    def race(self, row: str, start: str, seconds: float | None, *, at: float = 0, probe=(), **more):
        """Start, read on the way, and stop (or end without the target)."""
        moment = NOON + timedelta(seconds=at)
        race = self.act(
            races.start_race,
            entry_id=self.rows[row],
            typed=start,
            pressed_at=moment,
            client_id=f"r{next(IDS)}",
            now=moment,
            **more,
        )
        for after, typed in probe:
            then = moment + timedelta(seconds=after)
            self.act(races.read_probe, typed=typed, pressed_at=then, client_id=f"r{next(IDS)}", now=then)
        end = moment + timedelta(seconds=seconds or 100)
        return self.act(
            races.stop_race,
            key=race.key,
            pressed_at=end,
            client_id=f"r{next(IDS)}",
            at_target=seconds is not None,
            now=end,
        )

    def figures(self) -> dict[str, dict]:
        with self.database.session() as session:
            challenge = briefs.get_challenge(session, self.id)
            found = load_evidence(session, challenge, briefs.brief_of(challenge), school="raw").findings
            return {initial(v.subject): v.figures for v in found.versions} if found else {}


def test_a_pair_has_a_row_for_each_device_and_one_control(crew):
    pair = Test(crew, "melt_pair")
    assert list(pair.rows) == [
        "control",
        "Avocet fast",
        "Avocet slow",
        "Dunlin fast",
        "Dunlin slow",
        "Godwit fast",
        "Godwit slow",
    ]
    for minute, seen in ((0, "000"), (2, "030"), (4, "041"), (6, "342")):
        for row, stage in zip(("control", "Avocet fast", "Avocet slow"), seen, strict=True):
            pair.see(row, minute, stage)
    found = pair.figures()["A"]
    assert found["fast"].at_most == pytest.approx(2.1)
    assert found["slow"].at_least == pytest.approx(6.1)
    assert found["beats"].value == 2  # before and after the control for certain
    without = Test(crew, "melt_pair", control=False)
    without.see("Avocet fast", 0, "firm")
    without.see("Avocet fast", 2, "slumped")
    assert "no control" in without.figures()["A"]["beats"].reason


def test_a_stage_is_a_number_or_its_word_and_going_back_is_asked(crew):
    pair = Test(crew, "melt_pair")
    pair.see("Dunlin slow", 0, "0")
    assert pair.see("Dunlin slow", 2, "Slumped").reading.value == 3
    asked = pair.see("Dunlin slow", 4, "1")
    assert (asked.check.answer, asked.reading.suggestion) == ("ask", 3.0)
    kept = pair.see("Dunlin slow", 4, "1", supersedes_id=asked.reading.id, keep=True)
    assert kept.reading.question == ""
    for typed in ("5", "2.5", "-1", "soft", "22"):
        with pytest.raises(Refused, match="Not one of these: 0 firm, 1 glossy"):
            pair.see("Dunlin slow", 6, typed)


def test_the_bare_probe_comes_first_and_a_warm_start_is_asked(crew):
    test = Test(crew, "heat_through")
    assert test.act(lambda s, r, b: attempts.queue_of(r, [], usual_timing(b.kind))).on == (
        test.rows["control"],
    )
    with pytest.raises(races.Unsure, match="comes first"):
        test.race("Avocet", "20", 60)
    test.race("control", "20", 15)
    with pytest.raises(races.Unsure, match="Cool the probe"):
        test.race("Avocet", "23.5", 60, at=100)
    with pytest.raises(races.Unsure, match="warm up"):
        test.race("Avocet", "17", 60, at=100)
    with pytest.raises(Refused, match="at the target"):
        test.race("Avocet", "35", 60, at=100, sure=True)
    test.race("Avocet", "23.5", 60, at=100, sure=True)
    test.race("Dunlin", "20.3", 80, at=300)
    found = test.figures()
    assert found["A"]["time"].value > 60  # brought to the common start: longer
    assert "from its own start" in found["A"]["time"].notes[0]
    assert found["D"]["index"].value == pytest.approx(80.0 / 15, rel=0.03)


def test_the_readings_find_the_crossing_where_nobody_stopped(crew):
    test = Test(crew, "heat_through")
    test.race("control", "20", 15)
    test.race("Avocet", "20", None, at=100, probe=((20, "28"), (40, "34"), (60, "37")))
    test.race("Dunlin", "20", None, at=300, probe=((30, "22"), (60, "24")))
    found = test.figures()
    assert found["A"]["time"].value == pytest.approx(40 + 20 / 3)
    assert found["D"]["time"].at_least == pytest.approx(60)
    with pytest.raises(Refused, match="Nothing was read"):
        test.race("Godwit", "20", None, at=500)


def test_one_probe_runs_one_race_and_nothing_is_stored_twice(crew):
    test = Test(crew, "heat_through")
    press = {
        "entry_id": test.rows["control"],
        "typed": "20",
        "pressed_at": NOON,
        "client_id": "start",
        "now": NOON,
    }
    first, again = (test.act(races.start_race, **press).key for _ in range(2))
    assert first == again
    with pytest.raises(Conflict, match="one probe"):
        test.race("Avocet", "20", 50, at=5, sure=True)
    with pytest.raises(Refused, match="zero cannot be"):
        test.act(
            races.stop_race,
            key=first,
            pressed_at=NOON + timedelta(seconds=0.2),
            client_id="no",
            at_target=True,
            now=NOON + timedelta(seconds=1),
        )
    test.act(lambda s, r, b: races.false_start(s, r, first, "false"))
    assert test.act(lambda s, r, b: races.race_on(s, r)) is None
    assert test.figures() == {}
    stop = {
        "key": "",
        "pressed_at": NOON + timedelta(seconds=40),
        "client_id": "stop",
        "at_target": True,
        "now": NOON + timedelta(seconds=90),
    }
    with pytest.raises(Conflict, match="ended on another screen"):
        test.act(races.stop_race, **stop)
    test.act(races.start_race, **{**press, "client_id": "start-2"})
    row, same = (test.act(races.stop_race, **stop) for _ in range(2))
    assert row.id == same.id
    assert row.values["time_s"] == 40.0  # the moment of the key, not of its arrival
    press |= {"client_id": "x", "entry_id": test.rows["Avocet"], "now": NOON + timedelta(days=1)}
    with pytest.raises(Refused, match="clock was off"):
        test.act(races.start_race, **press | {"pressed_at": NOON - timedelta(hours=2)})
    assert test.act(races.start_race, **press).started_at == press["pressed_at"]  # arrived a day late


def test_a_closed_run_takes_no_turn_until_it_is_opened_again(crew):
    test = Test(crew, "heat_through")
    row = test.race("control", "20", 15)
    test.act(lambda s, r, b: runs.close_run(r))
    with pytest.raises(Refused, match="closed"):
        test.race("Avocet", "20", 50, at=100)
    fix = attempts.AttemptInput(
        entry_id=test.rows["control"],
        typed={"start_c": "20", "time_s": "16"},
        client_id="fix",
        supersedes_id=row.id,
    )
    assert test.act(attempts.save_attempt, fix).race == row.race  # its readings stay with it
    test.act(lambda s, r, b: runs.reopen_run(r))
    test.race("Avocet", "20", 50, at=100)
    assert test.figures()["A"]["index"].value == pytest.approx(50 / 16)


def test_leaks_are_checked_later_and_water_that_grows_is_asked(crew):
    rain = Test(crew, "rain_catch")
    shower = attempts.AttemptInput(
        entry_id=rain.rows["Avocet"], typed={"poured_m3": "200", "caught_m3": "80"}, client_id="s1"
    )
    rain.act(attempts.save_attempt, shower)

    def note(typed: str, minute: float):
        return rain.act(
            later_readings.save_later,
            entry_id=rain.rows["Avocet"],
            typed=typed,
            client_id=f"l{minute}",
            now=NOON + timedelta(minutes=minute),
        )

    assert note("80", 2).answer == "ok"
    assert note("50", 12).answer == "ok"
    found = rain.figures()["A"]
    assert found["leak"].value == pytest.approx(30e-6 / 600)
    assert found["kept"].value == pytest.approx(50 / 80)
    assert "More water" in note("70", 22).message
    last = rain.act(later_readings.current_later)[rain.rows["Avocet"]][-1]
    for _ in range(2):
        rain.act(later_readings.take_later_back, last.id)
    assert rain.figures()["A"]["kept"].value == pytest.approx(50 / 80)
    for typed in ("", "much", "-3"):
        with pytest.raises(Refused):
            note(typed, 30)
    with pytest.raises(Gone):
        rain.act(later_readings.save_later, entry_id=999, typed="5", client_id="x")


def test_ice_that_does_not_add_up_is_said_and_the_bare_jar_is_the_measure(crew):
    ice = Test(crew, "keep_temp", measure="mass")
    for row, typed in (("control", "60"), ("Avocet", "30")):
        ice.see(row, 40, typed, phase="standing")
    weigh = {"entry_id": ice.rows["Avocet"], "now": NOON + timedelta(minutes=45)}
    assert ice.act(later_readings.save_later, typed="69", client_id="a", **weigh).answer == "ok"
    assert "missing" in ice.act(later_readings.save_later, typed="40", client_id="b", **weigh).message
    found = ice.figures()["A"]
    assert found["of_control"].value == pytest.approx(0.5)
    assert found["remaining"].value == pytest.approx(0.07)
    assert any("missing" in n for n in found["melted"].notes)


def test_a_thermometer_that_is_off_changes_temperatures_and_nothing_else(crew):
    """What it showed too much in the glass is taken off degrees, not off water drained."""
    for measure, typed in (("volume", "30"), ("temp", "40")):
        test = Test(crew, "keep_temp", measure=measure)
        for minute, value in ((0, "5"), (20, typed), (40, typed)):
            for row in ("control", "Avocet", "air"):
                test.see(row, minute, "20" if row == "air" else value, phase="standing", keep=True)

        def trial(session, challenge_id=test.id):
            challenge = briefs.get_challenge(session, challenge_id)
            brief = briefs.brief_of(challenge)
            return load_evidence(session, challenge, brief, school="raw").tried[0].trial

        with test.database.session() as session:
            plain = trial(session)
        with test.database.writing() as session:
            challenge = briefs.get_challenge(session, test.id)
            shown = {"A": 22.0, "D": 20.0, "G": 20.0, rig.AIR: 20.0}
            rig.save_check(session, challenge, briefs.brief_of(challenge), "agree", shown)
        with test.database.session() as session:
            shifted = trial(session)
        read = next(iter(plain.traces))
        moved = plain.traces[read].value[-1] - shifted.traces[read].value[-1]
        assert moved == pytest.approx(2.0 if measure == "temp" else 0.0)
        assert plain.control == shifted.control
        assert plain.air == shifted.air


def test_fills_of_ten_sprays_say_what_one_gives_and_sprays_become_water(crew):
    rain = Test(crew, "rain_catch", dosing="sprays")
    with rain.database.writing() as session:
        challenge = briefs.get_challenge(session, rain.id)
        noted = {"first ten": 19e-6, "next ten": 20e-6, "last ten": 21e-6}
        rig.save_check(session, challenge, briefs.brief_of(challenge), "sprays", noted)
        litres = {spot: 1000 * value for spot, value in noted.items()}
        with pytest.raises(Refused, match="One spray gives"):
            rig.save_check(session, challenge, briefs.brief_of(challenge), "sprays", litres)
    with rain.database.session() as session:
        brief = briefs.brief_of(briefs.get_challenge(session, rain.id))
    assert brief.values["squeeze_m3"] == pytest.approx(2e-6)
    assert brief.values["squeeze_se_m3"] == pytest.approx(1e-6 / 3**0.5 / 10, rel=0.1)
    shower = {"sprays": "120", "caught_m3": "96"}
    row = rain.act(
        attempts.save_attempt,
        attempts.AttemptInput(entry_id=rain.rows["Dunlin"], typed=shower, client_id="s"),
    )
    assert row.values["poured_m3"] == pytest.approx(240e-6)
    assert rain.figures()["D"]["efficiency"].value == pytest.approx(0.4)
    with pytest.raises(Refused, match="at most 240 mL"):
        rain.act(
            attempts.save_attempt,
            attempts.AttemptInput(
                entry_id=rain.rows["Dunlin"], typed={"sprays": "120", "caught_m3": "241"}, client_id="s2"
            ),
        )


def test_pictures_stay_with_their_version_up_to_six(crew):
    version = crew.plan("Avocet")
    with crew.database.writing() as session:
        for i in range(attachments.MOST):
            attachments.attach(session, version, bytes([i]), 10, 10)
        same = attachments.attach(session, version, bytes([0]), 10, 10)
        with pytest.raises(Refused, match="6 pictures"):
            attachments.attach(session, version, *encode_anew(photograph()))
        attachments.detach(session, version + 1, same.id)  # of another version: nothing
        attachments.detach(session, version, same.id)
        left = attachments.attachments_of(session, [version])[version]
        assert [attachments.picture_data(session, a.id) for a in left] == [bytes([i]) for i in range(1, 6)]
        with pytest.raises(Gone):
            attachments.picture_data(session, same.id)


def test_a_conclusion_goes_to_other_challenges_and_leaves_with_its_source(crew):
    with crew.database.writing() as session:
        school_class = get_class(session, crew.class_id)
        bait = briefs.create_challenge(session, school_class, "keep_temp", "Save the bait")
        oven = briefs.get_challenge(session, crew.challenge_id)
        made = conclusions.conclude(session, oven, "  Closed seams \n keep the warmth. ")
        assert made.text == "Closed seams keep the warmth."
        assert conclusions.conclude(session, oven, made.text).id == made.id
        conclusions.carry(session, oven, made.id, [bait.id, bait.id])
        assert [(k.text, k.title) for k in conclusions.known_in(session, bait.id)] == [
            (made.text, "Keeper's supper")
        ]
        with pytest.raises(Refused, match="another challenge"):
            conclusions.carry(session, oven, made.id, [oven.id])
        with pytest.raises(Gone):
            conclusions.carry(session, bait, made.id, [])
        for words, says in (("  ", "one sentence"), ("x" * 301, "this has 301")):
            with pytest.raises(Refused, match=says):
                conclusions.conclude(session, oven, words)
        conclusions.forget(session, bait, made.id)  # not its own: nothing
        assert conclusions.known_in(session, bait.id)
        conclusions.forget(session, oven, made.id)
        assert conclusions.known_in(session, bait.id) == []


def test_challenges_stand_in_the_order_the_teacher_gives_them_and_knowledge_goes_either_way(crew):
    with crew.database.writing() as session:
        school_class = get_class(session, crew.class_id)
        first = briefs.get_challenge(session, crew.challenge_id)
        second = briefs.create_challenge(session, school_class, "keep_temp", "Save the bait")
        third = briefs.create_challenge(session, school_class, "sail_run", "Cross the causeway")
        for move, step in ((third, -1), (third, -1), (third, -1), (second, 1)):  # beyond an end: nothing
            briefs.move_challenge(session, move, step)
        order = [c.title for c in week.week_of(session, crew.class_id).challenges]
        assert order == ["Cross the causeway", "Keeper's supper", "Save the bait"]
        others = conclusions.other_challenges(session, first)
        assert [(c.title, c.after) for c in others] == [
            ("Save the bait", True),
            ("Cross the causeway", False),
        ]
        made = conclusions.conclude(session, first, "A flat sheet leaks least.")
        conclusions.carry(session, first, made.id, [third.id])
        assert [k.text for k in conclusions.known_in(session, third.id)] == [made.text]


def test_who_gave_the_idea_is_a_team_and_leaves_with_it(crew):
    first = crew.plan("Avocet")
    with crew.database.writing() as session:
        version = builds.get_version(session, first)
        version.idea_team_id = crew.teams["Dunlin"]
    run = crew.run(first, crew.plan("Dunlin"))
    with crew.database.session() as session:
        item = runs.get_run(session, run)
        teams = {t.id: t for t in item.challenge.school_class.teams}
        ideas = ideas_in([item], teams)
        assert {(initial(k), k.version): t.name for k, t in ideas.items()} == {("A", 1): "Dunlin"}
        del teams[crew.teams["Dunlin"]]
        assert ideas_in([item], teams) == {}


def test_several_tests_go_on_in_one_class_at_once(crew):
    melt, rain = Test(crew, "melt_pair"), Test(crew, "rain_catch")
    with crew.database.session() as session:
        going = runs.going_runs(session, crew.class_id, NOON + timedelta(minutes=12))
    assert [(g.run_id, g.title, g.shape, g.since_s) for g in going] == [
        (melt.run_id, "melt_pair", "marks", 720.0),
        (rain.run_id, "rain_catch", "turns", 720.0),
    ]
