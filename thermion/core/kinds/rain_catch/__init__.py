"""Rain catch: a collector on a tray; water in by showers, water caught after each, leaks later."""

from thermion.core.kinds.assembled import family

KIND = family(__name__, "Rain catch")
