"""What a test of the record has room for, as a table is read for it or made to be filled in."""

from __future__ import annotations

from collections.abc import Iterable

from sqlalchemy.orm import Session

from thermion.core.kinds.testing import Reads
from thermion.formats.spreadsheet.wanted import BuildLine, Stretch, Wanted
from thermion.records.planning.briefs import Brief
from thermion.records.planning.week import timing_of
from thermion.records.tables import Challenge, Entry, Run, Team

AIR = ("air", "outside", "ambient")
CONTROL = ("control", "bare", "untouched")


def wanted_of(session: Session, run: Run, brief: Brief) -> Wanted:
    """Rows, marks and reads of a run."""
    tries = timing_of(session, run.challenge, brief).attempts
    return _wanted(tuple(_line(entry, brief) for entry in run.entries), brief, tries, run.number)


def wanted_of_challenge(session: Session, challenge: Challenge, brief: Brief) -> Wanted:
    """The same for all teams of a class, before there is a run."""
    test = brief.kind.test
    lines = [BuildLine(key=-1, name="Control", also=CONTROL)] if test.control else []
    if test.shape == "marks" and test.reads_air:
        lines.append(BuildLine(key=-2, name="Air", also=AIR))
    for team in challenge.school_class.present:
        lines += [_of_team(team, 0, device, brief) for device in dict(test.devices) or [""]]
    return _wanted(tuple(lines), brief, timing_of(session, challenge, brief).attempts, 1)


def _wanted(lines: tuple[BuildLine, ...], brief: Brief, tries: int, run: int) -> Wanted:
    test, choices = brief.kind.test, brief.choices
    reads = tuple(test.attempt_reads(choices))
    later = test.later_for(choices)
    return Wanted(
        lines=lines,
        setting=brief.setting,
        run=run,
        attempts=tries,
        stretches=tuple(
            Stretch(key=p.key, label=p.label, marks_s=tuple(brief.marks[p.key]))
            for p in test.phases
            if test.shape == "marks" and brief.marks.get(p.key)
        ),
        read=test.grid_read(choices),
        reads=reads,
        counted=next((r for r in reads if r.whole and not r.words and r.limit), None),
        later=later.read if later is not None else None,
        usual=_usual(reads, brief),
        seen=test.observations,
    )


def _line(entry: Entry, brief: Brief) -> BuildLine:
    if entry.version is not None:
        return _of_team(entry.version.build.team, entry.id, entry.device, brief)
    if entry.is_air:
        return BuildLine(key=entry.id, name="Air", also=AIR)
    return BuildLine(key=entry.id, name="Control", also=CONTROL)


def _of_team(team: Team, key: int, device: str, brief: Brief) -> BuildLine:
    label = dict(brief.kind.test.devices).get(device, "")
    return BuildLine(key=key, name=team.name, letter=team.letter, device=label, device_key=device)


def _usual(reads: Iterable[Reads], brief: Brief) -> dict[str, str]:
    """What is the same with every attempt unless a table says otherwise, and what all the way is."""
    suggested, _ = brief.kind.test.suggest([], brief.values, brief.choices)
    out = {}
    for read in reads:
        value = suggested.get(read.key, brief.values.get(read.common) if read.common else None)
        if value is not None and not (read.whole and read.limit):
            out[read.key] = brief.setting.typed(value, read.unit, 3)
        if read.zero and read.limit in brief.values:
            out[f"{read.key}-full"] = brief.setting.typed(brief.values[read.limit], read.unit, 3)
    return out
