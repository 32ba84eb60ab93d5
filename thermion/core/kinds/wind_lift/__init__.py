"""Wind lift: a rotor winds a string and lifts a cup; attempts with rising load at one station."""

from __future__ import annotations

from thermion.core.kinds.base import Kind
from thermion.core.kinds.wind_lift.analysis import ANALYSIS, VIEWS
from thermion.core.kinds.wind_lift.body import BUILD
from thermion.core.kinds.wind_lift.brief import BRIEF
from thermion.core.kinds.wind_lift.rehearsal import REHEARSAL
from thermion.core.kinds.wind_lift.test import TEST

KIND = Kind(
    key="wind_lift",
    label="Wind lift",
    brief=BRIEF,
    build=BUILD,
    test=TEST,
    analysis=ANALYSIS,
    rehearsal=REHEARSAL,
    views=VIEWS,
)
