"""The plan of the week as a calendar, read by another library."""

from __future__ import annotations

from datetime import UTC, datetime, timedelta

import vobject

from tests.conftest import Crew
from thermion.formats.calendar import week_calendar
from thermion.records.planning import week

MONDAY = datetime(2026, 6, 1, 9, 0, tzinfo=UTC)


def events(crew: Crew, now: datetime) -> dict[str, tuple[str, datetime, datetime]]:
    with crew.database.session() as session:
        plan = week.week_of(session, crew.class_id)
        text = week_calendar(plan, crew.class_id, "Relief crew", now).decode()
    found = vobject.readOne(text)
    assert found.serialize()  # validates what the standard asks for
    return {e.uid.value: (e.summary.value, e.dtstart.value, e.dtend.value) for e in found.vevent_list}


def test_another_library_reads_every_stretch_at_its_moment(crew):
    with crew.database.writing() as session:
        for i in range(4):
            week.save_lesson(session, crew.class_id, MONDAY + timedelta(days=i), 3900, 300)
    found = events(crew, MONDAY)
    by_name = {name: (start, end) for name, start, end in found.values()}
    assert by_name["Keeper's supper: Task"] == (MONDAY, MONDAY + timedelta(minutes=10))
    start, end = by_name["Keeper's supper: Test"]
    assert start == MONDAY + timedelta(days=1)
    assert timedelta(minutes=50) < end - start < timedelta(minutes=60)
    assert sum(name == "Pack up" for name, _, _ in found.values()) == 4
    again = events(crew, MONDAY + timedelta(hours=5))
    assert again.keys() == found.keys()
