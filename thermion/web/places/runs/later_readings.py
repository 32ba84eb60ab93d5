"""What is read once more after a test: ice weighed at the end, leaks of a store."""

from __future__ import annotations

from dataclasses import dataclass

from thermion.core.kinds.testing import Reads
from thermion.records.planning.briefs import Brief
from thermion.records.running import later_readings
from thermion.records.tables import Entry, Run
from thermion.web.components.frame import clock_time
from thermion.web.sessions import read_session


@dataclass(frozen=True)
class LaterShown:
    """A later reading as it is shown."""

    id: int
    text: str
    at: str
    question: str


@dataclass(frozen=True)
class LaterPanel:
    """What is asked later of each row (or of one), and what was read so far."""

    read: Reads
    unit: str
    rows: list[tuple[Entry, list[LaterShown]]]


def later_panel(run: Run, brief: Brief, zone: str, only: int | None = None) -> LaterPanel | None:
    """None when nothing is read later, or the test has not begun."""
    later = brief.kind.test.later_for(brief.choices)
    if later is None or not run.phases:
        return None
    read, show = later.read, brief.setting.show
    found = later_readings.current_later(read_session(), run, brief)
    rows = [
        (
            entry,
            [
                LaterShown(
                    r.id, show(r.value, read.unit, read.digits), clock_time(r.entered_at, zone), r.question
                )
                for r in found.get(entry.id, [])
            ],
        )
        for entry in run.entries
        if not entry.is_air and only in (None, entry.id)
    ]
    return LaterPanel(read, brief.setting.label(read.unit), rows)
