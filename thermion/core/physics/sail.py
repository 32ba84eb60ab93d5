"""Sail run: how far along the track, how fast, and the force the sail gave.

Units: m, s, kg, N, m/s. Distances are measured along the track from the start line.
"""

from __future__ import annotations

from collections.abc import Mapping
from math import sqrt

from thermion.core.physics.lift import AIR_KG_M3
from thermion.core.reasons import Why
from thermion.core.values import Figure, not_negative, positive

GIVE = ("collapsed", "leaned", "held")  # ordinal: how much the sail gave to the wind


def distance(stop_m: float, track_m: float, *, resolution: float = 0.0) -> Figure:
    """Where the trolley stopped [m]; at the end of the track only a lower bound.

    ValueError for a stop below zero or beyond the track.
    """
    stop, track = not_negative("stop_m", stop_m), positive("track_m", track_m)
    if stop > track * (1 + 1e-9):
        raise ValueError(f"stop_m: expected 0 to {track:g} m, the length of the track")
    if stop >= track * (1 - 1e-9):
        return Figure(at_least=track, reason=Why.END_OF_TRACK)
    return Figure(value=stop, se=resolution / sqrt(12.0))


def share_of_track(stop_m: float, track_m: float) -> float:
    """Part of the track that was covered, 0 to 1."""
    found = distance(stop_m, track_m)
    return 1.0 if found.value is None else found.value / track_m


def mean_speed(stop_m: float, time_s: float) -> float:
    """Mean speed d/t [m/s]; ValueError for a time not above zero."""
    return not_negative("stop_m", stop_m) / positive("time_s", time_s)


def start_acceleration(distance_m: float, time_s: float) -> float:
    """Mean acceleration from rest, a = 2d/t² [m/s²], over a stretch that was gained steadily."""
    return 2.0 * not_negative("distance_m", distance_m) / positive("time_s", time_s) ** 2


def net_thrust(mass_kg: float, acceleration_m_s2: float) -> float:
    """Force left over to speed the trolley up, F = m·a [N] (thrust minus friction)."""
    return positive("mass_kg", mass_kg) * not_negative("acceleration_m_s2", acceleration_m_s2)


def thrust_per_area(thrust_n: float, sail_m2: float) -> float:
    """Thrust over sail area [N/m²]."""
    return not_negative("thrust_n", thrust_n) / positive("sail_m2", sail_m2)


def thrust_coefficient(
    thrust_n: float, wind_m_s: float, sail_m2: float, density_kg_m3: float = AIR_KG_M3
) -> float:
    """F/(½·ρ·v²·A), dimensionless, with the wind at the start line [m/s]."""
    pressure = 0.5 * positive("density_kg_m3", density_kg_m3) * positive("wind_m_s", wind_m_s) ** 2
    return thrust_per_area(thrust_n, sail_m2) / pressure


def order(runs: Mapping[str, tuple[float, float | None]], track_m: float) -> list[str]:
    """Best first, of (stop [m], seconds or None): those at the end of the track lead and time
    decides among them (untimed last); the others follow by distance."""
    track = positive("track_m", track_m)

    def key(name: str) -> tuple[float, float, str]:
        stop, seconds = runs[name]
        if distance(stop, track).value is None:
            return -track, float("inf") if seconds is None else seconds, name
        return -stop, 0.0, name

    return sorted(runs, key=key)
