"""What a challenge file may hold: every key known, every number in its range, nothing twice.

The schema has looked at the shape; here stands what only the family and the class can tell. Each fault
is said with its place, as `runs[2].entries[0].team: …`.
"""

from __future__ import annotations

from collections.abc import Hashable, Iterable, Mapping, Sequence
from zoneinfo import available_timezones

from thermion.core.judging.scoring import score
from thermion.core.kinds import all_kinds
from thermion.core.kinds.base import Kind
from thermion.core.kinds.briefing import Condition, Term
from thermion.core.kinds.criteria import criterion_of, with_criteria
from thermion.core.physics.materials import FORMS, MATERIALS
from thermion.core.planning.rungs import Rung
from thermion.core.planning.week import PHASES
from thermion.core.values import Figure
from thermion.formats.schema import (
    AttemptItem,
    ChallengeFile,
    ChallengeItem,
    ClassItem,
    PartItem,
    ReadingItem,
    RunItem,
    TimingItem,
    VersionItem,
)
from thermion.records.errors import Refused
from thermion.records.judging.criteria import quantity
from thermion.records.planning.briefs import LONGEST_MARK_S, MOST_MARKS
from thermion.records.running.runs import SPEEDS

MOST_RUNS, MOST_VERSIONS = 500, 200
BEYOND = 4.0  # times the range of a setting, within which a number of another class may lie


def check_file(file: ChallengeFile) -> None:
    """Refused, with the place in the file, at the first thing that could not be stored or shown."""
    c = file.challenge
    kind = all_kinds().get(c.kind)
    if kind is None:
        raise Refused(f"This Thermion does not know the family “{c.kind}”.", "file")
    _check_class(file.school_class)
    _check_brief(c, kind)
    _check_rule(c, kind)
    _check_plans(c, kind, {t.letter for t in file.school_class.teams})
    _check_ideas(c, kind, {t.letter for t in file.school_class.teams})
    _check_runs(c, kind)


def _no(where: str, what: str) -> Refused:
    return Refused(f"{where}: {what}.", "file")


def _twice(where: str, items: Iterable[Hashable]) -> None:
    seen: set[Hashable] = set()
    for i, item in enumerate(items):
        if item in seen:
            raise _no(f"{where}[{i}]", "is there twice")
        seen.add(item)


def _among(where: str, value: object, known: Iterable[object]) -> None:
    if value not in set(known):
        raise _no(where, f"“{value}” is not known")


def _check_class(item: ClassItem) -> None:
    _among("school_class.zone", item.zone, available_timezones())
    _twice("school_class.teams", (t.letter for t in item.teams))
    _twice("school_class.teams", (t.name.strip().lower() for t in item.teams))


def _check_brief(c: ChallengeItem, kind: Kind) -> None:
    known = {x.key: x for x in kind.brief.every_setting()}
    _twice("settings", (s.key for s in c.settings))
    for i, s in enumerate(c.settings):
        _among(f"settings[{i}].key", s.key, known)
        _in_range(f"settings[{i}].value", s.value, known[s.key])
    _twice("choices", (x.key for x in c.choices))
    options = {x.key: [key for key, _ in x.options] for x in kind.brief.choices}
    for i, x in enumerate(c.choices):
        _among(f"choices[{i}].key", x.key, options)
        _among(f"choices[{i}].value", x.value, options[x.key])
    _check_marks(c, [p.key for p in kind.test.phases])
    _twice("offers", (o.material for o in c.offers))
    for i, o in enumerate(c.offers):
        _material(f"offers[{i}]", o.material)
    _twice("rig", ((r.check_key, r.spot) for r in c.rig))
    _twice("steps", (s.phase for s in c.steps))
    for i, step in enumerate(c.steps):
        _among(f"steps[{i}].phase", step.phase, (p.key for p in PHASES))
    if c.timing is not None:
        _check_timing(c.timing)


def _check_timing(timing: TimingItem) -> None:
    from thermion.core.planning.week import Timing

    try:
        Timing(**timing.model_dump()).check()
    except ValueError as error:
        raise _no("timing", str(error)) from None
    if max(timing.read_s, timing.set_up_s, timing.fit_s, timing.run_s, timing.reset_s) > LONGEST_MARK_S:
        raise _no("timing", f"longer than {LONGEST_MARK_S / 3600:g} hours")


