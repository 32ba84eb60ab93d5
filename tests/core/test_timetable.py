"""The hours of a week and its holidays: no lesson is offered where there is none."""

from __future__ import annotations

from datetime import UTC, date, datetime, time, timedelta

import pytest
from hypothesis import given
from hypothesis import strategies as st

from thermion.core.planning.timetable import Holiday, Hour, next_hours, next_school_day

HOURS = (
    Hour(weekday=3, start=time(10, 15), length_s=3000, pack_up_s=300),
    Hour(weekday=0, start=time(8, 0), length_s=5400, pack_up_s=600),
)
THURSDAY = datetime(2026, 6, 4, 10, 15, tzinfo=UTC)


def test_the_next_hour_is_after_now_and_weeks_go_round():
    found = [at for at, _ in next_hours(HOURS, (), THURSDAY, 3)]
    assert [f"{at:%a %H:%M}" for at in found] == ["Mon 08:00", "Thu 10:15", "Mon 08:00"]
    assert next_hours(HOURS, (), THURSDAY - timedelta(seconds=1), 1)[0][0] == THURSDAY
    assert next_hours((), (), THURSDAY, 3) == []


@given(st.integers(0, 365 * 24 * 60), st.integers(0, 300), st.integers(0, 40))
def test_no_hour_is_offered_in_the_holidays_and_no_day_of_school_is_a_weekend(minutes, start, days):
    after = datetime(2026, 1, 1, tzinfo=UTC) + timedelta(minutes=minutes)
    free = Holiday(date(2026, 1, 1) + timedelta(days=start), date(2026, 1, 1) + timedelta(days=start + days))
    found = [at for at, _ in next_hours(HOURS, [free], after, 6)]
    assert len(found) == 6
    assert sorted(set(found)) == found
    assert all(at > after and not free.first <= at.date() <= free.last for at in found)
    assert {at.weekday() for at in found} <= {0, 3}
    day = next_school_day(after, [free])
    assert day.weekday() < 5
    assert not free.first <= day.date() <= free.last


def test_what_is_no_hour_and_no_holiday_is_said():
    with pytest.raises(ValueError, match="weekday"):
        Hour(weekday=7, start=time(8), length_s=60, pack_up_s=0)
    with pytest.raises(ValueError, match="pack_up_s"):
        Hour(weekday=0, start=time(8), length_s=60, pack_up_s=60)
    with pytest.raises(ValueError, match="last"):
        Holiday(date(2026, 6, 2), date(2026, 6, 1))
