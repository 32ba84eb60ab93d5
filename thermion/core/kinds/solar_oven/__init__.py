"""Solar oven: a box that gathers light, keeps heat, and is read while heating and cooling."""

from __future__ import annotations

from thermion.core.kinds.base import Kind
from thermion.core.kinds.solar_oven.analysis import ANALYSIS, VIEWS
from thermion.core.kinds.solar_oven.body import BUILD
from thermion.core.kinds.solar_oven.brief import BRIEF
from thermion.core.kinds.solar_oven.how_tested import TEST
from thermion.core.kinds.solar_oven.rehearsal import REHEARSAL

KIND = Kind(
    key="solar_oven",
    label="Solar oven",
    brief=BRIEF,
    build=BUILD,
    test=TEST,
    analysis=ANALYSIS,
    rehearsal=REHEARSAL,
    views=VIEWS,
)
