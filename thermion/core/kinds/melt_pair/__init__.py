"""Melt pair: one device melts a sample fast, one keeps it solid, beside an untouched control."""

from thermion.core.kinds.assembled import family

KIND = family(__name__, "Melt pair")
