"""Keep cold or keep warm: a jar in a jacket, with ice that melts or a drink that cools."""

from thermion.core.kinds.assembled import family

KIND = family(__name__, "Keep cold, keep warm")
