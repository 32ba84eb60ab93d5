"""The address by which other programs call `thermion.core.judging.scoring`; see docs/decisions.md."""

from thermion.core.judging.scoring import *  # noqa: F403
