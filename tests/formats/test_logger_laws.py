"""Whatever way a logger writes the same temperatures, they are read as the same."""

from __future__ import annotations

from datetime import datetime, timedelta
from itertools import pairwise

import pytest
from hypothesis import given
from hypothesis import strategies as st

from thermion.core.physics.units import convert
from thermion.formats.logger import UnreadableFile, read_logger

temperatures = st.lists(
    st.lists(st.integers(-200, 1900).map(lambda n: n / 10), min_size=2, max_size=2), min_size=3, max_size=30
)


def written(
    rows: list[list[float]], *, separator: str, comma: bool, unit: str, clock: str, end: str, preamble: bool
) -> str:
    """A file as some logger would write it: one reading a minute of two boxes."""

    def number(celsius: float) -> str:
        value = convert(celsius, "degC", "degF") if unit == "F" else celsius
        return f"{value:.2f}".replace(".", ",") if comma else f"{value:.2f}"

    start = datetime(2026, 6, 1, 9, 58)  # noqa: DTZ001
    lines = ["Bench logger 7", "Interval 60 s"] if preamble else []
    lines.append(
        separator.join(
            [
                {"date": "Date", "min": "t (min)", "clock": "Time"}[clock],
                f"Box 1 (°{unit})",
                f"Box 2 [°{unit}]",
            ]
        )
    )
    for i, row in enumerate(rows):
        moment = start + timedelta(minutes=i)
        stamp = {"date": f"{moment:%Y-%m-%d %H:%M:%S}", "min": f"{i}", "clock": f"{i}:00"}[clock]
        lines.append(separator.join([stamp, *map(number, row)]))
    return end.join(lines) + end


@given(
    rows=temperatures,
    separator=st.sampled_from([";", "\t", "|", ","]),
    comma=st.booleans(),
    unit=st.sampled_from("CF"),
    clock=st.sampled_from(["date", "min", "clock"]),
    end=st.sampled_from(["\n", "\r\n", "\r"]),
    preamble=st.booleans(),
    encoding=st.sampled_from(["utf-8", "utf-8-sig", "utf-16", "cp1252"]),
)
def test_the_same_readings_in_any_dress(rows, separator, comma, unit, clock, end, preamble, encoding):
    comma = comma and separator != ","
    text = written(rows, separator=separator, comma=comma, unit=unit, clock=clock, end=end, preamble=preamble)
    file = read_logger(text.encode(encoding))
    assert file.skipped_count == 0
    assert [t for t, _ in file.rows] == [60.0 * i for i in range(len(rows))]
    assert [c.unit for c in file.channels] == [f"deg{unit}"] * 2
    for (_, values), row in zip(file.rows, rows, strict=True):
        read = [convert(v, c.unit or "degC", "degC") for v, c in zip(values, file.channels, strict=True)]
        assert read == pytest.approx(row, abs=0.006)


@given(st.binary(max_size=400))
def test_no_bytes_at_all_can_break_the_reader(data):
    try:
        file = read_logger(data)
    except UnreadableFile:
        return
    assert file.rows
    assert all(b > a for (a, _), (b, _) in pairwise(file.rows))


@given(st.text(alphabet="0123456789,;.:-/ \t\n°CFab", max_size=300))
def test_nor_can_anything_that_looks_like_numbers(text):
    test = test_no_bytes_at_all_can_break_the_reader.hypothesis.inner_test
    test(text.encode())
