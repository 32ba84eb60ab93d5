"""How often claims are wrong: whole classes through the families' simulators and the page's `analyse`.

Every try of a build differs by two hundredths in the light or wind it gets (placing, draughts), which
nobody records, beside reading noise and rounding; thermometers are off by half a kelvin unless checked.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field, replace
from itertools import combinations

import numpy as np
from scipy import stats

from thermion.core.judging.claims import P95, compare, settle
from thermion.core.judging.findings import Findings, Tried, analyse
from thermion.core.judging.spread import Spread, pool
from thermion.core.judging.standings import standing
from thermion.core.kinds import get_kind
from thermion.core.kinds.briefing import Term
from thermion.core.kinds.trials import Attempt, Trace, Trial
from thermion.core.plans import Part, Plan
from thermion.core.subjects import Subject

OVEN = get_kind("solar_oven")
HOTTEST = [Term(metric="peak", unit="degC")]
TOLERANCE = {c.key: c.si("tolerance") for c in OVEN.brief.conditions}
TRY = 0.02  # of the light: how much one try gets more or less than the next
Dice = np.random.Generator


@dataclass
class Rates:
    """Counts of what was said, and of what was wrong."""

    count: dict[str, int] = field(default_factory=dict)
    of: dict[str, int] = field(default_factory=dict)

    def add(self, name: str, wrong: bool, times: int = 1) -> None:
        self.count[name] = self.count.get(name, 0) + int(wrong)
        self.of[name] = self.of.get(name, 0) + times

    def rate(self, name: str) -> float:
        return self.count.get(name, 0) / max(self.of.get(name, 0), 1)


def box(felt: float) -> Plan:
    """A plain box, the better for more felt in its walls."""
    parts = (
        Part(place="window", material="cling_film", form="flat", units=2),
        Part(place="absorber", material="black_paper", form="flat", units=2),
        Part(place="wall", material="felt", form="flat", units=felt),
        Part(place="seal", material="tape", form="flat", units=3),
    )
    return Plan(parts, OVEN.build.usual().factors)


def oven_run(
    number: int,
    builds: Sequence[tuple[Subject, Plan, Plan]],
    sun: float,
    offs: dict[int, float],
    dice: Dice,
    *,
    share: float = 0.05,
    checked: bool = True,
) -> list[Tried]:
    """One run: subject, the plan as it is declared, and as the physics has it."""
    said = sun * (1 + dice.normal(0, share))
    rig = {**OVEN.brief.default_rig(), "sun_deg": 50.0, "sky": 0.0, "air_c": 20.0, "start_c": 20.0}
    out = []
    for subject, declared, real in builds:
        light = sun * (1 + dice.normal(0, TRY))
        (trial,) = OVEN.rehearsal.simulate(
            [real], {**rig, "irradiance_w_m2": light}, int(dice.integers(1 << 30))
        )
        off = offs[subject.team_id]
        traces = {
            key: Trace(t.time_s, tuple(float(np.round((v + off) * 2) / 2) for v in t.value))
            for key, t in trial.traces.items()
        }
        shown = {**rig, "irradiance_w_m2": said, "u_thermometer": 0.3 if checked else 0.5}
        uncertain = {"irradiance_w_m2": share * said, "air_c": 0.5}
        out.append(
            Tried(
                subject=subject,
                run=number,
                plan=declared,
                trial=replace(trial, traces=traces, conditions=shown, uncertain=uncertain, plan=declared),
            )
        )
    return out


def who(team: int, version: int = 1) -> Subject:
    return Subject(1, 1, team, version)


def offsets(teams: int, dice: Dice, checked: bool) -> dict[int, float]:
    """What each thermometer shows too much [K]; what a check in one glass leaves of it."""
    return {team: float(dice.normal(0, 0.25 if checked else 0.5)) for team in range(1, teams + 1)}


def equal_ovens(repeated: int, classes: int, seed: int, *, teams: int = 8) -> Rates:
    """Identical boxes, so many of them tried again: what is called clear, and who is called first."""
    dice, rates = np.random.default_rng(seed), Rates()
    for _ in range(classes):
        offs, plan, sun = offsets(teams, dice, True), box(2), float(dice.uniform(550, 800))
        builds = [(who(t), plan, plan) for t in range(1, teams + 1)]
        tried = oven_run(1, builds, sun, offs, dice) + oven_run(2, builds[:repeated], sun, offs, dice)
        _count(analyse(OVEN, tried, HOTTEST, TOLERANCE), rates)
    return rates


def equal_sails(tries: int, classes: int, seed: int, *, teams: int = 8) -> Rates:
    """Identical sails, so many attempts each."""
    kind, dice, rates = get_kind("sail_run"), np.random.default_rng(seed), Rates()
    for _ in range(classes):
        tried = []
        for team in range(1, teams + 1):
            stops = np.clip(np.round(1.4 + dice.normal(0, 0.12, tries), 2), 0, 2.39)
            attempts = tuple(Attempt({"stop_m": float(s)}) for s in stops)
            tried.append(
                Tried(
                    subject=who(team),
                    run=1,
                    plan=Plan(),
                    trial=Trial(traces={}, conditions={"track_m": 2.4}, attempts=attempts),
                )
            )
        _count(analyse(kind, tried, [Term(metric="share", unit="percent")], {}), rates)
    return rates


def _count(found: Findings, rates: Rates) -> None:
    measured = found.score
    assert measured is not None
    words = [measured.claim(a.key, b.key).word for a, b in combinations(found.places, 2)]
    for word in words:
        rates.add("clear", word == "clear")
        rates.add("leaning or clear", word in ("leaning", "clear"))
    rates.add("sole first", bool(found.places) and found.places[0].sole_first)


def unchanged(
    sticks: int, shift: float, classes: int, seed: int, *, share: float = 0.05, repeated: int = 2
) -> Rates:
    """Eight teams whose second version is no better than the first, on a day with another sun; with so
    many yardsticks, or corrected by physics where there is none."""
    dice, rates = np.random.default_rng(seed), Rates()
    for _ in range(classes):
        teams = 8 + sticks
        offs, sun = offsets(teams, dice, True), float(dice.uniform(550, 700))
        plans = {t: box(float(dice.integers(1, 5))) for t in range(1, teams + 1)}
        mark = Part(place="floor", material="newspaper", form="flat", units=1)  # declared, and of no effect
        first = [(who(t), p, p) for t, p in plans.items()]
        second = [
            (who(t, 2), Plan((*p.parts, mark), p.factors), p) if t <= 8 else (who(t), p, p)
            for t, p in plans.items()
        ]
        tried = oven_run(1, first, sun, offs, dice, share=share)
        tried += oven_run(2, second, sun + shift, offs, dice, share=share)
        if repeated:
            tried += oven_run(3, second[:repeated], sun + shift, offs, dice, share=share)
        gains = analyse(OVEN, tried, HOTTEST, TOLERANCE).gains
        wrong = [g.claim.word == "clear" for g in gains]
        for one in wrong:
            rates.add("clear gain", one)
        rates.add("two or more in a class", sum(wrong) >= 2)
    return rates


def power(gap: float, tries: int, classes: int, seed: int, *, teams: int = 6) -> Rates:
    """A build ahead of equals by so many spreads: how often its lead is told, beside a pooled t test and
    somebody who knows the spread."""
    dice, rates = np.random.default_rng(seed), Rates()
    for _ in range(classes):
        y = dice.normal(0, 1, (teams, tries))
        y[0] += gap
        found = standing(dict(enumerate(y)), "higher", resolution=0, spread=pool(y))
        rates.add("told", found[0].sole_first and found[0].key == 0)
        rates.add("wrong one", found[0].sole_first and found[0].key != 0)
        rival = y[1:][np.argmax(y[1:].mean(axis=1))].mean()
        lead, dof = y[0].mean() - rival, teams * (tries - 1)
        s2 = float(((y - y.mean(axis=1, keepdims=True)) ** 2).sum()) / dof
        rates.add("pooled t test", lead > stats.t.ppf(P95, dof) * (s2 * 2 / tries) ** 0.5)
        rates.add("knows the spread", lead > stats.norm.ppf(P95) * (2 / tries) ** 0.5)
    return rates


def settled(gap: float, dof: int, classes: int, seed: int) -> tuple[int | None, float, float]:
    """What `settle` asks for, the power it promises there, and how often it then is clear."""
    from thermion.core.judging.claims import power_of

    dice, hits = np.random.default_rng(seed), 0
    more = settle(gap, Spread(sd=1.0, dof=dof), 1, 1)
    if more is None:
        return None, 0.0, 0.0
    for _ in range(classes):
        a, b = dice.normal(gap, 1, 1 + more), dice.normal(0, 1, 1 + more)
        spread = pool([*dice.normal(0, 1, (dof, 2)), a, b])
        hits += compare(a, b, resolution=0, spread=spread).word == "clear"
    promised = power_of(gap / (2 / (1 + more)) ** 0.5, dof + 2 * more)
    return more, promised, hits / classes


def calibration(builds: int, tries: int, classes: int, seed: int) -> list[tuple[float, float, int]]:
    """Of the chances of being best in each tenth: said on average, true on average, how many."""
    dice, said, was = np.random.default_rng(seed), [], []
    for i in range(classes):
        true = dice.normal(0, (0.3, 1, 3)[i % 3], builds)
        y = true[:, None] + dice.normal(0, 1, (builds, tries))
        for s in standing(dict(enumerate(y)), "higher", resolution=0, spread=pool(y)):
            said.append(s.chance_best or 0.0)
            was.append(s.key == true.argmax())
    tenth = np.minimum((np.array(said) * 10).astype(int), 9)
    out = []
    for k in range(10):
        mine = tenth == k
        if mine.any():
            out.append(
                (float(np.mean(np.array(said)[mine])), float(np.mean(np.array(was)[mine])), int(mine.sum()))
            )
    return out
