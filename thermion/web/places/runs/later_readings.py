"""What is read once more after a test: ice weighed at the end, leaks of a store."""

from __future__ import annotations

from dataclasses import dataclass

from thermion.core.kinds.testing import Reads
from thermion.records.planning.briefs import Brief
from thermion.records.running import later_readings
from thermion.records.tables import Entry, Reading, Run
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
    asks_when: bool  # it is typed afterwards: how long after the start was it read?
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
                LaterShown(r.id, show(r.value, read.unit, read.digits), _when(r, run, zone), r.question)
                for r in found.get(entry.id, [])
            ],
        )
        for entry in run.entries
        if not entry.is_air and only in (None, entry.id)
    ]
    asks_when = run.paper or run.closed_at is not None
    return LaterPanel(read, brief.setting.label(read.unit), asks_when, rows)


def _when(reading: Reading, run: Run, zone: str) -> str:
    """When it was read: at its minute where no clock ran."""
    if run.paper:
        return f"minute {reading.time_s / 60:.0f}"
    return clock_time(reading.entered_at, zone)
