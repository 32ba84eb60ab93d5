"""The address by which other programs call `thermion.core.judging.findings`; see docs/decisions.md."""

from thermion.core.judging.findings import *  # noqa: F403
