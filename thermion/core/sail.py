"""The address by which other programs call `thermion.core.physics.sail`; see docs/decisions.md."""

from thermion.core.physics.sail import *  # noqa: F403
