"""The address by which other programs call `thermion.core.planning.kit`; see docs/decisions.md."""

from thermion.core.planning.kit import *  # noqa: F403
