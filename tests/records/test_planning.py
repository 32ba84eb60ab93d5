"""Lessons, store, kit and rig checks as they are kept."""

from __future__ import annotations

import threading
from dataclasses import replace
from datetime import UTC, datetime, timedelta

import pytest

from tests.conftest import GOOD, NOON, Crew, initial
from thermion.core.plans import Part, Plan
from thermion.records.building import builds, kit, store
from thermion.records.errors import Gone, Refused
from thermion.records.judging.evidence import load_evidence
from thermion.records.planning import briefs, week
from thermion.records.planning.classes import get_class
from thermion.records.running import rig, waves

MONDAY = datetime(2026, 6, 1, 9, 0, tzinfo=UTC)


def add_lessons(crew: Crew, count: int = 3, minutes: float = 60) -> None:
    with crew.database.writing() as session:
        for i in range(count):
            week.save_lesson(session, crew.class_id, MONDAY + timedelta(days=i), minutes * 60, 300)


class TestLessons:
    def test_lessons_that_overlap_or_cannot_be_are_refused_and_nothing_changes(self, crew):
        add_lessons(crew)
        for start, length, pack, field in (
            (MONDAY + timedelta(minutes=30), 3600, 300, "start"),
            (MONDAY + timedelta(days=9), 0, 0, "length"),
            (MONDAY + timedelta(days=9), 300, 300, "pack_up"),
        ):
            with pytest.raises(Refused) as refused, crew.database.writing() as session:
                week.save_lesson(session, crew.class_id, start, length, pack)
            assert refused.value.field == field
        with pytest.raises(Gone), crew.database.writing() as session:
            week.save_lesson(session, crew.class_id, MONDAY, 3600, 300, lesson_id=99)
        with crew.database.session() as session:
            assert len(week.lessons_of(session, crew.class_id)) == 3

    def test_a_lesson_can_be_shortened_in_place(self, crew):
        add_lessons(crew)
        with crew.database.writing() as session:
            first = week.lessons_of(session, crew.class_id)[0]
            week.save_lesson(session, crew.class_id, MONDAY, 2400, 300, first.id)
        with crew.database.session() as session:
            assert week.week_of(session, crew.class_id).lessons[0].length_s == 2400

    def test_a_remedy_is_carried_out_and_then_it_fits(self, crew):
        add_lessons(crew, 4, 60)
        with crew.database.session() as session:
            plan = week.week_of(session, crew.class_id)
            assert not plan.timeline.fits
            found = week.remedies_of(plan, crew.challenge_id)
            best = next(r for r in found if r.fits)
        with crew.database.writing() as session:
            plan = week.week_of(session, crew.class_id)
            week.apply_remedy(session, plan, crew.challenge_id, best.key)
        with crew.database.session() as session:
            assert week.week_of(session, crew.class_id).timeline.fits
        with crew.database.writing() as session:
            plan = week.week_of(session, crew.class_id)
            with pytest.raises(Refused, match="no longer"):
                week.apply_remedy(session, plan, crew.challenge_id, best.key)

    def test_a_step_is_stretched_moved_and_left_out(self, crew):
        add_lessons(crew)
        with crew.database.writing() as session:
            week.save_step(session, crew.challenge_id, "build", length_s=1200, not_before=1)
            week.save_step(session, crew.challenge_id, "show", length_s=0)
        with crew.database.session() as session:
            plan = week.week_of(session, crew.class_id)
        at = {b.step.split(":")[1]: b for b in plan.timeline.blocks}
        assert (at["build"].lesson, at["build"].length_s) == (1, 1200)
        assert "show" not in plan.tasks[0].lengths_s
        for phase, length in (("lunch", 600), ("build", -5), ("build", 9e9)):
            with pytest.raises(Refused), crew.database.writing() as session:
                week.save_step(session, crew.challenge_id, phase, length_s=length)

    def test_dropping_a_lesson_brings_what_was_moved_one_earlier(self, crew):
        add_lessons(crew)
        with crew.database.writing() as session:
            week.save_step(session, crew.challenge_id, "build", not_before=2)
            first = week.lessons_of(session, crew.class_id)[0]
            week.delete_lesson(session, crew.class_id, first.id)
            week.delete_lesson(session, crew.class_id, first.id)  # a second click
        with crew.database.session() as session:
            plan = week.week_of(session, crew.class_id)
        assert len(plan.lessons) == 2
        assert plan.tasks[0].moved == {"build": 1}

    def test_the_bell_of_the_class(self, crew):
        add_lessons(crew, 1)
        with crew.database.session() as session:
            now = MONDAY + timedelta(minutes=50)
            at, lesson = week.bell_of(session, crew.class_id, now)
            assert (at.until_bell_s, lesson.start) == (600, MONDAY)
            assert week.class_in_lesson(session, now).id == crew.class_id
            assert week.class_in_lesson(session, now + timedelta(hours=1)) is None

    def test_staggered_starts_give_each_build_its_own_clock(self, crew):
        a, d = crew.plan("Avocet"), crew.plan("Dunlin")
        with crew.database.writing() as session:
            from thermion.records.running import runs

            challenge = briefs.get_challenge(session, crew.challenge_id)
            made = runs.create_run(
                session, challenge, version_ids=[a, d], conditions={}, now=NOON, apart_s=20.0
            )
            runs.start_phase(session, made, briefs.brief_of(challenge), "heating", NOON)
        rows = crew.entries(made.id)
        first = crew.read(rows["Avocet"], 5, "30", late_s=3).reading
        second = crew.read(rows["Dunlin"], 5, "30", late_s=23).reading
        assert first.time_s == pytest.approx(303)
        assert second.time_s == pytest.approx(303)


