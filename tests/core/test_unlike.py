"""Classes that are not alike: what is called clear among them, and classes with nothing to tell apart."""

from __future__ import annotations

import numpy as np
import pytest

from bench.truth import unlike
from bench.truth.claims import who
from thermion.core.judging.advice import advise
from thermion.core.judging.claims import compare
from thermion.core.judging.findings import Tried, analyse
from thermion.core.judging.spread import pool
from thermion.core.judging.standings import standing
from thermion.core.judging.telling import chance_to_tell
from thermion.core.kinds import get_kind
from thermion.core.kinds.briefing import Term
from thermion.core.kinds.trials import Attempt, Trial
from thermion.core.plans import Plan


def sails(*stops: list[float]) -> list[Tried]:
    return [unlike.sailed(i + 1, each) for i, each in enumerate(stops)]


def claims_of(tried: list[Tried]) -> set[str]:
    found = analyse(unlike.SAIL, tried, unlike.FARTHEST, {})
    keys = [p.key for p in found.places]
    return {found.score.claim(a, b).word for i, a in enumerate(keys) for b in keys[:i]}


class TestAmongUnlikeBuilds:
    def test_the_larger_of_two_equals_is_no_more_often_clear_than_the_smaller(self):
        """Races of 17 to 278 s: with one spread for all, a third of the slow pairs came out clear."""
        found = unlike.equal_pairs((2,) * 8, unlike.Noise(0.06, 0.3), 90, 5)
        assert found.rate("equal") <= 0.09
        assert found.rate("wrong way") == 0

    def test_builds_at_the_end_stop_shrink_nobodys_spread(self):
        noise = unlike.Noise(0.08, 0.01)
        found = unlike.equal_pairs(
            (3,) * 8, noise, 60, 6, team_of=unlike.sail_team, rule=unlike.FARTHEST, ends=(0.3, 3.6)
        )
        assert found.rate("equal") <= 0.10

    def test_where_the_floor_is_not_known_well_the_weaker_word_is_said(self):
        """Nobody knows the floor within a factor of two; a word that hangs on it is not said."""
        groups = [[10.0, 11.0], [160.0, 161.0], [40.0, 44.0]]
        plain, safe = pool(groups), pool(groups, above=5.0)
        assert (safe.above, len(safe.also)) == (5.0, 2)
        small, large = ([10.0, 11.0], [12.0, 13.0]), ([160.0, 161.0], [190.0, 191.0])
        for a, b in (small, large):
            widest = compare(a, b, resolution=0, spread=safe)
            mean = (np.mean(a), np.mean(b))
            each = [s * (np.hypot(mean[0], c) ** 2 + np.hypot(mean[1], c) ** 2) ** 0.5 for s, c in safe.each]
            assert widest.se == pytest.approx(max(each) / 2**0.5)
        assert compare(*large, resolution=0, spread=plain).word == "clear"
        assert compare(*large, resolution=0, spread=safe).word != "clear"

    def test_a_build_far_ahead_of_small_ones_is_also_the_likely_best(self):
        """Drawn from one normal population the far one shrank to the many: “certain”, and “6 in 10”."""
        caught = {
            "A": [41.0, 50.0, 46.0],
            "D": [13.0, 14.0, 12.0],
            "G": [9.0, 11.0, 10.0],
            "K": [3.0, 3.5, 2.8],
        }
        first, *_ = standing(caught, "higher", resolution=0, spread=pool(caught.values(), above=10.0))
        assert (first.key, first.sole_first) == ("A", True)
        assert first.chance_best > 0.9

    def test_a_share_is_the_same_in_any_unit(self):
        seconds = {"A": [17.0, 18.0], "D": [90.0, 95.0], "G": [270.0, 281.0]}
        minutes = {k: [v / 60 for v in y] for k, y in seconds.items()}
        one = standing(seconds, "higher", resolution=0, spread=pool(seconds.values(), above=5.0))
        other = standing(minutes, "higher", resolution=0, spread=pool(minutes.values(), above=5.0 / 60))
        assert [(s.key, s.first, s.last) for s in one] == [(s.key, s.first, s.last) for s in other]
        assert [s.half_width for s in one] == pytest.approx([s.half_width * 60 for s in other])


class TestWhatMoreTriesTell:
    def test_more_tries_tell_more_and_of_equals_hardly_anything(self):
        tries = {"A": [50.0, 52.0], "D": [47.0, 48.0], "G": [40.0], "K": [41.0]}
        spread = pool(tries.values())
        chances = [
            chance_to_tell(tries, "A", "D", n, direction="higher", resolution=0, spread=spread)
            for n in (0, 1, 3, 9)
        ]
        assert chances == sorted(chances)
        assert chances[0] in (0.0, 1.0)  # no new tries: it is told or it is not
        equal = {k: [50.0, 51.0] for k in "ADGK"}
        told = chance_to_tell(
            equal, "A", "D", 2, direction="higher", resolution=0, spread=pool(equal.values())
        )
        assert told < 0.1

    def test_without_a_spread_nothing_is_foretold(self):
        tries = {"A": [50.0], "D": [40.0]}
        assert chance_to_tell(tries, "A", "D", 3, direction="higher", resolution=0, spread=None) == 0.0
        with pytest.raises(ValueError, match="second"):
            chance_to_tell(tries, "A", "X", 3, direction="higher", resolution=0, spread=None)


