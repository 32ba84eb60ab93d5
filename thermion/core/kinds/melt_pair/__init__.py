"""Melt pair: one device melts a sample fast, one keeps it solid, beside an untouched control."""

from __future__ import annotations

from thermion.core.kinds.base import Kind
from thermion.core.kinds.melt_pair.analysis import ANALYSIS, VIEWS
from thermion.core.kinds.melt_pair.body import BUILD
from thermion.core.kinds.melt_pair.brief import BRIEF
from thermion.core.kinds.melt_pair.how_tested import TEST
from thermion.core.kinds.melt_pair.rehearsal import REHEARSAL

KIND = Kind(
    key="melt_pair",
    label="Melt pair",
    brief=BRIEF,
    build=BUILD,
    test=TEST,
    analysis=ANALYSIS,
    rehearsal=REHEARSAL,
    views=VIEWS,
)