class TestStore:
    def count(self, crew: Crew, **units: float) -> None:
        with crew.database.writing() as session:
            for material, number in units.items():
                store.count_stock(session, crew.class_id, material, number)

    def there(self, crew: Crew) -> dict[str, float]:
        with crew.database.session() as session:
            return store.stock(session, crew.class_id)

    def hand_out(self, crew: Crew, version: int) -> None:
        with crew.database.writing() as session:
            store.hand_out(session, builds.get_version(session, version))

    def test_what_is_issued_is_gone_from_the_shelf(self, crew):
        self.count(crew, newspaper=10, tape=3)
        self.hand_out(crew, crew.plan("Avocet", until="signed"))
        assert self.there(crew) == {"newspaper": 6, "tape": 1}
        self.count(crew, newspaper=20)
        assert self.there(crew)["newspaper"] == 20

    def test_too_little_is_refused_by_name_and_nothing_goes_out(self, crew):
        self.count(crew, newspaper=3, tape=50)
        version = crew.plan("Avocet", until="signed")
        with pytest.raises(Refused, match=r"newspaper \(4 needed, 3 there\)"):
            self.hand_out(crew, version)
        assert self.there(crew) == {"newspaper": 3, "tape": 50}
        with crew.database.session() as session:
            assert builds.get_version(session, version).state == "signed"

    def test_a_team_that_has_all_it_needs_need_not_come_to_the_store(self, crew):
        self.count(crew, newspaper=10, tape=9)
        crew.plan("Avocet")
        with crew.database.session() as session:
            before = builds.builds_of(session, crew.challenge_id)[0].versions[0]
            less = replace(builds.plan_of(before), parts=builds.plan_of(before).parts[:1])
        again = crew.plan("Avocet", less, note="less of it", until="waiting")
        more = crew.plan("Dunlin", until="waiting")
        with crew.database.writing() as session:
            for number, state in ((again, "issued"), (more, "signed")):
                version = builds.get_version(session, number)
                store.sign_off(session, version, briefs.brief_of(version.build.challenge))
                assert version.state == state

    def bill(self, crew: Crew):
        with crew.database.session() as session:
            challenge = briefs.get_challenge(session, crew.challenge_id)
            counted = store.class_ledger(session, crew.class_id)
            price = store.prices(session, crew.class_id)
            found = store.bills(challenge, briefs.brief_of(challenge), counted, price)
            return found[crew.teams["Avocet"]]

    def test_two_desks_at_once_do_not_oversell_the_last_sheets(self, crew):
        self.count(crew, newspaper=4)
        versions = [crew.plan(t, until="signed") for t in ("Avocet", "Dunlin", "Godwit")]
        outcomes: list[str] = []

        def desk(version: int) -> None:
            try:
                self.hand_out(crew, version)
                outcomes.append("out")
            except Refused:
                outcomes.append("refused")

        desks = [threading.Thread(target=desk, args=(v,)) for v in versions]
        for each in desks:
            each.start()
        for each in desks:
            each.join()
        assert sorted(outcomes) == ["out", "refused", "refused"]
        assert self.there(crew)["newspaper"] == 0

    def test_reused_units_do_not_leave_the_shelf(self, crew):
        self.count(crew, newspaper=10)
        kept = Plan(
            (*GOOD.parts[:2], Part(place="wall", material="newspaper", form="crumpled", units=4, reused=3)),
            GOOD.factors,
        )
        self.hand_out(crew, crew.plan("Avocet", kept, until="signed"))
        assert self.there(crew)["newspaper"] == 9

    def test_more_and_back_change_the_bill(self, crew):
        self.count(crew, newspaper=20, foil=4)
        with crew.database.writing() as session:
            kit.save_item(session, crew.class_id, "Newspaper", pack=10, pack_cost=5.0)
        version = crew.plan("Avocet", until="signed")
        self.hand_out(crew, version)

        first = self.bill(crew)
        assert first.cost == pytest.approx(4 * 0.5)
        with crew.database.writing() as session:
            item = builds.get_version(session, version)
            store.top_up(session, item, "newspaper", 2)
            store.give_back(session, item, "newspaper", 1)
        after = self.bill(crew)
        assert after.units == first.units + 2
        assert after.impact == pytest.approx(first.impact + 2 * 1 - 1 * 1)
        assert after.cost == pytest.approx(first.cost + 1.0)
        assert self.there(crew)["newspaper"] == 20 - 4 - 2 + 1
        for give, material, units in (
            (store.top_up, "newspaper", 9),
            (store.top_up, "glass", 1),
            (store.top_up, "newspaper", 0),
            (store.give_back, "newspaper", 99),
            (store.give_back, "foil", 1),
        ):
            with pytest.raises(Refused), crew.database.writing() as session:
                give(session, builds.get_version(session, version), material, units)

    def test_a_second_version_is_handed_and_charged_only_what_is_new_in_it(self, crew):
        self.count(crew, newspaper=20)
        with crew.database.writing() as session:
            kit.save_item(session, crew.class_id, "Newspaper", pack=10, pack_cost=5.0)
        self.hand_out(crew, crew.plan("Avocet", until="signed"))  # 4 newspapers
        first = self.bill(crew)
        for sheets, left, units in ((5, 15, 1), (2, 15, 1), (6, 14, 2)):  # one more; fewer; one more again
            plan = Plan(
                (*GOOD.parts[:2], Part(place="wall", material="newspaper", form="crumpled", units=sheets)),
                GOOD.factors,
            )
            self.hand_out(crew, crew.plan("Avocet", plan, note="another wall", until="signed"))
            assert self.there(crew)["newspaper"] == left
            now = self.bill(crew)
            assert (now.units, now.impact) == (first.units + units, first.impact + units * 1)
            assert now.cost == pytest.approx(first.cost + units * 0.5)

    def test_what_a_team_kept_from_an_earlier_version_can_come_back(self, crew):
        self.count(crew, newspaper=4)
        self.hand_out(crew, crew.plan("Avocet", until="signed"))
        fewer = Plan(
            (*GOOD.parts[:2], Part(place="wall", material="newspaper", form="crumpled", units=1)),
            GOOD.factors,
        )
        second = crew.plan("Avocet", fewer, note="thinner", until="signed")
        self.hand_out(crew, second)
        with crew.database.writing() as session:
            store.give_back(session, builds.get_version(session, second), "newspaper", 3)
        assert self.there(crew)["newspaper"] == 3
        with pytest.raises(Refused, match="1 of it"), crew.database.writing() as session:
            store.give_back(session, builds.get_version(session, second), "newspaper", 2)

    def test_counts_below_zero_and_unknown_things_are_refused(self, crew):
        for material, units in (("newspaper", -1), ("gold", 3), ("newspaper", float("nan"))):
            with pytest.raises(Refused):
                self.count(crew, **{material: units})
        assert self.there(crew) == {}

    def test_the_queue_is_what_waits_for_the_teacher(self, crew):
        crew.plan("Dunlin", until="waiting")
        crew.plan("Avocet", until="signed")
        crew.plan("Godwit", until="draft")
        with crew.database.session() as session:
            found = store.queue(session, crew.class_id)
            assert [v.build.team.name for v in found["waiting"]] == ["Dunlin"]
            assert [v.build.team.name for v in found["signed"]] == ["Avocet"]


