"""Solar oven: a box that gathers light, keeps heat, and is read while heating and cooling."""

from thermion.core.kinds.assembled import family

KIND = family(__name__, "Solar oven")
