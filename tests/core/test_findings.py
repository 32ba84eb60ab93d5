"""From trials to findings: what is combined, ranked, compared, and what is held back."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.conftest import GOOD, letter_of, subject
from thermion.core.judging.findings import Tried, analyse
from thermion.core.kinds import get_kind
from thermion.core.kinds.briefing import Term
from thermion.core.kinds.trials import Trace, Trial
from thermion.core.plans import Part, Plan

KIND = get_kind("solar_oven")
HOTTEST = [Term(metric="peak", unit="degC")]
TOLERANCE = {"irradiance_w_m2": 80.0, "air_c": 3.0}
SUN = {"irradiance_w_m2": 600.0, "air_c": 20.0, "load_kg": 0.15, "aperture_m2": 0.09}


def tried(team: str, rise: float, *, version=1, run=1, plan: Plan = GOOD, **conditions) -> Tried:
    """A build that approached its rise with ten minutes' time constant, then cooled."""
    t = np.arange(0, 1801, 300.0)
    warm = Trace(tuple(t), tuple(20 + rise * (1 - np.exp(-t / 600))))
    cool = Trace(tuple(t), tuple(20 + rise * 0.95 * np.exp(-t / 600)))
    trial = Trial(
        traces={"heating": warm, "cooling": cool}, conditions={**SUN, **conditions}, units_used=10.0
    )
    return Tried(subject=subject(team, version), run=run, plan=plan, trial=trial)


def test_the_lead_is_only_known_when_a_repeat_says_how_much_a_try_varies():
    alone = analyse(KIND, [tried("A", 50), tried("D", 40)], HOTTEST, TOLERANCE)
    assert (alone.lead.word, alone.spread) == ("not known", None)
    assert {letter_of(s): place for s, place in alone.facts.items()} == {"A": 1, "D": 2}
    repeated = [
        tried(team, rise + x, run=run)
        for run, x in enumerate((0, 0.5, -0.3), 1)
        for team, rise in (("A", 50), ("D", 40))
    ]
    found = analyse(KIND, repeated, HOTTEST, TOLERANCE)
    assert found.lead.word == "clear"
    assert found.spread.dof == 2  # six tries, less two builds and three days, which have one level in common
    noisy = [tried("A", 50), tried("A", 38, run=2), tried("D", 40), tried("D", 52, run=2)]
    assert analyse(KIND, noisy, HOTTEST, TOLERANCE).lead.word == "too close to call"


def test_thermometers_that_were_not_checked_keep_a_lead_open():
    def lead(off: float) -> str:
        rig = {"u_thermometer": off}
        runs = [
            tried(team, rise + x, run=run, **rig)
            for run, x in enumerate((0.02, -0.01, 0.01, 0.0, 0.01), 1)
            for team, rise in (("A", 50), ("D", 49.2))
        ]
        return analyse(KIND, runs, HOTTEST, TOLERANCE).lead

    assert lead(0.02).word == "clear"
    assert lead(0.5).word in ("leaning", "too close to call")  # two may differ by a degree
    assert lead(0.5).se > 0.7


def test_a_build_without_data_for_a_term_has_no_place_and_says_why():
    cold = Tried(
        subject=subject("D"),
        run=1,
        plan=GOOD,
        trial=Trial(traces={"heating": Trace((0.0, 300.0), (20.0, 20.5))}, conditions=SUN),
    )
    rule = [Term(metric="peak", unit="degC"), Term(metric="held", unit="minute", cap=20)]
    found = analyse(KIND, [tried("A", 50), cold], rule, TOLERANCE)
    assert [letter_of(s) for s in found.facts] == ["A"]
    (left,) = found.without_score
    assert (letter_of(left.subject), left.score.reason) == ("D", "no reading yet")