class TestKit:
    def lines(self, crew: Crew, *more: str):
        with crew.database.writing() as session:
            school_class = get_class(session, crew.class_id)
            made = [briefs.create_challenge(session, school_class, k, k) for k in more]
            challenges = [briefs.get_challenge(session, crew.challenge_id), *made]
            return kit.kit_of(session, school_class, challenges)

    def test_plans_count_and_teams_without_one_count_with_the_limits(self, crew):
        crew.plan("Avocet", until="draft")
        found = self.lines(crew)
        paper = next(x for x in found.lines if x.line.item == "Newspaper")
        assert paper.line.needed == pytest.approx((4 + 8 + 8) * 1.1)
        assert found.estimated == ("Keeper's supper",)
        for team in ("Dunlin", "Godwit"):
            crew.plan(team, until="draft")
        exact = self.lines(crew)
        paper = next(x for x in exact.lines if x.line.item == "Newspaper")
        assert paper.line.needed == pytest.approx(12 * 1.1)
        assert exact.estimated == ()

    def test_a_fan_is_counted_once_and_what_is_used_up_is_added(self, crew):
        found = {x.line.item: x for x in self.lines(crew, "wind_hoist", "sail_run").lines}
        assert found["Fan with guard"].line.packs == 1
        assert found["Fan with guard"].wanted_by == ("wind_hoist", "sail_run")
        tape = found["Paper tape"].line.needed
        assert tape == pytest.approx(3 * (6 + 4 + 4) * 1.1)

    def test_ticks_packs_and_costs_are_kept_for_the_class(self, crew):
        with crew.database.writing() as session:
            kit.save_item(session, crew.class_id, "Thermometer", pack=2, pack_cost=9.0, have=True)
        found = next(x for x in self.lines(crew).lines if x.line.item == "Thermometer")
        assert (found.have, found.line.packs, found.line.cost) == (True, 2, 18.0)
        for bad in ({"pack": 0}, {"pack_cost": -1}):
            with pytest.raises(Refused), crew.database.writing() as session:
                kit.save_item(session, crew.class_id, "Thermometer", **bad)

    def test_lengths_to_cut_come_with_their_waste(self, crew):
        cuts = {c.item: c for c in self.lines(crew, "wind_hoist").cuts}
        assert cuts["Dowel"].pieces == ((0.3, 4),)  # three teams and a spare, as on the list
        assert len(cuts["Dowel"].plan.stocks) == 2
        assert cuts["Dowel"].plan.waste_m == pytest.approx(0.6)


