"""The week: tests to scale, remedies that do help, the bell, and designs tried beforehand."""

from __future__ import annotations

from dataclasses import replace
from datetime import UTC, datetime, timedelta

import pytest
from hypothesis import given
from hypothesis import strategies as st

from thermion.core.kinds import all_kinds, get_kind
from thermion.core.physics.materials import MATERIALS
from thermion.core.physics.units import Setting
from thermion.core.planning import safety, tryout, week
from thermion.core.planning.schedule import Lesson
from thermion.core.planning.week import Task, Timing
from thermion.core.plans import Offer, check_limits

MONDAY = datetime(2026, 6, 1, 9, 0, tzinfo=UTC)
KINDS = list(all_kinds().values())
OVEN = {"heating": [i * 300.0 for i in range(7)], "cooling": [i * 300.0 for i in range(5)]}


def lessons(count: int, minutes: float = 60.0) -> list[Lesson]:
    return [Lesson(MONDAY + timedelta(days=i), minutes * 60, 300) for i in range(count)]


def task(key: str = "solar_oven", *, name: str = "1", teams: int = 8, **timing) -> Task:
    kind = get_kind(key)
    usual = replace(week.usual_timing(kind), **timing)
    lengths = {p.key: p.minutes * 60 for p in week.PHASES}
    return Task(
        name=name,
        kind=kind,
        timing=usual,
        teams=teams,
        marks=OVEN if kind.test.phases else {},
        lengths_s=lengths,
        moved={},
    )


def test_lengths_of_a_test_by_hand():
    oven = task()  # 7 min to set up, 30 + 20 min of marks, 8 readings of 10 s
    assert week.test_length(oven.kind, oven.timing, 8, OVEN) == 420 + 3000 + 80
    crane = task("wind_hoist", attempts=3, stations=2)  # 12 turns of 110 s
    assert week.test_length(crane.kind, crane.timing, 8, {}) == 300 + 12 * 110
    waves = replace(oven.timing, read_s=60.0, stagger=True)  # 5 of 8 builds in each 5 minutes
    assert week.test_length(oven.kind, waves, 8, OVEN) == 420 + 2 * (3000 + 240 + 60)
    race = get_kind("heat_through")
    assert week.in_turns(race)
    assert week.usual_timing(race, 3).attempts == 1


@given(
    st.sampled_from(["solar_oven", "wind_hoist", "melt_pair", "rain_catch"]),
    st.integers(1, 12),
    st.integers(1, 6),
    st.integers(25, 90),
)
def test_every_remedy_helps_and_says_rightly_if_it_is_enough(key, teams, count, minutes):
    room, tasks = lessons(count, minutes), [task(key, teams=teams)]
    before = sum(s for _, s in week.plan_week(room, tasks).spills)
    found = week.remedies(room, tasks, 0)
    if before == 0:
        assert found == []
    for r in found:
        after = week.plan_week([*room, r.lesson] if r.lesson else room, [r.task or tasks[0]])
        spilt = sum(s for _, s in after.spills)
        assert spilt < before
        assert r.fits == (spilt == 0)
    assert [r.fits for r in found] == sorted((r.fits for r in found), reverse=True)


def test_a_plan_that_does_not_fit_is_made_to_fit():
    room = lessons(4, 50)
    tasks = [task("wind_hoist", attempts=5, teams=10)]
    assert not week.plan_week(room, tasks).fits
    keys = {r.key for r in week.remedies(room, tasks, 0) if r.fits}
    assert keys >= {"attempts", "stations"}
    best = next(r for r in week.remedies(room, tasks, 0) if r.key == "attempts")
    assert week.plan_week(room, [best.task]).fits
    more = replace(best.task, timing=replace(best.task.timing, attempts=best.task.timing.attempts + 1))
    assert not week.plan_week(room, [more]).fits


def test_a_step_that_was_moved_waits_and_what_comes_after_it_too():
    moved = replace(task(), moved={"build": 2})
    blocks = {b.step.split(":")[1]: b.lesson for b in week.plan_week(lessons(6, 75), [moved]).blocks}
    assert blocks["plan"] == 0
    assert blocks["build"] == 2
    assert blocks["test"] > 2


