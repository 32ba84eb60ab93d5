"""The address by which other programs call `thermion.core.physics.rain`; see docs/decisions.md."""

from thermion.core.physics.rain import *  # noqa: F403