class TestRig:
    @pytest.mark.parametrize(
        ("first", "second", "state"), [(0.30, 0.31, "done"), (0.31, 0.30, "done"), (0.30, 0.312, "apart")]
    )
    def test_thirty_and_thirty_one_centimetres_agree_within_one(self, crew, first, second, state):
        with crew.database.writing() as session:
            school_class = get_class(session, crew.class_id)
            made = briefs.create_challenge(session, school_class, "wind_hoist", "Crane the stores")
            brief = briefs.brief_of(made)
            check = next(c for c in brief.kind.test.checks_for(brief.choices) if c.unit == "centimeter")
            assert check.agree == 1.0
            noted = dict(zip((spot for spot, _ in rig.spots_of(check, made)), (first, second), strict=True))
            rig.save_check(session, made, brief, check.key, noted)
            before = len(rig.checks_of(session, made, brief))
            (found,) = [c for c in rig.checks_of(session, made, brief) if c.check.key == check.key]
            assert found.state == state
            assert rig.still_open(session, made, brief) == before - (state == "done")

    def check(self, crew: Crew, key: str, values: dict) -> rig.Checked:
        with crew.database.writing() as session:
            challenge = briefs.get_challenge(session, crew.challenge_id)
            brief = briefs.brief_of(challenge)
            rig.save_check(session, challenge, brief, key, values)
            return next(c for c in rig.checks_of(session, challenge, brief) if c.check.key == key)

    def offsets(self, crew: Crew, found: rig.Checked) -> dict[int, float]:
        with crew.database.session() as session:
            return rig.offsets([found], briefs.get_challenge(session, crew.challenge_id))

    def test_thermometers_in_one_glass_give_offsets_that_findings_take_off(self, crew):
        assert self.check(crew, "agree", {"A": 20.0, "D": 20.5}).state == "done"
        found = self.check(crew, "agree", {"A": 20.0, "D": 20.0, "G": 21.5, "air": 20.0})
        assert found.state == "apart"
        assert found.apart == pytest.approx(1.5)
        assert self.offsets(crew, found) == {crew.teams["Godwit"]: 1.5}
        run = crew.run(crew.plan("Avocet"), crew.plan("Godwit"))
        rows = crew.entries(run)
        for name in ("Avocet", "Godwit"):
            for minute, value in ((0, "20"), (5, "30"), (10, "37")):
                crew.read(rows[name], minute, value)
        with crew.database.session() as session:
            challenge = briefs.get_challenge(session, crew.challenge_id)
            evidence = load_evidence(session, challenge, briefs.brief_of(challenge), school="raw")
        hottest = {initial(v.subject): v.figures["peak"].value for v in evidence.findings.versions}
        assert hottest == {"A": 37.0, "G": 35.5}

    def test_two_thermometers_cannot_say_which_is_wrong(self, crew):
        found = self.check(crew, "agree", {"A": 20.0, "D": 22.0})
        assert found.state == "apart"
        assert self.offsets(crew, found) == {}

    def test_a_check_is_done_taken_back_and_only_known_ones_exist(self, crew):
        assert self.check(crew, "probe", {}).state == "done"
        with crew.database.writing() as session:
            challenge = briefs.get_challenge(session, crew.challenge_id)
            rig.clear_check(session, challenge, "probe")
            brief = briefs.brief_of(challenge)
            found = {c.check.key: c.state for c in rig.checks_of(session, challenge, brief)}
            assert found["probe"] == "open"
            assert "lamps" not in found  # this oven stands in the sun
            with pytest.raises(Refused):
                rig.save_check(session, challenge, brief, "moon", {})


