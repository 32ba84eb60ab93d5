"""The sun for a place and a moment: position, clear-sky light, the best hours of a day.

Position by the NREL solar position algorithm and light by the Ineichen-Perez clear-sky model with
climatological turbidity, both through pvlib, which is imported only when the sun is asked for.

.. [1] I. Reda and A. Andreas, Solar Energy 76, 577 (2004), doi:10.1016/j.solener.2003.12.003.
.. [2] P. Ineichen and R. Perez, Solar Energy 73, 151 (2002), doi:10.1016/S0038-092X(02)00045-2.
.. [3] K. S. Anderson et al., pvlib python, J. Open Source Softw. 8, 5994 (2023).
"""

from __future__ import annotations

import datetime as dt
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta
from math import isfinite
from typing import Any
from zoneinfo import ZoneInfo, ZoneInfoNotFoundError

from thermion.core.lazy import FloatArray
from thermion.core.lazy import numpy as np
from thermion.core.values import positive, single

LOWEST_DEG = 15.0  # below it an oven has little to gather and shadows are long
_STEP_S = 300


@dataclass(frozen=True)
class Place:
    """Where: latitude (north +) and longitude (east +) [°], height [m], name of the time zone.

    ValueError naming the field for what is not on Earth.
    """

    latitude_deg: float
    longitude_deg: float
    altitude_m: float = 0.0
    zone: str = "UTC"

    def __post_init__(self) -> None:
        for name, most in (("latitude_deg", 90.0), ("longitude_deg", 180.0)):
            if abs(single(name, getattr(self, name))) > most:
                raise ValueError(f"{name}: expected −{most:g} to {most:g}")
        if not -450 <= single("altitude_m", self.altitude_m) <= 9000:
            raise ValueError("altitude_m: expected −450 to 9000")
        try:
            ZoneInfo(self.zone)
        except (ZoneInfoNotFoundError, ValueError):
            raise ValueError(f"zone: expected the name of a time zone, got {self.zone}") from None


@dataclass(frozen=True)
class Sun:
    """One value per moment: elevation above the horizon [°] (refraction included), azimuth
    clockwise from north [°], clear-sky irradiance on a level surface [W/m²]."""

    elevation_deg: FloatArray
    azimuth_deg: FloatArray
    irradiance_w_m2: FloatArray


def sun_position(
    when: Sequence[datetime],
    place: Place,
    *,
    air_c: float = 12.0,
    pressure_pa: float | None = None,
    delta_t_s: float | None = None,
) -> tuple[FloatArray, FloatArray]:
    """Apparent elevation and azimuth of the sun [°] at aware moments; shape (n,) each.

    `air_c` [°C] and `pressure_pa` [Pa] (from the height when None) bend the rays near the
    horizon; `delta_t_s` is the difference of terrestrial and universal time [s], estimated for
    the year when None. Good to 0.01° for years 1950 to 2050. ValueError for moments without a
    time zone or none at all.
    """
    times = _times(when)
    from pvlib.atmosphere import alt2pres
    from pvlib.solarposition import spa_python

    found = spa_python(
        times,
        place.latitude_deg,
        place.longitude_deg,
        altitude=place.altitude_m,
        pressure=alt2pres(place.altitude_m) if pressure_pa is None else pressure_pa,
        temperature=single("air_c", air_c),
        delta_t=delta_t_s,
    )
    return found["apparent_elevation"].to_numpy(float), found["azimuth"].to_numpy(float)


def clear_sky(when: Sequence[datetime], place: Place) -> Sun:
    """Position and clear-sky global irradiance on a level surface; shape (n,) each.

    A clear sky is an upper estimate: haze takes 10 to 30 %, clouds up to 90 %.
    """
    elevation, azimuth = sun_position(when, place)
    from pvlib.atmosphere import alt2pres, get_absolute_airmass, get_relative_airmass
    from pvlib.clearsky import ineichen, lookup_linke_turbidity
    from pvlib.irradiance import get_extra_radiation

    times = _times(when)
    zenith = 90.0 - elevation
    mass = get_absolute_airmass(get_relative_airmass(zenith), alt2pres(place.altitude_m))
    turbidity = lookup_linke_turbidity(times, place.latitude_deg, place.longitude_deg)
    with np.errstate(divide="ignore", invalid="ignore"):  # the model at night, set to 0 below
        light = ineichen(
            zenith,
            mass,
            turbidity.to_numpy(float),
            place.altitude_m,
            dni_extra=get_extra_radiation(times).to_numpy(float),
        )
    return Sun(elevation, azimuth, np.nan_to_num(np.asarray(light["ghi"], dtype=float)))


