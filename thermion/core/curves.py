"""The address by which other programs call `thermion.core.physics.curves`; see docs/decisions.md."""

from thermion.core.physics.curves import *  # noqa: F403