def test_another_tool_is_read_with_the_class_anew(crew):
    with crew.database.writing() as session:
        challenge = briefs.get_challenge(session, crew.challenge_id)
        briefs.save_tools(challenge, ["scissors"])
        assert challenge.cautions_seen_at
        briefs.save_tools(challenge, ["scissors", "knife"])
        assert challenge.cautions_seen_at is None


def test_a_timing_is_kept_and_a_bad_one_refused(crew):
    with crew.database.writing() as session:
        challenge = briefs.get_challenge(session, crew.challenge_id)
        brief = briefs.brief_of(challenge)
        usual = week.timing_of(session, challenge, brief)
        week.save_timing(session, challenge.id, replace(usual, readers=2, stagger=True))
        session.flush()
        assert week.timing_of(session, challenge, brief).readers == 2
        with pytest.raises(Refused) as refused:
            week.save_timing(session, challenge.id, replace(usual, readers=0))
        assert refused.value.field == "readers"


def test_the_next_wave_is_who_has_not_been_tested(crew):
    versions = [crew.plan(t) for t in ("Avocet", "Dunlin", "Godwit")]
    with crew.database.writing() as session:
        challenge = briefs.get_challenge(session, crew.challenge_id)
        brief = briefs.brief_of(challenge)
        assert waves.next_wave(session, challenge, brief, versions) is None
        assert waves.apart(session, challenge.id) == 0
        slow = replace(week.timing_of(session, challenge, brief), read_s=150.0, stagger=True)
        week.save_timing(session, challenge.id, slow)
    with crew.database.session() as session:
        challenge = briefs.get_challenge(session, crew.challenge_id)
        wave = waves.next_wave(session, challenge, brief, versions)
        assert wave == waves.Wave(tuple(versions[:2]), 150.0)
    crew.run(*versions[:2])
    with crew.database.session() as session:
        assert waves.next_wave(session, challenge, brief, versions).versions == (versions[2],)


def test_a_clear_and_an_overcast_sky_make_a_ranking_unfair(crew):
    for sky, team, value in ((0, "Avocet", "45"), (3, "Dunlin", "40")):
        run = crew.run(crew.plan(team), sky=float(sky))
        row = crew.entries(run)[team]
        crew.read(row, 0, "20")
        crew.read(row, 5, value)
    with crew.database.session() as session:
        challenge = briefs.get_challenge(session, crew.challenge_id)
        found = load_evidence(session, challenge, briefs.brief_of(challenge), school="raw")
    (unfair,) = found.findings.unfair
    assert [m.key for m in unfair.mismatches] == ["sky"]
    assert not found.findings.places_fair
