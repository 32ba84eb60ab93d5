"""Classes as they are: races of 17 and of 278 seconds, sails at the end stop, another day, a lent spread.

Every try of a build differs by a share of its size (lognormal) and by a floor (a hand on a stopwatch, a
rule beside the track), which is other noise than the families' simulators make; what is said of it comes
from `analyse`, as the pages have it. Pairs of equal builds stand among unlike ones.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, replace
from itertools import combinations

import numpy as np

from bench.truth.claims import Dice, Rates, who
from thermion.core.judging.findings import Findings, Gain, Tried, analyse
from thermion.core.judging.spread import Spread, lent
from thermion.core.kinds import get_kind
from thermion.core.kinds.briefing import Term
from thermion.core.kinds.trials import Attempt, Trace, Trial
from thermion.core.plans import Part, Plan

RACE, SAIL, OVEN, PAIR = (get_kind(k) for k in ("heat_through", "sail_run", "solar_oven", "melt_pair"))
RIG = RACE.brief.default_rig()
FLOOR_S, SHARE = 0.3, 0.06  # of a race by stopwatch, as the family declares them
DESIGNS: Mapping[str, Sequence[int]] = {
    "one tried again": (1, 1, 1, 2, 1, 1, 1, 1),
    "three tried again": (2, 1, 1, 2, 1, 1, 1, 2),
    "all twice": (2,) * 8,
    "1, 1, 1, 1, 1, 1, 2, 5": (1, 1, 1, 1, 1, 1, 2, 5),
    "5, 2, 1, 1, 1, 1, 1, 1": (5, 2, 1, 1, 1, 1, 1, 1),
}


@dataclass(frozen=True)
class Noise:
    """How a try differs from the next: by a share of its size, and by a floor [unit of the result]."""

    share: float
    floor: float

    def tries(self, true: float, count: int, dice: Dice) -> list[float]:
        luck = np.exp(dice.normal(0, self.share, count) - self.share**2 / 2)
        return list(np.maximum(true * luck + dice.normal(0, self.floor, count), 0.0))


def raced(
    team: int, run: int, seconds: Sequence[float], *, version: int = 1, plan: Plan | None = None
) -> Tried:
    """A sample's races by stopwatch, from the common start."""
    attempts = tuple(Attempt({"time_s": round(max(s, 0.1), 1)}) for s in seconds)
    plan = plan or Plan()
    return Tried(
        subject=who(team, version),
        run=run,
        plan=plan,
        trial=Trial(traces={}, conditions=RIG, attempts=attempts, plan=plan),
    )


def sailed(team: int, stops: Sequence[float], track: float = 2.4) -> Tried:
    """A sail's attempts: where it stopped, at most at the end of the track."""
    kept = [float(np.clip(round(s, 2), 0.0, track)) for s in stops]
    return Tried(
        subject=who(team),
        run=1,
        plan=Plan(),
        trial=Trial(
            traces={}, conditions={"track_m": track}, attempts=tuple(Attempt({"stop_m": s}) for s in kept)
        ),
    )


LONGEST = [Term(metric="time", unit="second")]
FARTHEST = [Term(metric="share", unit="percent")]


