"""What to try once more while the builds are there."""

from __future__ import annotations

from math import ceil

from thermion.core.planning.week import tries_length
from thermion.records.planning.briefs import Brief
from thermion.records.planning.week import timing_of
from thermion.records.running.repeats import already_tested
from thermion.records.tables import Challenge, Run
from thermion.web.places.runs import words
from thermion.web.sessions import read_session


def again(run: Run, challenge: Challenge, brief: Brief) -> str:
    """The cheapest repeat, where nothing was tried twice yet; empty in a rehearsal or before a start."""
    if run.rehearsal or not run.phases:
        return ""
    tested = already_tested(read_session(), challenge.id)
    timing = timing_of(read_session(), challenge, brief)
    seconds = tries_length(brief.kind, timing, 1, 1, brief.marks)
    return words.repeat_hint(tested, ceil(seconds / 60))