def _in_range(where: str, value: float, condition: Condition) -> None:
    """Within what a brief can hold, generously: briefs of before had other limits."""
    low, high = condition.si("low"), condition.si("high")
    room = BEYOND * (high - low) + abs(condition.si("default"))
    if not low - room <= value <= high + room or (low >= 0 > value):
        raise _no(where, f"{value:g} is out of the range of “{condition.label.lower()}”")
    if condition.words and not 0 <= round(value) < len(condition.words):
        raise _no(where, f"{value:g} is none of the words of “{condition.label.lower()}”")


def _check_marks(c: ChallengeItem, phases: Sequence[str]) -> None:
    by: dict[str, list[float]] = {}
    for i, mark in enumerate(c.marks):
        _among(f"marks[{i}].phase", mark.phase, phases)
        if mark.time_s > LONGEST_MARK_S:
            raise _no(f"marks[{i}].time_s", f"beyond {LONGEST_MARK_S / 3600:g} hours")
        by.setdefault(mark.phase, []).append(mark.time_s)
    _twice("marks", ((m.phase, m.time_s) for m in c.marks))
    for phase, times in by.items():
        if len(times) > MOST_MARKS:
            raise _no("marks", f"{len(times)} in {phase}, at most {MOST_MARKS}")
        if min(times) != 0:
            raise _no("marks", f"the first one of {phase} is not at 0")


def _check_rule(c: ChallengeItem, kind: Kind) -> None:
    _among("school", c.school, (*(s.key for s in kind.brief.schools), "own"))
    if not c.terms:
        raise _no("terms", "a rule needs at least one")
    rule = [
        Term(metric=t.metric, unit=t.unit, weight=t.weight, divisor=t.divisor, cap=t.cap) for t in c.terms
    ]
    try:
        kind = with_criteria(kind, [t.metric for t in c.terms])
        score(rule, {m.key: Figure(value=1.0) for m in kind.analysis.metrics}, kind.analysis.metric_units())
    except ValueError as error:
        raise _no("terms", str(error)) from None


def _check_plans(c: ChallengeItem, kind: Kind, letters: set[str]) -> None:
    places = {p.key for p in kind.build.places}
    factors = {f.key: f for f in kind.build.factors}
    _twice("builds", (b.team for b in c.builds))
    for i, build in enumerate(c.builds):
        if build.team not in letters:
            raise Refused(f"A build belongs to team {build.team}, which is not in the file.", "file")
        if not 1 <= len(build.versions) <= MOST_VERSIONS:
            raise _no(f"builds[{i}].versions", f"1 to {MOST_VERSIONS}")
        _twice(f"builds[{i}].versions", (v.number for v in build.versions))
        for j, v in enumerate(build.versions):
            where = f"builds[{i}].versions[{j}]"
            if v.idea is not None and v.idea not in letters:
                raise Refused("An idea is said to come from a team that is not in the file.", "file")
            _check_version(where, v, places)
            _twice(f"{where}.factors", (f.key for f in v.factors))
            for k, f in enumerate(v.factors):
                _among(f"{where}.factors[{k}].key", f.key, factors)
                low, high = factors[f.key].si("low"), factors[f.key].si("high")
                if not low - (high - low) <= f.value <= high + (high - low):
                    raise _no(f"{where}.factors[{k}].value", f"{f.value:g} cannot be")


def _check_ideas(c: ChallengeItem, kind: Kind, letters: set[str]) -> None:
    """Each idea is of a team of the file, at places and of materials that are known."""
    places = {p.key for p in kind.build.places}
    _twice("ideas", ((i.team, i.number) for i in c.ideas))
    for i, idea in enumerate(c.ideas):
        _among(f"ideas[{i}].team", idea.team, letters)
        for place, material in idea.picks.items():
            _among(f"ideas[{i}].picks", place, places)
            _material(f"ideas[{i}].picks", material)
    _twice("rungs", (r.key for r in c.rungs))
    _twice("rungs", (letter for r in c.rungs for letter in r.teams))
    for i, r in enumerate(c.rungs):
        try:
            Rung(key=r.key, share=r.share, words=r.words, aim=r.aim).check()
        except ValueError as error:
            raise _no(f"rungs[{i}]", str(error)) from None
        for letter in r.teams:
            _among(f"rungs[{i}].teams", letter, letters)
    for i, u in enumerate(c.understood):
        _among(f"understood[{i}].team", u.team, letters)
    _twice("taken", ((t.team, t.source, t.what) for t in c.taken))
    for i, t in enumerate(c.taken):
        _among(f"taken[{i}].team", t.team, letters)
        _among(f"taken[{i}].source", t.source, letters - {t.team})


