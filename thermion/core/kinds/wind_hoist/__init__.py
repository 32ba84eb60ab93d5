"""Wind hoist: a rotor winds a string and lifts a cup; attempts with rising load at one station."""

from __future__ import annotations

from thermion.core.kinds.base import Kind
from thermion.core.kinds.wind_hoist.analysis import ANALYSIS, VIEWS
from thermion.core.kinds.wind_hoist.body import BUILD
from thermion.core.kinds.wind_hoist.brief import BRIEF
from thermion.core.kinds.wind_hoist.how_tested import TEST
from thermion.core.kinds.wind_hoist.rehearsal import REHEARSAL

KIND = Kind(
    key="wind_hoist",
    label="Wind hoist",
    brief=BRIEF,
    build=BUILD,
    test=TEST,
    analysis=ANALYSIS,
    rehearsal=REHEARSAL,
    views=VIEWS,
)
