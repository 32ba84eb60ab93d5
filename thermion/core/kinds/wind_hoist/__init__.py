"""Wind hoist: a rotor winds a string and lifts a cup; attempts with rising load at one station."""

from thermion.core.kinds.assembled import family

KIND = family(__name__, "Wind hoist")