def _check_version(where: str, v: VersionItem, places: set[str]) -> None:
    for k, said in enumerate(v.judged):
        try:
            most = quantity(criterion_of(said.criterion)).high
        except ValueError as error:
            raise _no(f"{where}.judged[{k}].criterion", str(error)) from None
        if said.value is not None and not 0 <= said.value <= most:
            raise _no(f"{where}.judged[{k}].value", "outside the criterion's marks")
    for k, part in enumerate(v.parts):
        at = f"{where}.parts[{k}]"
        _among(f"{at}.place", part.place, places)
        _check_part(at, part)


def _material(where: str, name: str) -> None:
    if name not in MATERIALS:
        raise _no(f"{where}.material", f"this Thermion does not know the material “{name}”")


def _check_part(at: str, part: PartItem) -> None:
    _material(at, part.material)
    _among(f"{at}.form", part.form, FORMS)
    if part.reused > part.units:
        raise _no(f"{at}.reused", "more than there are")


def _check_runs(c: ChallengeItem, kind: Kind) -> None:
    versions = {(b.team, v.number) for b in c.builds for v in b.versions}
    devices = {"", "control", *(key for key, _ in kind.test.devices)}
    conditions = {x.key: x for x in kind.brief.conditions}
    if len(c.runs) > MOST_RUNS:
        raise _no("runs", f"at most {MOST_RUNS}")
    _twice("runs", (r.number for r in c.runs))
    for i, run in enumerate(c.runs):
        where = f"runs[{i}]"
        _check_run(where, run, conditions)
        _twice(f"{where}.entries", ((e.team, e.version, e.device) for e in run.entries))
        for k, e in enumerate(run.entries):
            if e.team is not None and (e.team, e.version) not in versions:
                raise Refused(f"Run {run.number} tests {e.team}{e.version}, which is not there.", "file")
            _among(f"{where}.entries[{k}].device", e.device, devices)
        _check_noted(where, run, len(run.entries))


def _check_run(where: str, run: RunItem, conditions: Mapping[str, Condition]) -> None:
    _among(f"{where}.speed", run.speed, SPEEDS)
    _twice(f"{where}.phases", (p.phase for p in run.phases))
    _twice(f"{where}.conditions", (x.key for x in run.conditions))
    for k, x in enumerate(run.conditions):
        _among(f"{where}.conditions[{k}].key", x.key, conditions)
        _in_range(f"{where}.conditions[{k}].value", x.value, conditions[x.key])


def _check_noted(where: str, run: RunItem, rows: int) -> None:
    """Readings, attempts and what is set apart belong to rows; a correction to what stands before it."""
    noted: tuple[tuple[str, Sequence[ReadingItem | AttemptItem]], ...] = (
        ("readings", run.readings),
        ("attempts", run.attempts),
    )
    for what, items in noted:
        corrected: set[int] = set()
        for k, item in enumerate(items):
            if not 0 <= item.entry < rows:
                raise _no(f"{where}.{what}[{k}].entry", "it has no row")
            if item.supersedes is None:
                continue
            if not 0 <= item.supersedes < k:
                raise _no(f"{where}.{what}[{k}].supersedes", "corrects nothing")
            if item.supersedes in corrected:
                raise _no(f"{where}.{what}[{k}].supersedes", "corrects what was corrected before")
            corrected.add(item.supersedes)
    _twice(
        f"{where}.readings",
        ((r.entry, r.phase, r.mark_s) for r in run.readings if r.supersedes is None and r.mark_s is not None),
    )
    if any(a.entry is not None and not 0 <= a.entry < rows for a in run.aparts):
        raise Refused(f"Run {run.number}: what is set apart is not a row of it.", "file")
