"""From trials to findings: what is combined, ranked, compared, and what is held back."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.conftest import GOOD, letter_of, subject
from thermion.core.judging.findings import Tried, analyse, combine
from thermion.core.kinds import get_kind
from thermion.core.kinds.briefing import Term
from thermion.core.kinds.trials import Trace, Trial
from thermion.core.plans import Part, Plan
from thermion.core.values import Figure

KIND = get_kind("solar_oven")
HOTTEST = [Term("peak", "degC")]
TOLERANCE = {"irradiance_w_m2": 80.0, "air_c": 3.0}
SUN = {"irradiance_w_m2": 600.0, "air_c": 20.0, "load_kg": 0.15, "aperture_m2": 0.09}


def tried(team: str, rise: float, *, version=1, run=1, plan: Plan = GOOD, **conditions) -> Tried:
    """A build that approached its rise with ten minutes' time constant, then cooled."""
    t = np.arange(0, 1801, 300.0)
    warm = Trace(tuple(t), tuple(20 + rise * (1 - np.exp(-t / 600))))
    cool = Trace(tuple(t), tuple(20 + rise * 0.95 * np.exp(-t / 600)))
    trial = Trial({"heating": warm, "cooling": cool}, {**SUN, **conditions}, units_used=10.0)
    return Tried(subject(team, version), run, plan, trial)


def test_repeats_are_combined_by_their_spread_or_their_own_error_whichever_is_larger():
    wide = combine([Figure(60.0, 0.1), Figure(64.0, 0.1)])
    assert (wide.value, wide.se) == (62.0, pytest.approx(2.0))
    tight = combine([Figure(60.0, 1.0), Figure(60.0, 1.0)])
    assert tight.se == pytest.approx(2**-0.5)
    one = combine([Figure(reason="no reading yet"), Figure(60.0, 0.3)])
    assert (one.value, one.se) == (60.0, 0.3)
    assert combine([Figure(at_least=5.0, reason="stopped")]).at_least == 5.0


def test_the_lead_is_only_clear_when_a_repeat_says_how_much_a_try_varies():
    alone = analyse(KIND, [tried("A", 50), tried("D", 40)], HOTTEST, TOLERANCE)
    assert (alone.lead.word, alone.pooled_sd) == ("leaning", None)
    repeated = [tried("A", 50), tried("A", 50.5, run=2), tried("D", 40), tried("D", 40.4, run=2)]
    found = analyse(KIND, repeated, HOTTEST, TOLERANCE)
    assert found.lead.word == "clear"
    assert found.repeats == 2
    noisy = [tried("A", 50), tried("A", 38, run=2), tried("D", 40), tried("D", 52, run=2)]
    assert analyse(KIND, noisy, HOTTEST, TOLERANCE).lead.word == "too close to call"


def test_a_build_without_data_for_a_term_has_no_place_and_says_why():
    cold = Tried(subject("D"), 1, GOOD, Trial({"heating": Trace((0.0, 300.0), (20.0, 20.5))}, SUN))
    rule = [Term("peak", "degC"), Term("held", "minute", cap=20)]
    found = analyse(KIND, [tried("A", 50), cold], rule, TOLERANCE)
    assert [letter_of(p.key) for p in found.places] == ["A"]
    (left,) = found.without_score
    assert (letter_of(left.subject), left.score.reason) == ("D", "no reading yet")


def test_only_the_latest_version_is_ranked_and_each_is_judged_against_the_one_before():
    more = Plan((*GOOD.parts, Part("floor", "felt", "flat", 2)), GOOD.factors)
    most = Plan(more.parts, {**more.factors, "height_m": 0.1})
    series = [
        tried("A", 30),
        tried("A", 40, version=2, run=2, plan=more),
        tried("A", 35, version=3, run=3, plan=most),
        tried("D", 33),
    ]
    found = analyse(KIND, series, HOTTEST, TOLERANCE)
    assert [(letter_of(p.key), round(p.value, 1)) for p in found.places] == [("A", 53.3), ("D", 51.4)]
    assert [(g.before.version, g.after.version, g.verdict) for g in found.gains] == [
        (1, 2, "better"),
        (2, 3, "worse"),
    ]
    assert [g.cause.verdict for g in found.gains] == ["candidate", "candidate"]


def test_places_across_other_suns_are_called_unfair():
    pair = [tried("A", 50), tried("D", 40, run=2, irradiance_w_m2=800.0)]
    found = analyse(KIND, pair, HOTTEST, TOLERANCE)
    assert not found.places_fair
    near = [tried("A", 50), tried("D", 40, run=2, irradiance_w_m2=650.0)]
    assert analyse(KIND, near, HOTTEST, TOLERANCE).places_fair


def test_without_sun_known_nothing_is_corrected():
    old, new = {"irradiance_w_m2": 0.0, "air_c": 12.0}, {"irradiance_w_m2": 0.0, "air_c": 20.0}
    pair = [tried("A", 30, **old), tried("A", 40, version=2, run=2, **new)]
    (gain,) = analyse(KIND, pair, HOTTEST, TOLERANCE).gains
    assert [m.key for m in gain.mismatches] == ["air_c"]
    assert gain.corrected is None


@given(st.permutations(["A", "D", "G", "K", "P"]), st.floats(-3600, 3600))
def test_neither_the_order_of_builds_nor_the_clock_changes_a_score(order, shift):
    rises = {"A": 50, "D": 44, "G": 44, "K": 31, "P": 12}
    builds = [tried(team, rises[team]) for team in order]
    found = analyse(KIND, builds, HOTTEST, TOLERANCE)
    assert {letter_of(p.key): p.place for p in found.places} == {"A": 1, "D": 2, "G": 2, "K": 4, "P": 5}
    assert {letter_of(v.subject): v.score.total for v in found.versions} == {
        team: pytest.approx(20 + rise * (1 - np.exp(-3))) for team, rise in rises.items()
    }
