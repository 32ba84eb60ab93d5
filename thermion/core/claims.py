"""The address by which other programs call `thermion.core.judging.claims`; see docs/decisions.md."""

from thermion.core.judging.claims import *  # noqa: F403
