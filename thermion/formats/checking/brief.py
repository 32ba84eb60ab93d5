"""The class and the brief of a challenge file: conditions, marks, materials, the rule, the work of its lessons."""

from __future__ import annotations

from zoneinfo import available_timezones

from thermion.core.judging.scoring import score
from thermion.core.kinds.base import Kind
from thermion.core.kinds.briefing import Term
from thermion.core.kinds.criteria import with_criteria
from thermion.core.physics.materials import MATERIALS
from thermion.core.planning.rungs import Rung
from thermion.core.planning.safety import TOOLS
from thermion.core.planning.understanding import is_statement
from thermion.core.planning.week import PHASES, Timing
from thermion.core.plans import MOST_CREDIT, MOST_POINTS, MOST_UNITS
from thermion.core.values import Figure
from thermion.formats.checking.said import among, between, no, no_twice, number_of, within
from thermion.formats.schema import ChallengeFile, ChallengeItem, ClassItem
from thermion.records.planning.marks import LONGEST_MARK_S, check_marks
from thermion.records.running.rig import AIR, quantity_at

LONGEST_STEP_S = 6e5  # of a step of the work: a page takes 10,000 minutes


def check_brief(file: ChallengeFile, kind: Kind) -> None:
    c, letters = file.challenge, {t.letter for t in file.school_class.teams}
    _check_class(file.school_class)
    _check_numbers(c, kind)
    _check_marks(c, kind)
    _check_materials(c)
    _check_rule(c, kind)
    _check_lessons(c)
    _check_rig(c, kind, letters)
    _check_rungs(c, letters)
    no_twice("own_words", (w.word for w in c.own_words))
    for i, u in enumerate(c.understood):
        among(f"understood[{i}].team", u.team, letters)
        if not is_statement(u.key):
            raise no(f"understood[{i}].key", f"“{u.key}” is no statement")


def _check_class(item: ClassItem) -> None:
    among("school_class.zone", item.zone, available_timezones())
    no_twice("school_class.teams", (t.letter for t in item.teams))
    no_twice("school_class.teams", (t.name.strip().lower() for t in item.teams))


def _check_numbers(c: ChallengeItem, kind: Kind) -> None:
    known = {x.key: x for x in kind.brief.every_setting()}
    no_twice("settings", (s.key for s in c.settings))
    for i, s in enumerate(c.settings):
        among(f"settings[{i}].key", s.key, known)
        quantity = number_of(known[s.key])
        within(f"settings[{i}].value", s.value, quantity)
        between(f"settings[{i}].tolerance", s.tolerance, 0.0, quantity.high - quantity.low)
    no_twice("choices", (x.key for x in c.choices))
    options = {x.key: [key for key, _ in x.options] for x in kind.brief.choices}
    for i, x in enumerate(c.choices):
        among(f"choices[{i}].key", x.key, options)
        among(f"choices[{i}].value", x.value, options[x.key])


def _check_marks(c: ChallengeItem, kind: Kind) -> None:
    by: dict[str, list[float]] = {}
    for i, mark in enumerate(c.marks):
        among(f"marks[{i}].phase", mark.phase, (p.key for p in kind.test.phases))
        between(f"marks[{i}].time_s", mark.time_s, 0.0, LONGEST_MARK_S)
        by.setdefault(mark.phase, []).append(mark.time_s)
    no_twice("marks", ((m.phase, m.time_s) for m in c.marks))
    for phase, times in by.items():
        try:
            check_marks(sorted(times))
        except ValueError as error:
            raise no(f"marks, {phase}", str(error)) from None


def _check_materials(c: ChallengeItem) -> None:
    no_twice("offers", (o.material for o in c.offers))
    if not c.offers:
        raise no("offers", "at least one material")
    for i, o in enumerate(c.offers):
        check_material(f"offers[{i}]", o.material)
        between(f"offers[{i}].points", o.points, 0.0, MOST_POINTS)
        if o.limit_units is not None:
            between(f"offers[{i}].limit_units", o.limit_units, 1.0, MOST_UNITS)
    between("credit", c.credit, 0.0, MOST_CREDIT)


def check_material(where: str, name: str) -> None:
    if name not in MATERIALS:
        raise no(f"{where}.material", f"this Thermion does not know the material “{name}”")


def _check_rule(c: ChallengeItem, kind: Kind) -> None:
    among("school", c.school, (*(s.key for s in kind.brief.schools), "own"))
    if not c.terms:
        raise no("terms", "a rule needs at least one")
    rule = [
        Term(metric=t.metric, unit=t.unit, weight=t.weight, divisor=t.divisor, cap=t.cap) for t in c.terms
    ]
    for i, term in enumerate(rule):
        try:
            own = with_criteria(kind, [term.metric])
            known = {m.key: Figure(value=1.0) for m in own.analysis.metrics}
            score([term], known, own.analysis.metric_units())
        except ValueError as error:
            raise no(f"terms[{i}]", str(error)) from None


def _check_lessons(c: ChallengeItem) -> None:
    for tool in c.tools.split():
        among("tools", tool, (t.key for t in TOOLS))
    no_twice("steps", (s.phase for s in c.steps))
    for i, step in enumerate(c.steps):
        among(f"steps[{i}].phase", step.phase, (p.key for p in PHASES))
        between(f"steps[{i}].length_s", step.length_s, 0.0, LONGEST_STEP_S)
    if c.timing is None:
        return
    try:
        Timing(**c.timing.model_dump()).check()
    except ValueError as error:
        raise no("timing", str(error)) from None


def _check_rig(c: ChallengeItem, kind: Kind, letters: set[str]) -> None:
    checks, choices = {x.key: x for x in kind.test.bench.checks}, {x.key: x.value for x in c.choices}
    no_twice("rig", ((r.check_key, r.spot) for r in c.rig))
    for i, r in enumerate(c.rig):
        among(f"rig[{i}].check_key", r.check_key, checks)
        check = checks[r.check_key]
        spots = {*letters, AIR} if check.of_thermometers else set(check.readings)
        among(f"rig[{i}].spot", r.spot, spots or {""})
        within(f"rig[{i}].value", r.value, quantity_at(check, kind, kind.brief.chosen(choices)))


def _check_rungs(c: ChallengeItem, letters: set[str]) -> None:
    no_twice("rungs", (r.key for r in c.rungs))
    no_twice("rungs", (letter for r in c.rungs for letter in r.teams))
    for i, r in enumerate(c.rungs):
        try:
            Rung(key=r.key, share=r.share, words=r.words, aim=r.aim).check()
        except ValueError as error:
            raise no(f"rungs[{i}]", str(error)) from None
        for letter in r.teams:
            among(f"rungs[{i}].teams", letter, letters)
