"""The address by which other programs call `thermion.core.physics.lift`; see docs/decisions.md."""

from thermion.core.physics.lift import *  # noqa: F403