def test_only_the_latest_version_is_ranked_and_each_is_judged_against_the_one_before():
    more = Plan((*GOOD.parts, Part(place="floor", material="felt", form="flat", units=2)), GOOD.factors)
    most = Plan(more.parts, {**more.factors, "height_m": 0.1})
    series = [
        tried("A", 30),
        tried("A", 40, version=2, run=2, plan=more),
        tried("A", 35, version=3, run=3, plan=most),
        tried("D", 33),
    ]
    found = analyse(KIND, series, HOTTEST, TOLERANCE)
    scores = {letter_of(v.subject): round(v.score.total, 1) for v in found.latest().values()}
    assert scores == {"A": 53.3, "D": 51.4}
    assert [(g.before.version, g.after.version, g.verdict) for g in found.gains] == [
        (1, 2, "better"),
        (2, 3, "worse"),
    ]
    assert {g.cause.verdict for g in found.gains} == {"no difference"}  # nothing was tried twice


def test_places_across_other_suns_are_brought_to_the_same_one():
    pair = [tried("A", 50), tried("D", 50 * 800 / 600, run=2, irradiance_w_m2=800.0)]
    found = analyse(KIND, pair, HOTTEST, TOLERANCE)
    assert found.facts[subject("D")] == 1  # what was read is a fact
    assert [p.value for p in found.places] == pytest.approx([found.places[0].value] * 2, abs=0.1)
    assert [u.mismatches[0].key for u in found.unfair] == ["irradiance_w_m2"]
    lamp = [tried("A", 50, lamp_m=0.3), tried("D", 40, run=2, lamp_m=0.5)]
    assert not analyse(KIND, lamp, HOTTEST, {**TOLERANCE, "lamp_m": 0.01}).places_fair


def test_without_sun_known_nothing_is_corrected_and_nothing_claimed():
    old, new = {"irradiance_w_m2": 0.0, "air_c": 12.0}, {"irradiance_w_m2": 0.0, "air_c": 20.0}
    felt = Plan((*GOOD.parts, Part(place="floor", material="felt", form="flat", units=2)), GOOD.factors)
    pair = [tried("A", 30, **old), tried("A", 40, version=2, run=2, plan=felt, **new)]
    (gain,) = analyse(KIND, pair, HOTTEST, TOLERANCE).gains
    assert [m.key for m in gain.mismatches] == ["air_c"]
    assert (gain.how, gain.claim.word) == ("not comparable", "not known")


def test_a_sun_that_only_seems_brighter_makes_nothing_better():
    """Seventy watts more, within the tolerance: corrected all the same, and as open as the sun is."""
    felt = Plan((*GOOD.parts, Part(place="floor", material="felt", form="flat", units=1)), GOOD.factors)
    runs = []
    for team, rise in (("A", 50), ("D", 44), ("G", 40)):
        runs += [tried(team, rise), tried(team, rise * 1.004, run=2)]
        by = 670 / 600
        runs.append(tried(team, rise * by, version=2, run=3, plan=felt, irradiance_w_m2=670.0))
    found = analyse(KIND, runs, HOTTEST, TOLERANCE)
    assert {g.claim.word for g in found.gains} == {"too close to call"}
    assert {g.leans_on[0] for g in found.gains} == {"irradiance_w_m2"}


@given(st.permutations(["A", "D", "G", "K", "P"]), st.floats(-3600, 3600))
def test_neither_the_order_of_builds_nor_the_clock_changes_a_score(order, shift):
    rises = {"A": 50, "D": 44, "G": 44, "K": 31, "P": 12}
    builds = [tried(team, rises[team]) for team in order]
    found = analyse(KIND, builds, HOTTEST, TOLERANCE)
    places = {letter_of(s): place for s, place in found.facts.items()}
    assert places == {"A": 1, "D": 2, "G": 2, "K": 4, "P": 5}
    assert {letter_of(v.subject): v.score.total for v in found.versions} == {
        team: pytest.approx(20 + rise * (1 - np.exp(-3))) for team, rise in rises.items()
    }
