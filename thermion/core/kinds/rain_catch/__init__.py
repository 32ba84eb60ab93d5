"""Rain catch: a collector on a tray; water in by showers, water caught after each, leaks later."""

from __future__ import annotations

from thermion.core.kinds.base import Kind
from thermion.core.kinds.rain_catch.analysis import ANALYSIS, VIEWS
from thermion.core.kinds.rain_catch.body import BUILD
from thermion.core.kinds.rain_catch.brief import BRIEF
from thermion.core.kinds.rain_catch.how_tested import TEST
from thermion.core.kinds.rain_catch.life_size import LIFE_SIZE
from thermion.core.kinds.rain_catch.rehearsal import REHEARSAL

KIND = Kind(
    key="rain_catch",
    label="Rain catch",
    brief=BRIEF,
    build=BUILD,
    test=TEST,
    analysis=ANALYSIS,
    rehearsal=REHEARSAL,
    views=VIEWS,
    life_size=LIFE_SIZE,
)
