"""The sun: the published worked example, pvlib's own values, and days that have none."""

from __future__ import annotations

import datetime as dt
import subprocess
import sys
from datetime import UTC, datetime, timedelta, timezone

import numpy as np
import pytest

from thermion.core.physics import oven, sun
from thermion.core.physics.sun import Place

NOON = datetime(2026, 6, 21, 12, tzinfo=UTC)
ISLAND = Place(58.0, -5.5, 20.0, "Europe/London")


def test_the_worked_example_of_the_position_algorithm():
    # NREL/TP-560-34302 (2008), A.5: zenith 50.11162°, azimuth 194.34024°
    when = datetime(2003, 10, 17, 12, 30, 30, tzinfo=timezone(-timedelta(hours=7)))
    elevation, azimuth = sun.sun_position(
        [when], Place(39.742476, -105.1786, 1830.14), air_c=11.0, pressure_pa=82000, delta_t_s=67.0
    )
    assert elevation[0] == pytest.approx(90 - 50.11162, abs=0.01)
    assert azimuth[0] == pytest.approx(194.34024, abs=0.01)


def test_clear_sky_light_is_that_of_the_library_itself():
    from pandas import DatetimeIndex
    from pvlib.location import Location

    when = [datetime(2026, 6, 21, hour, tzinfo=UTC) for hour in (4, 8, 12, 16, 23)]
    mine = sun.clear_sky(when, ISLAND)
    theirs = Location(58.0, -5.5, altitude=20).get_clearsky(DatetimeIndex(when))["ghi"]
    assert mine.irradiance_w_m2 == pytest.approx(theirs.to_numpy(), rel=1e-4, abs=1e-3)
    assert mine.irradiance_w_m2[-1] == 0


def test_the_best_window_lies_around_solar_noon_and_faces_it():
    window = sun.best_window(dt.date(2026, 6, 21), ISLAND, timedelta(minutes=60))
    middle = window.start + (window.end - window.start) / 2
    # 5.5° west is 22 min after the zone's meridian, an hour of summer time, 2 min of equation
    assert abs(middle - datetime(2026, 6, 21, 12, 24, tzinfo=UTC)) < timedelta(minutes=6)
    assert window.facing_deg == pytest.approx(180, abs=3)
    assert window.elevation_deg == pytest.approx(90 - 58 + 23.44, abs=0.6)
    assert not window.low


def test_within_lessons_the_best_is_the_one_nearest_to_noon():
    day = dt.date(2026, 6, 21)
    spans = [
        (datetime(2026, 6, 21, h, tzinfo=UTC), datetime(2026, 6, 21, h + 1, tzinfo=UTC)) for h in (8, 10, 15)
    ]
    window = sun.best_window(day, ISLAND, 1800, within=spans)
    assert window.start == datetime(2026, 6, 21, 10, 30, tzinfo=UTC)
    none = sun.best_window(day, ISLAND, 4000, within=spans)
    assert none.start is None
    assert "no stretch" in none.reason


def test_a_day_without_sun_says_so():
    north = Place(70.0, 20.0, 0.0, "UTC")
    dark = sun.best_window(dt.date(2026, 12, 21), north, 1800)
    assert dark.reason == "the sun does not rise in that time"
    low = sun.best_window(dt.date(2026, 12, 21), ISLAND, 1800)
    assert low.start is None
    assert "stays below 15°" in low.reason
    assert oven.best_reflector(0.3, 0.3, 10).reason == "the sun stands below 15°"
    assert oven.best_reflector(0.3, 0.3, 0).reason == "there is no sun"


@pytest.mark.parametrize("place", [(91, 0), (0, 181), (0, 0, 9999), (0, 0, 0, "Mars/Crater")])
def test_a_place_that_is_not_on_earth_is_refused(place):
    with pytest.raises(ValueError, match=r"_deg|altitude|zone"):
        Place(*place)


def test_moments_need_a_zone_and_a_window_a_length():
    with pytest.raises(ValueError, match="time zone"):
        sun.sun_position([NOON.replace(tzinfo=None)], ISLAND)
    with pytest.raises(ValueError, match="at least one"):
        sun.clear_sky([], ISLAND)
    with pytest.raises(ValueError, match="duration"):
        sun.best_window(dt.date(2026, 6, 1), ISLAND, 0)


def test_a_window_square_to_the_sun():
    assert sun.window_tilt(90) == 0
    assert sun.window_tilt(30) == 60
    with pytest.raises(ValueError, match="elevation_deg"):
        sun.window_tilt(-5)


@pytest.mark.parametrize("elevation", [20, 35, 50, 65, 85])
def test_no_other_angle_of_the_reflector_throws_more_light_in(elevation):
    best = oven.best_reflector(0.3, 0.3, elevation)
    gains = [oven.reflector_gain(0.3, 0.3, a, elevation, 0.88) for a in np.arange(31, 170, 7)]
    assert best.gain >= max(gains) - 1e-9
    assert best.gain > 1
    assert best.gain <= 1 + 0.88 * 0.3 / (0.3 * np.sin(np.radians(elevation)))


def test_the_sun_is_loaded_only_when_it_is_asked_for():
    code = (
        "import sys, importlib, thermion.core as c; from pkgutil import walk_packages;"
        "[importlib.import_module(m.name) for m in walk_packages(c.__path__, 'thermion.core.')];"
        "sys.exit(str({'pandas', 'pvlib', 'flask', 'sqlalchemy'} & set(sys.modules) or ''))"
    )
    done = subprocess.run([sys.executable, "-c", code], capture_output=True, check=False, text=True)
    assert done.stderr.strip() == ""
