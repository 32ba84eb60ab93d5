"""What to try once more while the builds are there."""

from __future__ import annotations

from thermion.core.judging.telling import design_chance
from thermion.core.planning.week import tries_length
from thermion.records.planning.briefs import Brief
from thermion.records.planning.week import timing_of
from thermion.records.running.repeats import already_tested
from thermion.records.tables import Challenge, Run
from thermion.web.components.advice import about, advice_now, often
from thermion.web.places.runs import words
from thermion.web.sessions import read_session


def again(run: Run, challenge: Challenge, brief: Brief, *, all_had: bool = False) -> str:
    """What more tries would tell: where everyone `all_had` their turns and a lesson is on, which of those
    that still fit; else the repeat that is needed, where nothing was tried twice yet. Empty in a rehearsal,
    before a start, and while a sheet is typed in."""
    if run.rehearsal or not run.phases or (run.paper and run.closed_at is None):
        return ""
    said = advice_now(challenge, brief) if all_had else ""
    if said:
        return said
    tested = already_tested(read_session(), challenge.id)
    if tested.twice or not tested.versions:
        return ""
    timing = timing_of(read_session(), challenge, brief)
    builds = max(run.builds, 2)
    length = tries_length(brief.kind, timing, builds, 1, brief.marks)
    chances = [often(design_chance(builds, n)) for n in (builds, 1)]
    return words.repeat_hint(about(length), *chances)