def test_a_round_that_is_too_long_has_three_ways_out():
    slow = task(read_s=60.0)
    assert not week.round_of(slow.timing, 8, OVEN).fits
    found = {r.key: r for r in week.round_remedies(slow)}
    assert found.keys() == {"stagger", "readers", "interval"}
    assert found["readers"].task.timing.readers == 2
    assert found["stagger"].words == "Start in 2 waves, one after the other"
    assert found["interval"].task.marks["heating"] == [0, 480, 960, 1440]
    for key in ("readers", "interval"):
        again = found[key].task
        assert week.round_of(again.timing, 8, again.marks).fits
    assert week.round_remedies(task()) == []
    assert [r.key for r in week.round_remedies(task(read_s=600.0))] in ([], ["interval"])


@given(read_s=st.floats(1, 86400), teams=st.integers(1, 12), readers=st.integers(1, 12))
def test_a_reading_that_takes_longer_than_the_marks_are_apart_fits_in_no_way(read_s, teams, readers):
    found = week.round_of(
        Timing(
            attempts=1, stations=1, readers=readers, read_s=read_s, set_up_s=0, fit_s=0, run_s=1, reset_s=0
        ),
        teams,
        {"heating": (0, 120, 240)},
    )
    assert found.fits == (-(-teams // readers) * read_s <= 120 * (1 + 1e-9))


def test_the_bell_and_what_still_fits():
    room = lessons(2)
    assert week.bell(room, MONDAY - timedelta(seconds=1)) is None
    at = week.bell(room, MONDAY + timedelta(minutes=40))
    assert (at.lesson, at.until_bell_s, at.until_pack_up_s) == (0, 1200, 900)
    assert week.bell(room, MONDAY + timedelta(minutes=58)).until_pack_up_s == 0
    assert week.bell(room, MONDAY + timedelta(minutes=60)) is None
    crane, oven = task("wind_hoist"), task()

    def fits(t: Task, minutes: float) -> str:
        return week.still_fits(t.kind, t.timing, 8, t.marks, minutes * 60)

    assert fits(crane, 15) == "8 turns fit, 1 for each team"
    assert fits(crane, 3) == "1 turn fits, not one for each team"
    assert fits(crane, 1) == "no further turn fits"
    assert fits(oven, 60) == "a whole test of 58 min fits"
    assert fits(oven, 25) == "a test fits only up to minute 15"
    assert fits(oven, 5) == "no test fits any more"


@pytest.mark.parametrize("field", ["attempts", "stations", "readers", "read_s", "set_up_s"])
def test_a_timing_that_cannot_be_is_named(field):
    for value in (-1, float("nan")):
        with pytest.raises(ValueError, match=field):
            replace(Timing(), **{field: value}).check()


@pytest.mark.parametrize("kind", KINDS, ids=lambda k: k.key)
def test_a_usual_brief_tells_designs_apart(kind):
    choices = {c.key: c.options[0][0] for c in kind.brief.choices}
    offers = [Offer(m, limit, MATERIALS[m].points) for m, limit in kind.build.materials]
    plans = tryout.spread_of_designs(kind, offers, 60, 4)
    assert plans == tryout.spread_of_designs(kind, offers, 60, 4)
    assert plans[20:] == tryout.spread_of_designs(kind, offers, 40, 4, start=20)
    for plan in plans:
        assert check_limits(plan, offers) == []
        for f in kind.build.factors:
            assert f.si("low") - 1e-9 <= plan.factors[f.key] <= f.si("high") + 1e-9
    rule = kind.brief.rule("raw", Setting(), {}, choices)
    tried = tryout.rehearse(kind, plans, kind.brief.default_rig(), choices, rule, offers, 1.0, 2)
    found = tryout.outlook(kind, tried, offers)
    assert found.verdict == "good", found
    nothing = [replace(r, passed=False) for r in tried]
    assert tryout.outlook(kind, nothing, offers).verdict == "impossible"
    all_of_them = [replace(r, passed=True) for r in tried]
    easy = tryout.outlook(kind, all_of_them, offers)
    assert easy.verdict == "too easy"
    assert any("limit" in a for a in easy.advice)
    alike = [replace(r, result=5.0 + i / 1e6, passed=i % 2 == 0) for i, r in enumerate(tried)]
    assert tryout.outlook(kind, alike, offers).verdict == "does not tell apart"
    assert tryout.outlook(kind, [], offers).verdict == "not known"


def test_a_brief_is_tried_out_at_its_own_marks():
    kind = get_kind("solar_oven")
    offers = [Offer(m, limit, MATERIALS[m].points) for m, limit in kind.build.materials]
    plans = tryout.spread_of_designs(kind, offers, 40, 4)
    rule, rig = kind.brief.rule("raw", Setting(), {}, {}), kind.brief.default_rig()

    def hottest(*heating: float) -> float:
        marks = {"heating": heating, "cooling": (0.0, 300.0)}
        tried = tryout.rehearse(kind, plans, rig, {}, rule, offers, 1.0, 2, marks)
        assert tryout.outlook(kind, tried, offers).verdict == ("impossible" if heating[-1] < 600 else "good")
        return max(r.result for r in tried)

    assert hottest(0, 60, 120) < rig["start_c"] + 12  # two minutes warm a box a little, and say so
    assert hottest(*range(0, 3601, 300)) > rig["start_c"] + 40


def test_a_brief_is_tried_out_with_its_own_ladder_and_number_of_attempts():
    kind = get_kind("wind_hoist")
    offers = [Offer(m, limit, MATERIALS[m].points) for m, limit in kind.build.materials]
    plans = tryout.spread_of_designs(kind, offers, 60, 4)
    rig = kind.brief.default_rig() | {"first_load": 1.0, "step_load": 2.0, "pass_load": 4.0}
    rule = kind.brief.rule("raw", Setting(), {}, rig)

    def tried(loads: str, attempts: int):
        return tryout.rehearse(kind, plans, rig, {"loads": loads}, rule, offers, 1.0, 2, None, attempts)

    def most(loads: str, attempts: int) -> tuple[float, str]:
        found = tried(loads, attempts)
        return max(r.result for r in found), tryout.outlook(kind, found, offers).verdict

    assert most("ladder", 2) == (3, "impossible")  # 1 and 3 weights: nobody is ever asked to lift 4
    assert most("ladder", 4) == (7, "good")
    assert most("search", 2) == (8, "good")  # a search begins with what passes
    assert most("search", 4)[0] > 16
    once = tryout.outlook(kind, tried("search", 1), offers)
    assert "But all 17 that meet it score alike." in once.sentence  # 4, and nobody was asked for more
    assert "more attempts, under Lessons" in once.advice[0]
    assert tryout.outlook(kind, tried("search", 6), offers).advice == ()
    for key in ("sail_run", "rain_catch"):
        by_turns = get_kind(key)
        (trial,) = by_turns.rehearsal.simulate([by_turns.build.example()], {}, 3, attempts=5)
        assert len(trial.attempts) == 5


@pytest.mark.parametrize("key", ["solar_oven", "keep_temp", "melt_pair"])
def test_a_rehearsal_is_read_when_the_brief_says(key):
    kind = get_kind(key)
    marks = {p.key: (0.0, 90.0, 240.0) for p in kind.test.phases}
    (trial,) = kind.rehearsal.simulate([kind.build.usual()], {}, 3, kind.brief.default_choices(), marks)
    for trace in trial.traces.values():
        assert trace.time_s == pytest.approx((0, 90, 240), abs=25)  # an eye comes a little late


def test_cautions_grow_with_the_tools_and_speak_to_the_age():
    kind = get_kind("solar_oven")
    sun = {"heat_source": "sun"}
    plain = safety.cautions(kind, sun, "9-12", [])
    tooled = safety.cautions(kind, sun, "9-12", ["knife", "scissors", "no such tool"])
    assert len(tooled) == len(plain) + 2
    assert [w.adult for w in tooled] == sorted((w.adult for w in tooled), reverse=True)
    young = safety.cautions(kind, sun, "6-8", ["knife"])
    assert any(w.text == "Craft knife: a grown-up cuts for you." and w.adult for w in young)
    assert all("grown-up" in w.text for w in young if w.adult)
    old = safety.cautions(kind, sun, "13-16", ["scissors", "glue"])
    assert not any(w.adult for w in old if w.text.startswith(("Scissors", "Hot-glue")))
    assert not any("lamp is hot" in w.text for w in old)