def pair_at(where: str, low: float, high: float, builds: int = 8) -> tuple[list[float], tuple[int, int]]:
    """Unlike builds evenly apart in proportion, two of them equal: at the bottom, in the middle, on top."""
    base = list(np.geomspace(low, high, builds - 1))
    at = {"low": 0, "middle": (builds - 1) // 2, "high": builds - 2}[where]
    return [*base[: at + 1], base[at], *base[at + 1 :]], (at, at + 1)


def equal_pairs(
    design: Sequence[int],
    noise: Noise,
    classes: int,
    seed: int,
    *,
    team_of: Callable[[int, int, Sequence[float]], Tried] = raced,
    rule: Sequence[Term] = LONGEST,
    ends: tuple[float, float] = (17.0, 278.0),
    spoil: Callable[[list[list[float]], Dice], None] | None = None,
    prior: Callable[[Dice], Mapping[str, Spread] | None] | None = None,
) -> Rates:
    """How often two equal builds among unlike ones come out `clear`, at the bottom, middle and top."""
    dice, rates = np.random.default_rng(seed), Rates()
    kind = SAIL if rule is FARTHEST else RACE
    for i in range(classes):
        where = ("low", "middle", "high")[i % 3]
        true, (a, b) = pair_at(where, *ends)
        tries = [noise.tries(y, n, dice) for y, n in zip(true, design, strict=True)]
        if spoil:
            spoil(tries, dice)
        lent_by = prior(dice) if prior else None
        tried = [team_of(team + 1, 1, y) for team, y in enumerate(tries)]
        found = analyse(kind, tried, rule, {}, "higher", lent_by)
        assert found.score is not None
        if who(a + 1) in found.score and who(b + 1) in found.score:
            rates.add(where, found.score.claim(who(a + 1), who(b + 1)).word == "clear")
        count_pairs(found, true, rates)
    return rates


def count_pairs(found: Findings, true: Sequence[float], rates: Rates) -> None:
    """Of all pairs: the truly equal ones that are clear, and any that is clear the wrong way round."""
    measured = found.score
    assert measured is not None
    for a, b in combinations([p.key for p in found.places if p.key in measured], 2):
        gap = true[a.team_id - 1] - true[b.team_id - 1]
        claim = measured.claim(a, b)
        if gap == 0:
            rates.add("equal", claim.word == "clear")
        else:
            rates.add("wrong way", claim.word == "clear" and claim.difference * gap < 0)
    best = max(true)
    first = [p for p in found.places if p.sole_first]
    rates.add("sole first", bool(first) and true.count(best) > 1)


def sail_team(team: int, _run: int, stops: Sequence[float]) -> Tried:
    return sailed(team, stops)


def three_times_as_variable(tries: list[list[float]], dice: Dice) -> None:
    """One team's tries vary three times as much as those of the others."""
    team = int(dice.integers(len(tries)))
    mean = float(np.mean(tries[team]))
    tries[team] = [float(max(mean + 3 * (y - mean), 0.1)) for y in tries[team]]


def drift(tries: list[list[float]], dice: Dice) -> None:
    """All that is tried in the second round takes a twentieth longer."""
    for y in tries:
        y[1:] = [v * 1.05 for v in y[1:]]


def one_wild_value(tries: list[list[float]], dice: Dice) -> None:
    """Somebody stopped one race a fifth too late."""
    team = int(dice.integers(len(tries)))
    tries[team][0] *= 1.2


def another_day(
    sticks: int, day: float, classes: int, seed: int, *, again: int = 0, share: float = SHARE
) -> Rates:
    """Eight teams whose second version is no better; ovens with a quarter to one and a half times the usual
    excess, on a day on which all is `day` times as much, with so many yardsticks."""
    dice, rates = np.random.default_rng(seed), Rates()
    noise = Noise(share, 0.25)
    mark = Plan(
        (Part(place="floor", material="newspaper", form="flat", units=1),), {}
    )  # declared, and of no effect
    for _ in range(classes):
        true = 35.0 * dice.uniform(0.25, 1.5, 8 + sticks)
        tried = [heated(t + 1, 1, noise.tries(y, 1, dice)[0]) for t, y in enumerate(true)]
        for run in (2, 3)[: 1 + (again > 0)]:
            for t, y in enumerate(true if run == 2 else true[:again]):
                excess = noise.tries(y * day, 1, dice)[0]
                new = t < 8
                tried.append(heated(t + 1, run, excess, version=1 + new, plan=mark if new else Plan()))
        gains = analyse(OVEN, tried, [Term(metric="peak", unit="degC")], {"sky": 0.0}).gains
        count_gains(gains, rates)
    return rates


def count_gains(gains: Sequence[Gain], rates: Rates) -> None:
    """Of versions that are no better: those called clear, two of them in a class, a cause named."""
    wrong = [g.claim.word == "clear" for g in gains]
    for one in wrong:
        rates.add("clear", one)
    rates.add("two or more", sum(wrong) >= 2)
    rates.add("a cause", any(g.cause.verdict == "candidate" for g in gains))


def heated(team: int, run: int, excess: float, *, version: int = 1, plan: Plan | None = None) -> Tried:
    """An oven by its hottest reading above an air of 20 °C, under a sky that physics does not know."""
    top = round((20.0 + excess) * 2) / 2
    trace = Trace((0.0, 600.0, 1200.0), (20.0, round(10.0 + top / 2, 1), top))
    plan = plan or Plan()
    return Tried(
        subject=who(team, version),
        run=run,
        plan=plan,
        trial=Trial(traces={"heating": trace}, conditions={"air_c": 20.0, "sky": float(run)}, plan=plan),
    )


def bare_control(pad_off: float, classes: int, seed: int) -> Rates:
    """Races on two days with the bare probe as the only yardstick; on the second the pad is so many kelvin
    off what is believed, and all races take that much shorter together."""
    dice, rates = np.random.default_rng(seed), Rates()
    noise = Noise(SHARE, FLOOR_S)
    pad, target, start = RIG["source_c"], RIG["target_c"], RIG["start_c"]
    faster = np.log((pad + pad_off - start) / (pad + pad_off - target)) / np.log(
        (pad - start) / (pad - target)
    )
    mark = Plan((Part(place="wall", material="newspaper", form="flat", units=1),), {})
    for _ in range(classes):
        true = np.geomspace(25, 278, 8)
        tried = []
        for run, by in ((1, 1.0), (2, float(faster))):
            bare = tuple(Attempt({"time_s": round(s, 1)}) for s in noise.tries(17.0 * by, 2, dice))
            for t, y in enumerate(true):
                one = raced(
                    t + 1, run, noise.tries(y * by, 2, dice), version=run, plan=mark if run == 2 else None
                )
                tried.append(replace(one, trial=replace(one.trial, bare=bare)))
        gains = analyse(RACE, tried, LONGEST, {}).gains
        count_gains(gains, rates)
    return rates


def lending(differ: float) -> Callable[[Dice], Mapping[str, Spread] | None]:
    """Five earlier challenges whose true spreads differ by a lognormal of so much, with eight repeats each;
    the class's own is one, so that theirs lie about it."""

    def lend(dice: Dice) -> Mapping[str, Spread] | None:
        own = float(np.exp(dice.normal(0, differ)))
        found = []
        for _ in range(5):
            s = SHARE * float(np.exp(dice.normal(0, differ))) / own
            s2 = s**2 * float(dice.chisquare(8)) / 8
            found.append(([s2, s2 * 1.05, s2 * 0.75], 8.0))
        spread = lent(found, FLOOR_S / SHARE)
        return None if spread is None else {"time": spread}

    return lend


def power(gap: float, tries: int, classes: int, seed: int, *, factor: float = 16.0) -> Rates:
    """Unlike builds, the first ahead of the second by so many spreads of its own: how often that is told,
    beside a t test that knows how a try varies with its size."""
    from scipy import stats

    dice, rates, noise = np.random.default_rng(seed), Rates(), Noise(SHARE, FLOOR_S)
    c = FLOOR_S / SHARE
    for _ in range(classes):
        true = list(np.geomspace(278.0 / factor, 278.0, 7))
        true.append(true[-1] + gap * SHARE * float(np.hypot(true[-1], c)))
        got = [noise.tries(y, tries, dice) for y in true]
        found = analyse(RACE, [raced(t + 1, 1, y) for t, y in enumerate(got)], LONGEST, {}, "higher")
        assert found.score is not None
        rates.add("told", found.score.claim(who(8), who(7)).word == "clear")
        means = [float(np.mean(y)) for y in got]
        dof = 8 * (tries - 1)
        g = [float(np.hypot(m, c)) for m in means]
        s2 = sum(sum((v - m) ** 2 for v in y) / h**2 for y, m, h in zip(got, means, g, strict=True)) / dof
        se = (s2 * (g[7] ** 2 + g[6] ** 2) / tries) ** 0.5
        rates.add("t test", abs(means[7] - means[6]) > stats.t.ppf(0.975, dof) * se)
    return rates


def advised(again: int, classes: int, seed: int) -> list[tuple[float, float, int]]:
    """After looking at the winner: the chance that is said that more tries tell it from the second, and how
    often they do; builds whose true spread is 0, 1, 2 and 4 times a try's; `again` of eight were tried
    twice before. By tenths of what was said: said, found, how many."""
    dice, said, was = np.random.default_rng(seed), [], []
    c = FLOOR_S / SHARE
    for i in range(classes):
        tau = (0.0, 1.0, 2.0, 4.0)[i % 4] * SHARE * float(np.hypot(100.0, c))
        true = np.maximum(100.0 + dice.normal(0, tau, 8), 20.0)
        noise = Noise(SHARE, FLOOR_S)
        got = [noise.tries(y, 1 + (t < again), dice) for t, y in enumerate(true)]
        found = analyse(RACE, [raced(t + 1, 1, y) for t, y in enumerate(got)], LONGEST, {}, "higher")
        measured, (first, second) = found.score, (p.key for p in found.places[:2])
        assert measured is not None
        plus = dict.fromkeys((first, second), int(dice.integers(1, 4)))
        chance = measured.chance(first, second, plus)
        if chance is None or measured.claim(first, second).word == "clear":
            continue
        for subject in plus:
            team = subject.team_id - 1
            got[team] += noise.tries(float(true[team]), plus[subject], dice)
        then = analyse(RACE, [raced(t + 1, 1, y) for t, y in enumerate(got)], LONGEST, {}, "higher").score
        assert then is not None
        said.append(chance)
        was.append(then.claim(first, second).word == "clear")
    tenth = np.minimum((np.array(said) * 10).astype(int), 9)
    return [
        (
            float(np.mean(np.array(said)[tenth == k])),
            float(np.mean(np.array(was)[tenth == k])),
            int((tenth == k).sum()),
        )
        for k in range(10)
        if (tenth == k).any()
    ]


def melting(share: float, day: float, classes: int, seed: int, *, again: int = 3) -> Rates:
    """Pairs of melting devices that are no better than their control, and second versions no better than
    the first, on a day on which all takes `day` times as long; `again` teams repeat their first version."""
    dice, rates = np.random.default_rng(seed), Rates()
    mark = Plan((Part(place="slow_wrap", material="newspaper", form="flat", units=1),), {})
    for _ in range(classes):
        true = {t: (float(dice.uniform(20, 35)), float(dice.uniform(35, 60))) for t in range(1, 9)}
        true[1] = (35.0, 35.0)  # neither of its devices differs from the control
        tried = []
        for run, by in ((1, 1.0), (2, day)):
            control = melted(35.0 * by, share, dice)
            for t, (fast, slow) in true.items():
                new = run == 2 and t > again
                traces = {"fast": melted(fast * by, share, dice), "slow": melted(slow * by, share, dice)}
                trial = Trial(
                    traces=traces,
                    conditions={"stage": 3.0},
                    control={"control": control},
                    plan=mark if new else Plan(),
                )
                tried.append(Tried(subject=who(t, 1 + new), run=run, plan=trial.plan, trial=trial))
        found = analyse(PAIR, tried, [Term(metric="beats", unit="dimensionless")], {})
        for g in found.gains:
            rates.add("clear gain", g.claim.word == "clear")
        for beside in found.beside:
            if beside.subject.team_id == 1:
                rates.add("beats its equal", beside.claim.word == "clear")
    return rates


def melted(minutes: float, share: float, dice: Dice) -> Trace:
    """Stages seen every two minutes; the third comes at about so many minutes."""
    at = minutes * float(np.exp(dice.normal(0, share)))
    marks = [120.0 * k for k in range(1, 46)]
    return Trace(tuple(marks), tuple(float(min(int(3 * m / 60 / at), 4)) for m in marks))
