"""Tries made comparable: what days, suns, thermometers and unchanged builds do to a class's numbers."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.conftest import GOOD, letter_of, subject
from thermion.core.judging.findings import analyse
from thermion.core.judging.spread import Spread
from thermion.core.judging.tries import CONTROL, Tried, tries_of
from thermion.core.kinds import get_kind
from thermion.core.kinds.briefing import Term
from thermion.core.kinds.trials import Attempt, Trace, Trial
from thermion.core.plans import Part, Plan

OVEN = get_kind("solar_oven")
HOTTEST = (Term(metric="peak", unit="degC"),)
SUN = {"irradiance_w_m2": 600.0, "air_c": 20.0, "load_kg": 0.15, "aperture_m2": 0.09, "u_thermometer": 0.05}
MASS = {"measure": "mass"}
FELT = Plan((*GOOD.parts, Part(place="floor", material="felt", form="flat", units=2)), GOOD.factors)
TOLERANCE = {"irradiance_w_m2": 80.0, "air_c": 3.0, "sky": 0.5}


def oven(team: str, hottest: float, *, version=1, run=1, plan=GOOD, **rig) -> Tried:
    """A box that was read from 20 °C to its hottest and back."""
    t = np.arange(0, 1801, 300.0)
    excess = hottest - 20
    warm = 20 + excess * (1 - np.exp(-t / 500)) / (1 - np.exp(-1800 / 500))
    cool = 20 + excess * np.exp(-t / 900)
    trial = Trial(
        traces={"heating": Trace(tuple(t), tuple(warm)), "cooling": Trace(tuple(t), tuple(cool))},
        conditions={**SUN, **rig},
        plan=plan,
    )
    return Tried(subject=subject(team, version), run=run, plan=plan, trial=trial)


def measured(tried: list[Tried], rule=HOTTEST, **more):
    return tries_of(OVEN, tried, more.pop("prior", None), TOLERANCE).measure(rule, "higher", **more)


def test_builds_with_equal_tries_are_equal_to_the_last_bit():
    class_of_eight = [oven(letter, 40 + 11.3 * (i // 3)) for i, letter in enumerate("ABCDEFGH")]
    found = measured(class_of_eight)
    for i, letter in enumerate("ABCDEFGH"):
        like = [x for j, x in enumerate("ABCDEFGH") if j // 3 == i // 3]
        assert [found.claim(subject(letter), subject(x)).difference for x in like] == [0.0] * len(like)
    assert found.claim(subject("D"), subject("A")).difference == pytest.approx(11.3)


class TestDays:
    def test_another_sun_is_taken_out_also_inside_the_tolerance(self):
        """60 °C in 600 W/m² is 64.7 °C in 670: the same box."""
        same = 20 + 40 * 670 / 600
        found = measured([oven("A", 60), oven("D", same, run=2, irradiance_w_m2=670.0)])
        assert found.carried
        assert found.value(subject("A")) == pytest.approx(found.value(subject("D")), abs=0.1)

    @given(st.floats(300, 1000), st.floats(0, 35), st.floats(300, 1000), st.floats(0, 35))
    def test_there_and_back_again_changes_nothing(self, sun, air, other_sun, other_air):
        was = {**SUN, "irradiance_w_m2": sun, "air_c": air}
        to = {**SUN, "irradiance_w_m2": other_sun, "air_c": other_air}
        trial = replace(oven("A", 62).trial, conditions=was)
        figures = OVEN.analysis.fit([trial])[0].figures
        for key in ("peak", "rise", "lost", "held", "ua", "tau_cool"):
            there = OVEN.analysis.correct(key, figures, was, to)
            if there is None:  # it would not have fallen that far
                continue
            moved = {**figures, key: replace(figures[key], value=there)}
            assert OVEN.analysis.correct(key, moved, to, was) == pytest.approx(figures[key].value, rel=1e-9)

    def test_what_the_sun_leaves_open_is_one_part_common_to_all(self):
        def common(share: float) -> float:
            known = {"irradiance_w_m2": share * 600.0, "air_c": 0.1}
            pair = [oven("A", 60), oven("A", 66, version=2, run=2, plan=FELT)]
            pair = [replace(t, trial=replace(t.trial, uncertain=known)) for t in pair]
            return measured(pair).common(subject("A"), subject("A", 2))

        assert common(0.05) == pytest.approx((40**2 + 46**2) ** 0.5 * 0.05, rel=0.05)
        assert common(0.10) == pytest.approx(2 * common(0.05), rel=0.05)

    def test_a_sky_that_physics_does_not_know_keeps_days_apart(self):
        found = measured([oven("A", 60, sky=0.0), oven("D", 55, run=2, sky=3.0)])
        assert not found.carried
        claim = found.claim(subject("A"), subject("D"))
        assert claim.word == "not known"
        assert "different days" in claim.why
        assert {(s.first, s.last) for s in found.standings([subject("A"), subject("D")])} == {(None, None)}

    def test_days_that_do_not_compare_leave_places_open_between_them(self):
        days = [oven("A", 60, sky=0.0), oven("D", 50, sky=0.0), oven("G", 40, run=2, sky=3.0)]
        days += [oven("A", 60.2, run=3, sky=0.0), oven("D", 49.9, run=3, sky=0.0)]
        found = measured(days)
        by = {letter_of(s.key): s for s in found.standings([subject(k) for k in "ADG"])}
        assert (by["A"].first, by["D"].first) == (1, 2) or by["A"].last == 2
        assert (by["G"].first, by["G"].last) == (1, 3)
        assert by["G"].chance_best is None


class TestUnchangedBuilds:
    def test_a_version_in_which_nothing_changed_is_the_same_build(self):
        days = [oven("A", 60), oven("D", 50), oven("A", 71, version=2, run=2, plan=FELT)]
        found = measured([*days, oven("D", 54, version=2, run=2)])
        assert found.build(subject("D", 2)) == subject("D")
        assert found.tries(subject("D", 2)) == 2
        assert found.tied(subject("A"), subject("A", 2))
        gain = found.claim(subject("A", 2), subject("A"))
        assert gain.difference == pytest.approx(51 - 40 * 34 / 30, abs=0.2)  # a warmer day is a factor

    def test_materials_in_another_order_are_no_change(self):
        turned = Plan(tuple(reversed(GOOD.parts)), dict(reversed(GOOD.factors.items())))
        found = tries_of(OVEN, [oven("A", 60), oven("A", 61, version=2, run=2, plan=turned)])
        assert found.unchanged == {subject("A", 2): subject("A")}

    def test_back_to_the_first_design_is_a_change_from_the_second(self):
        days = [oven("A", 60), oven("A", 66, version=2, run=2, plan=FELT), oven("A", 60, version=3, run=3)]
        assert tries_of(OVEN, days).unchanged == {}
        gains = analyse(OVEN, days, list(HOTTEST), TOLERANCE).gains
        assert [g.after.version for g in gains] == [2, 3]

    def test_the_control_beside_both_runs_is_a_yardstick(self):
        ice = get_kind("keep_temp")

        def jar(melted: float, bare: float, version: int, plan: Plan) -> Tried:
            def once(kg: float) -> Trace:
                return Trace((2400.0,), (kg,))

            rig = {"started_kg": 0.1, "air_c": 22.0}
            trial = Trial(
                traces={"mass_kg": once(melted)},
                conditions=rig,
                control={"mass_kg": once(bare)},
                choices=MASS,
                plan=plan,
            )
            return Tried(subject=subject("A", version), run=version, plan=plan, trial=trial)

        wool = Plan((Part(place="wall", material="felt", form="flat", units=2),), {})
        days = [jar(0.030, 0.060, 1, Plan()), jar(0.033, 0.066, 2, wool)]
        found = analyse(ice, days, [Term(metric="melted", unit="gram")], {}, "lower")
        (gain,) = found.gains
        assert (gain.how, [s.team_id for s in gain.yardsticks]) == ("yardsticks", [CONTROL])
        assert gain.claim.difference == pytest.approx(0.0, abs=1e-9)  # the room was warmer, the jar no worse
        assert {s.key.team_id for s in found.places} == {ord("A")}  # a control takes no place


class TestHowMuchATryVaries:
    def test_one_build_alone_tried_again_on_a_like_day_tells(self):
        found = measured([oven("A", 60), oven("D", 50), oven("A", 61, run=2)])
        assert found.spread.dof == 1
        assert found.spread.at(40.5) == pytest.approx(1 / 2**0.5, rel=0.05)  # of its excess over the air

    def test_and_on_a_day_that_does_not_compare_tells_nothing(self):
        assert (
            measured([oven("A", 60, sky=0.0), oven("D", 50, sky=0.0), oven("A", 61, run=2, sky=3.0)]).spread
            is None
        )

    def test_several_builds_tried_again_take_the_day_out_of_it(self):
        """Both are two degrees hotter on the second day, and hardly vary beside that."""
        found = measured([oven("A", 60), oven("D", 50), oven("A", 62, run=2), oven("D", 52.2, run=2)])
        assert found.spread.dof == 1
        assert found.spread.at(30.0) < 0.5

    def test_earlier_challenges_lend_their_freedom_in_the_units_of_the_rule(self):
        prior = {
            "peak": Spread(
                sd=0.05, dof=6, source="earlier classes", above=5.0, also=((0.055, 2.0), (0.04, 12.5))
            )
        }
        pair = [oven("A", 60), oven("D", 50)]
        fahrenheit = (Term(metric="peak", unit="degF"), Term(metric="units", unit="count", weight=-1.0))
        assert measured(pair, prior=prior).spread.sd == pytest.approx(0.05)  # a share is one in any unit
        lent = measured(pair, fahrenheit, prior=prior).spread
        assert (lent.sd, lent.above) == (pytest.approx(0.05), pytest.approx(9.0))
        summed = (Term(metric="rise", unit="delta_degC"), Term(metric="held", unit="minute", cap=20))
        assert measured(pair, summed, prior=prior).spread is None  # two things vary in it


class TestTriesThatAreNotWhole:
    def broken(self, team: str, upto: int, **more) -> Tried:
        whole = oven(team, 60, **more)
        seen = whole.trial.traces["heating"]
        cut = {"heating": Trace(seen.time_s[:upto], seen.value[:upto])}
        limits = {"until_s": {"heating": 1800.0}, "interval_s": {"heating": 300.0}}
        return replace(whole, trial=replace(whole.trial, traces=cut, **limits))

    def test_a_test_that_broke_off_is_at_least_and_never_averaged(self):
        alone = analyse(OVEN, [self.broken("A", 3), oven("D", 45)], list(HOTTEST), TOLERANCE)
        peak = alone.latest()[ord("A")].figures["peak"]
        assert (peak.value, peak.partial) == (None, True)
        assert peak.at_least == pytest.approx(48.7, abs=0.2)
        assert alone.facts == {subject("D"): 1}
        both = analyse(
            OVEN, [oven("A", 60), self.broken("A", 1, run=2), oven("D", 45)], list(HOTTEST), TOLERANCE
        )
        assert both.latest()[ord("A")].figures["peak"].value == pytest.approx(60)
        assert {letter_of(s): p for s, p in both.facts.items()} == {"A": 1, "D": 2}

    def test_while_a_test_is_on_its_number_counts_as_so_far(self):
        going = self.broken("A", 3)
        going = replace(going, trial=replace(going.trial, ended=False))
        found = analyse(OVEN, [going, oven("D", 45)], list(HOTTEST), TOLERANCE)
        peak = found.latest()[ord("A")].figures["peak"]
        assert peak.partial
        assert "the test is still on" in peak.notes
        assert {letter_of(s): p for s, p in found.facts.items()} == {"A": 1, "D": 2}


def test_a_try_far_from_its_others_is_asked_about_and_kept():
    kind = get_kind("sail_run")

    def sailed(team: str, *stops: float) -> Tried:
        tries = tuple(Attempt({"stop_m": s}) for s in stops)
        return Tried(
            subject=subject(team),
            run=1,
            plan=Plan(),
            trial=Trial(traces={}, conditions={"track_m": 2.4}, attempts=tries),
        )

    steady = [sailed("A", 1.50, 1.52, 1.49, 0.15), sailed("D", 1.2, 1.22, 1.18), sailed("G", 1.1, 1.13, 1.1)]
    found = tries_of(kind, steady).measure((Term(metric="share", unit="percent"),), "higher")
    assert [(letter_of(t.subject), round(t.value, 2)) for t in found.strange] == [("A", 6.25)]
    assert found.tries(subject("A")) == 4
    calm = tries_of(kind, steady[1:]).measure((Term(metric="share", unit="percent"),), "higher")
    assert calm.strange == ()
    stuck = [sailed(t, 0.0, 0.0, 0.0) for t in "KT"]  # builds that never move do not make the others strange
    usual = [sailed("A", 1.70, 1.85, 1.77), sailed("D", 1.85, 2.0, 1.92), sailed("G", 1.5, 1.6, 1.54)]
    assert (
        tries_of(kind, usual + stuck).measure((Term(metric="share", unit="percent"),), "higher").strange == ()
    )


def test_a_class_of_one_and_a_class_of_nobody():
    alone = analyse(OVEN, [oven("A", 60)], list(HOTTEST), TOLERANCE)
    assert (alone.lead, alone.rival, len(alone.places)) == (None, None, 1)
    assert measured([], HOTTEST) is None
