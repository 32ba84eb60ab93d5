"""The address by which other programs call `thermion.core.physics.sun`; see docs/decisions.md."""

from thermion.core.physics.sun import *  # noqa: F403
