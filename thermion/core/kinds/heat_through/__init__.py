"""Heat-through race: a sample between a heat pad and a probe, timed to a target temperature."""

from thermion.core.kinds.assembled import family

KIND = family(__name__, "Heat-through race")
