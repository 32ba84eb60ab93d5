"""The address by which other programs call what `thermion.core.judging` claims; see docs/decisions.md."""

from thermion.core.judging.budget import *  # noqa: F403
from thermion.core.judging.claims import *  # noqa: F403
from thermion.core.judging.spread import *  # noqa: F403
from thermion.core.judging.standings import *  # noqa: F403
