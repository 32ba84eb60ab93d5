"""The address by which other programs call `thermion.core.physics.heat`; see docs/decisions.md."""

from thermion.core.physics.heat import *  # noqa: F403
