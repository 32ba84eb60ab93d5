"""What a page would ask about in a challenge file that can be stored: limits of an age, open questions."""

from __future__ import annotations

from collections.abc import Iterator
from datetime import datetime, timedelta

from thermion.core.kinds import kind_for
from thermion.core.physics.units import Setting
from thermion.formats.checking.said import number_of
from thermion.formats.checking.shape import leaves, place
from thermion.formats.schema import ChallengeFile, RunItem
from thermion.records import moments

A_DAY = timedelta(days=1)


def asked(file: ChallengeFile) -> list[str]:
    """Sentences, each with its place: numbers that could hurt someone of this age, values in question."""
    c = file.challenge
    setting = Setting(file.school_class.temp_unit, file.school_class.decimal)
    given = [("the brief", s.key, s.value) for s in c.settings]
    given += [(f"run {r.number}", x.key, x.value) for r in c.runs for x in r.conditions]
    out = [said for where, key, value in given for said in _beyond_age(file, setting, where, key, value)]
    out += [said for run in c.runs for said in _in_question(run)]
    latest = moments.now() + A_DAY
    ahead = [path for path, value, _ in leaves(c) if isinstance(value, datetime) and value > latest]
    if ahead:
        first = place(ahead[0])
        out.append(f"{len(ahead)} moments have not been yet ({first}): which computer's clock is wrong?")
    return out


def _beyond_age(file: ChallengeFile, setting: Setting, where: str, key: str, value: float) -> Iterator[str]:
    """A number beyond what keeps the age of its challenge from harm."""
    c = file.challenge
    condition = kind_for(c.kind, c.age_band).brief.setting(key)
    limits = number_of(condition)
    if condition.words or limits.low - 1e-9 <= value <= limits.high + 1e-9:
        return
    shown, most = (setting.show(x, condition.unit) for x in (value, limits.high))
    least = setting.show(limits.low, condition.unit)
    ages = c.age_band.replace("-", " to ")
    yield f"{condition.label} in {where} is {shown}: {least} to {most} at ages {ages}."


def _in_question(run: RunItem) -> Iterator[str]:
    """Values that are stored with a question nobody has answered yet."""
    replaced = {r.supersedes for r in run.readings}
    for i, r in enumerate(run.readings):
        if not r.question or i in replaced or r.value is None:
            continue
        entry = run.entries[r.entry]
        who = f"{entry.team}{entry.version}" if entry.team else (entry.device or "air")
        at = r.time_s if r.mark_s is None else r.mark_s
        yield f"Run {run.number}, {who}, {r.phase} {at / 60:g} min: {r.question}"
