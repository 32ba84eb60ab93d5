"""Sail run: a trolley with a sail on a track before a fan; where it stopped, how fast."""

from __future__ import annotations

from thermion.core.kinds.base import Kind
from thermion.core.kinds.sail_run.analysis import ANALYSIS, VIEWS
from thermion.core.kinds.sail_run.body import BUILD
from thermion.core.kinds.sail_run.brief import BRIEF
from thermion.core.kinds.sail_run.how_tested import TEST
from thermion.core.kinds.sail_run.rehearsal import REHEARSAL

KIND = Kind(
    key="sail_run",
    label="Sail run",
    brief=BRIEF,
    build=BUILD,
    test=TEST,
    analysis=ANALYSIS,
    rehearsal=REHEARSAL,
    views=VIEWS,
)
