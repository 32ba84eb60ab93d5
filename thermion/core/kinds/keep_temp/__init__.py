"""Keep cold or keep warm: a jar in a jacket, with ice that melts or a drink that cools."""

from __future__ import annotations

from thermion.core.kinds.base import Kind
from thermion.core.kinds.keep_temp.analysis import ANALYSIS, VIEWS
from thermion.core.kinds.keep_temp.body import BUILD
from thermion.core.kinds.keep_temp.brief import BRIEF
from thermion.core.kinds.keep_temp.how_tested import TEST
from thermion.core.kinds.keep_temp.rehearsal import REHEARSAL

KIND = Kind(
    key="keep_temp",
    label="Keep cold, keep warm",
    brief=BRIEF,
    build=BUILD,
    test=TEST,
    analysis=ANALYSIS,
    rehearsal=REHEARSAL,
    views=VIEWS,
)
