"""The plan of a week as an iCalendar file (RFC 5545)."""

from __future__ import annotations

from datetime import UTC, datetime, timedelta
from typing import TYPE_CHECKING

from thermion.records.planning.week import WeekPlan

if TYPE_CHECKING:
    from icalendar import Event


def week_calendar(plan: WeekPlan, class_id: int, class_name: str, now: datetime) -> bytes:
    """One event for each stretch of a step, and one for packing up each lesson.

    Ids are stable, so that importing the file again replaces what was imported before.
    """
    from icalendar import Calendar  # loads half as long as the whole application, and is asked for rarely

    calendar = Calendar()
    calendar.add("prodid", "-//Thermion//Plan of a week//EN")
    calendar.add("version", "2.0")
    calendar.add("x-wr-calname", class_name)
    titles = {str(c.id): c.title for c in plan.challenges}
    labels = {s.key: s.label for t in plan.tasks for s in t.steps()}
    for block in plan.timeline.blocks:
        lesson = plan.lessons[block.lesson]
        start = lesson.start + timedelta(seconds=block.start_s)
        name = titles[block.step.split(":")[0]]
        more = " (goes on next lesson)" if block.goes_on else ""
        key = f"{block.step.replace(':', '-')}-{block.lesson}"
        about = f"{class_name}{more}"
        says = f"{name}: {labels[block.step]}"
        calendar.add_component(
            _event(key, class_id, start, block.length_s, summary=says, about=about, now=now)
        )
    for i, lesson in enumerate(plan.lessons):
        if lesson.pack_up_s:
            start = lesson.start + timedelta(seconds=lesson.room_s)
            packing = _event(
                f"pack-{i}", class_id, start, lesson.pack_up_s, summary="Pack up", about=class_name, now=now
            )
            calendar.add_component(packing)
    return bytes(calendar.to_ical())


def _event(
    key: str, class_id: int, start: datetime, length_s: float, summary: str, about: str, now: datetime
) -> Event:
    from icalendar import Event

    event = Event()
    event.add("uid", f"class{class_id}-{key}@thermion.local")
    event.add("dtstamp", now.astimezone(UTC))
    event.add("dtstart", start.astimezone(UTC))
    event.add("dtend", (start + timedelta(seconds=round(length_s))).astimezone(UTC))
    event.add("summary", summary)
    event.add("description", about)
    return event
