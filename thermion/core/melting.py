"""The address by which other programs call `thermion.core.physics.melting`; see docs/decisions.md."""

from thermion.core.physics.melting import *  # noqa: F403
