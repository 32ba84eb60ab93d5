"""The address by which other programs call `thermion.core.physics.oven`; see docs/decisions.md."""

from thermion.core.physics.oven import *  # noqa: F403
