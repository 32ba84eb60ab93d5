"""The address by which other programs call `thermion.core.judging.plausibility`; see docs/decisions.md."""

from thermion.core.judging.plausibility import *  # noqa: F403