class TestClassesWithNothingToTell:
    @pytest.mark.parametrize(
        "stops",
        [
            [[0.0, 0.0]] * 4,
            [[2.4, 2.4]] * 4,
            [[1.2, 1.2]] * 4,
            [[0.0, 0.0], [2.4, 2.4], [0.0, 0.0], [2.4, 2.4]],
        ],
        ids=["nothing moved", "all at the end stop", "all equal", "nothing between the ends"],
    )
    def test_nothing_is_clear_where_nothing_varied(self, stops):
        assert claims_of(sails(*stops)) <= {"not known", "too close to call"}

    def test_one_team_alone_has_no_lead(self):
        found = analyse(unlike.SAIL, sails([1.0, 1.2]), unlike.FARTHEST, {})
        assert (found.lead, len(found.places)) == (None, 1)

    def test_an_oven_colder_than_the_air_is_no_yardstick_and_breaks_nothing(self):
        tried = [unlike.heated(team, run, -2.0, plan=Plan()) for team in (1, 2) for run in (1, 2)]
        tried += [unlike.heated(3, 1, 20.0), unlike.heated(3, 2, 26.0, version=2, plan=Plan())]
        found = analyse(unlike.OVEN, tried, [Term(metric="peak", unit="degC")], {"sky": 0.0})
        assert {g.claim.word for g in found.gains} <= {"not known", "too close to call", "leaning"}

    def test_forty_tries_of_one_build_do_not_make_the_others_sure(self):
        dice = np.random.default_rng(4)
        tried = [unlike.raced(1, 1, list(20 + dice.normal(0, 0.4, 40)))]
        tried += [unlike.raced(i, 1, [y]) for i, y in ((2, 100.0), (3, 104.0), (4, 250.0))]
        found = analyse(unlike.RACE, tried, unlike.LONGEST, {}, "higher")
        assert found.score.claim(who(3), who(2)).word != "clear"
        assert found.score.claim(who(4), who(2)).word == "clear"

    def test_a_rotor_that_lifts_nothing_stands_beside_one_that_does(self):
        kind = get_kind("wind_hoist")
        rig = kind.brief.default_rig()

        def lift(team: int, *pairs: tuple[float, float]) -> Tried:
            attempts = tuple(Attempt({"load": n, "rise_m": y, "time_s": 5.0}) for n, y in pairs)
            return Tried(
                subject=who(team),
                run=1,
                plan=Plan(),
                trial=Trial(traces={}, conditions=rig, attempts=attempts),
            )

        tried = [lift(1, (1.0, 0.0)), lift(2, (4.0, 0.6), (8.0, 0.6), (12.0, 0.1))]
        found = analyse(kind, tried, [Term(metric="load", unit="dimensionless")], {})
        assert found.facts[who(2)] == 1
        assert found.lead.word == "not known"


class TestAdvice:
    """Tries that still fit are spent where they are most likely to tell."""

    def measured(self, *stops: list[float]):
        found = analyse(unlike.SAIL, sails(*stops), unlike.FARTHEST, {})
        return found.score, [p.key for p in found.places]

    def test_two_close_builds_get_the_tries_and_a_single_one_is_no_advice(self):
        score, ranked = self.measured([1.50, 1.58], [1.42, 1.36], [0.9, 0.95], [0.6, 0.62], [0.3, 0.33])
        advice = advise(score, ranked, ranked[1], 6, together=False)
        assert advice.known
        assert advice.tries <= 6
        assert all(advice.again[s] >= 2 for s in ranked[:2])
        assert advise(score, ranked, ranked[1], 1, together=False) is None
        other = score.chance(ranked[0], ranked[1], dict.fromkeys(ranked, 1))
        assert advice.chance >= other

    def test_where_nothing_was_tried_twice_as_many_builds_as_fit_are_tried_again(self):
        score, ranked = self.measured(*[[x] for x in (1.5, 1.4, 1.0, 0.8, 0.7, 0.6, 0.5, 0.4)])
        few, all_of = (advise(score, ranked, ranked[1], n, together=False) for n in (3, 8))
        assert not few.known
        assert [len(a.again) for a in (few, all_of)] == [3, 8]
        assert few.chance < all_of.chance

    def test_a_test_of_all_at_once_is_repeated_whole(self):
        score, ranked = self.measured([1.50, 1.58], [1.42, 1.36], [0.9, 0.95], [0.6, 0.62])
        advice = advise(score, ranked, ranked[1], 2, together=True)
        assert set(advice.again.values()) <= {1, 2}
        assert set(advice.again) == set(ranked)
        assert advise(score, ranked, ranked[1], 0, together=True) is None
