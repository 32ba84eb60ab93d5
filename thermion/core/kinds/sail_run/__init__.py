"""Sail run: a trolley with a sail on a track before a fan; where it stopped, how fast."""

from thermion.core.kinds.assembled import family

KIND = family(__name__, "Sail run")
