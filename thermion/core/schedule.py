"""The address by which other programs call `thermion.core.planning.schedule`; see docs/decisions.md."""

from thermion.core.planning.schedule import *  # noqa: F403
