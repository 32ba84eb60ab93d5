"""Heat-through race: a sample between a heat pad and a probe, timed to a target temperature."""

from __future__ import annotations

from thermion.core.kinds.base import Kind
from thermion.core.kinds.heat_through.analysis import ANALYSIS, VIEWS
from thermion.core.kinds.heat_through.body import BUILD
from thermion.core.kinds.heat_through.brief import BRIEF
from thermion.core.kinds.heat_through.how_tested import TEST
from thermion.core.kinds.heat_through.rehearsal import REHEARSAL

KIND = Kind(
    key="heat_through",
    label="Heat-through race",
    brief=BRIEF,
    build=BUILD,
    test=TEST,
    analysis=ANALYSIS,
    rehearsal=REHEARSAL,
    views=VIEWS,
)
