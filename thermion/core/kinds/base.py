"""What a family of challenge is made of; each family is one value of `Kind` in its own folder."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field

from thermion.core.kinds.analysis import Analysis
from thermion.core.kinds.briefing import Briefing
from thermion.core.kinds.building import Building
from thermion.core.kinds.life_size import LifeSize
from thermion.core.kinds.rehearsal import Rehearsal
from thermion.core.kinds.testing import Testing
from thermion.core.kinds.views import Views


@dataclass(frozen=True, kw_only=True)
class Kind:
    """A family of challenge: all that the rest of the house needs to know about it, by question.

    What does the brief ask, what is built, how is it tested, what follows, how is it looked at,
    how is it rehearsed, what would it be at life size? See docs/families.md.
    """

    key: str
    label: str
    brief: Briefing
    build: Building
    test: Testing
    analysis: Analysis
    rehearsal: Rehearsal
    views: Views = field(default_factory=Views)
    life_size: LifeSize | None = None

    def can_rehearse(self, choices: Mapping[str, str]) -> bool:
        """Stand-in probes can read for a rehearsal at marks: they show temperatures only."""
        read = self.test.grid_read(choices)
        return read is not None and read.unit == "degC" and self.rehearsal.course is not None