def _times(when: Sequence[datetime]) -> Any:
    moments = list(when)
    if not moments:
        raise ValueError("when: expected at least one moment")
    if any(m.tzinfo is None for m in moments):
        raise ValueError("when: expected moments with a time zone")
    from pandas import DatetimeIndex, to_datetime

    return DatetimeIndex(to_datetime(moments, utc=True))


@dataclass(frozen=True)
class Window:
    """The best stretch of a day; None with a reason when there is none.

    `facing_deg` is the azimuth to face and `elevation_deg` the mean elevation in it;
    `low` when the sun stands below 15° in a part of it.
    """

    start: datetime | None
    end: datetime | None
    mean_irradiance_w_m2: float | None
    elevation_deg: float | None
    facing_deg: float | None
    low: bool = False
    reason: str | None = None


def best_window(
    date: dt.date,
    place: Place,
    duration: timedelta | float,
    *,
    within: Sequence[tuple[datetime, datetime]] | None = None,
) -> Window:
    """The stretch of `duration` (timedelta, or seconds) with most clear-sky light on a date.

    `within` limits it to spans of time, such as lessons (aware moments). In steps of five
    minutes. No sun at all, or never above 15° in it: says so.
    """
    seconds = duration.total_seconds() if isinstance(duration, timedelta) else duration
    length = positive("duration", seconds)
    zone = ZoneInfo(place.zone)
    day = datetime(date.year, date.month, date.day, tzinfo=zone)
    if within is None:
        night = date + timedelta(days=1)
        within = [(day, datetime(night.year, night.month, night.day, tzinfo=zone))]
    starts = [s for begin, end in within for s in _starts(begin, end, length)]
    if not starts:
        return _none(f"no stretch of {length / 60:.0f} minutes fits")
    steps = max(int(length / _STEP_S), 1)
    offsets = [timedelta(seconds=length * i / steps) for i in range(steps + 1)]
    sun = clear_sky([s + o for s in starts for o in offsets], place)
    shape = (len(starts), steps + 1)
    light, height = sun.irradiance_w_m2.reshape(shape), sun.elevation_deg.reshape(shape)
    mean = np.asarray(np.trapezoid(light, axis=1)) / steps
    best = int(np.argmax(mean))
    if height.max() <= 0 or mean[best] <= 0:
        return _none("the sun does not rise in that time")
    if height.max() < LOWEST_DEG:
        return _none(f"the sun stays below {LOWEST_DEG:.0f}° (highest {height.max():.0f}°)")
    angle = np.radians(sun.azimuth_deg.reshape(shape)[best])
    facing = float(np.degrees(np.arctan2(np.sin(angle).mean(), np.cos(angle).mean())) % 360)
    start = starts[best].astimezone(zone)
    return Window(
        start=start,
        end=(starts[best] + timedelta(seconds=length)).astimezone(zone),
        mean_irradiance_w_m2=float(mean[best]),
        elevation_deg=float(height[best].mean()),
        facing_deg=facing,
        low=bool(height[best].min() < LOWEST_DEG),
    )


def _starts(begin: datetime, end: datetime, length: float) -> list[datetime]:
    if begin.tzinfo is None or end.tzinfo is None:
        raise ValueError("within: expected moments with a time zone")
    room = (end - begin).total_seconds() - length
    if not isfinite(room) or room < 0:
        return []
    # adding seconds in UTC keeps days with a change of clocks right
    first = begin.astimezone(ZoneInfo("UTC"))
    return [first + timedelta(seconds=s) for s in range(0, int(room) + 1, _STEP_S)]


def _none(reason: str) -> Window:
    return Window(
        start=None, end=None, mean_irradiance_w_m2=None, elevation_deg=None, facing_deg=None, reason=reason
    )


def window_tilt(elevation_deg: float) -> float:
    """Tilt of a window from level that faces the sun squarely [°]: 90° − elevation."""
    height = single("elevation_deg", elevation_deg)
    if not 0 <= height <= 90:
        raise ValueError("elevation_deg: expected 0 to 90")
    return 90.0 - height
