"""Whatever way a logger writes its temperatures, whatever goes wrong in it: never read wrong without a word."""

from __future__ import annotations

import sys
from datetime import UTC, datetime
from itertools import pairwise

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.formats.logger_files import at, dates, table
from thermion.core.physics.units import convert
from thermion.formats.logger import UnreadableFile, read_logger

NOW = datetime(2026, 11, 26, tzinfo=UTC)
EVERY = st.sampled_from([1, 5, 30, 60, 600])
TIMES = {  # way of writing → what it says of itself in the heading
    "%Y-%m-%d %H:%M:%S": ("Time", "Date"),
    "%d.%m.%Y %H:%M:%S": ("Zeit",),
    "%d/%m/%Y %H:%M:%S": ("Date",),
    "%m/%d/%y %I:%M:%S %p": ("Date",),
    "%d %b %Y %H:%M:%S": ("When",),
    "%H:%M:%S": ("Time", "Uhrzeit"),
    "%H:%M": ("Time",),
    "s": ("time (s)", "seconds", "Time"),
    "min": ("t [min]", "Elapsed min", "Time"),
    "h": ("t/h", "Time"),
    "ms": ("millis", "Time"),
    "serial": ("Date",),
    "1970": ("timestamp",),
}
UNITS = {
    "C": (" (°C)", "_degC", " [C]", ""),
    "F": (" (°F)", " Fahrenheit", "/F", ""),
    "K": (" (K)", " Kelvin", ""),
}


def stamp_of(way: str, every: float):
    scales = {"s": 1.0, "min": 60.0, "h": 3600.0, "ms": 0.001}
    if way in scales:
        return lambda n: f"{n * every / scales[way]:.6f}".rstrip("0").rstrip(".")
    if way == "serial":
        return lambda n: f"{(at(n, every) - datetime(1899, 12, 30)).total_seconds() / 86400:.9f}"  # noqa: DTZ001
    if way == "1970":
        return lambda n: f"{at(n, every).replace(tzinfo=UTC).timestamp():.0f}"
    return dates(way, every)


@st.composite
def files(draw):
    """A file, and its truth: seconds and °C of each channel."""
    way, every, unit = draw(st.sampled_from(list(TIMES))), draw(EVERY), draw(st.sampled_from(list(UNITS)))
    sep, comma = draw(st.sampled_from([",", ";", "\t", "|"])), draw(st.booleans())
    if way == "%H:%M" and every < 60:
        every = 60
    if every == 600 and way == "%H:%M:%S":
        every = 60
    mark = draw(st.sampled_from(UNITS[unit]))
    stamp = stamp_of(way, every)
    decimal = comma and way in ("s", "min", "h", "ms", "serial")
    data, seconds, celsius = table(
        (lambda n: stamp(n).replace(".", ",")) if decimal else stamp,
        (draw(st.sampled_from(TIMES[way])), f"Avocet{mark}", f"Dunlin{mark}"),
        rows=draw(st.integers(8, 40)),
        every=every,
        sep=sep,
        comma=comma,
        unit=unit,
        above=draw(st.sampled_from([(), ("Bench logger 4", "Site: pier")])),
        end=draw(st.sampled_from(["\n", "\r\n", "\r"])),
    )
    return data.decode(), sep, seconds, celsius


def right(file, seconds, celsius) -> bool:
    """Whether every value stands at its own time, from the first reading on."""
    if len(file.channels) != len(celsius):
        return False
    for channel, column in zip(file.channels, celsius, strict=True):
        at_second = {round(t - seconds[0], 1): c for t, c in zip(seconds, column, strict=True)}
        for t, v in zip(channel.time_s, channel.value, strict=True):
            true = at_second.get(round(t, 1))
            if true is None or abs(convert(v, channel.unit, "degC") - true) > 0.06:
                return False
    return True


@settings(max_examples=120)
@given(files(), st.sampled_from(["utf-8", "utf-8-sig", "utf-16"]))
def test_a_file_is_read_right_or_asked_about_or_refused(made, encoding):
    text, _, seconds, celsius = made
    try:
        file = read_logger(text.encode(encoding), now=NOW)
    except UnreadableFile:
        return
    assert file.questions or right(file, seconds, celsius)


@settings(max_examples=120)
@given(files(), st.data())
def test_and_so_it_is_when_a_line_is_lost_torn_doubled_or_a_cell_is_anything(made, data):
    text, sep, seconds, celsius = made
    end = "\r\n" if "\r\n" in text else ("\r" if "\r" in text else "\n")
    lines = text.split(end)
    first = next(i for i, line in enumerate(lines) if "Avocet" in line)
    where = data.draw(st.integers(first + 2, len(lines) - 2))
    fault = data.draw(st.sampled_from(["drop", "tear", "double", "cell", "words", "heading"]))
    if fault == "drop":
        del lines[where]
    elif fault == "tear":
        lines[where] = lines[where][: data.draw(st.integers(0, len(lines[where]) - 1))]
    elif fault == "double":
        lines.insert(where, lines[where])
    elif fault == "cell":
        wrong = data.draw(st.sampled_from(["NaN", "---", "OL", "-127", "999.9", "", "err", "1e40", "°C"]))
        lines[where] = sep.join([*lines[where].split(sep)[:-1], wrong])
    elif fault == "words":
        lines[where] = "battery low, replace soon"
    else:
        lines.insert(where, lines[first])
    try:
        file = read_logger(end.join(lines).encode(), now=NOW)
    except UnreadableFile:
        return
    torn = fault == "tear"  # a number that lost its last digit still is one: nobody can know
    assert file.questions or torn or right(file, seconds, celsius)


@given(st.binary(max_size=400))
def test_no_bytes_at_all_can_break_the_reader(data):
    try:
        file = read_logger(data)
    except UnreadableFile:
        return
    assert file.channels
    for channel in file.channels:
        assert channel.value
        assert all(b > a for a, b in pairwise(channel.time_s))


@given(st.text(alphabet='0123456789,;.:-/ \t\n°CFabJuneP"', max_size=300))
def test_nor_can_anything_that_looks_like_numbers(text):
    test_no_bytes_at_all_can_break_the_reader.hypothesis.inner_test(text.encode())


def test_the_same_readings_in_any_dress_are_the_same():
    plain, seconds, _ = table(lambda n: str(n * 30), ("time (s)", "Avocet (°C)"))
    dressed, _, _ = table(
        dates("%d.%m.%Y %H:%M:%S"), ("Zeit", "Avocet (°F)"), sep=";", comma=True, unit="F", encoding="utf-16"
    )
    one, other = (read_logger(data, now=NOW).channels[0] for data in (plain, dressed))
    assert other.time_s == one.time_s == seconds
    assert [convert(v, "degF", "degC") for v in other.value] == pytest.approx(list(one.value), abs=0.01)


@pytest.mark.parametrize("sign", ["85", "-127"])
def test_a_file_is_read_in_time_that_grows_with_its_rows(sign):
    """Where many cells look like a probe's first sign, each was once held against all others.

    Counted, not timed: how many steps of the program three times the rows take.
    """

    def steps(rows: int) -> int:
        lines = [f"{i},{sign if i % 3 else 20 + i % 50 / 10}" for i in range(rows)]
        count = 0

        def line(frame, event, _argument):
            nonlocal count
            count += event == "line"
            return line

        sys.settrace(line)
        try:
            read_logger("\n".join(["time (s),A (°C)", *lines]).encode(), now=NOW)
        finally:
            sys.settrace(None)
        return count

    assert steps(900) < 4 * steps(300)
